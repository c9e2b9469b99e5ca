"""What the room of needs shows: foods and picks as readable chains."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.needs.seed_needed import Chain
from ..household.kind_types import TypeChoice

PURPOSES = ("table", "joy", "bees", "soil", "gift", "trial")
EATEN_BY = ("table", "animals", "shoots")
LINKS = ("wanted", "to_put_up", "fresh_kg_per_unit", "fresh_kg", "yield_kg_per_plant", "plants")
METHOD_WORDS = {
    "water_bath_can": "jars, water bath", "pressure_can": "jars, pressure canned",
    "freeze": "frozen", "dry": "dried", "dry_store": "stored dry", "root_cellar": "cellar",
    "ferment": "crock", "fresh": "fresh",
}  # fmt: skip


ORDERED = "ordered"  # stands for the code of seed that is on its way
ORDERABLE = ("in_time", "late")


@dataclass(frozen=True)
class Covered:
    """Seeds (or pieces, ``unit``) of one lot for one food or pick; ``coming_s``: of an order, when it is
    expected (its number is below zero: it is no packet yet)."""

    lot_id: int
    code: str
    variety: str
    seeds: int
    coming_s: float | None = None
    unit: str = "seed"

    @property
    def in_hand(self) -> bool:
        """Whether it is a packet, and not on its way."""
        return self.lot_id > 0


@dataclass(frozen=True)
class Enough:
    """Plants that are enough in a share of the years."""

    share: float
    plants: int


@dataclass(frozen=True)
class Share:
    """A variety that a food is split over: how much of it, plants of it, and those that are missing."""

    variety_id: int
    name: str
    share: float
    plants: int
    short_plants: int


@dataclass(frozen=True)
class ChainLine:
    """One food or pick as a readable chain. ``seeds``: None says "test first"; ``beside``: packets that
    may be dead, to be used up beside what is counted on; ``bed_m2``, ``row_m``: bed and row that its plants
    take; ``cells``: seeds begun indoors, one to a cell; ``jars`` to fill. ``matters``: how much, in
    the room check; ``enough``: plants that do in so many years; ``shares``: of a food split over varieties;
    ``sow``: holes, cells and sowings one after the other; ``notes``: on links the keeper set; ``types``:
    names of those it asks for (none: any), ``pinch``: packets of its kind that would serve at a pinch;
    ``sown_plants``: of this season's sowings, not asked for again; ``rounds``: sowings one after the other,
    ``round_days`` apart; ``sow_from_s``, ``sow_until_s``: first and last day of its next sowing in the
    year; ``sow_last_s``: the last of the whole year; ``missed_s``: the last day on which it could have been
    sown, when that is over; ``order``: of what is short, whether an order comes in time, late (but still to
    be sown), too_late, or "" (nothing to order); ``less``: units that are missing for want of seed, about;
    ``outcome``: what it comes to (core/needs/outcome.py); ``asks``: of what is short, what comes first:
    count, test, wait (for a test under way) or order;
    ``unit``: what its kind is sown or set as; ``also``: other kinds that it may be made of."""

    key: str
    kind: str
    target_id: int | None
    pick_id: int | None
    version: int
    name: str
    product: str
    crop: str
    crop_name: str
    how: str
    per_week: float
    weeks: float
    chain: Chain | None
    plants: int | None
    seeds: int | None
    covered: list[Covered]
    beside: list[Covered]
    pick_lot_id: int | None
    short_plants: int
    short_seeds: int | None
    order_by_s: float | None
    says: str
    next_act: str
    why: list[str]
    caution: str
    tests_first: bool
    bed_m2: float
    row_m: float
    cells: int
    jars: float
    matters: float
    gifts: float
    reserve_share: float
    every_years: int
    sure: float
    jar_litres: float
    eaten_by: str
    enough: list[Enough]
    shares: list[Share]
    sow: list[str]
    notes: dict[str, str]
    types: list[str]
    chosen_types: list[str]
    type_choices: list[TypeChoice]
    pinch: list[str]
    sown_plants: int
    rounds: int
    round_days: int
    sow_from_s: float | None
    sow_until_s: float | None
    sow_last_s: float | None
    missed_s: float | None
    order: str
    less: float
    outcome: str
    asks: str
    unit: str
    also: list[str]


@dataclass(frozen=True)
class UseLine:
    """Something there is only so much of: what (bed_m2, cells, evenings, jars), for jars their size (l);
    what the year needs at its fullest time (``day``: the fortnight from then on; None: over the year), what
    there is (None: nobody said) and what is missing."""

    what: str
    litres: float
    needed: float
    has: float | None
    missing: float
    day: str | None


@dataclass(frozen=True)
class GiveUp:
    """A share of a food or pick to give up, so that all fits, and what then is left of it."""

    key: str
    name: str
    share: float
    per_week: float
    plants: int


@dataclass(frozen=True)
class RoomCheck:
    """Whether the year fits into garden, cells, evenings and jars, and the cheapest way to make it fit."""

    fits: bool
    said: bool
    uses: list[UseLine]
    give_up: list[GiveUp]
    gap: float
    lids_short: int


@dataclass(frozen=True)
class NeedsRoom:
    """The room: chains (shortfalls first), surplus per lot, and the season they stand for."""

    year: int
    season: str
    lines: list[ChainLine]
    surplus: list[Covered]
    order_by_s: float | None
    confidence: str
    bed_m2: float
    cells: int
    jars: int
    room: RoomCheck
