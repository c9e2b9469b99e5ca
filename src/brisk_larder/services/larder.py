"""What every service is given: the file, the clock, the household."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlmodel import Session

from ..core.errors import NotFound
from ..core.units import local_day
from ..data.acts import Clock
from ..data.store import Store
from ..data.tables import Household


@dataclass(frozen=True)
class Larder:
    """The household's file and the clock. Cheap to pass around; holds no state of its own."""

    store: Store
    clock: Clock

    def now_s(self) -> int:
        """Epoch seconds now, by the clock this larder was opened with."""
        return self.clock.now_s()


def household(session: Session) -> Household:
    """The household of this file. Raises NotFound before it was set up."""
    row = session.get(Household, 1)
    if row is None:
        raise NotFound(
            "This larder has no household yet: open the app, or run 'larder serve' first"
        )
    return row


def today(larder: Larder, home: Household) -> date:
    """The household's local day."""
    return local_day(larder.now_s(), home.tz)


def household_year(day: date, home: Household) -> int:
    """The calendar year in which the household year of ``day`` begins."""
    return day.year if day.month >= home.year_starts_month else day.year - 1


def live(row: object) -> bool:
    """True for a row that has not been taken away."""
    return getattr(row, "deleted_s", None) is None
