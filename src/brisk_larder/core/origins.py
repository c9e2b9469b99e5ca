"""When seed was harvested or packed, as people write it: a month, a year, several years, unknown."""

from __future__ import annotations

import re
from calendar import monthrange
from dataclasses import dataclass
from datetime import date

from .errors import InvalidValue

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
