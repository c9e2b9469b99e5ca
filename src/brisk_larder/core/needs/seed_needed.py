"""From the plate back to the seed: wanted -> to put up -> fresh kilos -> plants -> seeds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil, exp, log, sqrt
from typing import Literal

import numpy as np
from scipy.special import ndtri

from ..base.errors import InvalidValue
from ..base.figures import NeedsFigures
from ..base.figures_planning import CoverFigures
from ..base.units import Z80
from ..seed.plants import Seed, Sown, seeds_beside

Origin = Literal["own", "book", "guess", "set", "sum"]


@dataclass(frozen=True)
class Amount:
    """A quantity with its likely range (80 %), unit and where it came from.

    origin: own records, the book, a guess, set by the keeper, or a sum of other links.
    """

    low: float
    mid: float
    high: float
    unit: str
    origin: Origin
    note: str = ""

    @staticmethod
    def exact(value: float, unit: str, origin: Origin, note: str = "") -> Amount:
        """An amount without doubt."""
        return Amount(value, value, value, unit, origin, note)


@dataclass(frozen=True)
class Chain:
    """One food's chain; each link an Amount. plants is None where the book knows no yield; ``planned``:
    plants that are enough in as many years as the food is to be sure in."""

    wanted: Amount
    pantry: Amount
    to_put_up: Amount
    fresh_kg: Amount
    plants: Amount | None
    planned: int | None = None


@dataclass(frozen=True)
class FoodTarget:
    """What the household wants: units a week over so many weeks, for guests such a share more, plus gifts and
    a reserve share; put up only every ``every_years`` for all of them; plants enough in a share ``sure`` of
    the years."""

    per_week: float
    weeks: float
    unit: str
    gifts: float = 0.0
    reserve_share: float = 0.0
    guests_share: float = 0.0
    every_years: int = 1
    sure: float = 0.5

    @property
    def in_a_year(self) -> float:
        """Units wanted for one year."""
        eaten = self.per_week * self.weeks * (1.0 + self.guests_share)
        return (eaten + self.gifts) * (1.0 + self.reserve_share)

    @property
    def words(self) -> str:
        """What it is made of."""
        said = ["per week x weeks"]
        if self.guests_share:
            said.append(f"{100 * self.guests_share:.0f} % more for guests")
        if self.gifts:
            said.append(f"{self.gifts:g} to give away")
        if self.reserve_share:
            said.append(f"{100 * self.reserve_share:.0f} % in reserve")
        return ", ".join(said)


def enough_plants(plants: Amount, share: float) -> int:
    """Plants that are enough in such a share of the years, of a log-normal with its 80 % range.

    Raises InvalidValue unless 0.5 <= share < 1.
    """
    if not 0.5 <= share < 1:
        raise InvalidValue("years in which it is enough", share, "at least a half, and not all")
    if plants.mid <= 0:
        return 0
    sd = _log_sd(plants.low, plants.high)
    return max(1, ceil(plants.mid * exp(float(ndtri(share)) * sd) - 1e-9))


def _log_sd(low: float, high: float) -> float:
    return log(high / low) / (2 * Z80) if high > low > 0 else 0.0


def _spread(mid: float, log_sd: float, unit: str, origin: Origin, note: str) -> Amount:
    factor = exp(Z80 * log_sd)
    return Amount(mid / factor, mid, mid * factor, unit, origin, note)


def chain(
    target: FoodTarget,
    fresh_kg_per_unit: Amount,
    yield_kg_per_plant: Amount | None,
    pantry_units: float,
    overrides: Mapping[str, float] | None,
    loss_share: float,
) -> Chain:
    """Work a food's chain backward from the plate.

    ``fresh_kg_per_unit``: kilos as harvested per unit put up; ``yield_kg_per_plant``: kilos per
    plant, None when nobody knows; ``loss_share``: plants lost before harvest.
    ``overrides`` replaces a link (wanted, to_put_up, fresh_kg, plants) by the keeper's own number.
    Ranges are 80 % intervals, multiplied as log-normals. Raises InvalidValue for negatives.
    """
    # long: one link after the other, as the keeper reads them
    for name, value in (
        ("per week", target.per_week),
        ("weeks", target.weeks),
        ("in the pantry", pantry_units),
        ("gifts", target.gifts),
    ):
        if value < 0:
            raise InvalidValue(name, value, "zero or more")
    own = dict(overrides or {})

    def overruled(link: str, amount: Amount) -> Amount:
        if link not in own:
            return amount
        return Amount.exact(own[link], amount.unit, "set", "set by the keeper")

    wanted = overruled("wanted", Amount.exact(target.in_a_year, target.unit, "set", target.words))
    pantry = Amount.exact(pantry_units, target.unit, "own", "counted on the shelf")
    years = target.every_years
    # what is put up every second year rests while the shelf holds a whole year of it
    rests = years > 1 and pantry.mid >= wanted.mid
    missing = 0.0 if rests else max(0.0, years * wanted.mid - pantry.mid)
    said = "wanted less pantry"
    if years > 1:
        said = "the shelf holds a year" if rests else f"wanted for {years} years, less pantry"
    to_put_up = overruled("to_put_up", Amount.exact(missing, target.unit, "sum", said))
    kg_sd = _log_sd(fresh_kg_per_unit.low, fresh_kg_per_unit.high)
    fresh = overruled(
        "fresh_kg",
        _spread(
            to_put_up.mid * fresh_kg_per_unit.mid,
            kg_sd,
            "kg",
            fresh_kg_per_unit.origin,
            fresh_kg_per_unit.note,
        ),
    )
    if yield_kg_per_plant is None:
        if "plants" not in own:
            return Chain(wanted, pantry, to_put_up, fresh, None)
        plants = Amount.exact(own["plants"], "plants", "set", "set by the keeper")
        return Chain(wanted, pantry, to_put_up, fresh, plants, ceil(plants.mid))
    sd = sqrt(
        _log_sd(fresh.low, fresh.high) ** 2
        + _log_sd(yield_kg_per_plant.low, yield_kg_per_plant.high) ** 2
    )
    plants = _spread(
        fresh.mid / yield_kg_per_plant.mid / (1.0 - loss_share),
        sd,
        "plants",
        yield_kg_per_plant.origin,
        yield_kg_per_plant.note,
    )
    whole = replace(
        plants, low=ceil(plants.low), mid=ceil(plants.mid - 1e-9), high=ceil(plants.high)
    )
    planned = enough_plants(plants, target.sure)
    if "plants" in own:
        planned = ceil(own["plants"])
    return Chain(wanted, pantry, to_put_up, fresh, overruled("plants", whole), planned)


def emergence(field: float, setting: str | None, f: NeedsFigures) -> float:
    """Share of germinating seed that becomes a plant: the field figure outdoors; indoors only a part
    of its loss."""
    return 1 - (1 - field) * f.emergence_indoor_loss_factor if setting == "indoors" else field


def line_reserve(lots: Sequence[tuple[Seed, int]], mothers: int, confidence: float) -> list[int]:
    """Seeds that each lot of a kept line keeps so that the line has its mothers: the best lot first, so that
    the fewest are kept; all of all lots where even these do not promise them."""
    keep = [0] * len(lots)
    given: list[Sown] = []
    for i in sorted(range(len(lots)), key=lambda i: (-lots[i][0].mean, i)):
        one, have = lots[i]
        n = seeds_beside(mothers, given, one, np.inf, confidence, have)
        keep[i] = have if n is None else n
        if n is not None:
            return keep
        given.append(Sown(float(have), one))
    return [have for _, have in lots]


def usable(mean_plants: float, field: float, f: NeedsFigures) -> bool:
    """Whether a lot is good enough to be counted on: plants per seed against its field emergence."""
    return mean_plants >= f.usable_mean_germination * field


def sound(one: Seed, typical: float, f: CoverFigures) -> bool:
    """Whether seed may be counted on: so surely it stands above a share of the germination of new seed
    (``typical``)."""
    return float((one.g >= f.sound_share * typical).mean()) >= f.sound_chance


def on_the_shelf(before: float, kind: str, units: float) -> float:
    """Units of a product after an entry: a count starts anew, what was put up comes, else it goes."""
    if kind == "counted":
        return units
    return max(0.0, before + (units if kind == "put_up" else -units))


def between(low: float, high: float, unit: str, origin: Origin, note: str) -> Amount:
    """An amount from its likely range: the geometric middle, the plain one where it begins at zero."""
    mid = sqrt(low * high) if low > 0 else (low + high) / 2
    return Amount(low, mid, high, unit, origin, note)
