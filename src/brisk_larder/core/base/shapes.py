"""What a value should have been that a model refused, in a keeper's words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

SHAPES = {
    "int_parsing": "a whole number", "int_type": "a whole number", "int_from_float": "a whole number",
    "float_parsing": "a number", "float_type": "a number", "finite_number": "a number",
    "string_type": "words", "bool_parsing": "yes or no", "bool_type": "yes or no",
    "model_type": "an object", "datetime_type": "a moment such as 2027-04-20T06:00:00+00:00",
    "timezone_aware": "a moment with its time zone, such as 2027-04-20T06:00:00+00:00",
    "date_type": "a day such as 2026-11-24", "missing": "it is missing",
    "list_type": "a list", "dict_type": "a table of names", "model_attributes_type": "an object",
    "date_from_datetime_parsing": "a day such as 2026-11-24", "date_parsing": "a day such as 2026-11-24",
    "json_invalid": "JSON",
}  # fmt: skip


def wanted(told: Mapping[str, Any]) -> str:
    """What is allowed where a validator refused; ``told``: one of its errors."""
    limits = told.get("ctx") or {}
    match told["type"]:
        case "greater_than_equal" | "greater_than":
            low = limits.get("ge", limits.get("gt"))
            return f"{low} or more" if "ge" in limits else f"more than {low}"
        case "less_than_equal" | "less_than":
            high = limits.get("le", limits.get("lt"))
            return f"{high} or less" if "le" in limits else f"less than {high}"
        case "too_short":
            return f"at least {limits.get('min_length')} of them"
        case "too_long":
            return f"at most {limits.get('max_length')} of them"
        case "string_too_short":
            return f"at least {limits.get('min_length')} signs"
        case "string_too_long":
            return f"at most {limits.get('max_length')} signs"
        case "literal_error" | "enum":
            return str(limits.get("expected", "one of the known words")).replace("'", "")
        case kind:
            return SHAPES.get(kind, str(told["msg"]).removeprefix("Value error, "))
