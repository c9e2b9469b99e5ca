"""From the plate back to the seed: wanted -> to put up -> fresh kilos -> plants -> seeds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from math import ceil, exp, log, sqrt
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.special import bdtrc, betaincinv, gammaln, ndtri

from .errors import InvalidValue
from .figures import NeedsFigures
from .moisture import Floats
from .units import Z80

Origin = Literal["own", "book", "guess", "set", "sum"]
SEED_CAP = 20_000
PACK_NODES = 24
EMERGENCE_NODES = 20  # fewer would cut off the tail in which nearly nothing comes up
AMOUNT_NODES = 20  # the tenth part that a promise may fail is two of them
Ints = NDArray[np.int64]


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
    """One food's chain; each link an Amount. plants is None where the book knows no yield."""

    wanted: Amount
    pantry: Amount
    to_put_up: Amount
    fresh_kg: Amount
    plants: Amount | None


@dataclass(frozen=True)
class FoodTarget:
    """What the household wants: units a week over so many weeks, plus gifts and a reserve share."""

    per_week: float
    weeks: float
    unit: str
    gifts: float = 0.0
    reserve_share: float = 0.0


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

    total = (target.per_week * target.weeks + target.gifts) * (1.0 + target.reserve_share)
    wanted = overruled("wanted", Amount.exact(total, target.unit, "set", "per week x weeks"))
    pantry = Amount.exact(pantry_units, target.unit, "own", "counted on the shelf")
    to_put_up = overruled(
        "to_put_up",
        Amount.exact(max(0.0, wanted.mid - pantry.mid), target.unit, "sum", "wanted less pantry"),
    )
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
        plants = None
        if "plants" in own:
            plants = Amount.exact(own["plants"], "plants", "set", "set by the keeper")
        return Chain(wanted, pantry, to_put_up, fresh, plants)
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
    plants = replace(
        plants, low=ceil(plants.low), mid=ceil(plants.mid - 1e-9), high=ceil(plants.high)
    )
    return Chain(wanted, pantry, to_put_up, fresh, overruled("plants", plants))


@dataclass(frozen=True)
class Success:
    """Chance that one seed becomes a plant: weighted nodes p, weight, both [K]."""

    p: Floats
    weight: Floats


def emergence(field: float, setting: str | None, f: NeedsFigures) -> float:
    """Share of germinating seed that becomes a plant: the field figure outdoors; indoors only a part
    of its loss."""
    return 1 - (1 - field) * f.emergence_indoor_loss_factor if setting == "indoors" else field


def success(g: Floats, weight: Floats, emergence_mean: float, beta_weight: float) -> Success:
    """Germination nodes [K] times an uncertain emergence factor, packed into 24 equal shares.

    Emergence: beta with that mean and ``beta_weight``. Raises InvalidValue unless 0 < mean <= 1.
    """
    p, packed = packed_success(g, weight[None, :], emergence_mean, beta_weight)
    held = packed[0] > 0
    return Success(p[0, held], packed[0, held])


def packed_success(
    g: Floats, weight: Floats, emergence_mean: float, beta_weight: float
) -> tuple[Floats, Floats]:
    """``success`` for many weightings [B, K] of the same nodes [K]: p and weight [B, 24], with weight 0
    where a share is empty."""
    factors = _emergence_factors(emergence_mean, beta_weight)
    p = (g[:, None] * factors[None, :]).ravel()
    order = np.argsort(p)
    p = p[order]
    w = np.repeat(weight / len(factors), len(factors), axis=1)[:, order]
    share = np.minimum((np.cumsum(w, axis=1) - 0.5 * w) * PACK_NODES, PACK_NODES - 1e-9).astype(int)
    rows = len(w)
    at = (share + PACK_NODES * np.arange(rows)[:, None]).ravel()
    mass = np.bincount(at, weights=w.ravel(), minlength=rows * PACK_NODES)
    total = np.bincount(at, weights=(w * p).ravel(), minlength=rows * PACK_NODES)
    held = mass > 1e-12
    mean = np.divide(total, mass, out=np.full_like(total, 0.5), where=held)
    mass, mean = (np.where(held, mass, 0.0).reshape(rows, -1), mean.reshape(rows, -1))
    return np.clip(mean, 1e-9, 1 - 1e-9), mass / mass.sum(axis=1, keepdims=True)


@lru_cache(maxsize=512)
def _emergence_factors(mean: float, beta_weight: float) -> Floats:
    if not 0 < mean <= 1:
        raise InvalidValue("emergence", mean, "a share above 0 and at most 1")
    if mean == 1:
        return np.ones(1)
    middles = (np.arange(EMERGENCE_NODES) + 0.5) / EMERGENCE_NODES
    return np.asarray(betaincinv(mean * beta_weight, (1 - mean) * beta_weight, middles))


def chance_of_plants(plants: int, seeds: float, one: Success) -> float:
    """P(at least ``plants`` plants) from ``seeds`` seeds of one lot."""
    return float(chances_of_plants(np.array([plants]), seeds, one)[0])


