"""JSON from outside, read strictly: finite numbers, writable text, no nesting without end."""

from __future__ import annotations

import json
import math
import re
from typing import Any

from .errors import BadFile

DEEPEST = 24
MOST_DIGITS = 15
UNWRITABLE = re.compile("[\ud800-\udfff\x00]")


def _refuse(word: str) -> float:
    raise BadFile(f"{word} is no number")


def _float(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise BadFile(f"{text[:24]} is larger than can be kept")
    return value


def _int(text: str) -> int:
    if len(text) > MOST_DIGITS + 1:
        raise BadFile(f"{text[:24]} is larger than can be kept")
    return int(text)


def _walk(value: Any, depth: int, most_text: int) -> None:
    if isinstance(value, str):
        if UNWRITABLE.search(value):
            raise BadFile("it holds signs that are no letters (half a pair, or a zero)")
        if len(value) > most_text:
            raise BadFile(f"a text of {len(value)} signs; at most {most_text}")
    elif isinstance(value, dict | list):
        if depth > DEEPEST:
            raise BadFile(f"it is nested more than {DEEPEST} deep")
        for key in value if isinstance(value, dict) else ():
            _walk(key, depth + 1, most_text)
        for inner in value.values() if isinstance(value, dict) else value:
            _walk(inner, depth + 1, most_text)


def read_json(data: bytes, most_text: int = 20_000) -> Any:
    """What a JSON text holds. Raises BadFile with the reason alone (no name of a file)."""
    try:
        read = json.loads(data, parse_constant=_refuse, parse_float=_float, parse_int=_int)
    except (UnicodeDecodeError, ValueError) as error:
        raise BadFile(f"it is not JSON: {error}") from error
    except RecursionError:
        raise BadFile(f"it is nested more than {DEEPEST} deep") from None
    _walk(read, 0, most_text)
    return read
