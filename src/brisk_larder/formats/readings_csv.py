"""A recording logger's CSV: time, temperature, humidity."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from ..core.errors import BadFile
from ..core.units import c_from_f, zone
from .text import decode, number, rows_of

TIME_WORDS = ("time", "date", "datum", "zeit", "timestamp")
HEADER_HELP = (
    "expected a header such as: time,temperature_c,humidity_pct "
    "(temperature_f for Fahrenheit; an optional first line 'device: NAME')"
)
TIME_FORMATS = (
    "%Y-%m-%d %H:%M:%S", "%Y-%m-%d %H:%M", "%d.%m.%Y %H:%M:%S", "%d.%m.%Y %H:%M",
    "%d/%m/%Y %H:%M:%S", "%d/%m/%Y %H:%M",
)  # fmt: skip
MOST_PROBLEMS = 50


@dataclass(frozen=True)
class ParsedReadings:
    """Readings in time order: epoch s, degC, fractions, and the file line of each."""

    device: str
    at_s: list[int]
    temperature_c: list[float]
    erh: list[float | None]
    lines: list[int]


@dataclass(frozen=True)
class _Columns:
    time: int
    temperature: int
    fahrenheit: bool
    humidity: int | None


def _columns(header: Sequence[str], name: str, line: int, household_unit: str) -> _Columns:
    words = [h.lower() for h in header]
    time = [i for i, w in enumerate(words) if any(t in w for t in TIME_WORDS)]
    warm = [i for i, w in enumerate(words) if w.startswith(("temp", "t ", "t_", "t(")) or w == "t"]
    damp = [i for i, w in enumerate(words) if w.startswith(("hum", "rh", "erh", "rel"))]
    if len(time) != 1 or len(warm) != 1 or len(damp) > 1:
        raise BadFile(
            f"{name}, line {line}: the header {', '.join(header)!r} does not say which column is "
            f"which; {HEADER_HELP}",
            [{"line": line, "field": "header", "reason": "time and temperature columns needed"}],
        )
    label = words[warm[0]]
    fahrenheit = bool(re.search(r"(_f|\bf|°f|fahrenheit)\)?$", label))
    celsius = bool(re.search(r"(_c|\bc|°c|celsius)\)?$", label))
    if not fahrenheit and not celsius:
        fahrenheit = household_unit == "F"
    return _Columns(time[0], warm[0], fahrenheit, damp[0] if damp else None)


def _moment(text: str, tz: str) -> int:
    try:
        moment = datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        for pattern in TIME_FORMATS:
            try:
                moment = datetime.strptime(text, pattern)
                break
            except ValueError:
                continue
        else:
            raise ValueError("a time such as 2026-03-01 14:00") from None
    if moment.tzinfo is None:
        moment = moment.replace(tzinfo=UTC if tz == "UTC" else zone(tz))
    return int(moment.timestamp())


def parse_readings(data: bytes, name: str, tz: str, household_unit: str = "C") -> ParsedReadings:
    """Read a logger's file. Raises BadFile naming line and field for every row that is not right.

    ``tz``: time zone of times without an offset; ``household_unit``: C or F, for a temperature
    column that does not say. Rows of mixed units (a cell with its own unit letter) are refused.
    The header may be repeated. Twice the same time with the same values counts once.
    """
    rows = rows_of(decode(data, name), name)
    device = "logger"
    if rows[0][1][0].lower().startswith("device"):
        device = rows[0][1][0].partition(":")[2].strip() or device
        rows = rows[1:]
    if len(rows) < 2:
        raise BadFile(f"{name} holds no readings; {HEADER_HELP}")
    line, header = rows[0]
    columns = _columns(header, name, line, household_unit)
    problems: list[dict[str, Any]] = []
    seen: dict[int, tuple[float, float | None, int]] = {}

    def problem(line: int, field: str, reason: str) -> None:
        problems.append({"line": line, "field": field, "reason": reason})

    for line, row in rows[1:]:
        if row == header:
            continue
        if len(row) != len(header):
            problem(line, "row", f"{len(row)} cells, the header has {len(header)}")
            continue
        try:
            at = _moment(row[columns.time], tz)
        except ValueError as error:
            problem(line, "time", f"{row[columns.time]!r} is not {error}")
            continue
        values = _values(row, columns, line, problem)
        if values is None:
            continue
        if at in seen and seen[at][:2] != values:
            problem(line, "time", f"the same time as line {seen[at][2]} with other values")
            continue
        seen.setdefault(at, (*values, line))
    if problems:
        first = problems[0]
        more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
        raise BadFile(
            f"{name}, line {first['line']}, {first['field']}: {first['reason']}{more}. "
            "Nothing was taken in",
            problems[:MOST_PROBLEMS],
        )
    order = sorted(seen)
    if not order:
        raise BadFile(f"{name} holds no readings; {HEADER_HELP}")
    return ParsedReadings(
        device,
        order,
        [seen[at][0] for at in order],
        [seen[at][1] for at in order],
        [seen[at][2] for at in order],
    )


def _values(
    row: Sequence[str], columns: _Columns, line: int, problem: Any
) -> tuple[float, float | None] | None:
    warm_text = row[columns.temperature]
    if re.search(r"[cfk]$", warm_text, re.IGNORECASE):
        problem(line, "temperature", f"{warm_text!r} carries its own unit; one unit per column")
        return None
    try:
        warm = number(warm_text)
    except ValueError:
        problem(line, "temperature", f"{warm_text!r} is not a number")
        return None
    if warm is None:
        problem(line, "temperature", "is empty")
        return None
    temperature_c = c_from_f(warm) if columns.fahrenheit else warm
    if not -60 <= temperature_c <= 80:
        problem(line, "temperature", f"{warm_text} is outside -60 to 80 °C (-76 to 176 °F)")
        return None
    if columns.humidity is None:
        return round(temperature_c, 4), None
    damp_text = row[columns.humidity]
    try:
        damp = number(damp_text.rstrip("%").strip())
    except ValueError:
        problem(line, "humidity", f"{damp_text!r} is not a number")
        return None
    if damp is not None and not 1 <= damp <= 100:
        problem(line, "humidity", f"{damp_text} is outside 1 to 100 per cent")
        return None
    return round(temperature_c, 4), None if damp is None else round(damp / 100, 6)
