"""What the table and the garden add to the plan: shares of varieties, own harvests, jars, own sowing days,
the nights that are forecast."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, check, one_of, strict


class FoodShare(Edited, table=True):
    """A variety that a food is to be grown of; ``share``: how much of it, beside the others."""

    __tablename__ = "food_share"
    __table_args__ = strict(
        check("share_range", "share > 0 AND share <= 1000"),
        Index(
            "uq_food_share_live",
            "food_target_id",
            "variety_id",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    food_target_id: int = Field(foreign_key="food_target.id", index=True)
    variety_id: int = Field(foreign_key="variety.id")
    share: float = 1.0


class Harvest(Edited, table=True):
    """What so many plants of a kind gave in a year, fresh as harvested."""

    __tablename__ = "harvest"
    __table_args__ = strict(
        check("plants_range", "plants >= 1"),
        check("mass_range", "mass_kg > 0 AND mass_kg <= 100000"),
    )

    crop: str
    year: int
    plants: int
    mass_kg: float
    note: str = ""


class Jar(Edited, table=True):
    """Jars of one size that the household owns, and unused lids for them."""

    __tablename__ = "jar"
    __table_args__ = strict(
        check("litres_range", "litres > 0 AND litres <= 10"),
        check("not_negative", "owned >= 0 AND lids >= 0"),
        Index("uq_jar_live", "litres", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    litres: float
    owned: int = 0
    lids: int = 0


class OwnWindow(Edited, table=True):
    """When a kind is sown here, in the household's own experience: days of the year; a last day before the
    first runs into the next year."""

    __tablename__ = "own_window"
    __table_args__ = strict(
        one_of("setting", "indoors", "outdoors"),
        check("first_range", "first_day BETWEEN 1 AND 366"),
        check("last_range", "last_day BETWEEN 1 AND 366"),
        Index(
            "uq_own_window_live",
            "crop",
            "setting",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    crop: str
    setting: str
    first_day: int
    last_day: int
    note: str = ""


class ForecastNight(Edited, table=True):
    """A night that is forecast: its lowest temperature (degC) and the doubt of it; ``day``: the morning."""

    __tablename__ = "forecast_night"
    __table_args__ = strict(
        check("low_range", "low_c BETWEEN -60 AND 50"),
        check("doubt_range", "low_sd_c BETWEEN 0 AND 20"),
        Index("uq_forecast_night_live", "day", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    day: str
    low_c: float
    low_sd_c: float
    made_s: int
