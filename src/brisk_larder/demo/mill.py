"""The replay of Pellwick Mill: its larder on a moved clock, and what was made so far."""

from __future__ import annotations

import heapq
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date

import numpy as np

from ..clock import MovedClock
from ..core.base.errors import LarderError
from ..core.base.units import DAY_S, day_start_s, local_day
from ..data.acts import ActRef
from ..services.household.larder import Larder

YEARS = 3


TZ = "Europe/London"


Event = tuple[int, int, Callable[[], None]]


@dataclass
class Pellwick:
    """The replay: the larder on a moved clock, what was made so far, and the true qualities."""

    larder: Larder
    clock: MovedClock
    end_s: int
    rng: np.random.Generator
    nodes: dict[str, int] = field(default_factory=dict)
    lots: dict[str, int] = field(default_factory=dict)
    truth: dict[str, tuple[float, float]] = field(default_factory=dict)
    events: list[Event] = field(default_factory=list)
    people: list[int] = field(default_factory=list)
    planned: int = 0
    left_out: list[str] = field(default_factory=list)

    def ref(self) -> ActRef:
        """An act of somebody of the house (ids are not seeded: they only need to differ)."""
        person = self.people[int(self.rng.integers(len(self.people)))] if self.people else None
        return ActRef(person_id=person)

    def at(self, when_s: float, do: Callable[[], None]) -> None:
        """Plan something for a time of the replay."""
        if when_s <= self.end_s:
            self.planned += 1
            heapq.heappush(self.events, (int(when_s), self.planned, do))

    def tried(self, what: str, do: Callable[[], None]) -> None:
        """Do something that the household can be without: what cannot be had on this day of the year is left
        out and named."""
        try:
            do()
        except LarderError as error:
            self.left_out.append(f"{what}: {error.message}")


def ignore(result: object) -> None:
    """A service's answer that the replay has no use for."""


def last_summer(end_s: int, month: int, day: int) -> float:
    """That day of the last summer before the end."""
    year = local_day(end_s, TZ).year
    when = day_start_s(date(year, month, day), TZ)
    return float(when if when < end_s - 20 * DAY_S else day_start_s(date(year - 1, month, day), TZ))
