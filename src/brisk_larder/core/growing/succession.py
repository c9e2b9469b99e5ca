"""A fresh food over many weeks: how many sowings, how far apart, and how many of them the season leaves."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from math import ceil

from ..base.errors import InvalidValue
from ..base.figures_planning import RoomFigures

# groups of the rotation that bear until the frost takes them: one sowing is enough
TILL_FROST = frozenset({"nightshade", "cucurbit", "solanum"})


def feeds_weeks(rotation_group: str, f: RoomFigures) -> float | None:
    """Weeks that one sowing is eaten fresh; None: until the frost."""
    if rotation_group in TILL_FROST:
        return None
    return f.bearing_feeds_weeks if rotation_group == "legume" else f.sowing_feeds_weeks


@dataclass(frozen=True)
class Sowings:
    """Sowings one after the other: how many are wanted, plants in each, days between them, the days on which
    each begins; ``late``: those that no longer ripen and so have no day."""

    wanted: int
    plants: int
    every_days: int
    days: tuple[date, ...]

    @property
    def late(self) -> int:
        """Sowings that no longer ripen."""
        return self.wanted - len(self.days)


def sowings(plants: int, weeks: float, feeds_weeks: float, first: date, last: date) -> Sowings:
    """Split plants for so many weeks of eating, where one sowing feeds ``feeds_weeks``, from the first day on
    which it can be sown to the last on which it still pays.

    Raises InvalidValue for a sowing that feeds no time.
    """
    if feeds_weeks <= 0:
        raise InvalidValue("weeks that a sowing feeds", feeds_weeks, "more than none")
    wanted = max(1, min(ceil(weeks / feeds_weeks - 1e-9), plants))
    every = max(1, round(7 * weeks / wanted))
    days = [first + timedelta(days=i * every) for i in range(wanted)]
    return Sowings(
        wanted, ceil(plants / wanted), every, tuple(d for d in days if d <= max(first, last))
    )
