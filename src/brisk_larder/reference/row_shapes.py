"""One frozen model per reference table: what a row may hold, in which unit and range.

A blank cell means that nobody knew the figure; it is read as ``None`` and never as zero.
"""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from ..core.hand.plant_types import PlantType

RANGE = re.compile(r"^(-?\d+(?:\.\d+)?)-(-?\d+(?:\.\d+)?)$")
SINGLE = re.compile(r"^-?\d+(?:\.\d+)?$")


class ReferenceError(ValueError):
    """A reference row breaks its own rules; the message names file, line and field."""


class Range(NamedTuple):
    """A closed range in the unit of its column."""

    low: float
    high: float

    @property
    def middle(self) -> float:
        """Arithmetic middle, in the unit of the column."""
        return (self.low + self.high) / 2


def _range(value: Any) -> Any:
    """Parse ``a-b`` (either end may be negative) or a single number; blank is None."""
    if value in (None, ""):
        return None
    if not isinstance(value, str):
        return value
    text = value.strip()
    if found := RANGE.match(text):
        low, high = float(found[1]), float(found[2])
        if high < low:
            raise ValueError(f"{text!r} ends before it starts")
        return Range(low, high)
    if SINGLE.match(text):
        return Range(float(text), float(text))
    raise ValueError(f"{text!r} is not a number or a range such as 2-3.5")


def _blank(value: Any) -> Any:
    return None if value == "" else value


Span = Annotated[Range, BeforeValidator(_range)]
MaybeSpan = Annotated[Range | None, BeforeValidator(_range)]
MaybeFloat = Annotated[float | None, BeforeValidator(_blank)]
Confidence = Annotated[float, Field(ge=0, le=1)]
Percent = Annotated[float, Field(ge=0, le=100)]
Season = Literal["cool", "warm", "herb", "flower", "cover"]


