"""When a kind is next sown, and what one of its seeds is worth then."""

from __future__ import annotations

from datetime import date

import numpy as np

from ...core.moisture import Floats
from ...core.plants import Seed
from ...core.quantity import Seeds
from ...core.windows import Climate, Sown, Window, next_sowing_s, sowing_windows
from ...core.worlds import amount
from ...data.tables import Household
from ..household.kinds import Kind, figures
from .emergence import emergence_of
from .outlook import Outlook


def climate_of(home: Household) -> Climate:
    """What sowing hangs on where this household lives."""
    # another hand may have written what is no month: no room stops for it, and papers.mending sets it right
    said = [int(m) for m in home.sow_months.split(",") if m.isdecimal()]
    months = tuple(m for m in said if 1 <= m <= 12)
    return Climate(home.hemisphere, home.tz, home.last_frost_day, bool(home.frost_free), months)


def windows_of(kind: Kind, year: int, home: Household) -> list[Window]:
    """The spring windows of a kind in a calendar year, or those of the household's months."""
    crop = kind.crop
    return sowing_windows(
        year,
        climate_of(home),
        crop.sow_indoors_weeks_before_last_frost,
        crop.sow_outdoors_weeks_rel_last_frost,
        figures().calendar,
    )


def sowing_of(kind: Kind, day: date, home: Household) -> Sown | None:
    """Next sowing of a kind from a day on; None: no window known."""
    crop = kind.crop
    found = next_sowing_s(
        day,
        climate_of(home),
        crop.sow_indoors_weeks_before_last_frost,
        crop.sow_outdoors_weeks_rel_last_frost,
        figures().calendar,
    )
    return found if found is None or kind.known else found._replace(guessed=True)


def seed_of(look: Outlook, i: int, at_s: float, setting: str | None) -> Seed:
    """What one seed of row i, sown at a time, is worth."""
    g = look.g_at(i, np.array([at_s]))[0]
    return Seed(g, emergence_of(look.rows[i].kind, setting))


def in_worlds(lot_id: int, seeds: Seeds) -> Floats:
    """Seeds in a lot in each world [S]."""
    return amount(f"seeds:{lot_id}", seeds.mean, seeds.sd)
