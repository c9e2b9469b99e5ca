"""A recording logger's CSV: what it seems to hold, and its rows as columns.

Two steps: ``look`` guesses the layout from the first lines and says what the file leaves open;
``read_columns`` reads the whole file by a layout, fast where rows are alike, row by row where not.
"""

from __future__ import annotations

import codecs
import csv
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from io import TextIOWrapper
from itertools import islice
from pathlib import Path
from typing import Any, TextIO

import numpy as np
from numpy.typing import NDArray

from ..core.errors import BadFile, InvalidValue
from ..core.units import c_from_f
from .local_times import utc_of_local
from .text import number

F = NDArray[np.float64]
I = NDArray[np.int64]  # noqa: E741
TIME_WORDS = ("time", "date", "datum", "zeit", "timestamp")
HEADER_HELP = (
    "expected a header such as: time,temperature_c,humidity_pct "
    "(temperature_f for Fahrenheit; an optional first line 'device: NAME')"
)
MOST_PROBLEMS = 200
CHUNK = 20_000
T_RANGE_C, RH_RANGE = (-60.0, 80.0), (0.01, 1.0)
DAY_FIRST = re.compile(r"^(\d{1,2})[./-](\d{1,2})[./-](\d{4})[ T]*(.*)$")
ISO = re.compile(r"^\d{4}-\d{2}-\d{2}[ T]\d{2}:\d{2}(:\d{2})?$")


@dataclass(frozen=True)
class Layout:
    """How a file is to be read. Columns are numbers from 0; humidity -1: none.

    ``unit``: C or F; ``tz``: zone of times that carry no offset; ``date``: a column of its own for
    the date (-1: within the time); ``month_first``: 07/04 is the fourth of July.
    """

    encoding: str
    delimiter: str
    header_line: int
    time: int
    temperature: int
    humidity: int = -1
    date: int = -1
    unit: str = "C"
    tz: str = "UTC"
    month_first: bool = False
    device: str = "logger"


@dataclass(frozen=True)
class Look:
    """What a file seems to be: a layout, its columns, first rows, and what it does not say.

    ``asks``: unit, tz, day_order, columns.
    """

    layout: Layout | None
    header: list[str]
    rows: list[list[str]]
    asks: list[str]
    note: str


@dataclass
class Columns:
    """Rows in time order: epoch s, degC, humidity fractions (nan: unread) and file lines; and the
    rows that could not be read."""

    at_s: I
    temperature_c: F
    erh: F
    lines: I
    bad: list[dict[str, Any]] = field(default_factory=list)
    bad_count: int = 0
    repeats: int = 0
    ambiguous: int = 0


def _encoding(start: bytes) -> str:
    return "utf-16" if start[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE) else "utf-8-sig"


def _not_text(name: str, encoding: str, error: UnicodeError, line: int) -> BadFile:
    return BadFile(
        f"{name}, line {line}: this is not {encoding.removesuffix('-sig').upper()} text. "
        "Save the file as CSV UTF-8 and try again",
        [{"line": line, "field": "encoding", "reason": str(error)[:80]}],
    )


