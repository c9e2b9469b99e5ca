"""A seller's list of packets as JSON: who sells, and what."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from .json_rows import Day, read_rows

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
    sale_ends: Day | None = None


class OfferList(BaseModel):
    """The list: seller, postage, days until it comes, packets."""

    model_config = ConfigDict(strict=True, str_strip_whitespace=True)

    seller: Annotated[str, Field(min_length=1, max_length=80)]
    postage: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] = 0.0
    lead_days: Annotated[float, Field(ge=0, le=365)] | None = None
    offers: Annotated[list[Told], Field(max_length=MOST_OFFERS)]


def read_offers(data: bytes) -> OfferList:
    """A list from its JSON. Raises BadFile with every wrong packet by its number and field."""
    return read_rows(
        data, OfferList, "offers", MOST_OFFERS, called="list", needs="'seller' and 'offers'"
    )
