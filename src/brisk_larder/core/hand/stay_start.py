"""Since when seed has lain where it lies: what was told, and what is supposed where nobody told it."""

from __future__ import annotations

import re
from datetime import date, timedelta
from typing import Literal, NamedTuple

from ..base.errors import InvalidValue
from ..base.units import day_start_s, local_day
from .origins import read_origin
from .writing import PLAIN, Way, read_day

# from its time on; since the seed came, as somebody said or as is supposed
Since = Literal["told", "came", "supposed"]

CAME = {"came", "since it came", "it came", "always", "since always", "from the start"}
NOW = {"now", "from now", "only from now", "from today", "today"}
ALLOWED = "since it came, only from now, or a year or day such as 2023 or Mar 2023"
RECENT_DAYS = 366


class Began(NamedTuple):
    """When a stay begins (epoch s), and how that is known."""

    from_s: int
    since: Since


def began(said: str, came_s: int, now_s: int, tz: str, way: Way = PLAIN) -> Began:
    """When seed that came at ``came_s`` began to lie where it lies, by what was said.

    "since it came", "only from now", "since about 2023" (the middle of what is named: nobody knows the day);
    nothing said: of a year's seed since it came, as is supposed, of older only from now on. Raises
    InvalidValue for a time to come and for what is none.
    """
    plain = " ".join(said.strip().lower().split())
    today = local_day(now_s, tz)
    if not plain:
        recent = local_day(came_s, tz) >= today - timedelta(days=RECENT_DAYS)
        return Began(came_s, "supposed") if recent else Began(now_s, "told")
    if plain in CAME:
        return Began(came_s, "came")
    if plain in NOW:
        return Began(now_s, "told")
    return _from_day(said, plain, came_s, now_s, tz, way, today)


def _from_day(
    said: str, plain: str, came_s: int, now_s: int, tz: str, way: Way, today: date
) -> Began:
    when = re.sub(r"^since\s+|\babout\s+|\baround\s+|\bca\.?\s+", "", plain).strip()
    low, high = _span(said, when, today, way)
    middle = low + (high - low) // 2
    at_s = now_s if middle >= today else day_start_s(middle, tz)
    return Began(came_s, "came") if at_s <= came_s else Began(min(at_s, now_s), "told")


def _span(said: str, when: str, today: date, way: Way) -> tuple[date, date]:
    """First and last day of what is named: a year, a month, or a day as people say it (last Monday)."""
    try:
        found = read_origin(when, today, way)
    except InvalidValue:
        found = []
    if len(found) == 1:
        return found[0].low, min(found[0].high, today)
    try:
        day = read_day(when, today, way)
    except InvalidValue as error:
        raise InvalidValue("since when", said, ALLOWED) from error
    return day, day
