"""Figures of plans: lots to sowings over a year, lines to years, what to order, how
fast the shelf empties. A part of ``figures``."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class CoverFigures:
    """What a choice of lots for the year's sowings weighs, in packets, and which lots it may count on."""

    short_cost: float
    earlier_share: float
    open_cost: float
    young_cost: float
    most_lots: int
    time_limit_s: float
    gap: float
    sound_share: float
    sound_chance: float
    doubtful_times: float
    retold_cost: float
    retold_share: float
    retold_within: float


@dataclass(frozen=True)
class RegrowFigures:
    """What the plan of the years weighs, in growings of a line."""

    season_cost: float
    unsafe_cost: float
    loss_cost: float
    owed_cost: float
    late_cost: float
    early_cost: float
    moved_cost: float
    retold_cost: float
    apart_insect: float
    apart_wind: float
    apart_strict: float
    borrow_cost: float
    beyond_cost: float
    store_cost: float
    fresh_seeds_times: float
    patterns_early_years: int
    patterns_most: int
    tie: float
    gap: float
    time_limit_s: float


@dataclass(frozen=True)
class BasketFigures:
    """What is weighed in an order."""

    open_times: float
    weight_base: float
    food_weight: float
    pick_weight: float
    tie: float
    record_weight: float
    unsaid_lead_days: float
    order_given_up_days: int
    most_packs: int
    time_limit_s: float
    most_weighed: int
    least_offers: int


@dataclass(frozen=True)
class PantryFigures:
    """How a shelf's ledger is read."""

    pace_weeks: float
    least_weeks: float
    ran_out_times: float
    pace_share: float


@dataclass(frozen=True)
class HarvestFigures:
    """How own seasons weigh against the book."""

    season_log_sd: float
    level_least_share: float
    unknown_log_sd: float


@dataclass(frozen=True)
class RoomFigures:
    """What the work of a year takes, and what giving a food up costs."""

    touch_cost: float
    rising: float
    food_weight: float
    pick_weight: float
    cells_an_evening: float
    row_m_an_evening: float
    jars_an_evening: float
    kg_an_evening: float
    sowing_feeds_weeks: float
    bearing_feeds_weeks: float
    time_limit_s: float


@dataclass(frozen=True)
class FrostFigures:
    """When a forecast of frost moves a sowing."""

    chance: float
    tender_c: float
    hardy_c: float
    reach_nights: int
    settle_nights: int
