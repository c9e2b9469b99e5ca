"""Every figure of the model that is not a table's and not a formula's own: typed, frozen, with its unit.

Filled from ``reference/model.csv``, where each stands with its unit, what it means and its source
(most are guesses); passed to the rules that need them, group by group. A figure stands here or
nowhere: no rule has one of its own.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import get_type_hints

from .figures_planning import (
    BasketFigures,
    CoverFigures,
    FrostFigures,
    HarvestFigures,
    PantryFigures,
    RegrowFigures,
    RoomFigures,
)
from .figures_stock import AmountsFigures, PiecesFigures, QuantityFigures


@dataclass(frozen=True)
class BeliefFigures:
    """What is believed of seed before it is tested, and how much a test says."""

    ki_mean_bought: float
    ki_sd_bought: float
    ki_mean_own: float
    ki_sd_own: float
    ki_mean_gift: float
    ki_sd_gift: float
    ki_mean_unknown: float
    ki_sd_unknown: float
    ki_mean_drop_per_unknown_year: float
    ki_sd_rise_per_unknown_year: float
    unknown_years: float
    typical_at_probit: float
    living_at_most: float
    living_logit_sd: float
    dud_share: float
    dud_share_tested: float
    young_record_days: float
    stated_test_sd: float
    test_rho_good: float
    test_rho_flawed: float
    test_rho_reads_low: float
    flawed_test_weight: float
    early_test_weight: float
    loudest_per_log10: float
    own_kind_sd_with_relative: float
    own_kind_sd_alone: float
    new_packet_d_sd: float
    share_sd_of_years: float
    uncounted_share_sd: float
    shock_mean_wet: float
    shock_sd_wet: float
    shock_mean_mould: float
    shock_sd_mould: float
    shock_mean_sprouted: float
    shock_sd_sprouted: float
    shock_mean_insects: float
    shock_sd_insects: float


@dataclass(frozen=True)
class MoistureFigures:
    """How dry seed is taken to be, how it is said, and what it may be sealed or frozen at."""

    warmth_sd_own: float
    warmth_sd: float
    start_erh_own: float
    start_erh_sd_own: float
    start_erh_bought: float
    start_erh_sd_bought: float
    crisp_below_erh: float
    dry_below_erh: float
    middling_below_erh: float
    wet_from_erh: float
    seal_at_or_below_erh25: float
    never_seal_above_erh25: float
    freeze_at_or_below_erh25: float
    wet_event_erh25: float
    wet_event_erh25_sd: float
    damp_packet_erh25: float
    damp_packet_erh25_sd: float
    jar_dial_sd: float
    weighed_sd: float
    driest_kept: float
    wettest_kept: float
    told_at_c: float
    legume_overdry_pct: float
    unweighed_lot_g: float


@dataclass(frozen=True)
class WallsFigures:
    """What walls, lids and desiccants do."""

    opening_hours_without_lid: float
    vented_share_of_wall: float
    desiccant_spent_above_erh25: float
    undried_desiccant_erh: float
    ample_desiccant_times: float
    sealed_tau_days: float
    tight_tau_days: float


@dataclass(frozen=True)
class PlacesFigures:
    """When a place costs seed, when a reading is odd, how far ahead is told."""

    hurting_speed: float
    hurting_speed_today: float
    like_a_bedroom_below_speed: float
    like_a_bedroom_from_speed: float
    clock_skew_s: float
    longest_shown_years_room: float
    longest_shown_years_frozen: float
    frozen_below_c: float
    odd_reading_sds: float
    odd_reading_least_c: float
    odd_reading_least_erh: float
    spike_c: float
    dial_error_c: float
    dial_error_erh: float
    dial_bias_c: float
    dial_bias_erh: float
    house_departs_times: float
    house_lasting_share: float
    house_known_days: float


@dataclass(frozen=True)
class PlacementFigures:
    """What counts when the few good places are shared out."""

    good_place_speed_share: float
    horizon_years: float
    seeds_cap: float
    uncounted_seeds: float
    effort_seeds: float
    kept_line_worth: float


@dataclass(frozen=True)
class HandlingFigures:
    """Dew, and cans of beans and grain."""

    warm_hours_at_1kg: float
    dew_margin_c: float
    room_c: float
    room_rh: float
    fetched_kg: float
    can_shut_days: float
    can_least_shut_days: float
    can_shelf_days: float
    can_open_weeks: float
    bean_kg_per_l: float


@dataclass(frozen=True)
class AlarmsFigures:
    """Limits at which an alarm begins and, of each pair, the one at which it ends."""

    hot_c: float
    hot_cleared_c: float
    damp_erh: float
    damp_cleared_erh: float
    swing_c: float
    swing_cleared_c: float
    freezer_c: float
    freezer_cleared_c: float
    airtight_damp_erh25: float
    stalled_days: float
    stalled_above_erh: float
    silent_dial_days: float
    silent_logger_days: float
    battery_pct: float
    battery_again_days: float
    out_hours: float


@dataclass(frozen=True)
class TrialsFigures:
    """What a germination test must promise, and how seed comes up."""

    certain: float
    least_gain: float
    margin_days: float
    most_share_of_lot: float
    fallen_share: float
    longest_hold_years: float
    uncounted_seeds: float
    optimum_margin_c: float
    unknown_size_seeds: int
    pace_sd: float
    grace_share: float
    dry_after_days: float
    slowed_times: float
    slowest_pace: float
    share_up_by_first_count: float
    share_up_by_final_count: float
    spot_room_c: float
    spot_cool_c: float
    spot_warm_c: float
    later_days: float
    known_enough_seeds: int


@dataclass(frozen=True)
class BenchFigures:
    """When tests are set up together; costs in evenings."""

    wait_cost: float
    late_cost: float
    off_cost: float
    middle_cost: float
    left_cost: float
    left_at_least: float
    least_worth: float
    most_an_evening: int
    time_limit_s: float
    gap: float
    evening_every_days: int
    moved_cost: float
    box_layers: int
    boxes: int
    layer_g: float
    least_a_layer: int
    most_a_layer: int
    large_below_per_g: float
    sheets_flat: int
    sheets_rolled: int
    sheet_ml: float
    drinks_ml_per_g: float
    wet_share_sensitive: float
    fresh_days: float
    cold_days_unsaid: float
    soak_hours_unsaid: float


@dataclass(frozen=True)
class WorthFigures:
    """What is lost by a wrong choice before a sowing, in packets of fresh seed."""

    stand_worth: float
    line_worth: float
    regrow_effort: float
    effort: float
    anew_bought: float
    anew_own: float
    new_times: float
    new_germination: float
    smaller_by: float


@dataclass(frozen=True)
class TriageFigures:
    """The schools and what follows for a lot."""

    sure: float
    poor_share_of_level: float
    stand_plants: int
    enough_share: float
    extra_times: float
    alive_at_all_seeds: float
    yearly_test_seeds: int
    usual_sowings_a_year: float
    give_above_surplus: float
    thick_from_germination: float
    decided_within_days: float


@dataclass(frozen=True)
class NeedsFigures:
    """From the plate to the seed."""

    usable_mean_germination: float
    plants_lost_before_harvest: float
    emergence_beta_weight: float
    emergence_indoor_loss_factor: float
    unit_kg_low: float
    unit_kg_high: float
    missed_share: float
    spare_good_lines_times: float
    spare_uses: float
    spare_least_use_seeds: float


@dataclass(frozen=True)
class EmergingFigures:
    """What a counted sowing says: shares of the doubt of emergence, and how much it may mislead."""

    share_setting: float
    share_kind: float
    sowing_rho: float
    lost: float


@dataclass(frozen=True)
class GrowingFigures:
    """Sowings, and lines to regrow."""

    lines_a_year: int
    grace_share: float
    open_ground_times: float
    memorable_points: float
    spell_times: float
    regrow_soon_years: int
    test_soon_days: float
    order_soon_days: float
    sow_soon_days: float
    count_again_days: float
    remnant_seeds: int
    seed_waited_for_days: int


@dataclass(frozen=True)
class CalendarFigures:
    """The household's year, and when the clock of seed starts."""

    harvest_month_north: int
    harvest_month_south: int
    buying_month_north: int
    buying_month_south: int
    plan_next_from_month: int
    window_over_share: float
    window_all_year_days: int
    last_days_share: float
    last_days_least: int
    last_days_most: int
    reckoned_step_days: int
    frost_month_north: int
    frost_month_south: int


