"""Days in figures that could be two days: 03/04/2024."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import date

FIGURES = re.compile(r"(\d{1,2})([/.-])(\d{1,2})\2(\d{4}|\d{2})")


def _parts(text: str) -> tuple[int, int, int] | None:
    found = FIGURES.fullmatch(text.strip())
    if found is None:
        return None
    year = int(found[4])
    return int(found[1]), int(found[3]), year if year > 99 else 2000 + year


def either_day(text: str) -> tuple[date, date] | None:
    """Both days that figures may mean, day first and month first; None: they are no two days."""
    parts = _parts(text)
    if parts is None or not (1 <= parts[0] <= 12 and 1 <= parts[1] <= 12) or parts[0] == parts[1]:
        return None
    a, b, year = parts
    return date(year, b, a), date(year, a, b)


def order_shown(texts: Iterable[str]) -> bool | None:
    """Whether days stand before months in a list, by those that can be read in one way only; None: none of
    them tells, or they contradict each other."""
    shown = set()
    for text in texts:
        parts = _parts(text)
        if parts is not None and (parts[0] > 12) != (parts[1] > 12):
            shown.add(parts[0] > 12)
    return shown.pop() if len(shown) == 1 else None


def in_order(text: str, day_first: bool) -> str:
    """The day that figures mean, as year-month-day; what can be read in one way only as that, and the text
    itself where it is no day in figures."""
    parts = _parts(text)
    if parts is None:
        return text
    a, b, year = parts
    day, month = (a, b) if (day_first or a > 12) and b <= 12 else (b, a)
    try:
        return date(year, month, day).isoformat()
    except ValueError:
        return text
