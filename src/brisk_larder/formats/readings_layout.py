"""What a recording logger's file seems to hold: guessed from its first lines, with what it leaves open."""

from __future__ import annotations

import codecs
import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ..core.base.errors import BadFile, InvalidValue
from .moments import form_of, orders_possible

TIME_WORDS = ("time", "zeit", "stamp", "epoch", "unix")
DATE_WORDS = ("date", "datum")
WARM_WORDS = ("temp", "celsius", "fahrenheit", "°c", "°f", "ºc", "ºf", "deg c", "deg f")
DAMP_WORDS = ("humid", "%rh", "rh%", "% rh", "rh %", "r.h", "feucht", "moisture")
NOT_READ = ("dew", "taupunkt", "alarm", "batt", "limit", "offset", "min", "max")
WARM_START = re.compile(r"^(t|t[ _(\[].*|°?[cf]|deg\.? ?[cf])$")
DAMP_START = re.compile(r"^(?:hum|rh|erh|rel|h$)|\brh\b")
IN_C = re.compile(r"celsius|[°º] ?c\b|_c\b|\(c\)|\[c\]|deg\.? ?c\b|^c$|\bc$")
IN_F = re.compile(r"fahrenheit|[°º] ?f\b|_f\b|\(f\)|\[f\]|deg\.? ?f\b|^f$|\bf$")
CELL_UNIT = re.compile(r"[-+\d.,]\s*(?:[°º]|deg\.?)?\s*(c|f|k|celsius|fahrenheit)$", re.IGNORECASE)
HEADER_HELP = (
    "expected a header such as: time,temperature_c,humidity_pct "
    "(temperature_f for Fahrenheit; an optional first line 'device: NAME')"
)
SHOWN, SAMPLED = 8, 60
# what a file may leave open and nobody should guess in silence; a zone is the household's own
MUST_ANSWER = {
    "columns": "which columns are the time, the temperature and the humidity",
    "unit": "whether its temperatures are in C or F",
    "day_order": "whether 07/04 is 7 April (day first) or July 4 (month first)",
    "humidity_share": "whether its humidity is a share of one (0.55) or per cent",
}