def chances_of_plants(plants: np.ndarray, seeds: float, one: Success) -> Floats:
    """P(at least so many plants) [P] from ``seeds`` seeds of one lot, for many wishes at once."""
    out = np.where(plants <= 0, 1.0, 0.0)
    asked = (plants > 0) & (plants <= seeds)
    wishes, which = np.unique(plants[asked], return_inverse=True)
    tails = bdtrc(wishes[:, None] - 1, int(seeds), one.p[None, :]) @ one.weight
    out[asked] = tails[which]
    return out


def seeds_for(plants: int, one: Success, confidence: float, at_most: int = SEED_CAP) -> int | None:
    """Smallest number of seeds with P(at least ``plants`` plants) >= confidence.

    None when no number up to ``at_most`` reaches it: the belief is too wide, "test first".
    Raises InvalidValue unless 0.5 <= confidence < 1.
    """
    found = int(seeds_for_each(plants, one.p[None, :], one.weight[None, :], confidence, at_most)[0])
    return None if found < 0 else found


def seeds_for_each(
    plants: int, p: Floats, weight: Floats, confidence: float, at_most: int = SEED_CAP
) -> Ints:
    """``seeds_for`` of many beliefs at once, p and weight [B, K]: numbers [B], -1 for none."""
    if not 0.5 <= confidence < 1:
        raise InvalidValue("confidence", confidence, "between 0.5 and 0.99")
    if plants <= 0:
        return np.zeros(len(p), dtype=np.int64)

    def sure(n: Ints) -> NDArray[np.bool_]:
        chance = (bdtrc(plants - 1, n[:, None], p) * weight).sum(axis=1)
        return np.asarray(chance >= confidence)

    most = max(int(at_most), plants)
    low = np.full(len(p), plants - 1, dtype=np.int64)
    high = np.full(len(p), most, dtype=np.int64)
    possible = sure(high)
    while np.any(high - low > 1):
        middle = np.maximum((low + high) // 2, plants)
        enough = sure(middle)
        high, low = np.where(enough, middle, high), np.where(enough, low, middle)
    return np.where(possible, high, -1)


def at_hand(mean: float, sd: float) -> Ints:
    """What may be in a packet: whole numbers of equal weight for a normal amount, never below zero; one
    number where it is counted."""
    if sd <= 0:
        return np.array([max(0, round(mean))], dtype=np.int64)
    middles = (np.arange(AMOUNT_NODES) + 0.5) / AMOUNT_NODES
    return np.asarray(np.maximum(np.floor(mean + sd * ndtri(middles)), 0), dtype=np.int64)


def chance_beside(base: Floats, wanting: Ints, n: int, held: Ints, one: Success) -> float:
    """P(enough plants) of ``n`` seeds of a packet in which ``held`` may be, beside plants that others give
    with ``base`` [K], where so many are still wanting [K]."""
    sown, times = np.unique(np.minimum(n, held), return_counts=True)
    each = [float(base @ chances_of_plants(wanting, m, one)) for m in sown.tolist()]
    return float(np.dot(each, times) / len(held))


def plants_of_doubtful(n: int, held: Ints, one: Success) -> Floats:
    """Distribution of the plants that come of ``n`` seeds of a packet in which ``held`` may be, F[n + 1]."""
    out = np.zeros(n + 1)
    sown, times = np.unique(np.minimum(n, held), return_counts=True)
    for m, weight in zip(sown.tolist(), (times / len(held)).tolist(), strict=True):
        out[: m + 1] += weight * plants_pmf([m], [one])
    return out


def plants_pmf(seeds: Sequence[int], lots: Sequence[Success]) -> Floats:
    """Distribution of the plants that several lots give together, F[sum(seeds) + 1].

    Each lot is a mixture of binomials over its belief; lots are convolved.
    """
    total = np.ones(1)
    for n, one in zip(seeds, lots, strict=True):
        k = np.arange(n + 1, dtype=float)[:, None]
        choose = gammaln(n + 1.0) - gammaln(k + 1) - gammaln(n - k + 1)
        log_p = choose + k * np.log(one.p) + (n - k) * np.log1p(-one.p)
        total = np.convolve(total, np.exp(log_p) @ one.weight)
    return total


def reserve(mothers: int, one: Success, confidence: float, have: int, kept_line: bool) -> int:
    """Seeds that a lot of a kept line keeps for its own mothers; all of them where they cannot be
    promised, so that such a lot gives nothing away."""
    if not kept_line:
        return 0
    keep = seeds_for(mothers, one, confidence, max(have, mothers))
    return have if keep is None else keep


def others_can_give(lots: Sequence[tuple[int, int]]) -> bool:
    """Whether one of a line's other lots, each (reserve, seeds), can give its mothers by itself."""
    return any(0 < keep < have for keep, have in lots)


def usable(mean_plants: float, field: float, f: NeedsFigures) -> bool:
    """Whether a lot is good enough to be counted on: plants per seed against its field emergence."""
    return mean_plants >= f.usable_mean_germination * field


def on_the_shelf(before: float, kind: str, units: float) -> float:
    """Units of a product after an entry: a count starts anew, what was put up comes, else it goes."""
    if kind == "counted":
        return units
    return max(0.0, before + (units if kind == "put_up" else -units))


def between(low: float, high: float, unit: str, origin: Origin, note: str) -> Amount:
    """An amount from its likely range: the geometric middle, the plain one where it begins at zero."""
    mid = sqrt(low * high) if low > 0 else (low + high) / 2
    return Amount(low, mid, high, unit, origin, note)