def look(path: Path, name: str, tz: str, household_unit: str = "C") -> Look:
    """Guess how a file is laid out. Raises BadFile when it is empty or no text."""
    with path.open("rb") as raw:
        start = raw.read(64 * 1024)
    encoding = _encoding(start)
    try:
        text = codecs.getincrementaldecoder(encoding)().decode(start)
    except UnicodeError as error:
        at = getattr(error, "start", 0)
        raise _not_text(name, encoding, error, start[:at].count(b"\n") + 1) from error
    lines = text.splitlines()[:60]
    if not any(line.strip() for line in lines):
        raise BadFile(f"{name} is empty")
    device = "logger"
    first = next((line for line in lines if any(d in line for d in ";\t,")), ",")
    delimiter = max(";\t,", key=first.count)
    try:
        table = [
            [c.strip() for c in row] for row in csv.reader(lines, delimiter=delimiter, strict=True)
        ]
    except csv.Error as error:
        raise BadFile(f"{name}: {error}") from error
    header_line, header = 0, list[str]()
    for i, row in enumerate(table):
        if row and row[0].lower().startswith("device"):
            device = row[0].partition(":")[2].strip() or device
        said = " ".join(row).lower()
        if len(row) > 1 and any(w in said for w in TIME_WORDS) and not header:
            header_line, header = i, row
    if not header:
        shown = [row for row in table if len(row) > 1][:5]
        note = f"{name}: no line names its columns; {HEADER_HELP}"
        return Look(None, shown[0] if shown else [], shown[1:], ["columns"], note)
    rows = [r for r in table[header_line + 1 :] if any(r) and r != header][:8]
    words = [h.lower() for h in header]
    dates = [i for i, w in enumerate(words) if "date" in w or "datum" in w]
    times = [i for i, w in enumerate(words) if any(t in w for t in TIME_WORDS) and i not in dates]
    warm = [i for i, w in enumerate(words) if w.startswith(("temp", "t ", "t_", "t(")) or w == "t"]
    damp = [i for i, w in enumerate(words) if w.startswith(("hum", "rh", "erh", "rel"))]
    if not times and len(dates) == 1:
        dates, times = [], dates
    if len(times) != 1 or len(warm) != 1 or len(damp) > 1 or len(dates) > 1:
        note = (
            f"{name}, line {header_line + 1}: the header {', '.join(header)!r} does not say which "
            f"column is which; {HEADER_HELP}"
        )
        return Look(None, header, rows, ["columns"], note)
    label = words[warm[0]]
    fahrenheit = bool(re.search(r"(_f|\bf|°f|fahrenheit)\)?$", label))
    celsius = bool(re.search(r"(_c|\bc|°c|celsius)\)?$", label))
    asks = [] if fahrenheit or celsius else ["unit"]
    stamps = [r[times[0]] for r in rows if len(r) == len(header)]
    if (
        not any(re.search(r"(Z|[+-]\d{2}:?\d{2})$", s) for s in stamps)
        and "utc" not in words[times[0]]
    ):
        asks.append("tz")
    whole = [
        r[dates[0]] + " " + r[times[0]] if dates else r[times[0]]
        for r in rows
        if len(r) == len(header)
    ]
    parts = [m for s in whole if (m := DAY_FIRST.match(s))]
    month_first = any(int(m[2]) > 12 for m in parts)
    if parts and not any(int(m[1]) > 12 or int(m[2]) > 12 for m in parts) and "." not in whole[0]:
        asks.append("day_order")
    layout = Layout(
        encoding, delimiter, header_line, times[0], warm[0], damp[0] if damp else -1,
        dates[0] if dates else -1,
        "F" if fahrenheit or (not celsius and household_unit == "F") else "C",
        "UTC" if "utc" in words[times[0]] else tz, month_first, device,
    )  # fmt: skip
    return Look(layout, header, rows, asks, "")


def _line_of(whole: bytes, before: bytes) -> int:
    """The line at which what follows ``before`` stands in a file."""
    at = whole.find(before)
    return whole[: max(at, 0) + len(before)].count(b"\n") + 1


def check_layout(layout: Layout, columns: int) -> None:
    """Raises InvalidValue for columns that are not there or used twice, or an unknown unit."""
    used = [layout.time, layout.temperature]
    used += [i for i in (layout.humidity, layout.date) if i >= 0]
    if len(set(used)) != len(used) or not all(0 <= i < columns for i in used):
        raise InvalidValue("columns", used, f"different columns from 1 to {columns}")
    if layout.unit not in ("C", "F"):
        raise InvalidValue("unit", layout.unit, "C or F")


def _moment(text: str, month_first: bool) -> tuple[int, bool]:
    """Seconds of one time as written, and whether it carries its own offset. Raises ValueError."""
    found = DAY_FIRST.match(text)
    if found:
        day, month = (found[2], found[1]) if month_first else (found[1], found[2])
        text = f"{found[3]}-{int(month):02d}-{int(day):02d}T{found[4] or '00:00'}"
    try:
        moment = datetime.fromisoformat(text.strip().replace("Z", "+00:00"))
    except ValueError:
        raise ValueError("a time such as 2026-03-01 14:00") from None
    own = moment.tzinfo is not None
    return int((moment if own else moment.replace(tzinfo=UTC)).timestamp()), own


