"""Varieties, cohorts (unit of belief), lots (unit of handling), parts (unit of ageing), quantity."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, Erasable, check, one_of, strict

USES = ("seed", "food", "shoots", "sale", "swap")


class Variety(Edited, table=True):
    """A variety and what its packet says. ``crop`` null: nobody knows the kind. ``purity``: how true its line
    is to come: strictly, mostly, or any surprise is welcome. ``types``: within its kind, keys with commas."""

    __tablename__ = "variety"
    __table_args__ = strict(
        one_of("breeding", "open", "hybrid", "unknown"),
        check("kept_line_flag", "kept_line IN (0, 1)"),
        check("treated_flag", "treated IN (0, 1)"),
        one_of("purity", "strict", "mostly", "any"),
    )

    crop: str | None = Field(default=None, index=True)
    name: str
    breeding: str = "open"
    kept_line: int = 0
    treated: int = 0
    packet_sow_window: str = ""
    packet_depth_cm: float | None = None
    packet_days_to_sprout: str = ""
    packet_days_to_harvest: str = ""
    packet_count: int | None = None
    packet_note: str = ""
    purity: str = Field(default="mostly", sa_column_kwargs={"server_default": "mostly"})
    types: str = ""


class Cohort(Edited, table=True):
    """Seed of one origin: owns quality at the start and how it keeps. Origin is a day range."""

    __tablename__ = "cohort"
    __table_args__ = strict(
        one_of("source", "bought", "own", "gift", "unknown"),
        check("origin_order", "origin_hi_s >= origin_lo_s"),
        one_of("stated_as", "", "tested", "at_least"),
        check("stated_range", "stated_germination BETWEEN 0 AND 1"),
    )

    variety_id: int = Field(foreign_key="variety.id", index=True)
    description: str = ""
    source: str = "bought"
    mother_cohort_id: int | None = Field(default=None, foreign_key="cohort.id")
    origin_lo_s: int | None = None
    origin_hi_s: int | None = None
    record_from_s: int
    year_guessed: int = 0
    stated_germination: float | None = None
    stated_as: str = ""
    person_from: str = ""
    crossed_risk: int = 0
    from_kitchen: int = 0
    seller: str = ""
    price: float | None = None


class Lot(Edited, table=True):
    """A physical amount of seed under one code in one place. ``as_typed``: the words it was written down in,
    kept for ever; ``form``: of what is set as tubers, cloves or plants, which (empty: seed)."""

    __tablename__ = "lot"
    __table_args__ = strict(
        one_of("state", "here", "fetched", "missing", "gone"),
        one_of("intended_use", *USES),
        Index("uq_lot_code_live", "code", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    code: str
    note: str = ""
    state: str = "here"
    intended_use: str = "seed"
    seeds_per_g: float | None = None
    tags: str = ""
    as_typed: str = ""
    form: str = ""


class Part(Erasable, table=True):
    """Share of a cohort in a lot, from when to when; a simple lot has one.

    ``from_part_id``: it was split off or joined from there, and shares its past until ``from_s``.
    ``start_*``: how far it had aged when it came in a parcel from another household.
    """

    __tablename__ = "part"
    __table_args__ = strict(
        check("share_range", "share_mean > 0 AND share_mean <= 1"),
        check("ends_after_start", "to_s IS NULL OR to_s > from_s"),
    )

    lot_id: int = Field(foreign_key="lot.id", index=True)
    cohort_id: int = Field(foreign_key="cohort.id", index=True)
    share_mean: float = 1.0
    share_sd: float = 0.0
    from_part_id: int | None = Field(default=None, foreign_key="part.id")
    from_s: int
    to_s: int | None = None
    shock_mean: float | None = None
    shock_sd: float | None = None
    start_a_probit: float | None = None
    start_sd_log10_a: float | None = None
    start_erh25: float | None = None


class MoistureObs(Erasable, table=True):
    """How dry a lot was once found to be, as erh25 with its doubt."""

    __tablename__ = "moisture_obs"
    __table_args__ = strict(
        one_of("how", "jar", "weighed", "dried", "stated"),
        check("erh25_range", "erh25 BETWEEN 0.02 AND 0.99"),
        check("sd_positive", "sd > 0"),
    )

    lot_id: int = Field(foreign_key="lot.id", index=True)
    at_s: int
    erh25: float
    sd: float
    how: str = "jar"


class LotEvent(Erasable, table=True):
    """Something that happened to a lot and belongs into its history."""

    __tablename__ = "lot_event"
    __table_args__ = strict(
        one_of(
            "kind", "wet", "mould", "sprouted", "insects", "rodents", "spilled", "treated", "note"
        ),
    )

    lot_id: int = Field(foreign_key="lot.id", index=True)
    at_s: int
    kind: str
    note: str = ""


ENTRY_KINDS = (
    "found", "counted", "sown", "tested", "given", "eaten", "lost", "thrown", "split", "joined",
)  # fmt: skip


class StockEntry(Erasable, table=True):
    """Ledger of quantity: the last count plus later entries is what is there."""

    __tablename__ = "stock_entry"
    __table_args__ = strict(
        one_of("kind", *ENTRY_KINDS),
        check("seeds_not_negative", "seeds_mean >= 0"),
        check("sd_not_negative", "seeds_sd >= 0"),
    )

    lot_id: int = Field(foreign_key="lot.id", index=True)
    at_s: int
    kind: str
    seeds_mean: float
    seeds_sd: float = 0.0
    mass_g: float | None = None
    as_said: str = ""
    ref: str = ""


class Earmark(Edited, table=True):
    """Part of a lot meant for something else than the lot as a whole: seeds set aside for a use."""

    __tablename__ = "earmark"
    __table_args__ = strict(one_of("intended_use", *USES), check("seeds_range", "seeds_mean > 0"))

    lot_id: int = Field(foreign_key="lot.id", index=True)
    intended_use: str
    seeds_mean: float
    as_said: str = ""


PACKET_WORDS = ("packet_sow_window", "packet_days_to_sprout", "packet_days_to_harvest")


PACKET = (*PACKET_WORDS, "packet_depth_cm", "packet_count")
