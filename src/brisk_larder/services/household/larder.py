"""What every service is given: the file, the clock, the household."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date
from functools import wraps
from typing import TypeVar

from sqlmodel import Session

from ...core.base.errors import NotFound
from ...core.base.units import local_day
from ...core.hand import origins
from ...core.hand.measures import Writing
from ...data.acts import Clock
from ...data.store import Store
from ...data.tables import Household
from ...reference import load_reference

V = TypeVar("V")
_ZONE: ContextVar[str] = ContextVar("zone", default="UTC")
_HERE: ContextVar[Writing] = ContextVar("writing", default=Writing())  # noqa: B039 - frozen


@dataclass(frozen=True)
class Larder:
    """The household's file and the clock. Cheap to pass around; holds no state of its own."""

    store: Store
    clock: Clock

    def now_s(self) -> int:
        """Epoch seconds now, by the clock this larder was opened with."""
        return self.clock.now_s()


def remembered(make: Callable[[Larder], V]) -> Callable[[Larder], V]:
    """Keep what a reader returns until the file changes; its result is never altered."""

    @wraps(make)
    def reader(larder: Larder) -> V:
        return larder.store.remembered(
            f"{make.__module__}.{make.__name__}", larder.now_s(), lambda: make(larder)
        )

    return reader


def household(session: Session) -> Household:
    """The household of this file. Raises NotFound before it was set up."""
    row = session.get(Household, 1)
    if row is None:
        raise NotFound(
            "This larder has no household yet: open the app, or run 'larder serve' first"
        )
    _ZONE.set(row.tz)
    _HERE.set(writing_of(row))
    return row


@remembered
def _home(larder: Larder) -> tuple[str, Writing] | None:
    with larder.store.read() as session:
        row = session.get(Household, 1)
        return None if row is None else (row.tz, writing_of(row))


def at_home(larder: Larder) -> None:
    """From here on this piece of work speaks of days and measures as the household does."""
    known = _home(larder)
    if known is not None:
        _ZONE.set(known[0])
        _HERE.set(known[1])


def zone_here() -> str:
    """The time zone of the household that was read last in this piece of work: for days in words."""
    return _ZONE.get()


def writing_here() -> Writing:
    """How the household that was read last in this piece of work writes its measures."""
    return _HERE.get()


def writing_of(home: Household) -> Writing:
    """How a household writes its measures."""
    return Writing(
        home.temperature_unit, home.mass_unit, home.volume_unit, home.length_unit, home.locale
    )


def today(larder: Larder, home: Household) -> date:
    """The household's local day."""
    return local_day(larder.now_s(), home.tz)


def household_year(day: date, home: Household) -> int:
    """The calendar year in which the household year of ``day`` begins."""
    return origins.household_year(day, home.year_starts_month)


def planning_year(session: Session, day: date, home: Household) -> int:
    """The household year that planning is for: late in a year the next one, as soon as a food or a pick of it
    is named; till then the list of the year under way stays."""
    next_one = year_to_name(day, home)
    now = household_year(day, home)
    if next_one == now:
        return now
    named = {
        int(row[0])
        for row in session.connection().exec_driver_sql(
            "SELECT year FROM food_target WHERE deleted_s IS NULL AND year IN (?, ?) UNION "
            "SELECT year FROM pick WHERE deleted_s IS NULL AND year IN (?, ?)",
            (now, next_one, now, next_one),
        )
    }
    return next_one if next_one in named or now not in named else now


def year_to_name(day: date, home: Household) -> int:
    """The household year whose foods are named about now: late in a year the next one."""
    return origins.planning_year(day, home.year_starts_month, load_reference().figures.calendar)


def season(home: Household, year: int) -> tuple[date, date]:
    """First day of a household year, and of the next."""
    return date(year, home.year_starts_month, 1), date(year + 1, home.year_starts_month, 1)


def is_live(row: object) -> bool:
    """True for a row that has not been taken away."""
    return getattr(row, "deleted_s", None) is None