class Row(BaseModel):
    """Base of every reference row: unknown columns are an error, rows are frozen."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Name(Row):
    """How people call a crop (``name_us``: west of the ocean, where that differs), and the group it is
    kept under by season."""

    crop: str
    name: str
    name_us: str = ""
    season: Season
    other_names: str


class Alias(Row):
    """Other names of a crop (``same``), or of plants that may be reckoned like it (``stand_in``)."""

    crop: str
    match: Literal["same", "stand_in"]
    names: Annotated[str, Field(min_length=2)]
    source: Annotated[str, Field(min_length=4)]


class StoreName(Row):
    """What households call a kind of place or container, and the group it is looked for in."""

    kind: str
    group: Annotated[str, Field(min_length=3)]
    names: Annotated[str, Field(min_length=2)]
    source: Annotated[str, Field(min_length=4)]


class Crop(Row):
    """Biology, growing and hazards of one crop; column names carry the units."""

    crop: str
    species: str
    family: str
    crossing_group: str
    life_cycle: Literal["annual", "biennial", "perennial"]
    breeding: Literal["selfing", "mixed", "outcrossing"]
    pollination: Literal["self", "insect", "wind"]
    isolation_m_home: Annotated[float, Field(ge=0)]
    isolation_m_strict: Annotated[float, Field(ge=0)]
    min_plants_viable: Annotated[int, Field(ge=1)]
    min_plants_good: Annotated[int, Field(ge=1)]
    seed_oil_pct_dry: Annotated[float, Field(gt=0, lt=70)]
    seeds_per_g: Annotated[float, Field(gt=0)]
    typical_initial_germination_pct: Percent
    min_commercial_germination_pct: MaybeFloat
    years_cool_dry: Span
    germ_temp_opt_c: Span
    germ_temp_min_c: float
    germ_temp_max_c: float
    first_count_days: Annotated[float, Field(gt=0)]
    final_count_days: Annotated[float, Field(gt=0, le=60)]
    light: Literal["light", "dark", "either"]
    pretreatment: str
    wet_sensitivity: Literal["high", "normal"]
    sow_method: Literal["direct", "indoors", "both"]
    sow_indoors_weeks_before_last_frost: MaybeSpan
    sow_outdoors_weeks_rel_last_frost: MaybeSpan
    autumn_sow_weeks_before_first_frost: MaybeSpan
    days_to_maturity: Span
    spacing_in_row_cm: Annotated[float, Field(gt=0)]
    row_spacing_cm: Annotated[float, Field(gt=0)]
    field_emergence_factor: Annotated[float, Field(gt=0, le=1)]
    food_yield_kg_per_plant: MaybeSpan
    seed_yield_g_per_plant: Span
    seed_processing: Literal["dry", "wet", "ferment"]
    days_seed_maturity_after_food_stage: Annotated[float, Field(ge=0)]
    drying_days: Span
    chill_to_flower: Literal["yes", "no", "some"]
    rotation_group: str
    hazard: str
    confidence: Confidence
    note: str
    agreement: str


class Viability(Row):
    """Constants of the viability equation: log10 sigma(days) = KE - CW log10 m - CH T - CQ T^2."""

    crop: str
    grade: Literal["A", "B", "C"]
    KE_published: MaybeFloat
    KE: Annotated[float, Field(gt=4, lt=12)]
    CW: Annotated[float, Field(gt=2, lt=8)]
    CH: Annotated[float, Field(gt=0, lt=0.1)]
    CQ: Annotated[float, Field(ge=0, lt=0.002)]
    sd_log10_sigma: Annotated[float, Field(gt=0, lt=1)]
    mc_pct_at_20C_50RH: Annotated[float, Field(gt=3, lt=20)]
    p50_years_at_20C_50RH_Ki2: Annotated[float, Field(gt=0)]
    evidence: str
    constants_source: str
    confidence: Confidence


class IsothermRow(BaseModel):
    """Observed equilibrium moisture, percent of fresh weight, at rising humidity (fractions)."""

    model_config = ConfigDict(frozen=True)

    crop: str
    temperature_c: Annotated[float, Field(ge=0, le=40)]
    rh: tuple[float, ...]
    mc_pct_fwb: tuple[float, ...]
    source: str
    confidence: Confidence


class Warmth(Row):
    """How much less water seed holds when it is warmer, at one humidity: the constants N and C (degC) of the
    modified Henderson equation of one kind. ``crop``: it is one of the table (empty: of its family only)."""

    kind: str
    crop: str
    family: str
    n: Annotated[float, Field(gt=0.5, lt=5)]
    c: Annotated[float, Field(gt=0, lt=500)]
    source: str
    confidence: Confidence


class StorageKind(Row):
    """A kind of container: how slowly moisture passes its wall, in days (time constant)."""

    container_kind: str
    moisture_exchange_time_constant_days: Span
    airtight: Literal["yes", "partly", "no"]
    rodent_proof: Literal["yes", "partly", "no"]
    light_proof: Literal["yes", "partly", "no"]
    note: str
    source: str
    confidence: Confidence
    agreement: str


class Place(Row):
    """Seasonal curve of a kind of place, northern temperate reference (a marked guess)."""

    place_kind: str
    mean_c: Annotated[float, Field(ge=-30, le=40)]
    amplitude_c: Annotated[float, Field(ge=0, le=25)]
    peak_day_of_year_north: Annotated[float, Field(ge=1, le=366)]
    swing_sd_c: Annotated[float, Field(ge=0, le=15)]
    erh_mean: Annotated[float, Field(gt=0, lt=1)]
    erh_amplitude: Annotated[float, Field(ge=0, lt=0.5)]
    erh_peak_day_of_year_north: Annotated[float, Field(ge=1, le=366)]
    anomaly_sd_c: Annotated[float, Field(gt=0)]
    anomaly_sd_erh: Annotated[float, Field(gt=0)]
    memory_days: Annotated[float, Field(gt=0)]
    outdoor_share: Annotated[float, Field(ge=0, le=1)]
    lowest_possible_c: Annotated[float, Field(ge=-60, le=0)]
    highest_possible_c: Annotated[float, Field(ge=20, le=80)]
    note: str
    source: str
    confidence: Confidence


class Product(Row):
    """A thing put up or stored: fresh produce as harvested per packed unit."""

    product: str
    crop: str
    method: Literal[
        "water_bath_can",
        "pressure_can",
        "dry_store",
        "freeze",
        "root_cellar",
        "dry",
        "fresh",
        "ferment",
    ]
    pack_unit: Literal["kg", "L_jar"]
    fresh_kg_per_unit_as_harvested: Span
    loss_note: str
    storage_months_quality: Span
    source: str
    safety_note: str
    confidence: Confidence
    agreement: str
    eaten: Literal["", "seed"]
    same_as: str


class TypeRow(Row):
    """A type within a kind; words and products separated by ";"."""

    crop: str
    type: str
    name: str
    words: str
    well: str
    pinch: str
    never: str
    usual: Literal["", "yes"]
    food_yield_kg_per_plant: MaybeSpan
    seed_yield_g_per_plant: MaybeSpan
    days_to_maturity: MaybeSpan
    spacing_in_row_cm: MaybeFloat
    row_spacing_cm: MaybeFloat
    plate_colour: str
    source: str

    def made(self) -> PlantType:
        """As the rules use it."""

        def listed(text: str) -> tuple[str, ...]:
            return tuple(x.strip() for x in text.split(";") if x.strip())

        return PlantType(
            self.crop, self.type, self.name, listed(self.words), frozenset(listed(self.well)),
            frozenset(listed(self.pinch)), frozenset(listed(self.never)), self.usual == "yes",
        )  # fmt: skip


AUTUMN_WEEKS = -20.0  # what is set longer than that before the last frost is set in the autumn


class Piece(Row):
    """A crop set as tubers, cloves, sets or slips: counted as pieces that keep until they are set.
    ``bundles``: words for several pieces at once; ``keep_temp_c``, ``keeps_weeks``: where and how long after
    the harvest;
    ``seed_like``: the crop whose figures its true seed borrows."""

    crop: str
    form: str
    name: str
    season: Season
    species: str
    family: str
    piece: str
    pieces_per_kg: MaybeSpan
    bundles: str
    spacing_in_row_cm: float
    row_spacing_cm: float
    plant_weeks_rel_last_frost: Span
    days_to_maturity: Span
    food_yield_kg_per_piece: Span
    keep_temp_c: Span
    keeps_weeks: Span
    seed_like: str
    rotation_group: str
    hazard: str
    confidence: Confidence
    note: str
    source: str

    @property
    def set_weeks(self) -> Range:
        """Weeks from the last frost of the year in which it is set: what is set in autumn, after it."""
        low, high = self.plant_weeks_rel_last_frost
        return Range(low + 52, high + 52) if high < AUTUMN_WEEKS else Range(low, high)

    @property
    def in_bundle(self) -> dict[str, Range]:
        """Pieces in a head or bulb, by the word for it."""
        said = (x.split(":") for x in self.bundles.split(";") if x.strip())
        return {word.strip(): Range(*map(float, span.split("-"))) for word, span in said}


class PieceForm(Row):
    """What planting stock is called, and how it keeps where nothing is known of its kind."""

    form: str
    one: str
    many: str
    words: str
    keep_temp_c: Span
    keeps_weeks: Span
    source: str

    @property
    def called(self) -> tuple[str, ...]:
        """All its words."""
        return tuple(self.words.split(";"))


class ModelFigure(Row):
    """A figure of the model that no paper gives."""

    key: str
    value: float
    unit: str
    what: Annotated[str, Field(min_length=4)]
    source: str

    @property
    def is_guess(self) -> bool:
        """True when the source says that the figure is a guess."""
        return self.source.startswith("guess")