@dataclass(frozen=True)
class Layout:
    """How a file is to be read. Columns are numbers from 0; humidity -1: none.

    ``unit``: C or F; ``tz``: zone of times that carry no offset; ``date``: a column of its own for
    the date (-1: within the time); ``month_first``: 07/04 is the fourth of July; ``time_form``: text,
    epoch_s, epoch_ms or serial (days as spreadsheets count them); ``humidity_share``: 0.55 is 55 %.
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
    time_form: str = "text"
    humidity_share: bool = False


@dataclass(frozen=True)
class Look:
    """What a file seems to be: a layout, its columns, first rows, and what it does not say.

    ``asks``: unit, tz, day_order, columns, humidity_share.
    """

    layout: Layout | None
    header: list[str]
    rows: list[list[str]]
    asks: list[str]
    note: str


def unwritten(name: str, encoding: str, error: UnicodeError, line: int) -> BadFile:
    """A file that is no text."""
    return BadFile(
        f"{name}, line {line}: this is not {encoding.removesuffix('-sig').upper()} text. "
        "Save the file as CSV UTF-8 and try again",
        [{"line": line, "field": "encoding", "reason": str(error)[:80]}],
    )


def _text(start: bytes, name: str) -> tuple[str, str]:
    """Encoding and text of the first bytes: UTF-8, UTF-16 with its mark, else Western European."""
    if start[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        encoding = "utf-16"
    elif b"\x00" in start:
        line = start[: start.index(b"\x00")].count(b"\n") + 1
        raise BadFile(f"{name}, line {line}: this is no text (it holds zero bytes)")
    else:
        try:
            return "utf-8-sig", codecs.getincrementaldecoder("utf-8-sig")().decode(start)
        except UnicodeError:
            return "cp1252", start.decode("cp1252", errors="replace")
    try:
        return encoding, codecs.getincrementaldecoder(encoding)().decode(start)
    except UnicodeError as error:
        at = getattr(error, "start", 0)
        raise unwritten(name, encoding, error, start[:at].count(b"\n") + 1) from error


def _is_time(word: str) -> bool:
    return any(w in word for w in TIME_WORDS)


def _is_date(word: str) -> bool:
    return any(w in word for w in DATE_WORDS) and not _is_time(word)


def _is_warm(word: str) -> bool:
    return bool(WARM_START.match(word)) or any(w in word for w in WARM_WORDS)


def _is_damp(word: str) -> bool:
    return bool(DAMP_START.search(word)) or any(w in word for w in DAMP_WORDS)


def _columns(words: Sequence[str]) -> dict[str, list[int]]:
    """Numbers of the columns that may be each of the four."""
    found: dict[str, list[int]] = {"time": [], "date": [], "temperature": [], "humidity": []}
    for i, word in enumerate(words):
        if _is_time(word):
            found["time"].append(i)
        elif _is_date(word):
            found["date"].append(i)
        elif any(w in word for w in NOT_READ):
            continue
        elif _is_damp(word):
            found["humidity"].append(i)
        elif _is_warm(word):
            found["temperature"].append(i)
    if not found["time"] and len(found["date"]) == 1:
        found["time"], found["date"] = found["date"], []
    return found


COLUMN_ANSWERS = ("time", "temperature", "humidity", "date")


def look(
    path: Path, name: str, tz: str, household_unit: str = "C", answers: dict[str, Any] | None = None
) -> Look:
    """Guess how a file is laid out. Raises BadFile when it is empty or no text.

    ``answers``: what the keeper said of its columns goes before the guess.
    """
    # long: one question after the other, each needs the answers before it
    told = {k: v for k, v in (answers or {}).items() if k in COLUMN_ANSWERS}
    with path.open("rb") as raw:
        encoding, text = _text(raw.read(64 * 1024), name)
    lines = text.splitlines()[: SAMPLED + 20]
    if not any(line.strip() for line in lines):
        raise BadFile(f"{name} is empty")
    first = next((line for line in lines if any(d in line for d in ";\t,")), ",")
    delimiter = max(";\t,", key=first.count)
    try:
        table = [
            [c.strip() for c in row] for row in csv.reader(lines, delimiter=delimiter, strict=True)
        ]
    except csv.Error as error:
        raise BadFile(f"{name}: {error}") from error
    device, header_line, header = "logger", 0, list[str]()
    for i, row in enumerate(table):
        if row and row[0].lower().startswith("device"):
            device = row[0].partition(":")[2].strip() or device
        if (
            len(row) > 1
            and not header
            and any(_is_time(c) or _is_date(c) for c in map(str.lower, row))
        ):
            header_line, header = i, row
    if not header and "time" in told and "temperature" in told:
        header_line, header = next(((i, r) for i, r in enumerate(table) if len(r) > 1), (0, []))
    if not header:
        shown = [row for row in table if len(row) > 1][:5]
        note = f"{name}: no line names its columns; {HEADER_HELP}"
        return Look(None, shown[0] if shown else [], shown[1:], ["columns"], note)
    rows = [r for r in table[header_line + 1 :] if any(r) and r != header][:SAMPLED]
    found = _columns([h.lower() for h in header])
    for key, at in told.items():
        if not isinstance(at, int) or isinstance(at, bool) or not -1 <= at < len(header):
            raise InvalidValue(key, at, f"a column from 1 to {len(header)}, counted from 0")
        found[key] = [at] if at >= 0 else []
    if not found["time"] or not found["temperature"] or len(found["date"]) > 1:
        note = (
            f"{name}, line {header_line + 1}: the header {', '.join(header)!r} does not say which "
            f"column is which; {HEADER_HELP}"
        )
        return Look(None, header, rows[:SHOWN], ["columns"], note)
    whole = [r for r in rows if len(r) == len(header)]
    layout = Layout(
        encoding,
        delimiter,
        header_line,
        found["time"][0],
        found["temperature"][0],
        found["humidity"][0] if found["humidity"] else -1,
        found["date"][0] if found["date"] else -1,
        tz=tz,
        device=device,
    )
    layout, asks = _opened(layout, header, whole, household_unit)
    note = ""
    if any(len(found[k]) > 1 for k in ("time", "temperature", "humidity")):
        asks.insert(0, "columns")
        several = [header[i] for i in found["temperature"]]
        note = f"more than one channel ({', '.join(several)}): say which one is meant"
    return Look(layout, header, rows[:SHOWN], asks, note)


def _opened(
    layout: Layout, header: Sequence[str], rows: list[list[str]], household_unit: str
) -> tuple[Layout, list[str]]:
    """What the cells say beside the header, and what neither does."""
    asks = []
    label = header[layout.temperature].lower()
    told = {m[1][0].upper() for r in rows if (m := CELL_UNIT.search(r[layout.temperature]))}
    in_f, in_c = bool(IN_F.search(label)), bool(IN_C.search(label))
    unit = household_unit
    if len(told) == 1 and told <= {"C", "F"}:
        unit = told.pop()
    elif in_f or in_c:
        unit = "F" if in_f else "C"
    else:
        asks.append("unit")
    stamps = [r[layout.time] for r in rows]
    if layout.date >= 0:
        stamps = [f"{r[layout.date]} {r[layout.time]}" for r in rows]
    form = form_of(stamps)
    utc = "utc" in header[layout.time].lower() or "gmt" in header[layout.time].lower()
    own = any(re.search(r"\d(Z|[+-]\d{2}:?\d{2})$", s) for s in stamps)
    if form in ("text", "serial") and not own and not utc:
        asks.append("tz")
    day, month = orders_possible(stamps) if form == "text" else (True, False)
    if day and month:
        asks.append("day_order")
    share = _as_share(rows, layout.humidity)
    if share:
        asks.append("humidity_share")
    half_day = any(re.search(r"[ap]\.?m\.?$", s, re.IGNORECASE) for s in stamps)
    return replace(
        layout,
        unit=unit,
        tz="UTC" if utc else layout.tz,
        time_form=form,
        month_first=month and (not day or half_day),
        humidity_share=share,
    ), asks


def _as_share(rows: list[list[str]], column: int) -> bool:
    """Whether humidities look like shares of one: none above one, and no sign of per cent."""
    if column < 0:
        return False
    cells = [r[column].replace(",", ".") for r in rows if r[column]]
    values = [float(c) for c in cells if re.fullmatch(r"\d*\.?\d+", c)]
    return bool(values) and max(values) <= 1.0 and not any("%" in c for c in cells)


def check_layout(layout: Layout, columns: int) -> None:
    """Raises InvalidValue for columns that are not there or used twice, or an unknown unit."""
    used = [layout.time, layout.temperature]
    used += [i for i in (layout.humidity, layout.date) if i >= 0]
    if len(set(used)) != len(used) or not all(0 <= i < columns for i in used):
        raise InvalidValue(
            "columns", [i + 1 for i in used], f"different columns from 1 to {columns}"
        )
    if layout.unit not in ("C", "F"):
        raise InvalidValue("unit", layout.unit, "C or F")


ANSWERS: dict[str, type] = {
    "time": int, "temperature": int, "humidity": int, "date": int, "unit": str, "tz": str,
    "month_first": bool, "device": str, "humidity_share": bool,
}  # fmt: skip
ANSWERED = {
    "columns": ("temperature",), "unit": ("unit",), "day_order": ("month_first",),
    "humidity_share": ("humidity_share",),
}  # fmt: skip


def with_answers(layout: Layout, answers: dict[str, Any]) -> Layout:
    """A layout with what the keeper said. Raises InvalidValue for an unknown answer."""
    for key, value in answers.items():
        if key not in ANSWERS:
            raise InvalidValue("mapping", key, "one of " + ", ".join(sorted(ANSWERS)))
        wanted: Any = ANSWERS[key]
        if not isinstance(value, wanted) or (wanted is int and isinstance(value, bool)):
            raise InvalidValue(
                key, value, {int: "a number", bool: "yes or no"}.get(wanted, "a word")
            )
        if wanted is int and not -1 <= value < 10_000:
            raise InvalidValue(key, value, "a column's number, or -1")
        if wanted is str and len(value) > 64:
            raise InvalidValue(key, f"{value[:20]}…", "at most 64 signs")
    return replace(layout, **answers)


def unanswered(asks: Sequence[str], answers: dict[str, Any]) -> list[str]:
    """What must still be said before a file may be taken in, in words."""
    return [
        words
        for ask, words in MUST_ANSWER.items()
        if ask in asks and not any(key in answers for key in ANSWERED[ask])
    ]
