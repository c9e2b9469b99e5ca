"""The household, its people, its jobs, and what it has overruled in the reference."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, Identified, check, one_of, strict


class Household(Edited, table=True):
    """The one household of this file. Frost days are days of the year, null where none is known or where
    there is no frost (``frost_free``): then ``sow_months`` ("3,4,10") says when it is sown. For growing seed
    it has ``seed_bed_m2`` and tends ``seed_lines`` a year, for buying seed ``seed_budget`` (null: not said).
    It eats with ``people``, and ``guest_weeks`` of one person beside them in a year; it has room for food
    on ``food_bed_m2``, ``cells`` to sow in indoors, ``evenings`` for sowing and putting up in a year, and a
    store for ``winter_roots`` of biennials (null: not said). ``calendar_token``: of the private address of
    its calendar (empty: none).
    ``first_weekday``: 0 Sunday, 1 Monday, 6 Saturday."""

    __tablename__ = "household"
    __table_args__ = strict(
        check("single", "id = 1"),
        one_of("hemisphere", "north", "south"),
        one_of("temperature_unit", "C", "F"),
        one_of("mass_unit", "g", "oz"),
        one_of("volume_unit", "l", "qt"),
        one_of("length_unit", "m", "ft"),
        one_of("crop_names", "gb", "us"),
        check("first_weekday_range", "first_weekday BETWEEN 0 AND 6"),
        check("frost_free_range", "frost_free BETWEEN 0 AND 1"),
        check("last_frost_range", "last_frost_day BETWEEN 1 AND 366"),
        check("first_frost_range", "first_frost_day BETWEEN 1 AND 366"),
        check("sow_level_range", "sow_level > 0 AND sow_level < 1"),
        check("confidence_range", "confidence >= 0.5 AND confidence < 1"),
        one_of("school", "age_rule", "test", "routine", "forecast", "count"),
        one_of("code_scheme", "letter", "number", "kind", "spoken"),
        check("seed_bed_range", "seed_bed_m2 >= 0"),
        check("seed_budget_range", "seed_budget >= 0"),
        check("seed_lines_range", "seed_lines BETWEEN 1 AND 200"),
        check("people_range", "people BETWEEN 1 AND 100"),
        check("guest_weeks_range", "guest_weeks BETWEEN 0 AND 1000"),
        check("food_bed_m2_range", "food_bed_m2 >= 0"),
        check("cells_range", "cells >= 0"),
        check("evenings_range", "evenings BETWEEN 0 AND 366"),
        check("winter_roots_range", "winter_roots >= 0"),
        check("year_start", "year_starts_month BETWEEN 1 AND 12"),
    )

    name: str
    tz: str = "UTC"
    hemisphere: str = "north"
    outdoor_mean_c: float | None = None
    last_frost_day: int | None = None
    last_frost_sd_days: float = 10.0
    first_frost_day: int | None = None
    first_frost_sd_days: float = 10.0
    temperature_unit: str = "C"
    mass_unit: str = "g"
    locale: str = "en-GB"
    year_starts_month: int = 10
    sow_level: float = 0.70
    confidence: float = 0.90
    line_confidence: float = 0.95
    order_lead_days: int = 21
    unplaced_kind: str = "inner_cupboard"
    unplaced_wrapper: str = "paper_envelope"
    unplaced_told: int = 0
    settled: int = 0
    school: str = "forecast"
    code_scheme: str = "letter"
    currency: str = ""
    page_size: str = "A4"
    address: str = ""
    volume_unit: str = "l"
    length_unit: str = "m"
    crop_names: str = "gb"
    first_weekday: int = 1
    frost_free: int = 0
    sow_months: str = ""
    seed_bed_m2: float | None = None
    seed_lines: int | None = None
    seed_budget: float | None = None
    people: int | None = None
    guest_weeks: float = Field(default=0.0, sa_column_kwargs={"server_default": "0"})
    food_bed_m2: float | None = None
    cells: int | None = None
    evenings: int | None = None
    winter_roots: int | None = None
    calendar_token: str = ""


class Person(Edited, table=True):
    """Somebody who does things here; chosen on the device, no password."""

    __tablename__ = "person"
    __table_args__ = strict()

    name: str


class OwnKind(Edited, table=True):
    """A kind of plant outside the reference: a name, a stand-in relative, hazards unknown."""

    __tablename__ = "own_kind"
    __table_args__ = strict(
        one_of("season", "cool", "warm", "herb", "flower", "cover"),
        Index("uq_own_kind_key_live", "key", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    key: str
    name: str
    stand_in: str | None = None
    season: str = "cool"
    hazard: str | None = None


class CropChange(Edited, table=True):
    """A reference figure overruled by the household, with its source."""

    __tablename__ = "crop_change"
    __table_args__ = strict(
        Index(
            "uq_crop_change_live",
            "crop",
            "field",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    crop: str
    field: str
    value: float
    source: str


class Job(Edited, table=True):
    """A proposed job the keeper acted on; ``origin_key`` (rule + subject + season) keeps it one."""

    __tablename__ = "job"
    __table_args__ = strict(
        one_of("state", "open", "in_progress", "done", "moved", "handed_over", "dropped"),
        Index(
            "uq_job_origin_live", "origin_key", unique=True, sqlite_where=text("deleted_s IS NULL")
        ),
    )

    origin_key: str
    kind: str
    title: str
    place: str = "house"
    person_id: int | None = Field(default=None, foreign_key="person.id")
    due_s: int | None = None
    state: str = "open"
    moved_to_s: int | None = None
    reason: str = "{}"
    subject: str = ""


class Meta(Identified, table=True):
    """Small facts about the file itself: the model revision its caches were made with."""

    __tablename__ = "meta"
    __table_args__ = strict()

    key: str = Field(unique=True)
    value: str
