"""When a kind is next sown, and what one of its seeds is worth then."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from ...core.growing_year import Frosts
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


def _day(year: int, day_of_year: int) -> date:
    return date(year, 1, 1) + timedelta(days=day_of_year - 1)


def frosts_of(home: Household, year: int) -> Frosts:
    """The last frost of a year and the first that follows it (in the south in the next year); none where
    there is none or where they are not known."""
    if home.frost_free:
        return Frosts(None, home.last_frost_sd_days, None, home.first_frost_sd_days)
    last = None if home.last_frost_day is None else _day(year, home.last_frost_day)
    first = None if home.first_frost_day is None else _day(year, home.first_frost_day)
    if last is not None and first is not None and first < last:
        first = _day(year + 1, home.first_frost_day or 1)
    return Frosts(last, home.last_frost_sd_days, first, home.first_frost_sd_days)


def windows_of(kind: Kind, year: int, home: Household) -> list[Window]:
    """The spring windows of a kind in a calendar year, or those of the household's months."""
    crop = kind.crop
    return sowing_windows(
        year,
        climate_of(home),
        crop.sow_indoors_weeks_before_last_frost,
        crop.sow_outdoors_weeks_rel_last_frost,
        figures().calendar,
        kind.own_days,
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
        kind.own_days,
    )
    return found if found is None or kind.known else found._replace(guessed=True)


def seed_of(look: Outlook, i: int, at_s: float, setting: str | None) -> Seed:
    """What one seed of row i, sown at a time, is worth."""
    g = look.g_at(i, np.array([at_s]))[0]
    return Seed(g, emergence_of(look.rows[i].kind, setting))


def in_worlds(lot_id: int, seeds: Seeds) -> Floats:
    """Seeds in a lot in each world [S]."""
    return amount(f"seeds:{lot_id}", seeds.mean, seeds.sd)
