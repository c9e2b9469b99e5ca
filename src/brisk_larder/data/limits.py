"""What a value in the file may be: finite, of a sensible size, texts no longer than anybody writes.

One table for every way in: acts (checked as rows are flushed), ``everything.json``, and what an older
program let through (``services.papers.mending``).
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable, Iterator, Mapping
from datetime import date
from functools import cache
from typing import Any, NamedTuple

from sqlmodel import SQLModel

from ..core.base.errors import InvalidValue

NAME, NOTE, TEXT, JSON_TEXT = 120, 20_000, 2_000, 400_000
EARLIEST_S, LATEST_S = -2_208_988_800, 7_258_118_400  # 1900 to 2200
MOST = 2**53


class Range(NamedTuple):
    """Lowest and highest number, and the smallest one apart from zero."""

    low: float
    high: float
    least: float = 0.0


SEEDS = Range(0, 1e9, 1e-6)
SHARE = Range(0, 1, 1e-9)
COUNT = Range(0, 1e6)
NUMBERS: dict[str, Range] = {
    "seeds_mean": SEEDS, "seeds_sd": SEEDS, "mass_g": Range(0, 1e7, 1e-6),
    "seeds_per_g": Range(1e-3, 1e6), "price": Range(0, 1e7, 1e-4),
    "packet_depth_cm": Range(0, 200, 1e-3), "packet_count": Range(0, 1e7),
    "stated_germination": SHARE, "share_mean": SHARE, "share_sd": SHARE, "weight": SHARE,
    "shock_mean": Range(-50, 50, 1e-12), "shock_sd": Range(0, 50, 1e-12),
    "start_a_probit": Range(0, 100, 1e-300), "a_probit": Range(0, 100, 1e-300),
    "start_sd_log10_a": Range(0, 3, 1e-12), "start_erh25": Range(0.02, 0.99),
    "erh25": Range(0.02, 0.99), "sd": Range(1e-6, 1), "erh": Range(0, 1, 1e-9),
    "temperature_c": Range(-60, 80, 1e-9), "t_min_c": Range(-60, 80, 1e-9),
    "t_max_c": Range(-60, 80, 1e-9), "outdoor_mean_c": Range(-25, 35, 1e-9),
    "chain_override.value": Range(0, 1e6, 1e-6), "crop_change.value": Range(-1e6, 1e6, 1e-9),
    "per_week": Range(0, 1e4, 1e-6), "weeks": Range(1e-3, 53), "gifts": Range(0, 1e5, 1e-6),
    "reserve_share": Range(0, 2, 1e-9), "units": Range(0, 1e5, 1e-6), "priority": Range(0, 1e6),
    "sow_level": Range(0.01, 0.99), "confidence": Range(0.5, 0.999),
    "line_confidence": Range(0.5, 0.999), "last_frost_sd_days": Range(0, 60, 1e-6),
    "first_frost_sd_days": Range(0, 60, 1e-6), "order_lead_days": Range(0, 365),
    "capacity_lots": Range(1, 10_000), "walk_order": Range(0, 1e6), "n": Range(1, 1e5),
    "cells": COUNT, "plants": Range(1, 1e5), "up": COUNT, "normal": COUNT, "abnormal": COUNT,
    "mouldy": COUNT, "hard": COUNT, "fresh": COUNT, "empty": COUNT, "gone": COUNT,
    "year": Range(1900, 2200), "last_frost_day": Range(1, 366), "first_frost_day": Range(1, 366),
}  # fmt: skip
TEXTS: dict[str, int] = {
    "name": NAME, "variety": NAME, "person": NAME, "seller": NAME, "person_from": NAME,
    "product": NAME, "title": 400, "code": 24, "key": 160, "note": NOTE, "why": NOTE,
    "file_name": 255, "tz": 64, "address": 200, "as_said": 200, "origin_key": 400,
    "packet_note": NOTE, "description": NOTE, "tags": 400, "flaws": NOTE, "source": 400,
    "quantiles": JSON_TEXT, "origin": NOTE,
}  # fmt: skip
JSON_COLUMNS = {
    "figures": dict, "mapping": dict, "spec": dict, "expected": list, "reason": dict,
}  # fmt: skip
# texts of one form: whether one is of it, and what is allowed
DAY = "a day such as 2027-04-24"
FORECAST = "a JSON list of three shares, the middle one between the others"


def _is_forecast(text: str) -> bool:
    try:
        low, mid, high = json.loads(text, parse_constant=_refuse)[:3]
        return bool(0 <= low <= mid <= high <= 1)
    except (ValueError, TypeError, KeyError, RecursionError):
        return False


def _is_day(text: str) -> bool:
    try:
        return date.fromisoformat(text).isoformat() == text
    except ValueError:
        return False


SHAPES: dict[str, tuple[Callable[[str], bool], str]] = {
    "forecast_night.day": (_is_day, DAY),
    "forecast_note.quantiles": (_is_forecast, FORECAST),
}
SURROGATE = re.compile("[\ud800-\udfff\x00]")


def range_of(table: str, column: str) -> Range:
    """What a number in a column may be."""
    if found := NUMBERS.get(f"{table}.{column}") or NUMBERS.get(column):
        return found
    if column.endswith("_s"):
        return Range(EARLIEST_S, LATEST_S)
    return Range(-MOST, MOST, 1e-300)


def why_not(table: str, column: str, value: object) -> str | None:
    """What is allowed where a value is not; None when it may stand."""
    if isinstance(value, bool) or value is None:
        return None
    if isinstance(value, int | float):
        low, high, least = range_of(table, column)
        if not math.isfinite(value) or not low <= value <= high:
            return f"{low:g} to {high:g}"
        if 0 < abs(value) < least:
            return f"zero, or {least:g} and more"
        return None
    if isinstance(value, str):
        if column in JSON_COLUMNS:
            return _json_not(value, JSON_COLUMNS[column])
        most = TEXTS.get(column, TEXT)
        if len(value) > most:
            return f"at most {most} signs"
        if SURROGATE.search(value):
            return "letters and signs that can be written in a file"
        reads, allowed = SHAPES.get(f"{table}.{column}", (None, ""))
        if reads is not None and not reads(value):
            return allowed
    return None


def _json_not(value: str, kind: type) -> str | None:
    if len(value) > JSON_TEXT:
        return f"at most {JSON_TEXT} signs"
    try:
        read = json.loads(value, parse_constant=_refuse)
    except (ValueError, RecursionError):
        return "JSON of finite numbers and words"
    return None if isinstance(read, kind) else f"a JSON {kind.__name__}"


def _refuse(word: str) -> float:
    raise ValueError(word)


@cache
def _columns(model: type[SQLModel]) -> tuple[str, ...]:
    return tuple(model.model_fields)


def check_row(row: SQLModel) -> None:
    """Raises InvalidValue naming the first column of a living row that cannot be."""
    if getattr(row, "deleted_s", None) is not None:
        return
    table = str(row.__tablename__)
    for column in _columns(type(row)):
        allowed = why_not(table, column, getattr(row, column))
        if allowed is not None:
            given = getattr(row, column)
            shown = f"{given[:40]}… ({len(given)} signs)" if isinstance(given, str) else given
            raise InvalidValue(column.removesuffix("_s").replace("_", " "), shown, allowed)


def odd_values(table: str, row: Mapping[str, Any]) -> Iterator[tuple[str, Any, str]]:
    """(column, value, what is allowed) of everything in a row that cannot be."""
    for column, value in row.items():
        allowed = why_not(table, column, value)
        if allowed is not None:
            yield column, value, allowed
