"""Sellers, what they offer, what the household wishes for, and what it has ordered."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, check, one_of, strict


class Seller(Edited, table=True):
    """Who sells seed: postage of an order, days until it comes (null: not said)."""

    __tablename__ = "seller"
    __table_args__ = strict(
        check("postage_range", "postage >= 0"),
        check("lead_range", "lead_days BETWEEN 0 AND 365"),
        Index("uq_seller_name_live", "name", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    name: str
    postage: float = 0.0
    lead_days: float | None = None


class SeedOffer(Edited, table=True):
    """A packet that is offered: seeds in it, price, what is stated; ``packs_left`` null: plenty;
    ``sale_ends_s``: not to be had after; ``feed_ref``: its number in the seller's own list; ``form``: of
    tubers, sets or plants, which (empty: seed); ``types``: within its kind, by its words."""

    __tablename__ = "seed_offer"
    __table_args__ = strict(
        check("seeds_range", "pack_seeds >= 1"),
        check("price_range", "price >= 0"),
        check("stated_range", "stated_germination BETWEEN 0 AND 1"),
        check("packs_range", "packs_left >= 0"),
        check("hybrid_flag", "hybrid IN (0, 1)"),
    )

    seller_id: int = Field(foreign_key="seller.id", index=True)
    crop: str
    variety: str = ""
    pack_seeds: int
    price: float
    stated_germination: float | None = None
    hybrid: int = 0
    packs_left: int | None = None
    sale_ends_s: int | None = None
    feed_ref: str = ""
    form: str = ""
    types: str = ""


class WantedSeed(Edited, table=True):
    """Seed the household wishes for beside its foods: how much it matters (1 little to 5 much), for which
    season, and where it would grow."""

    __tablename__ = "wanted_seed"
    __table_args__ = strict(
        check("priority_range", "priority BETWEEN 1 AND 5"), check("plants_range", "plants >= 1")
    )

    crop: str
    variety: str = ""
    plants: int = 20
    priority: int = 3
    season: str = ""
    place: str = ""
    note: str = ""


class SeedOrder(Edited, table=True):
    """Packs that were ordered, and the packet they became when they came."""

    __tablename__ = "seed_order"
    __table_args__ = strict(
        check("packs_range", "packs >= 1"),
        one_of("state", "ordered", "arrived", "never_came"),
    )

    offer_id: int = Field(foreign_key="seed_offer.id", index=True)
    packs: int
    price: float
    ordered_s: int
    state: str = "ordered"
    lot_id: int | None = Field(default=None, foreign_key="lot.id")
