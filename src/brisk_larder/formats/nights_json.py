"""A forecast of nights as JSON: when it was made, and the lowest temperature of each."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from ..core.base.errors import BadFile
from ..core.base.plain_json import read_json

MOST_NIGHTS = 60


@dataclass(frozen=True)
class NightTold:
    """One night: the morning's day, lowest temperature (degC) and the doubt of it (sd)."""

    day: date
    low_c: float
    sd_c: float


@dataclass(frozen=True)
class ForecastTold:
    """When it was made (epoch s), and its nights."""

    made_s: int
    nights: list[NightTold]


def read_nights(data: bytes) -> ForecastTold:
    """A forecast from its JSON. Raises BadFile with every wrong night by its number and field."""
    raw = read_json(data)
    if not isinstance(raw, dict) or not isinstance(raw.get("nights"), list) or not raw["nights"]:
        raise BadFile("This is no forecast: it has no 'made' and 'nights'")
    problems: list[dict[str, Any]] = []
    made_s = 0
    try:
        made = datetime.fromisoformat(str(raw.get("made")))
        if made.tzinfo is None:
            raise ValueError("no time zone")
        made_s = int(made.timestamp())
    except ValueError:
        reason = "a moment with its time zone, such as 2027-04-20T06:00:00+00:00"
        problems.append({"line": 0, "field": "made", "reason": reason})
    if len(raw["nights"]) > MOST_NIGHTS:
        raise BadFile(f"{len(raw['nights'])} nights; at most {MOST_NIGHTS} in one forecast")
    nights = [_night(x, i, problems) for i, x in enumerate(raw["nights"], start=1)]
    days = [n.day for n in nights if n is not None]
    if len(set(days)) < len(days):
        problems.append({"line": 0, "field": "day", "reason": "each day once"})
    if problems:
        raise BadFile(f"{len(problems)} things in this forecast cannot be read", problems)
    return ForecastTold(made_s, [n for n in nights if n is not None])


def _night(x: Any, i: int, problems: list[dict[str, Any]]) -> NightTold | None:
    if not isinstance(x, dict):
        problems.append({"line": i, "field": "night", "reason": "an object"})
        return None
    try:
        day = date.fromisoformat(str(x.get("day")))
    except ValueError:
        problems.append({"line": i, "field": "day", "reason": "a day such as 2027-04-21"})
        return None
    read: dict[str, float] = {}
    for field, low, high, usual in (("low_c", -60.0, 50.0, None), ("sd_c", 0.0, 20.0, 2.0)):
        value = x.get(field, usual)
        right = isinstance(value, int | float) and not isinstance(value, bool)
        if not right or not low <= float(str(value)) <= high:
            reason = f"a number from {low:g} to {high:g}, not {value!r}"
            problems.append({"line": i, "field": field, "reason": reason})
        else:
            read[field] = float(str(value))
    return NightTold(day, read["low_c"], read["sd_c"]) if len(read) == 2 else None
