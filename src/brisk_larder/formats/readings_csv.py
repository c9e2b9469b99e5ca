"""A recording logger's CSV: its rows as columns, by a layout that ``readings_layout.look`` guessed.

Fast where rows are alike, row by row where they are not.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from io import TextIOWrapper
from itertools import islice
from pathlib import Path
from typing import Any, BinaryIO, TextIO

import numpy as np
from numpy.typing import NDArray

from ..core.base.errors import BadFile
from ..core.base.units import c_from_f
from .local_times import utc_of_local
from .moments import column, moment
from .readings_layout import CELL_UNIT, HEADER_HELP, Layout, check_layout, unwritten
from .text import number

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MOST_PROBLEMS = 200
CHUNK = 8_000  # rows read at once: other threads wait that long
T_RANGE_C, RH_RANGE = (-60.0, 80.0), (0.01, 1.0)
# what loggers write where they measured nothing
NOTHING = {
    "", "-", "--", "---", "----", "n/a", "na", "nan", "null", "none", "err", "error", "ol", "lo", "hi",
    "inf", "-inf", "open", "short", "*", "***", "no data", "nodata", "missing", "invalid",
}  # fmt: skip
SENTINELS = {
    -9999.0, -999.9, -999.0, -100.0, -99.9, -127.0, -273.0, -273.1, -273.15, -459.67, -460.0, -196.6,
    -32768.0, -3276.8, 999.0, 999.9, 9999.0, 9999.9, 327.67, 3276.7, 32767.0, 655.35, 6553.5, 65535.0, 850.0,
}  # fmt: skip


@dataclass
class Columns:
    """Rows in time order: epoch s, degC, humidity fractions (nan: unread) and file lines; and the
    rows that could not be read."""

    at_s: Ints
    temperature_c: Floats
    erh: Floats
    lines: Ints
    bad: list[dict[str, Any]] = field(default_factory=list)
    bad_count: int = 0
    repeats: int = 0
    ambiguous: int = 0
    blanks: int = 0


def _line_of(whole: bytes, before: bytes) -> int:
    """The line at which what follows ``before`` stands in a file."""
    at = whole.find(before)
    return whole[: max(at, 0) + len(before)].count(b"\n") + 1


def _floats(cells: Sequence[str]) -> Floats:
    return np.fromiter(map(float, cells), dtype=float, count=len(cells))


Problem = Callable[[int, str, str], None]


def _fast(
    rows: list[list[str]], layout: Layout, first_line: int
) -> tuple[Ints, Floats, Floats, Ints, bool]:
    """A chunk whose rows are all alike. Raises ValueError (or IndexError) when one is not."""
    columns = list(zip(*rows, strict=True))
    stamps: Sequence[str] = columns[layout.time]
    if layout.date >= 0:
        stamps = [f"{d} {t}" for d, t in zip(columns[layout.date], stamps, strict=True)]
    at, own = column(stamps, layout.month_first, layout.time_form)
    warm = _floats(columns[layout.temperature])
    warm = c_from_f_array(warm) if layout.unit == "F" else warm
    damp = np.full(len(at), np.nan)
    if layout.humidity >= 0:
        damp = _floats(columns[layout.humidity]) / (1.0 if layout.humidity_share else 100.0)
    good = (warm >= T_RANGE_C[0]) & (warm <= T_RANGE_C[1])
    if layout.humidity >= 0:
        good &= (damp >= RH_RANGE[0]) & (damp <= RH_RANGE[1])
    if not good.all():
        raise ValueError("a value that cannot be")
    return at, np.round(warm, 4), np.round(damp, 6), first_line + np.arange(len(at)), own


def c_from_f_array(values: Floats) -> Floats:
    """degC of degF."""
    return (values - 32.0) / 1.8


class _Nothing(Exception):
    """A row in which nothing was measured."""


def _slow(
    rows: list[tuple[int, list[str]]], layout: Layout, width: int, problem: Problem
) -> tuple[list[tuple[int, float, float, int, bool]], int]:
    """Row by row, and how many hold no measurement; what cannot be read goes to ``problem``."""
    out, blanks = [], 0
    for line, raw in rows:
        row = [c.strip() for c in raw]
        if len(row) == width + 1 and not row[-1]:
            row.pop()  # a delimiter at the end of each line
        if len(row) != width:
            problem(line, "row", f"{len(row)} cells, the header has {width}")
            continue
        stamp = row[layout.time]
        if layout.date >= 0:
            stamp = f"{row[layout.date]} {stamp}"
        try:
            at, own = moment(stamp, layout.month_first, layout.time_form)
        except ValueError as error:
            problem(line, "time", f"{stamp!r} is not {error}")
            continue
        try:
            values = _values(row, layout, line, problem)
        except _Nothing:
            blanks += 1
            continue
        if values is not None:
            out.append((at, *values, line, own))
    return out, blanks


def _measured(text: str) -> float | None:
    """A number, None where a logger says that there is none. Raises ValueError."""
    if text.lower() in NOTHING:
        return None
    return number(text)


def _values(
    row: Sequence[str], layout: Layout, line: int, problem: Problem
) -> tuple[float, float] | None:
    text = row[layout.temperature]
    said = CELL_UNIT.search(text)
    if said and said[1][0].upper() != layout.unit:
        problem(line, "temperature", f"{text!r} carries its own unit; one unit per column")
        return None
    if said:
        text = re.sub(r"\s*(?:[°º]|deg\.?)?\s*[a-zA-Z]+$", "", text)
    text = text.rstrip("°º ")
    try:
        warm = _measured(text)
    except ValueError:
        problem(line, "temperature", f"{text!r} is not a number")
        return None
    if warm is None:
        raise _Nothing
    c = c_from_f(warm) if layout.unit == "F" else warm
    if not T_RANGE_C[0] <= c <= T_RANGE_C[1]:
        if warm in SENTINELS:
            raise _Nothing
        problem(line, "temperature", f"{text} is outside -60 to 80 °C (-76 to 176 °F)")
        return None
    if layout.humidity < 0:
        return round(c, 4), np.nan
    text = row[layout.humidity]
    try:
        damp = _measured(re.sub(r"\s*%?\s*(?:r\.?h\.?)?$", "", text, flags=re.IGNORECASE).strip())
    except ValueError:
        problem(line, "humidity", f"{text!r} is not a number")
        return None
    if damp is not None and layout.humidity_share and "%" not in text:
        damp *= 100
    if damp is not None and not 1 <= damp <= 100:
        if damp in SENTINELS:
            return round(c, 4), np.nan
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
    path: Path,
    name: str,
    layout: Layout,
    header: Sequence[str],
    progress: Callable[[float], None] = lambda share: None,
) -> Columns:
    """Read a file by its layout. ``progress`` is told the share done and may raise to stop.

    Twice the same time with the same values counts once; with others the first stands and the
    second is a bad row. Raises BadFile when no row at all can be read or it is no text.
    """
    # long: what a file leaves open is settled once, for all columns together
    check_layout(layout, len(header))
    bad: list[dict[str, Any]] = []
    bad_count = 0

    def problem(line: int, field_name: str, reason: str) -> None:
        nonlocal bad_count
        bad_count += 1
        if len(bad) < MOST_PROBLEMS:
            bad.append({"line": line, "field": field_name, "reason": reason})

    pieces: list[tuple[Ints, Floats, Floats, Ints, Any]] = []
    blanks = 0
    size = max(path.stat().st_size, 1)
    head = list(header)
    with path.open("rb") as raw:
        stream = TextIOWrapper(raw, encoding=layout.encoding, newline="")
        try:
            for before, rows in _chunks(stream, layout, name):
                try:
                    piece = _fast(rows, layout, before + 1)
                    pieces.append((*piece[:4], np.full(len(rows), piece[4])))
                except (ValueError, IndexError, TypeError, OverflowError):
                    numbered = [
                        (before + 1 + i, r)
                        for i, r in enumerate(rows)
                        if any(c.strip() for c in r) and [c.strip() for c in r] != head
                    ]
                    slow, nothing = _slow(numbered, layout, len(head), problem)
                    blanks += nothing
                    if slow:
                        t, c, h, n, o = (np.array(x) for x in zip(*slow, strict=True))
                        pieces.append((t, c, h, n, o))
                progress(min(raw.tell() / size, 1.0))
        except UnicodeError as error:
            if layout.encoding == "utf-8-sig":  # its first letters were plain, a later one is not
                other = replace(layout, encoding="cp1252")
                return read_columns(path, name, other, header, progress)
            raise _not_text(raw, name, layout, error) from error
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
        at_s=at[keep],
        temperature_c=warm[keep],
        erh=damp[keep],
        lines=where[keep],
        bad=bad,
        bad_count=bad_count,
        repeats=repeats,
        ambiguous=ambiguous,
        blanks=blanks,
    )


def _not_text(raw: BinaryIO, name: str, layout: Layout, error: UnicodeError) -> BadFile:
    # read in large pieces: the line is found again in the file itself
    raw.seek(0)
    start = getattr(error, "object", b"")[: getattr(error, "start", 0)]
    return unwritten(name, layout.encoding, error, _line_of(raw.read(), start))


def _once(
    at: Ints, warm: Floats, damp: Floats, lines: Ints, problem: Problem
) -> tuple[NDArray[np.bool_], int]:
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