def _times(cells: Sequence[str], layout: Layout) -> tuple[I, bool]:
    """A column of times written alike. Raises ValueError when they are not."""
    width = len(cells[0])
    if any(len(c) != width for c in cells):  # numpy would cut the longer ones
        raise ValueError("times of different length")
    array = np.array(cells, dtype=f"U{width}")
    own = cells[0].endswith("Z")
    letters = array.view("U1").reshape(len(cells), width)
    if own:
        if not (letters[:, -1] == "Z").all():
            raise ValueError("offsets differ")
        letters = letters[:, :-1]
    if re.match(r"^\d{2}[./-]\d{2}[./-]\d{4} ", cells[0]):
        day, month = (
            (slice(3, 5), slice(0, 2)) if layout.month_first else (slice(0, 2), slice(3, 5))
        )
        dash = np.full((len(cells), 1), "-")
        letters = np.concatenate(
            [letters[:, 6:10], dash, letters[:, month], dash, letters[:, day], letters[:, 10:]],
            axis=1,
        )
    plain = np.ascontiguousarray(letters).view(f"U{letters.shape[1]}").ravel()
    if not ISO.match(str(plain[0])):
        raise ValueError("another form of time")
    return plain.astype("datetime64[s]").astype(np.int64), own


def _floats(cells: Sequence[str]) -> F:
    return np.array(cells, dtype=float)


Problem = Callable[[int, str, str], None]


def _fast(rows: list[list[str]], layout: Layout, first_line: int) -> tuple[I, F, F, I, bool]:
    """A chunk whose rows are all alike. Raises ValueError (or IndexError) when one is not."""
    columns = list(zip(*rows, strict=True))
    stamps: Sequence[str] = columns[layout.time]
    if layout.date >= 0:
        stamps = [f"{d} {t}" for d, t in zip(columns[layout.date], stamps, strict=True)]
    at, own = _times(stamps, layout)
    warm = _floats(columns[layout.temperature])
    warm = c_from_f_array(warm) if layout.unit == "F" else warm
    nothing = np.full(len(at), np.nan)
    damp = _floats(columns[layout.humidity]) / 100.0 if layout.humidity >= 0 else nothing
    good = (warm >= T_RANGE_C[0]) & (warm <= T_RANGE_C[1])
    if layout.humidity >= 0:
        good &= (damp >= RH_RANGE[0]) & (damp <= RH_RANGE[1])
    if not good.all():
        raise ValueError("a value that cannot be")
    return at, np.round(warm, 4), np.round(damp, 6), first_line + np.arange(len(at)), own


def c_from_f_array(values: F) -> F:
    """degC of degF."""
    return (values - 32.0) / 1.8


def _slow(
    rows: list[tuple[int, list[str]]], layout: Layout, width: int, problem: Problem
) -> list[tuple[int, float, float, int, bool]]:
    """Row by row; what cannot be read goes to ``problem``."""
    out = []
    for line, raw in rows:
        row = [c.strip() for c in raw]
        if len(row) != width:
            problem(line, "row", f"{len(row)} cells, the header has {width}")
            continue
        stamp = row[layout.time]
        if layout.date >= 0:
            stamp = f"{row[layout.date]} {stamp}"
        try:
            at, own = _moment(stamp, layout.month_first)
        except ValueError as error:
            problem(line, "time", f"{stamp!r} is not {error}")
            continue
        values = _values(row, layout, line, problem)
        if values is not None:
            out.append((at, *values, line, own))
    return out


def _values(
    row: Sequence[str], layout: Layout, line: int, problem: Problem
) -> tuple[float, float] | None:
    text = row[layout.temperature]
    if re.search(r"[cfk]$", text, re.IGNORECASE):
        problem(line, "temperature", f"{text!r} carries its own unit; one unit per column")
        return None
    try:
        warm = number(text)
    except ValueError:
        problem(line, "temperature", f"{text!r} is not a number")
        return None
    if warm is None:
        problem(line, "temperature", "is empty")
        return None
    c = c_from_f(warm) if layout.unit == "F" else warm
    if not T_RANGE_C[0] <= c <= T_RANGE_C[1]:
        problem(line, "temperature", f"{text} is outside -60 to 80 °C (-76 to 176 °F)")
        return None
    if layout.humidity < 0:
        return round(c, 4), np.nan
    text = row[layout.humidity]
    try:
        damp = number(text.rstrip("%").strip())
    except ValueError:
        problem(line, "humidity", f"{text!r} is not a number")
        return None
    if damp is not None and not 1 <= damp <= 100:
        problem(line, "humidity", f"{text} is outside 1 to 100 per cent")
        return None
    return round(c, 4), np.nan if damp is None else round(damp / 100, 6)


def _chunks(stream: TextIO, layout: Layout, name: str) -> Iterator[tuple[int, list[list[str]]]]:
    """(line before the chunk, rows) of everything under the header."""
    for _ in range(layout.header_line + 1):
        stream.readline()
    reader = csv.reader(stream, delimiter=layout.delimiter, strict=True)
    while True:
        before = reader.line_num
        try:
            rows = list(islice(reader, CHUNK))
        except csv.Error as error:
            line = layout.header_line + 1 + reader.line_num
            raise BadFile(f"{name}, line {line}: {error}") from error
        if not rows:
            return
        yield layout.header_line + 1 + before, rows


