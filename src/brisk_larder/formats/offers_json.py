"""A seller's list of packets as JSON: who sells, and what."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any

from ..core.errors import BadFile
from ..core.plain_json import read_json

MOST_OFFERS = 5000


@dataclass(frozen=True)
class Told:
    """One packet of the list."""

    ref: str
    kind: str
    variety: str
    pack_seeds: int
    price: float
    stated_germination: float | None
    hybrid: bool
    packs_left: int | None
    sale_ends: date | None


@dataclass(frozen=True)
class OfferList:
    """The list: seller, postage, days until it comes, packets."""

    seller: str
    postage: float
    lead_days: float | None
    offers: list[Told]


def read_offers(data: bytes) -> OfferList:
    """A list from its JSON. Raises BadFile with every wrong packet by its number and field."""
    raw = read_json(data)
    if not isinstance(raw, dict) or not isinstance(raw.get("offers"), list):
        raise BadFile("This is no list of offers: it has no 'seller' and 'offers'")
    problems: list[dict[str, Any]] = []
    seller = raw.get("seller")
    if not isinstance(seller, str) or not 1 <= len(seller.strip()) <= 80:
        problems.append({"line": 0, "field": "seller", "reason": "a name of 1 to 80 letters"})
    postage = _number(raw, "postage", 0, 10_000, problems, 0, 0.0)
    lead = _number(raw, "lead_days", 0, 365, problems, 0, None)
    if len(raw["offers"]) > MOST_OFFERS:
        raise BadFile(f"{len(raw['offers'])} offers; at most {MOST_OFFERS} in one list")
    out = [_told(x, i, problems) for i, x in enumerate(raw["offers"], start=1)]
    if problems:
        raise BadFile(f"{len(problems)} things in this list cannot be read", problems)
    return OfferList(str(seller).strip(), postage or 0.0, lead, [x for x in out if x is not None])


def _told(x: Any, i: int, problems: list[dict[str, Any]]) -> Told | None:
    if not isinstance(x, dict):
        problems.append({"line": i, "field": "offer", "reason": "an object"})
        return None
    kind = x.get("kind")
    if not isinstance(kind, str) or not kind.strip():
        problems.append({"line": i, "field": "kind", "reason": "the kind of plant"})
    pack = _number(x, "pack_seeds", 1, 1_000_000, problems, i, None, must=True)
    price = _number(x, "price", 0, 100_000, problems, i, None, must=True)
    stated = _number(x, "stated_germination", 0, 1, problems, i, None)
    left = _number(x, "packs_left", 0, 1_000_000, problems, i, None)
    ends = x.get("sale_ends")
    day = None
    if ends is not None:
        try:
            day = date.fromisoformat(str(ends))
        except ValueError:
            problems.append({"line": i, "field": "sale_ends", "reason": "a day such as 2027-02-01"})
    return Told(
        str(x.get("ref", "")), str(kind or "").strip(), str(x.get("variety", "")).strip(), int(pack or 1),
        price or 0.0, stated, bool(x.get("hybrid", False)), None if left is None else int(left), day,
    )  # fmt: skip


def _number(
    x: dict[str, Any], field: str, low: float, high: float, problems: list[dict[str, Any]], i: int,
    usual: float | None, must: bool = False,
) -> float | None:  # fmt: skip
    value = x.get(field)
    if value is None and not must:
        return usual
    right = isinstance(value, int | float) and not isinstance(value, bool)
    if not right or not low <= float(str(value)) <= high:
        reason = f"a number from {low:g} to {high:g}, not {value!r}"
        problems.append({"line": i, "field": field, "reason": reason})
        return usual
    return float(str(value))
