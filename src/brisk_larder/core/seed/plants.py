"""How many plants seed gives, in worlds: the one reckoning behind needs, orders, mothers and triage.

Within a world a seed's chance is known, so plants are a sum of binomials; it is taken as the binomial
of the same mean and variance (exact where all seed is alike, else within 0.003). The chance is the mean
over the worlds. What comes up of what germinates is drawn once a sowing: packets sown together share it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import betainc, betaincinv, ndtr

from ..base.errors import InvalidValue
from ..storage.moisture import Floats
from .worlds import COUNT, MIDDLES, beside

SEED_CAP = 20_000
_CERTAIN_SDS = 7.0
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Emergence:
    """Share of germinating seed that becomes a plant: a beta of this mean and weight (in seeds).

    Raises InvalidValue, when it is used, unless 0 < mean <= 1.
    """

    mean: float
    weight: float

    def by_rank(self) -> Floats:
        """Its values in rising order [S]."""
        return _by_rank(self.mean, self.weight)


@lru_cache(maxsize=512)
def _by_rank(mean: float, weight: float) -> Floats:
    if not 0 < mean <= 1:
        raise InvalidValue("emergence", mean, "a share above 0 and at most 1")
    if mean == 1:
        return np.ones(COUNT)
    return np.asarray(betaincinv(mean * weight, (1 - mean) * weight, MIDDLES))


@dataclass(frozen=True)
class Seed:
    """What one seed of a lot is worth: its germination in each world [S], and how seed emerges."""

    g: Floats
    emergence: Emergence

    @property
    def mean(self) -> float:
        """Plants per seed, expected."""
        return float(self.g.mean()) * self.emergence.mean


@dataclass(frozen=True)
class Sown:
    """Seeds of one lot in a sowing: how many in each world [S] (or in all)."""

    seeds: Floats | float
    seed: Seed


def _moments(sown: Sequence[Sown]) -> tuple[Floats, Floats]:
    """Mean and variance of the plants in each world, [S] each."""
    hoped = sum((one.seeds * one.seed.g * one.seed.emergence.mean for one in sown), np.zeros(COUNT))
    at = beside(hoped)
    mean, variance = np.zeros(COUNT), np.zeros(COUNT)
    for one in sown:
        p = np.minimum(one.seed.g * one.seed.emergence.by_rank()[at], 1.0)
        mean += one.seeds * p
        variance += one.seeds * p * (1 - p)
    return mean, variance


def _at_least(plants: Floats | float, mean: Floats, variance: Floats) -> Floats:
    """P(at least so many) of the binomial of that mean and variance. Broadcasts."""
    wanted, mean, variance = np.broadcast_arrays(np.asarray(plants, dtype=float), mean, variance)
    away = mean - wanted
    reach = _CERTAIN_SDS * np.sqrt(variance) + 1.0
    out = np.where(away > 0, 1.0, 0.0)
    open_ = (np.abs(away) <= reach) & (wanted > 0)
    m, v, n = mean[open_], variance[open_], wanted[open_]
    p = np.clip(1.0 - v / np.maximum(m, 1e-12), 1e-9, 1.0)
    rest = m / p - n + 1.0  # of the seeds of such a binomial; fewer than wanted give never enough
    out[open_] = np.where(rest > 1e-9, betainc(n, np.maximum(rest, 1e-9), p), 0.0)
    out[wanted <= 0] = 1.0
    return out


def chance(plants: int, sown: Sequence[Sown]) -> float:
    """P(at least ``plants`` plants) of one sowing from several lots together."""
    if plants <= 0:
        return 1.0
    if not sown:
        return 0.0
    return float(_at_least(plants, *_moments(sown)).mean())


def expected(sown: Sequence[Sown]) -> float:
    """Plants expected of one sowing."""
    return float(_moments(sown)[0].mean()) if sown else 0.0


def promised(sown: Sequence[Sown], confidence: float, most: int) -> int:
    """Most plants, up to ``most``, of which a sowing can be promised at a confidence."""
    mean, variance = _moments(sown) if sown else (np.zeros(COUNT), np.zeros(COUNT))

    def sure(plants: int) -> bool:
        return float(_at_least(plants, mean, variance).mean()) >= confidence

    low, high = 0, max(most, 0) + 1
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if sure(middle) else (low, middle)
    return low


def seeds_beside(
    plants: int,
    others: Sequence[Sown],
    seed: Seed,
    held: Floats | float,
    confidence: float,
    at_most: int,
) -> int | None:
    """Fewest seeds of a lot in which ``held`` may be that give the plants at a confidence beside what
    others give; None when not even ``at_most`` do. Raises InvalidValue unless 0.5 <= confidence < 1."""
    if not 0.5 <= confidence < 1:
        raise InvalidValue("confidence", confidence, "between 0.5 and 0.99")
    if plants <= 0:
        return 0

    def sure(n: int) -> bool:
        return chance(plants, [*others, Sown(np.minimum(held, n), seed)]) >= confidence

    if at_most < 1 or not sure(at_most):
        return None
    # what is surely too few: not even if all of it came up
    low, high = (plants - 1 if not others else 0), at_most
    # steps that double from about the right number find it sooner than halves of the whole
    at, step = min(max(_about(plants, others, seed, held, confidence, high), low + 1), high), 1
    while high - low > 1:
        if sure(at):
            low, high, at = low, at, max(at - step, low + 1)
        else:
            low, high, at = at, high, min(at + step, high - 1)
        step *= 2
        if step > high - low:
            at = (low + high) // 2
    return high


def _about(
    plants: int,
    others: Sequence[Sown],
    seed: Seed,
    held: Floats | float,
    confidence: float,
    most: int,
) -> int:
    """About how many seeds do, up to ``most``: plants in each world taken as normal."""
    all_ = [*others, Sown(np.minimum(held, most), seed)]
    hoped = sum((one.seeds * one.seed.g * one.seed.emergence.mean for one in all_), np.zeros(COUNT))
    at = beside(hoped)
    p = np.minimum(seed.g * seed.emergence.by_rank()[at], 1.0)
    mean, variance = np.full(COUNT, 0.5 - plants), np.full(COUNT, 1e-9)
    for one in others:
        q = np.minimum(one.seed.g * one.seed.emergence.by_rank()[at], 1.0)
        mean += one.seeds * q
        variance += one.seeds * q * (1 - q)
    low, high = 0, most
    while high - low > 1:
        n = (low + high) // 2
        there = np.minimum(held, n)
        chance_ = ndtr((mean + there * p) / np.sqrt(variance + there * p * (1 - p))).mean()
        low, high = (low, n) if chance_ >= confidence else (n, high)
    return high


def holes_for(
    plants: int, seed: Seed, each: int, confidence: float, at_most: int = SEED_CAP
) -> int | None:
    """Fewest holes or cells with ``each`` seeds, thinned to one plant, that give the plants at a confidence;
    None when not even ``at_most`` do. With one seed each they are ``seeds_for``'s seeds."""
    p = np.minimum(seed.g * seed.emergence.by_rank()[beside(seed.g)], 1.0)
    q = 1.0 - (1.0 - p) ** each

    def sure(holes: int) -> bool:
        return float(_at_least(plants, holes * q, holes * q * (1 - q)).mean()) >= confidence

    if plants <= 0:
        return 0
    if not sure(at_most):
        return None
    low, high = plants - 1, at_most
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if sure(middle) else (middle, high)
    return high


def seeds_for(plants: int, seed: Seed, confidence: float, at_most: int = SEED_CAP) -> int | None:
    """Smallest number of seeds with P(at least ``plants`` plants) >= confidence.

    None when no number up to ``at_most`` reaches it: the belief is too wide, "test first".
    Raises InvalidValue unless 0.5 <= confidence < 1.
    """
    return seeds_beside(plants, (), seed, np.inf, confidence, max(at_most, plants))
