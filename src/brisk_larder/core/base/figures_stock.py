"""Figures of what is in stock: amounts as people say them, planting stock, the ledger."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class AmountsFigures:
    """What an amount as people say it means, and what seed is worth."""

    own_per_g_sd: float
    book_per_g_sd: float
    scale_slip_times: float
    counted_packet_sd: float
    usual_packet_sd: float
    packet_seeds_at_1_per_g: float
    packet_seeds_power: float
    pinch_seeds: float
    seed_g_per_ml: float
    packet_price: float
    packet_worth_cap: float
    grams_like_a_packet: float
    bulk_from_g: float
    bulk_packets: float
    near_goal_share: float
    shoebox_lots: float


@dataclass(frozen=True)
class PiecesFigures:
    """Tubers, cloves, sets and plants: how many of them stand, how warmth shortens their days, and how long
    before their last good day it is told."""

    stand_share: float
    stand_weight: float
    warm_halves_c: float
    told_before_days: float
    unsaid_per_kg: float
    weighed_sd: float
    plants_later_weeks: float
    plants_after_frost_weeks: float
    up_first_days: float
    up_last_days: float


@dataclass(frozen=True)
class QuantityFigures:
    """How a ledger is read: when a record says something, and what may leave a lot."""

    most_sd_beyond_a_count: float
    use_record_years: float
    spare_beyond_life_times: float
