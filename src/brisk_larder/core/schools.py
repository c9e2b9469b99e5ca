"""What each school of deciding on seed costs in a year, reckoned over the household's own lots.

The schools: a fixed age rule; test everything each year; the forecast (tests where they pay); just
sow extra and count. They differ in what they believe of a packet and in nothing else: all sow,
throw out and buy by one rule. What a test shows changes what is believed before the sowing.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import ceil

import numpy as np
from scipy.special import bdtr, betaincinv

from .belief import log_beta_binomial
from .figures import Figures
from .moisture import Floats
from .needs import Success, seeds_for, success

SCHOOLS = ("age_rule", "test", "forecast", "count")
TEST_NODES = 20


@dataclass(frozen=True)
class Lots:
    """Lots with a sowing in sight, for reckoning schools: nodes of germination g, weight [L, K];
    age and the table's range in years, emergence, seeds in hand (inf: unknown) all [L]; germination
    that new seed of the kind has; with how many seeds the forecast would test it, 0 for none [L]."""

    g: Floats
    weight: Floats
    age_years: Floats
    rule_high: Floats
    emergence: Floats
    seeds: Floats
    typical: Floats
    tested: Floats


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
class _Outcome:
    """One thing that may come of a school's looking: how likely, what it believes then (nodes of
    germination), what is then true, seeds spent, and whether its rule throws the packet out."""

    chance: float
    believed: Floats
    belief_weight: Floats
    weight: Floats
    spent: int = 0
    throw: bool | None = None


@dataclass
class _Sower:
    """The one rule by which every school sows, throws out and buys."""

    level: float
    confidence: float
    figures: Figures
    _known: dict[tuple[float, ...], int | None] = field(default_factory=dict)

    def one(self, g: Floats, weight: Floats, emergence: float) -> Success:
        return success(g, weight, emergence, self.figures.needs.emergence_beta_weight)

    def seeds(self, g: Floats, weight: Floats, emergence: float) -> int | None:
        """Seeds for the stand, as Needs would ask; None: no number is enough."""
        asked = (emergence, *g, *weight)
        if asked not in self._known:
            stand, one = self.figures.triage.stand_plants, self.one(g, weight, emergence)
            self._known[asked] = seeds_for(stand, one, self.confidence)
        return self._known[asked]

    def fails(self, n: int, one: Success) -> float:
        """P(fewer plants than enough) from n seeds."""
        least = ceil(self.figures.triage.enough_share * self.figures.triage.stand_plants)
        return float(bdtr(least - 1, n, one.p) @ one.weight) if n >= least else 1.0

    def poor(self, g: Floats, weight: Floats) -> bool:
        """Whether the middle of what is believed is below the share of the level that is worth a row."""
        return _median(g, weight) < self.figures.triage.poor_share_of_level * self.level


def school_costs(lots: Lots, level: float, confidence: float, figures: Figures) -> list[Cost]:
    """Expected cost of each school over one year's sowings of these lots.

    Every school wants the same stand of each lot, at the same ``confidence``, and acts by the same
    rule on what it believes: the least number of seeds that gives the stand so surely; a packet
    whose believed middle lies below a share of ``level`` is thrown out; where it is thrown, or
    nothing in hand gives the stand, a packet is bought and sown. Beliefs: the age rule takes the
    kind's germination of new seed up to the table's upper age and throws out beyond; the tester
    believes its count and nothing else; the forecast its nodes, changed by a test where it would
    test; who counts takes new seed's germination, divided by what is sown extra. What comes of it is
    reckoned over the lot's own nodes. Raises InvalidValue for a confidence out of range.
    """
    sower = _Sower(level, confidence, figures)
    out = []
    for school in SCHOOLS:
        bill = Cost(school)
        for i in range(len(lots.g)):
            for outcome in _looks(school, lots, i, figures):
                _season(bill, outcome, lots, i, sower)
        out.append(bill)
    return out


def _season(bill: Cost, o: _Outcome, lots: Lots, i: int, sower: _Sower) -> None:
    """One lot's sowing after one thing was found out, added to the bill."""
    emergence, f = float(lots.emergence[i]), sower.figures.triage
    left = lots.seeds[i] - o.spent
    throw = sower.poor(o.believed, o.belief_weight) if o.throw is None else o.throw
    n = None if throw else sower.seeds(o.believed, o.belief_weight, emergence)
    bill.seeds += o.chance * o.spent
    if n is not None and n <= left:
        bill.failed += o.chance * sower.fails(n, sower.one(lots.g[i], o.weight, emergence))
        bill.seeds += o.chance * n
        return
    new, sure = np.array([f.new_packet_germination]), np.ones(1)
    bought = sower.seeds(new, sure, emergence)
    if bought is not None:
        bill.failed += o.chance * sower.fails(bought, sower.one(new, sure, emergence))
        bill.seeds += o.chance * bought
        bill.bought += o.chance
    else:  # so little of this kind comes up outdoors that no packet is enough
        bill.failed += o.chance
    if throw and np.isfinite(left):
        bill.thrown += o.chance * left * float(lots.g[i] @ o.weight)


def _looks(school: str, lots: Lots, i: int, figures: Figures) -> Iterator[_Outcome]:
    f, w, one = figures.triage, lots.weight[i] / lots.weight[i].sum(), np.ones(1)
    if school == "age_rule":
        throw = bool(lots.age_years[i] > lots.rule_high[i])
        yield _Outcome(1.0, lots.typical[i : i + 1], one, w, throw=throw)
    elif school == "count":
        yield _Outcome(1.0, lots.typical[i : i + 1] / f.extra_times, one, w, throw=False)
    elif school == "test":
        size = int(min(f.yearly_test_seeds, lots.seeds[i] / 2))
        middles = (np.arange(TEST_NODES) + 0.5) / TEST_NODES
        same = np.full(TEST_NODES, 1 / TEST_NODES)
        for k, chance, after in _counts(lots, i, size, figures):
            believed = betaincinv(k + 1.0, size - k + 1.0, middles)
            yield _Outcome(chance, believed, same, after, size)
    else:
        size = int(min(lots.tested[i], lots.seeds[i] / 4))
        for _, chance, after in _counts(lots, i, size, figures):
            yield _Outcome(chance, lots.g[i], after, after, size)


def _counts(lots: Lots, i: int, size: int, f: Figures) -> Iterator[tuple[int, float, Floats]]:
    """What a test of so many seeds may count: number, chance, weights of the nodes thereafter."""
    w = lots.weight[i] / lots.weight[i].sum()
    if size == 0:
        yield 0, 1.0, w
        return
    k = np.arange(size + 1.0)[:, None]
    g = np.clip(lots.g[i], 1e-6, 1 - 1e-6)[None, :]
    joint = np.exp(log_beta_binomial(k, float(size), g, f.belief.test_rho_good)) * w
    for up, row in enumerate(joint):
        if row.sum() > 1e-9:
            yield up, float(row.sum()), row / row.sum()


def _median(g: Floats, weight: Floats) -> float:
    order = np.argsort(g)
    total = np.cumsum(weight[order])
    return float(g[order][np.searchsorted(total, 0.5 * total[-1] - 1e-12)])