def read_columns(
    path: Path, name: str, layout: Layout, header: Sequence[str],
    progress: Callable[[float], None] = lambda share: None,
) -> Columns:  # fmt: skip
    """Read a file by its layout. ``progress`` is told the share done and may raise to stop.

    Twice the same time with the same values counts once; with others the first stands and the
    second is a bad row. Raises BadFile when no row at all can be read or it is no text.
    """
    check_layout(layout, len(header))
    bad: list[dict[str, Any]] = []
    bad_count = 0

    def problem(line: int, field_name: str, reason: str) -> None:
        nonlocal bad_count
        bad_count += 1
        if len(bad) < MOST_PROBLEMS:
            bad.append({"line": line, "field": field_name, "reason": reason})

    pieces: list[tuple[I, F, F, I, Any]] = []
    size = max(path.stat().st_size, 1)
    head = list(header)
    with path.open("rb") as raw:
        stream = TextIOWrapper(raw, encoding=layout.encoding, newline="")
        try:
            for before, rows in _chunks(stream, layout, name):
                try:
                    piece = _fast(rows, layout, before + 1)
                    pieces.append((*piece[:4], np.full(len(rows), piece[4])))
                except (ValueError, IndexError, TypeError):
                    numbered = [
                        (before + 1 + i, r)
                        for i, r in enumerate(rows)
                        if any(c.strip() for c in r) and [c.strip() for c in r] != head
                    ]
                    slow = _slow(numbered, layout, len(head), problem)
                    if slow:
                        t, c, h, n, o = (np.array(x) for x in zip(*slow, strict=True))
                        pieces.append((t, c, h, n, o))
                progress(min(raw.tell() / size, 1.0))
        except UnicodeError as error:
            # read in large pieces: the line is found again in the file itself
            raw.seek(0)
            start = getattr(error, "object", b"")[: getattr(error, "start", 0)]
            line = _line_of(raw.read(), start)
            raise _not_text(name, layout.encoding, error, line) from error
    if not pieces:
        first = f": line {bad[0]['line']}, {bad[0]['field']}, {bad[0]['reason']}" if bad else ""
        raise BadFile(f"{name} holds no readings that can be read{first}; {HEADER_HELP}", bad)
    at = np.concatenate([p[0] for p in pieces])
    warm, damp = np.concatenate([p[1] for p in pieces]), np.concatenate([p[2] for p in pieces])
    where, own = np.concatenate([p[3] for p in pieces]), np.concatenate([p[4] for p in pieces])
    local, ambiguous = utc_of_local(at[~own], layout.tz)
    at[~own] = local
    order = np.argsort(at, kind="stable")
    at, warm, damp, where = at[order], warm[order], damp[order], where[order]
    keep, repeats = _once(at, warm, damp, where, problem)
    bad.sort(key=lambda b: b["line"])
    return Columns(
        at[keep], warm[keep], damp[keep], where[keep], bad, bad_count, repeats, ambiguous
    )


def _once(at: I, warm: F, damp: F, lines: I, problem: Problem) -> tuple[NDArray[np.bool_], int]:
    """Which rows stand, of those in time order; repeats with other values are bad rows."""
    keep = np.ones(len(at), dtype=bool)
    keep[1:] = np.diff(at) > 0
    first = np.maximum.accumulate(np.where(keep, np.arange(len(at)), 0))
    again = np.flatnonzero(~keep)
    repeats = 0
    for i in again:
        j = first[i]
        same_damp = damp[i] == damp[j] or (np.isnan(damp[i]) and np.isnan(damp[j]))
        if warm[i] == warm[j] and same_damp:
            repeats += 1
        else:
            problem(
                int(lines[i]), "time", f"the same time as line {int(lines[j])} with other values"
            )
    return keep, repeats


def with_answers(layout: Layout, answers: dict[str, Any]) -> Layout:
    """A layout with what the keeper said. Raises InvalidValue for an unknown answer."""
    allowed = {"time", "temperature", "humidity", "date", "unit", "tz", "month_first", "device"}
    for key in answers:
        if key not in allowed:
            raise InvalidValue("mapping", key, "one of " + ", ".join(sorted(allowed)))
    return replace(layout, **answers)
