"""What each school of deciding on seed costs in a year, reckoned over the household's own lots.

The schools: a fixed age rule; test everything each year; test when a routine interval is over; the
forecast (tests where they pay); just sow extra and count. They differ in what they believe of a packet
and in nothing else: all sow, throw out and buy by one rule. What a test shows changes what is believed
before the sowing.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache
from math import ceil

import numpy as np
from numpy.typing import NDArray
from scipy.special import bdtr, bdtrc, betaincinv

from ..base.errors import InvalidValue
from ..base.figures import Figures
from ..seed.counting import log_beta_binomial
from ..seed.plants import SEED_CAP, Ints
from ..storage.moisture import Floats

SCHOOLS = ("age_rule", "test", "routine", "forecast", "count")
TEST_NODES = 20
PACK_NODES = 24
EMERGENCE_NODES = 20  # fewer would cut off the tail in which nearly nothing comes up


@dataclass(frozen=True)
class Lots:
    """Lots with a sowing in sight, for reckoning schools: germination as equally likely values g [L, K];
    age and the table's range in years, emergence, seeds in hand (inf: unknown) all [L]; germination
    that new seed of the kind has; with how many seeds the forecast would test it, and the routine, 0 for
    none [L]."""

    g: Floats
    age_years: Floats
    rule_high: Floats
    emergence: Floats
    seeds: Floats
    typical: Floats
    tested: Floats
    by_routine: Floats


@dataclass
class Cost:
    """What a school costs in a year: expected sowings that fail, seeds put into tests and soil,
    living seed thrown away, packets bought."""

    school: str
    failed: float = 0.0
    seeds: float = 0.0
    thrown: float = 0.0
    bought: float = 0.0


@dataclass(frozen=True)
class _Found:
    """What a school may come to believe of one lot: how likely each outcome is [B], seeds spent on finding
    out, seeds it then sows for the stand (-1: no number is enough) and whether it throws the packet out
    [B], and what is then true of the lot."""

    chance: Floats
    spent: int
    sow: Ints
    throw: NDArray[np.bool_]
    true: _Truth


@dataclass(frozen=True)
class _Truth:
    """What may be true of a lot: weights of its nodes of germination [B, K], and the chance that a seed
    becomes a plant, p and weight [B, 24]."""

    nodes: Floats
    p: Floats
    weight: Floats


class _Sower:
    """The one rule by which every school sows, throws out and buys."""

    def __init__(self, level: float, confidence: float, figures: Figures) -> None:
        self.level, self.confidence, self.figures = level, confidence, figures
        self.of_share, self.of_counts = cache(self._of_share), cache(self._of_counts)

    def truth(self, g: Floats, weight: Floats, emergence: float) -> _Truth:
        """What seed may be worth, for weightings [B, K] of nodes [K]."""
        spread = self.figures.needs.emergence_beta_weight
        return _Truth(weight, *packed_success(g, weight, emergence, spread))

    def seeds(self, p: Floats, weight: Floats) -> Ints:
        """Seeds for the stand [B] by what is believed of a seed, as Needs would ask; -1: none is enough."""
        return seeds_for_each(self.figures.triage.stand_plants, p, weight, self.confidence)

    def poor(self, g: Floats, weight: Floats) -> NDArray[np.bool_]:
        """Whether the middle of what is believed is below the share of the level worth a row [B]."""
        return _medians(g, weight) < self.figures.triage.poor_share_of_level * self.level

    def _of_share(self, share: float, emergence: float) -> tuple[int, float]:
        """Who believes in one share: seeds for the stand, and how likely these fail if it is so."""
        so = self.truth(np.array([share]), np.ones((1, 1)), emergence)
        sow = self.seeds(so.p, so.weight)
        return int(sow[0]), float(self.fails(sow, so)[0])

    def _of_counts(self, size: int, emergence: float) -> tuple[Ints, NDArray[np.bool_]]:
        """Who believes a count of so many seeds and nothing else, from none up: seeds for the stand, and
        whether the packet is thrown out; both [size + 1]."""
        middles = (np.arange(TEST_NODES) + 0.5) / TEST_NODES
        same = np.full((1, TEST_NODES), 1 / TEST_NODES)
        g = [betaincinv(up + 1.0, size - up + 1.0, middles) for up in range(size + 1)]
        so = [self.truth(x, same, emergence) for x in g]
        p, w = (np.concatenate([getattr(t, name) for t in so]) for name in ("p", "weight"))
        return self.seeds(p, w), np.concatenate([self.poor(x, same) for x in g])

    def fails(self, n: Ints, true: _Truth) -> Floats:
        """P(fewer plants than enough) from n seeds [B]."""
        least = ceil(self.figures.triage.enough_share * self.figures.triage.stand_plants)
        chance = (bdtr(least - 1, np.maximum(n, least)[:, None], true.p) * true.weight).sum(axis=1)
        return np.where(n >= least, chance, 1.0)


def school_costs(lots: Lots, level: float, confidence: float, figures: Figures) -> list[Cost]:
    """Expected cost of each school over one year's sowings of these lots.

    Every school wants the same stand of each lot, at the same ``confidence``, and acts by the same
    rule on what it believes: the least number of seeds that gives the stand so surely; a packet
    whose believed middle lies below a share of ``level`` is thrown out; where it is thrown, or
    nothing in hand gives the stand, a packet is bought and sown. Beliefs: the age rule takes the
    kind's germination of new seed up to the table's upper age, beyond it holds seed for dead; the
    tester believes its count and nothing else; the forecast its nodes, changed by a test where it
    would test; the routine the same, tested by the calendar; who counts takes new seed's
    germination, divided by what is sown extra, and throws nothing out. What comes of it is reckoned
    over the lot's own nodes. Raises InvalidValue for a confidence out of range.
    """
    sower, bills = _Sower(level, confidence, figures), {s: Cost(s) for s in SCHOOLS}
    priors = [
        sower.truth(g, np.full((1, len(g)), 1 / len(g)), float(e))
        for g, e in zip(lots.g, lots.emergence, strict=True)
    ]
    forecasts = _by_forecast(lots, lots.tested, priors, sower)
    routines = _by_forecast(lots, lots.by_routine, priors, sower)
    for i, prior in enumerate(priors):
        _season(bills["age_rule"], _by_age(lots, i, prior, sower), lots, i, sower)
        _season(bills["test"], _by_test(lots, i, prior, sower), lots, i, sower)
        _season(bills["routine"], routines[i], lots, i, sower)
        _season(bills["forecast"], forecasts[i], lots, i, sower)
        _season(bills["count"], _by_counting(lots, i, prior, sower), lots, i, sower)
    return list(bills.values())


def _season(bill: Cost, found: _Found, lots: Lots, i: int, sower: _Sower) -> None:
    """One lot's sowing after all that may be found out, added to the bill."""
    left = lots.seeds[i] - found.spent
    own = ~found.throw & (found.sow >= 0) & (found.sow <= left)
    new = sower.figures.worth.new_germination
    # of some kinds so little comes up outdoors that no packet is enough
    anew, anew_fails = sower.of_share(new, float(lots.emergence[i]))
    fails = np.where(own, sower.fails(found.sow, found.true), anew_fails)
    bill.failed += float(found.chance @ fails)
    bill.seeds += float(found.chance @ np.where(own, found.sow, max(anew, 0))) + found.spent
    bill.bought += float(found.chance @ ~own) if anew >= 0 else 0.0
    if np.isfinite(left):
        living = found.true.nodes @ lots.g[i]
        bill.thrown += left * float(found.chance @ (found.throw * living))


