"""Text files as people have them: BOM, other encodings, decimal commas, any delimiter."""

from __future__ import annotations

import csv
import re
from io import StringIO

from ..core.base.errors import BadFile

# what no table holds: so read, it was no text of that kind
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]")


def decode(data: bytes, name: str) -> str:
    """Text of a file: UTF-8 (with or without BOM), UTF-16 with BOM, or the western letters of older
    spreadsheets (cp1252); with line ends of any kind. Raises BadFile."""
    encoding = "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        text = data.decode(encoding)
    except UnicodeDecodeError as error:
        older = _western(data) if encoding == "utf-8-sig" else None
        if older is None:
            line = data[: error.start].count(b"\n") + 1
            raise BadFile(
                f"{name}, line {line}: this is not {encoding.removesuffix('-sig').upper()} text. "
                "Save the file as CSV UTF-8 and try again",
                [{"line": line, "field": "encoding", "reason": "byte cannot be read"}],
            ) from error
        text = older
    return text if "\n" in text else text.replace("\r", "\n")


def _western(data: bytes) -> str | None:
    try:
        text = data.decode("cp1252")
    except UnicodeDecodeError:
        return None
    return None if _CONTROL.search(text) else text


def rows_of(text: str, name: str) -> list[tuple[int, list[str]]]:
    """Non-empty rows with their line numbers; the delimiter is guessed from the first line.

    Raises BadFile for an empty file or one that is not CSV.
    """
    lines = text.splitlines()
    if not any(line.strip() for line in lines):
        raise BadFile(f"{name} is empty")
    # the first line that has a delimiter at all: a title or device line may stand above the header
    first = next((line for line in lines if any(d in line for d in ";\t,")), ",")
    delimiter = max(";\t,", key=first.count)
    reader = csv.reader(StringIO(text), delimiter=delimiter, strict=True)
    out = []
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                out.append((reader.line_num, [cell.strip() for cell in row]))
    except csv.Error as error:
        raise BadFile(f"{name}, line {reader.line_num}: {error}") from error
    return out


def number(text: str) -> float | None:
    """A number with a decimal point or comma; None for an empty cell. Raises ValueError."""
    cleaned = text.strip().replace("\u2212", "-").replace("\u00a0", "")
    if cleaned in ("", "-", "--"):
        return None
    if "," in cleaned and "." not in cleaned:
        cleaned = cleaned.replace(",", ".")
    value = float(cleaned)
    if not -1e12 < value < 1e12:
        raise ValueError("not a finite number")
    return value
