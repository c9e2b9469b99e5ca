"""When seed was harvested or packed, as people write it: a month, a year, several years, unknown."""

from __future__ import annotations

import re
from calendar import monthrange
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import NamedTuple

from ..base.errors import InvalidValue
from ..base.figures import CalendarFigures
from ..base.units import DAY_S, YEAR_DAYS, day_start_s
from .writing import PLAIN, Way, month_of, parts_of_day

SAYS_NOTHING = {"", "?", "-", "unknown", "old", "none", "no date", "who knows"}
YEAR = re.compile(r"(?<!\d)((?:19|20)\d\d)(?!\d)|'(\d\d)(?!\d)")
MIXED = re.compile(r"^((?:19|20)?\d\d)\s*(?::|=|\s)?\s*(\d{1,3})?\s*%?$")
YEARS = re.compile(
    r"^((?:19|20)\d\d)\s*(?:-|\u2013|to)\s*((?:19|20)\d\d|1[3-9]|[2-9]\d)$"
)  # 2005-12 is a month
SEASON = re.compile(r"^((?:19|20)\d\d)/((?:19|20)?\d\d)$")
MOST_YEARS = 12  # more in one bag is a slip of the pen
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
        one = self.low.year == self.high.year
        return one and (self.low.month, self.low.day, self.high.month, self.high.day) == (
            1,
            1,
            12,
            31,
        )

    @property
    def words(self) -> str:
        """2024, or September 2024, or the day."""
        if self.is_year:
            return str(self.low.year)
        if self.low == self.high:
            return f"{self.low.day} {self.low:%b %Y}"
        if self.low.year != self.high.year:
            return f"{self.low.year}/{self.high.year % 100:02d}"
        return f"{self.low:%B %Y}"


def _span(year: int, month: int | None = None, day: int | None = None) -> Origin:
    if month is None:
        return Origin(date(year, 1, 1), date(year, 12, 31))
    if day is None:
        return Origin(date(year, month, 1), date(year, month, monthrange(year, month)[1]))
    return Origin(date(year, month, day), date(year, month, day))


def read_origin(text: str, today: date, way: Way = PLAIN) -> list[Origin]:
    """Origins of what is in one packet; empty when nobody knows. Several years: with shares.

    "2024", "24", "Sep 2024", "Sept 24", "9/2024", "2024-09", "2024-09-12", "03/04/2025" by the
    household's ``way``, "4.9.2025", "packed for 2025", "'23", "2022/23" (one season), "2021, 2022, 2023"
    or "2021-2023" (a bag of several years, equal shares), "2021: 50, 2022: 30, 2023: 20".
    Raises InvalidValue for a year out of reach, a day that there is not, or text without one.
    """
    plain = " ".join(text.strip().lower().split())
    if plain in SAYS_NOTHING:
        return []
    if found := YEARS.match(plain):
        first, last = int(found[1]), _four(found[2])
        if not first < last <= first + MOST_YEARS:
            raise bad(text, today)
        plain = ", ".join(map(str, range(first, last + 1)))
    if found := SEASON.match(plain):
        if _four(found[2]) != int(found[1]) + 1:
            raise bad(text, today)
        low = date(int(found[1]), 1, 1)
        high = min(date(_four(found[2]), 12, 31), today)
        return [_checked(Origin(low, max(high, low)), text, today)]
    pieces = [p.strip() for p in re.split(r"[,;+]", plain) if p.strip()]
    if len(pieces) > 1:
        mixed = [MIXED.match(p) for p in pieces]
        if not all(mixed):
            raise bad(text, today)
        given = [float(m[2]) if m and m[2] else None for m in mixed]
        known = sum(s for s in given if s is not None)
        if any(s is None for s in given) and known:
            raise InvalidValue("date", text, "a share for each year, or for none of them")
        total = known or float(len(pieces))
        return [
            _checked(
                Origin(o.low, o.high, (s if known and s is not None else 1.0) / total), text, today
            )
            for o, s in ((_span(_four(m[1])), s) for m, s in zip(mixed, given, strict=True) if m)
        ]
    return [_checked(_one(plain, text, today, way), text, today)]


def _four(year: str) -> int:
    return int(year) if len(year) == 4 else 2000 + int(year)


def bad(text: str, today: date) -> InvalidValue:
    """What is allowed as a date of origin."""
    return InvalidValue(
        "date",
        text,
        f"a year from {EARLIEST_YEAR} to {today.year}, a month and year, or left empty",
    )


def _one(plain: str, text: str, today: date, way: Way) -> Origin:
    try:
        if found := re.fullmatch(r"(\d{4})-(\d{1,2})", plain):
            return _span(int(found[1]), int(found[2]))
        if found := re.fullmatch(r"(\d{1,2})[/.-](\d{4})", plain):
            return _span(int(found[2]), int(found[1]))
        if re.fullmatch(r"\d\d", plain) and int(plain) <= today.year % 100:
            return _span(2000 + int(plain))
        whole = parts_of_day(plain, way)
        if whole is not None and whole[0] is not None:
            return _span(whole[0], whole[1], whole[2])
        if whole is not None and (short := re.search(r"[a-z]\.? '?(\d\d)$", plain)):
            # a month and two figures on a packet are a year: Sept 24
            return _span(2000 + int(short[1]), whole[1])
    except ValueError:
        raise bad(text, today) from None
    years = YEAR.findall(plain)
    if not years or whole is not None:
        raise bad(text, today)
    last, short_year = years[-1]
    year = int(last) if last else 2000 + int(short_year)
    words = re.findall(
        r"[^\W\d_]{3,}", re.sub(r"\b(?:years?|months?|weeks?|days?) ago\b", "", plain)
    )
    named = {month_of(word) for word in words} - {None}
    if len(named) == 1:
        return _span(year, named.pop())
    # packed for a season to come: the seed itself is there by now
    if year == today.year + 1 and "for" in plain.split():
        year = today.year
    return _span(year)


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
    likely: tuple[int, int],
    f: CalendarFigures,
) -> Span:
    """Where the clock of seed starts.

    Of a whole year it starts at harvest for own seed and at the buying season for the rest; of a
    month in its middle. Seed of unknown year (None) is as old as is ``likely``: from when at the earliest,
    and about when (epoch s; ``likely_age``); not younger than today.
    """
    if origin is None:
        low, about = likely
        return Span(max(low, earliest_s), now_s, max(about, low, earliest_s))
    low_s = day_start_s(origin.low, tz)
    high_s = min(day_start_s(origin.high, tz), now_s)
    if origin.is_year:
        harvest = f.harvest_month_north if north else f.harvest_month_south
        buying = f.buying_month_north if north else f.buying_month_south
        start_s = day_start_s(date(origin.low.year, harvest if own else buying, 1), tz)
    else:
        start_s = (low_s + day_start_s(origin.high, tz)) // 2
    return Span(low_s, max(high_s, low_s), max(min(start_s, now_s), earliest_s))


def likely_age(known_s: Sequence[int], now_s: int, unknown_years: float) -> tuple[int, int]:
    """How old seed without a year may be: (from when at the earliest, about when), epoch s. ``known_s``: when
    the records of the household's other seed of its kind begin (else of all its seed); of a house that has
    none with a year so many ``unknown_years`` at most, and half of them likely."""
    if not known_s:
        years = unknown_years * YEAR_DAYS * DAY_S
        return int(now_s - years), int(now_s - years / 2)
    oldest, mean = min(known_s), sum(known_s) / len(known_s)
    return int(min(oldest, now_s)), int(min(mean, now_s))


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