def _by_age(lots: Lots, i: int, prior: _Truth, sower: _Sower) -> _Found:
    old = np.array([lots.age_years[i] > lots.rule_high[i]])
    sow, _ = sower.of_share(float(lots.typical[i]), float(lots.emergence[i]))
    return _Found(np.ones(1), 0, np.array([sow]), old, prior)


def _by_counting(lots: Lots, i: int, prior: _Truth, sower: _Sower) -> _Found:
    believed = float(lots.typical[i]) / sower.figures.triage.extra_times
    sow, _ = sower.of_share(believed, float(lots.emergence[i]))
    return _Found(np.ones(1), 0, np.array([sow]), np.zeros(1, dtype=bool), prior)


def _by_test(lots: Lots, i: int, prior: _Truth, sower: _Sower) -> _Found:
    size = int(min(sower.figures.triage.yearly_test_seeds, lots.seeds[i] / 2))
    chance, true = _tested(lots, i, prior, size, sower)
    sow, throw = sower.of_counts(size, float(lots.emergence[i]))
    return _Found(chance, size, sow, throw, true)


def _by_forecast(lots: Lots, tested: Floats, priors: list[_Truth], sower: _Sower) -> list[_Found]:
    """All lots together: each belief asks for a search of its own, side by side they cost little."""
    sizes = [int(min(t, s / 4)) for t, s in zip(tested, lots.seeds, strict=True)]
    seen = [_tested(lots, i, prior, sizes[i], sower) for i, prior in enumerate(priors)]
    if not seen:
        return []
    p, w = (np.concatenate([getattr(true, x) for _, true in seen]) for x in ("p", "weight"))
    sow = np.split(sower.seeds(p, w), np.cumsum([len(chance) for chance, _ in seen])[:-1])
    return [
        _Found(chance, size, n, sower.poor(g, true.nodes), true)
        for (chance, true), size, n, g in zip(seen, sizes, sow, lots.g, strict=True)
    ]


def _tested(lots: Lots, i: int, prior: _Truth, size: int, sower: _Sower) -> tuple[Floats, _Truth]:
    """What a test of so many seeds may show: chances [B], and what is true of the lot then."""
    if size == 0:
        return np.ones(1), prior
    chance, nodes = _counts(lots.g[i], prior.nodes, size, sower.figures)
    return chance, sower.truth(lots.g[i], nodes, float(lots.emergence[i]))


def _counts(g: Floats, prior: Floats, size: int, f: Figures) -> tuple[Floats, Floats]:
    """What a test of so many seeds may count, from none up: chances [B], weights of the nodes then [B, K]."""
    k = np.arange(size + 1.0)[:, None]
    at = np.clip(g, 1e-6, 1 - 1e-6)[None, :]
    joint = np.exp(log_beta_binomial(k, float(size), at, f.belief.test_rho_good)) * prior
    chance = joint.sum(axis=1)
    return chance, joint / np.maximum(chance, 1e-300)[:, None]


def _medians(g: Floats, weight: Floats) -> Floats:
    order = np.argsort(g)
    total = np.cumsum(weight[:, order], axis=1)
    return np.asarray(g[order][np.argmax(total >= 0.5 * total[:, -1:] - 1e-12, axis=1)])


def packed_success(
    g: Floats, weight: Floats, emergence_mean: float, beta_weight: float
) -> tuple[Floats, Floats]:
    """The chance that a seed becomes a plant, for weightings [B, K] of nodes of germination [K]: p and weight
    [B, 24], equal shares of nodes times an emergence (a beta); weight 0 where a share is empty."""
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