@dataclass(frozen=True)
class VerdictFigures:
    """When seed is dead, fit to be given, wanted, or more than can be used."""

    dead_median: float
    dead_high: float
    give_median: float
    wet_days: float
    sown_lately_years: float
    longest_use_years: float
    many_packets: int
    packets_a_year: float
    many_times: float


@dataclass(frozen=True)
class TellingFigures:
    """Below which nothing is told: a sentence about next to nothing is noise."""

    hard_days_share: float
    unread_share: float
    lost_points: float
    heavy_stay_share: float
    container_cost: float
    kin_log10: float
    sowing_logit: float
    sowing_could: float
    sowing_failed: float
    beside_share: float
    frost_risk: float
    own_figure_log10: float
    own_points: float
    own_cohorts: int
    own_age_years: float


@dataclass(frozen=True)
class Figures:
    """All of them, by what they are about."""

    belief: BeliefFigures
    moisture: MoistureFigures
    walls: WallsFigures
    places: PlacesFigures
    placement: PlacementFigures
    handling: HandlingFigures
    alarms: AlarmsFigures
    trials: TrialsFigures
    bench: BenchFigures
    worth: WorthFigures
    triage: TriageFigures
    cover: CoverFigures
    basket: BasketFigures
    pantry: PantryFigures
    harvest: HarvestFigures
    room: RoomFigures
    frost: FrostFigures
    needs: NeedsFigures
    emerging: EmergingFigures
    growing: GrowingFigures
    regrow: RegrowFigures
    calendar: CalendarFigures
    amounts: AmountsFigures
    pieces: PiecesFigures
    quantity: QuantityFigures
    telling: TellingFigures
    verdict: VerdictFigures


GROUPS: dict[str, type] = get_type_hints(Figures)


def figures_of(values: Mapping[str, float]) -> Figures:
    """The figures under their names ``group.name``.

    Raises KeyError, naming it, for one that is missing or that no rule knows.
    """
    known = {f"{group}.{f.name}" for group, kind in GROUPS.items() for f in fields(kind)}
    if wrong := known ^ set(values):
        raise KeyError(", ".join(sorted(wrong)))
    made = {
        group: kind(**{
            f.name: int(values[f"{group}.{f.name}"]) if f.type == "int" else values[f"{group}.{f.name}"]
            for f in fields(kind)
        })
        for group, kind in GROUPS.items()
    }  # fmt: skip
    return Figures(**made)
