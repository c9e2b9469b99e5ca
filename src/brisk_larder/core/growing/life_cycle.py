"""Seed in the ground: whether seedlings are still early, due or overdue."""

from __future__ import annotations

from datetime import date, timedelta
from typing import NamedTuple

from ..base.figures import GrowingFigures
from ..base.units import DAY_S


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


def ripe_on(sown: date, to_food_days: float, then_to_seed_days: float, life_cycle: str) -> date:
    """About when the seed of a line sown on a day is ripe: the longest days to eating and those from there to
    ripe seed; of a biennial in its second year."""
    later = 365 * (seasons(life_cycle) - 1)
    return sown + timedelta(days=int(to_food_days + then_to_seed_days) + later)


def remnant(whole: int, f: GrowingFigures) -> int:
    """Seeds of a packet of so many that stay behind when its line is sown, until new seed is in: should the
    growing fail, they are what is left of it. Never more than a quarter."""
    return min(f.remnant_seeds, whole // 4)


def seasons(life_cycle: str) -> int:
    """Seasons in the ground until there is seed: a biennial flowers in its second."""
    return 2 if life_cycle == "biennial" else 1
