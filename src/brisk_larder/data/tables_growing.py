"""Tests and sowings with their counts, what the household wants, and notes of forecasts."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, Erasable, check, one_of, strict


class Trial(Edited, table=True):
    """A germination test of a lot. ``a_probit``: the ageing at a test made in another household;
    ``cold_days``: in the cold first, before its days begin to count; ``decides``: what was to follow each
    count when it began, as JSON (``worth.Then``)."""

    __tablename__ = "trial"
    __table_args__ = strict(
        one_of("medium", "paper", "rolled", "top", "sand", "compost"),
        check("n_positive", "n >= 1"),
        check("cold_range", "cold_days >= 0 AND cold_days <= 120"),
        check("weight_range", "weight >= 0 AND weight <= 1"),
        check("closed_after_sown", "closed_s IS NULL OR closed_s >= sown_s"),
        Index("uq_trial_code_live", "code", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    code: str
    lot_id: int = Field(foreign_key="lot.id", index=True)
    sown_s: int
    n: int
    medium: str = "paper"
    temperature_c: float = 20.0
    flaws: str = ""
    weight: float = 1.0
    closed_s: int | None = None
    a_probit: float | None = None
    cold_days: float = Field(default=0.0, sa_column_kwargs={"server_default": "0"})
    decides: str = Field(default="", sa_column_kwargs={"server_default": ""})


class Spot(Edited, table=True):
    """Where boxes of tests stand: how warm, light or dark (either: as one likes), boxes, layers in each."""

    __tablename__ = "spot"
    __table_args__ = strict(
        one_of("light", "light", "dark", "either"),
        check("temperature_range", "temperature_c >= 0 AND temperature_c <= 45"),
        check("boxes_range", "boxes >= 1 AND boxes <= 50"),
        check("layers_range", "layers >= 1 AND layers <= 20"),
    )

    name: str
    temperature_c: float
    light: str = "either"
    boxes: int = 1
    layers: int = 4


class TrialCount(Erasable, table=True):
    """A count of a test, cumulative since it was sown, whoever took seedlings off."""

    __tablename__ = "trial_count"
    __table_args__ = strict(
        check(
            "not_negative",
            "normal >= 0 AND abnormal >= 0 AND mouldy >= 0 AND hard >= 0 AND fresh >= 0 "
            "AND empty >= 0 AND gone >= 0",
        ),
    )

    trial_id: int = Field(foreign_key="trial.id", index=True)
    at_s: int
    normal: int = 0
    abnormal: int = 0
    mouldy: int = 0
    hard: int = 0
    fresh: int = 0
    empty: int = 0
    gone: int = 0
    seeds: str = (
        ""  # each seed as it lies, a letter for each (core.trials.SEED_STATES); empty: only counted
    )


class Sowing(Edited, table=True):
    """Seed sown for growing; counts of what came up follow. ``meant_for``: the food or pick it was sown for,
    as Needs calls it ("food:12"; empty: nobody said)."""

    __tablename__ = "sowing"
    __table_args__ = strict(one_of("setting", "indoors", "outdoors"), check("n_positive", "n >= 1"))

    lot_id: int = Field(foreign_key="lot.id", index=True)
    at_s: int
    n: int
    cells: int | None = None
    setting: str = "outdoors"
    note: str = ""
    settled_s: int | None = None
    meant_for: str = Field(default="", sa_column_kwargs={"server_default": ""})


class SowingCount(Erasable, table=True):
    """Seedlings up so far from one sowing, cumulative."""

    __tablename__ = "sowing_count"
    __table_args__ = strict(check("not_negative", "up >= 0"))

    sowing_id: int = Field(foreign_key="sowing.id", index=True)
    at_s: int
    up: int


class FoodTarget(Edited, table=True):
    """What the household wants to eat of one product in one household year. ``eaten_by``: the table,
    animals, or as shoots (then ``per_week`` is grams of the seed itself); put up only every ``every_years``,
    for all of them; plants enough in a share ``sure`` of the years; ``jar_litres``: of the jars it is put
    up in; ``also``: other kinds that it may be made of, keys with commas."""

    __tablename__ = "food_target"
    __table_args__ = strict(
        check("per_week_range", "per_week >= 0"),
        check("weeks_range", "weeks > 0 AND weeks <= 53"),
        check("gifts_range", "gifts >= 0"),
        check("reserve_range", "reserve_share >= 0 AND reserve_share <= 2"),
        one_of("eaten_by", "table", "animals", "shoots"),
        check("every_range", "every_years BETWEEN 1 AND 10"),
        check("sure_range", "sure >= 0.5 AND sure < 1"),
        check("jar_range", "jar_litres > 0 AND jar_litres <= 10"),
    )

    year: int
    product: str
    crop: str
    name: str
    unit: str
    per_week: float
    weeks: float
    gifts: float = 0.0
    reserve_share: float = 0.0
    priority: int = 100
    eaten_by: str = Field(default="table", sa_column_kwargs={"server_default": "table"})
    types: str = ""
    also: str = ""
    every_years: int = Field(default=1, sa_column_kwargs={"server_default": "1"})
    sure: float = Field(default=0.5, sa_column_kwargs={"server_default": "0.5"})
    jar_litres: float = Field(default=1.0, sa_column_kwargs={"server_default": "1.0"})


class ChainOverride(Edited, table=True):
    """A link of a chain set by the keeper's own number."""

    __tablename__ = "chain_override"
    __table_args__ = strict(
        one_of(
            "link",
            "wanted",
            "to_put_up",
            "fresh_kg_per_unit",
            "fresh_kg",
            "yield_kg_per_plant",
            "plants",
        ),
        check("value_range", "value >= 0"),
        Index(
            "uq_chain_override_live",
            "food_target_id",
            "link",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    food_target_id: int = Field(foreign_key="food_target.id", index=True)
    link: str
    value: float
    note: str = ""


class PantryEntry(Erasable, table=True):
    """Ledger of what stands on the shelf of one product, in its own unit."""

    __tablename__ = "pantry_entry"
    __table_args__ = strict(
        one_of("kind", "counted", "put_up", "opened", "given", "spoiled"),
        check("units_range", "units >= 0"),
    )

    product: str
    at_s: int
    kind: str
    units: float


class Pick(Edited, table=True):
    """A lot to grow this year for its own sake: table, joy, bees, soil, gift, trial."""

    __tablename__ = "pick"
    __table_args__ = strict(
        one_of("purpose", "table", "joy", "bees", "soil", "gift", "trial"),
        check("plants_range", "plants >= 1"),
        Index(
            "uq_pick_live",
            "year",
            "lot_id",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    year: int
    lot_id: int = Field(foreign_key="lot.id", index=True)
    plants: int
    purpose: str = "joy"
    note: str = ""


class PlanCell(Edited, table=True):
    """A year the keeper settled on for growing a line anew (``agreed``), or ruled out (``barred``);
    ``apart``: it is kept apart from what flowers beside it."""

    __tablename__ = "plan_cell"
    __table_args__ = strict(
        one_of("state", "agreed", "barred"),
        check("apart_flag", "apart IN (0, 1)"),
        Index(
            "uq_plan_cell_live",
            "variety_id",
            "year",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    variety_id: int = Field(foreign_key="variety.id", index=True)
    year: int
    state: str = "agreed"
    apart: int = 0
    note: str = ""


class Neighbour(Edited, table=True):
    """What flowers beyond the hedge each year: a crossing group, and how far off (m)."""

    __tablename__ = "neighbour"
    __table_args__ = strict(
        check("distance_range", "distance_m >= 0 AND distance_m <= 20000"),
        Index(
            "uq_neighbour_live",
            "crossing_group",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    crossing_group: str
    distance_m: float
    note: str = ""


class ForecastNote(Erasable, table=True):
    """What was forecast when a test was started, so that one can ask later: was it right?"""

    __tablename__ = "forecast_note"
    __table_args__ = strict()

    lot_id: int = Field(foreign_key="lot.id", index=True)
    trial_id: int | None = Field(default=None, foreign_key="trial.id")
    made_s: int
    quantiles: str
    model_rev: str
