"""The stock as CSV, nothing lost: one row for each part of each lot, times in UTC, SI units.

Cells that a spreadsheet would take for a formula are written with an apostrophe before them, and
read without it.
"""

from __future__ import annotations

import csv
from datetime import UTC, datetime
from io import StringIO
from typing import Any

from ..core.base.errors import BadFile
from .text import decode

COLUMNS: dict[str, str] = {
    # column: how its cells are read
    "code": "text", "kind": "text", "kind_name": "text", "variety": "text", "breeding": "text",
    "kept_line": "flag", "treated": "flag", "description": "text", "source": "text",
    "person_from": "text", "seller": "text", "price": "number", "crossed_risk": "flag",
    "from_kitchen": "flag", "origin_from": "time", "origin_to": "time", "year_guessed": "flag",
    "record_from": "time", "stated_germination": "number", "mother_code": "text", "share": "number",
    "share_sd": "number", "start_a_probit": "number", "start_sd_log10_a": "number",
    "start_erh25": "number", "seeds": "number", "seeds_sd": "number", "counted": "time",
    "as_said": "text", "seeds_per_g": "number", "intended_use": "text", "set_aside": "text",
    "state": "text", "tags": "text", "note": "text", "place": "text", "place_kinds": "text",
    "section": "text", "slot": "text", "wrapper_kind": "text", "here_since": "time", "since": "text",
    "types": "text", "stated_as": "text", "as_typed": "text", "form": "text",
    "packet_sow_window": "text", "packet_depth_cm": "number", "packet_days_to_sprout": "text",
    "packet_days_to_harvest": "text", "packet_count": "number", "packet_note": "text",
}  # fmt: skip
# columns that files of before do not have: their cells read as empty
ADDED = {"since", "types", "stated_as", "as_typed", "form"}
# also as full-width signs, which some spreadsheets take for the plain ones
RISKY = ("=", "+", "-", "@", "\t", "\r", "'", "\uff1d", "\uff0b", "\uff0d", "\uff20")
BLANKS = " \t\r\n\u00a0\u2007\u202f\u3000"


def _risky(text: str) -> bool:
    return text.startswith(RISKY) or text.lstrip(BLANKS).startswith(RISKY)


def safe(text: str) -> str:
    """A text cell that no spreadsheet takes for a formula."""
    return "'" + text if _risky(text) else text


def unsafe(text: str) -> str:
    """The text as it was before ``safe``."""
    return text[1:] if text[:1] == "'" and _risky(text[1:]) else text


def _out(kind: str, value: Any) -> str:
    if value is None:
        return ""
    if kind == "flag":
        return "yes" if value else ""
    if kind == "time":
        return datetime.fromtimestamp(value, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    if kind == "number":
        return repr(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(value)
    return safe(str(value))


def write_stock(rows: list[dict[str, Any]]) -> str:
    """Rows of values as CSV (UTF-8, comma, decimal point, CRLF)."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for row in rows:
        writer.writerow([_out(kind, row.get(name)) for name, kind in COLUMNS.items()])
    return out.getvalue()


def is_ours(text: str) -> bool:
    """Whether a table is one that ``write_stock`` wrote."""
    first = text.lstrip("\ufeff").splitlines()[:1]
    return bool(first) and bool(_columns_of(first[0].split(",")))


def _columns_of(header: list[str]) -> list[str]:
    """The columns of a file that ``write_stock`` wrote, now or before; empty: it is none."""
    ours = [c for c in COLUMNS if c in header or c not in ADDED]
    return ours if header == ours else []


def read_stock(data: bytes, name: str) -> list[tuple[int, dict[str, Any]]]:
    """(line, values) of a file of our own. Raises BadFile naming every cell that cannot be."""
    text = decode(data, name)
    if not is_ours(text):
        raise BadFile(f"{name} is not the stock as this program writes it")
    reader = csv.reader(StringIO(text), strict=True)
    columns = _columns_of(next(reader))
    problems: list[dict[str, Any]] = []
    out = []
    try:
        for cells in reader:
            if not cells:
                continue
            line = reader.line_num
            if len(cells) != len(columns):
                reason = f"{len(cells)} cells, the header has {len(columns)}"
                problems.append({"line": line, "field": "row", "reason": reason})
                continue
            row: dict[str, Any] = dict.fromkeys(ADDED, "")
            for field, cell in zip(columns, cells, strict=True):
                kind = COLUMNS[field]
                try:
                    row[field] = _in(kind, cell)
                except ValueError:
                    reason = f"{cell!r} is no {kind}"
                    problems.append({"line": line, "field": field, "reason": reason})
            out.append((line, row))
    except csv.Error as error:
        raise BadFile(f"{name}, line {reader.line_num}: {error}") from error
    if problems:
        first = problems[0]
        raise BadFile(
            f"{name}, line {first['line']}, {first['field']}: {first['reason']}. Nothing was taken in",
            problems,
        )
    return out


def _in(kind: str, cell: str) -> Any:
    if kind == "flag":
        if cell.lower() not in ("", "yes"):
            raise ValueError(cell)
        return int(cell.lower() == "yes")
    if cell == "":
        return "" if kind == "text" else None
    if kind == "number":
        value = float(cell)
        if not -1e15 < value < 1e15:
            raise ValueError(cell)
        return value
    if kind == "time":
        return int(datetime.strptime(cell, "%Y-%m-%dT%H:%M:%SZ").replace(tzinfo=UTC).timestamp())
    return unsafe(cell)
