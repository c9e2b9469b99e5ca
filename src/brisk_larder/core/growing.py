"""Seed in the ground: whether seedlings are still early, due or overdue."""

from __future__ import annotations

from typing import NamedTuple

from .figures import GrowingFigures
from .units import DAY_S


class Awaited(NamedTuple):
    """early, due or overdue; and when the first and the last are expected, epoch seconds."""

    state: str
    first_s: float
    last_s: float


def awaited(
    sown_s: float,
    now_s: float,
    first_count_days: float,
    final_count_days: float,
    setting: str,
    f: GrowingFigures,
) -> Awaited:
    """Where a sowing stands: by a test's count days, longer in the open ground, with some grace."""
    slow = 1.0 if setting == "indoors" else f.open_ground_times
    first = sown_s + first_count_days * slow * DAY_S
    last = sown_s + final_count_days * slow * DAY_S
    if now_s < first:
        state = "early"
    else:
        state = "due" if now_s < last + f.grace_share * (last - sown_s) else "overdue"
    return Awaited(state, first, last)


def seasons(life_cycle: str) -> int:
    """Seasons in the ground until there is seed: a biennial flowers in its second."""
    return 2 if life_cycle == "biennial" else 1
