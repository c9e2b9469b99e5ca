"""When seed was harvested or packed, as people write it: a month, a year, several years, unknown."""

from __future__ import annotations

import re
from calendar import monthrange
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from typing import NamedTuple

from .errors import InvalidValue
from .figures import CalendarFigures
from .units import YEAR_DAYS, day_start_s, local_day

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
SAYS_NOTHING = {"", "?", "-", "unknown", "old", "none", "no date", "who knows"}
YEAR = re.compile(r"(?<!\d)((?:19|20)\d\d)(?!\d)|'(\d\d)(?!\d)")
MIXED = re.compile(r"^((?:19|20)\d\d)\s*(?::|=|\s)?\s*(\d{1,3})?\s*%?$")
EARLIEST_YEAR = 1990


@dataclass(frozen=True)
class Origin:
    """A range of days in which the seed was harvested or packed, and its share of the bag (0-1)."""

    low: date
    high: date
    share: float = 1.0

    @property
    def is_year(self) -> bool:
        """A whole calendar year: no month was given."""
        return (self.low.month, self.low.day, self.high.month, self.high.day) == (1, 1, 12, 31)

    @property
    def words(self) -> str:
        """2024, or September 2024, or the day."""
        if self.is_year:
            return str(self.low.year)
        if self.low == self.high:
            return f"{self.low.day} {self.low:%b %Y}"
        return f"{self.low:%B %Y}"


def _span(year: int, month: int | None = None, day: int | None = None) -> Origin:
    if month is None:
        return Origin(date(year, 1, 1), date(year, 12, 31))
    if day is None:
        return Origin(date(year, month, 1), date(year, month, monthrange(year, month)[1]))
    return Origin(date(year, month, day), date(year, month, day))


def read_origin(text: str, today: date) -> list[Origin]:
    """Origins of what is in one packet; empty when nobody knows. Several years: with shares.

    "2024", "Sep 2024", "9/2024", "2024-09", "2024-09-12", "packed for 2025", "'23",
    "2021, 2022, 2023" (equal shares), "2021: 50, 2022: 30, 2023: 20".
    Raises InvalidValue for a year out of reach or text without one.
    """
    plain = " ".join(text.strip().lower().split())
    if plain in SAYS_NOTHING:
        return []
    pieces = [p.strip() for p in re.split(r"[,;+]", plain) if p.strip()]
    if len(pieces) > 1:
        found = [MIXED.match(p) for p in pieces]
        if not all(found):
            raise bad(text, today)
        given = [float(m[2]) if m and m[2] else None for m in found]
        known = sum(s for s in given if s is not None)
        if any(s is None for s in given) and known:
            raise InvalidValue("date", text, "a share for each year, or for none of them")
        total = known or float(len(pieces))
        return [
            _checked(
                Origin(o.low, o.high, (s if known and s is not None else 1.0) / total), text, today
            )
            for o, s in ((_span(int(m[1])), s) for m, s in zip(found, given, strict=True) if m)
        ]
    return [_checked(_one(plain, text, today), text, today)]


def bad(text: str, today: date) -> InvalidValue:
    """What is allowed as a date of origin."""
    return InvalidValue(
        "date",
        text,
        f"a year from {EARLIEST_YEAR} to {today.year}, a month and year, or left empty",
    )


def _one(plain: str, text: str, today: date) -> Origin:
    if found := re.fullmatch(r"(\d{4})-(\d{1,2})(?:-(\d{1,2}))?", plain):
        year, month, day = int(found[1]), int(found[2]), found[3]
    elif found := re.fullmatch(r"(\d{1,2})[/.](\d{4})", plain):
        year, month, day = int(found[2]), int(found[1]), None
    else:
        years = YEAR.findall(plain)
        if not years:
            raise bad(text, today)
        whole, short = years[-1]
        year, day = int(whole) if whole else 2000 + int(short), None
        named = [i for i, m in enumerate(MONTHS, start=1) if re.search(rf"\b{m}[a-z]*\b", plain)]
        month = named[0] if len(named) == 1 else 0
        if not month:
            # packed for a season to come: the seed itself is there by now
            if year == today.year + 1 and "for" in plain.split():
                year = today.year
            return _span(year)
    try:
        return _span(year, month, int(day) if day else None)
    except ValueError:
        raise bad(text, today) from None


def _checked(origin: Origin, text: str, today: date) -> Origin:
    if not EARLIEST_YEAR <= origin.low.year <= today.year or origin.low > today:
        raise bad(text, today)
    return origin


class Span(NamedTuple):
    """Epoch seconds between which seed was harvested or packed, and where its record begins."""

    low_s: int
    high_s: int
    record_s: int


def record_start(
    origin: Origin | None,
    own: bool,
    north: bool,
    tz: str,
    now_s: int,
    earliest_s: int,
    unknown_years: float,
    f: CalendarFigures,
) -> Span:
    """Where the clock of seed starts.

    Of a whole year it starts at harvest for own seed and at the buying season for the rest; of a
    month in its middle. For seed of unknown year (None) it starts today, with so many years of doubt
    in its quality.
    """
    if origin is None:
        low = local_day(now_s, tz) - timedelta(days=unknown_years * YEAR_DAYS)
        return Span(max(day_start_s(low, tz), earliest_s), now_s, now_s)
    low_s = day_start_s(origin.low, tz)
    high_s = min(day_start_s(origin.high, tz), now_s)
    if origin.is_year:
        harvest = f.harvest_month_north if north else f.harvest_month_south
        buying = f.buying_month_north if north else f.buying_month_south
        start_s = day_start_s(date(origin.low.year, harvest if own else buying, 1), tz)
    else:
        start_s = (low_s + day_start_s(origin.high, tz)) // 2
    return Span(low_s, max(high_s, low_s), max(min(start_s, now_s), earliest_s))


def packet_year(low_s: int | None, high_s: int | None, record_s: int) -> int:
    """The year on the packet: the middle of its range of origin, else that of its record (UTC)."""
    middle = record_s if low_s is None or high_s is None else (low_s + high_s) / 2
    return datetime.fromtimestamp(middle, UTC).year


def household_year(day: date, first_month: int) -> int:
    """The calendar year in which the household year of ``day`` begins."""
    return day.year if day.month >= first_month else day.year - 1


def planning_year(day: date, first_month: int, f: CalendarFigures) -> int:
    """The household year that planning is for: the one under way while its sowing is still ahead,
    near its end the next."""
    year = household_year(day, first_month)
    months_in = (day.year - year) * 12 + day.month - first_month
    return year if months_in < f.plan_next_from_month else year + 1
