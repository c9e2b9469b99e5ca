"""A spreadsheet of packets as people keep them: any column order, gaps, their own words."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from ..core.errors import BadFile
from .text import decode, number, rows_of

COLUMNS = {
    "kind": ("kind", "crop", "what", "vegetable", "plant", "type"),
    "variety": ("variety", "name", "sort", "cultivar"),
    "year": ("year", "date", "packed", "harvested", "from year", "bought in"),
    "quantity": ("quantity", "amount", "how much", "seeds", "left", "weight"),
    "source": ("source", "from", "origin", "where from"),
    "germination": ("germination", "stated germination", "germ", "germ %"),
    "note": ("note", "notes", "remarks", "comment"),
    "hybrid": ("hybrid", "f1"),
    "kept_line": ("keep", "keep line", "save"),
}
OWN_WORDS = ("own", "home", "saved", "our", "self")
GIFT_WORDS = ("gift", "swap", "friend", "neighbour", "given", "aunt", "uncle")


@dataclass(frozen=True)
class PacketRow:
    """One row as read; empty where the sheet says nothing."""

    line: int
    kind: str
    variety: str
    year: int | None
    quantity: str
    source: str
    stated_germination: float | None
    hybrid: bool
    kept_line: bool
    note: str


def _header(cells: list[str], name: str, line: int) -> dict[str, int]:
    found: dict[str, int] = {}
    for i, cell in enumerate(cells):
        word = cell.strip().lower().rstrip("?:")
        for field, words in COLUMNS.items():
            if word in words and field not in found:
                found[field] = i
    if "kind" not in found and "variety" not in found:
        raise BadFile(
            f"{name}, line {line}: no column is called kind or variety; the header reads "
            f"{', '.join(cells)!r}. Known columns: "
            + ", ".join(words[0] for words in COLUMNS.values()),
            [{"line": line, "field": "header", "reason": "kind or variety column needed"}],
        )
    return found


def _year(text: str) -> int | None:
    """A year out of what people write; None when there is none. Raises ValueError."""
    if text.lower() in ("", "?", "-", "unknown", "old", "none"):
        return None
    years = re.findall(r"(?<!\d)(?:19|20)\d\d(?!\d)", text)
    if years:
        return int(years[-1])
    if re.fullmatch(r"'\d\d", text):
        return 2000 + int(text[1:])
    raise ValueError("a year such as 2024, or nothing")


def parse_packets(data: bytes, name: str) -> list[PacketRow]:
    """Read a sheet of packets. Raises BadFile naming line and field."""
    rows = rows_of(decode(data, name), name)
    header_line, header = rows[0]
    columns = _header(header, name, header_line)
    problems: list[dict[str, Any]] = []
    out: list[PacketRow] = []
    for line, row in rows[1:]:
        if row == header:
            continue

        def cell(field: str, row: list[str] = row) -> str:
            i = columns.get(field)
            return row[i].strip() if i is not None and i < len(row) else ""

        if len(row) > len(header):
            reason = f"{len(row)} cells, the header has {len(header)}"
            problems.append({"line": line, "field": "row", "reason": reason})
            continue
        try:
            year = _year(cell("year"))
        except ValueError as error:
            reason = f"{cell('year')!r} is not {error}"
            problems.append({"line": line, "field": "year", "reason": reason})
            continue
        try:
            stated = number(cell("germination").rstrip("% "))
        except ValueError:
            reason = f"{cell('germination')!r} is not a number"
            problems.append({"line": line, "field": "germination", "reason": reason})
            continue
        if stated is not None and not 0 <= stated <= 100:
            reason = f"{stated:g} is outside 0 to 100 per cent"
            problems.append({"line": line, "field": "germination", "reason": reason})
            continue
        quantity = cell("quantity")
        said = cell("source").lower()
        source = "bought"
        if any(word in said for word in OWN_WORDS):
            source = "own"
        elif any(word in said for word in GIFT_WORDS):
            source = "gift"
        out.append(
            PacketRow(
                line=line,
                kind=cell("kind"),
                variety=re.sub(r"\s*\bF1\b", "", cell("variety")).strip(),
                year=year,
                quantity="" if quantity.lower() in ("?", "some", "unknown", "-") else quantity,
                source=source,
                stated_germination=None if stated is None else stated / 100,
                hybrid=cell("hybrid").lower() in ("yes", "y", "x", "true", "f1")
                or " F1" in f" {cell('variety')}",
                kept_line=cell("kept_line").lower() in ("yes", "y", "x", "true"),
                note=cell("note"),
            )
        )
    if problems:
        first = problems[0]
        more = f" (and {len(problems) - 1} more)" if len(problems) > 1 else ""
        raise BadFile(
            f"{name}, line {first['line']}, {first['field']}: {first['reason']}{more}. "
            "Nothing was taken in",
            problems,
        )
    if not out:
        raise BadFile(f"{name} has a header and no packets under it")
    return out
