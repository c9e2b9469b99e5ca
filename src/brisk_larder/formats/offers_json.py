"""A seller's list of packets as JSON: who sells, and what."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from ..core.base.errors import BadFile
from ..core.base.plain_json import read_json

MOST_OFFERS = 5000


def _nothing(value: Any) -> Any:
    return "" if value is None else value


Text = Annotated[str, BeforeValidator(_nothing), Field(max_length=200)]


class Told(BaseModel):
    """One packet of the list. ``kind``: as the seller calls it; ``stated_germination``: a fraction."""

    model_config = ConfigDict(strict=True, str_strip_whitespace=True)

    ref: Text = ""
    kind: Annotated[str, Field(min_length=1, max_length=200)]
    variety: Text = ""
    pack_seeds: Annotated[int, Field(ge=1, le=1_000_000)]
    price: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)]
    stated_germination: Annotated[float, Field(gt=0, le=1)] | None = None
    hybrid: bool = False
    packs_left: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    sale_ends: Annotated[date, Field(strict=False)] | None = None


class OfferList(BaseModel):
    """The list: seller, postage, days until it comes, packets."""

    model_config = ConfigDict(strict=True, str_strip_whitespace=True)

    seller: Annotated[str, Field(min_length=1, max_length=80)]
    postage: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] = 0.0
    lead_days: Annotated[float, Field(ge=0, le=365)] | None = None
    offers: Annotated[list[Told], Field(max_length=MOST_OFFERS)]


def read_offers(data: bytes) -> OfferList:
    """A list from its JSON. Raises BadFile with every wrong packet by its number and field."""
    raw = read_json(data)
    if not isinstance(raw, dict) or not isinstance(raw.get("offers"), list):
        raise BadFile("This is no list of offers: it has no 'seller' and 'offers'")
    if len(raw["offers"]) > MOST_OFFERS:
        raise BadFile(f"{len(raw['offers'])} offers; at most {MOST_OFFERS} in one list")
    try:
        return OfferList.model_validate(raw)
    except ValidationError as error:
        problems = [_problem(x["loc"], x["msg"], x["input"]) for x in error.errors()]
        raise BadFile(f"{len(problems)} things in this list cannot be read", problems) from error


def _problem(at: tuple[int | str, ...], said: str, given: object) -> dict[str, Any]:
    """A fault by the number of its packet (0: of the list itself) and its field."""
    packet = at[1] + 1 if len(at) > 1 and isinstance(at[1], int) else 0
    field = at[2] if packet and len(at) > 2 else "offer" if packet else at[0]
    shown = "" if isinstance(given, dict) else f", not {given!r}"
    return {"line": packet, "field": str(field), "reason": f"{said[0].lower()}{said[1:]}{shown}"}
