"""When a kind is next sown, and the chance that one of its seeds becomes a plant."""

from __future__ import annotations

from datetime import date

import numpy as np

from ...core.needs import Success, success
from ...core.needs import emergence as emerging
from ...core.units import day_start_s
from ...core.windows import next_sowing, sowing_windows
from ...data.tables import Household
from ..household.kinds import Kind
from .outlook import Outlook


def sowing_of(kind: Kind, day: date, home: Household) -> tuple[float, str, bool] | None:
    """Next sowing of a kind from a day on: (epoch s, setting, guessed); None: no window known."""
    crop = kind.crop
    years = [
        sowing_windows(
            day.year + i,
            home.last_frost_day,
            home.hemisphere,
            crop.sow_indoors_weeks_before_last_frost,
            crop.sow_outdoors_weeks_rel_last_frost,
        )
        for i in (-1, 0, 1)
    ]
    found = next_sowing(day, years)
    if found is None:
        return None
    start, window = found
    return float(day_start_s(start, home.tz)), window.setting, window.guessed or not kind.known


def emergence(kind: Kind, setting: str | None) -> float:
    """Emergence factor of a kind in a setting."""
    return emerging(kind.crop.field_emergence_factor, setting)


def seed_success(look: Outlook, i: int, at_s: float, setting: str | None) -> Success:
    """Chance that one seed of row i sown at a time becomes a plant."""
    g = look.g_at(i, np.array([at_s]))
    return success(g.g[0], g.weight[0], emergence(look.rows[i].kind, setting))
