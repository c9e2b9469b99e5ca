"""Eight years of sowing under each school, where what is true is known and seed of one kind goes together.

    python benchmarks/policy.py [--quick] [households 12] [case crop]

Each household (``kin.CASES``: sds of log10 sigma of kinds, places and lots) sows every packet each year for a
stand of twenty plants, promised nine times in ten, and replaces a packet when no number of its seeds
promises that, or its school says so. Told for each school: share of sowings that fell short, seeds put
into tests and packets replaced needlessly (their seed could have given the stand) a packet in all years.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass, field, replace
from time import perf_counter

import numpy as np
from kin import BOOK_SD, CASES, DUDS, KI, KI_SD, RECORD_SD, RHO, Case
from scipy.special import expit, logit, ndtr

from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import pooling as po
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.plants import Emergence, Seed, seeds_for
from brisk_larder.core.trials import worth_of_test as wt
from brisk_larder.reference import load_reference

FIGURES = load_reference().figures
YEARS, STAND, PACKET, CONFIDENCE = 8, 20, 600, 0.9
SCHOOLS = ("forecast", "alone", "no tests", "three years", "test all")
HABIT = 10  # seeds of the yearly test


@dataclass
class Truth:
    """What is true of all packets there ever were: kind, place, Ki, d with the place's, living, rate by the
    book (probits a year), the year it came."""

    crop: list[int] = field(default_factory=list)
    node: list[int] = field(default_factory=list)
    ki: list[float] = field(default_factory=list)
    d: list[float] = field(default_factory=list)
    living: list[float] = field(default_factory=list)
    came: list[float] = field(default_factory=list)


class House:
    """One household: shared effects drawn once, packets drawn as they come."""

    def __init__(
        self, rng: np.random.Generator, case: Case, slots: int, crops: int, nodes: int
    ) -> None:
        self.rng, self.case = rng, case
        self.of_crop = rng.normal(0, case.crop, crops)
        self.of_node = rng.normal(0, case.node, nodes) + rng.normal(0, RECORD_SD, nodes)
        self.rate = 10 ** rng.normal(-0.75, 0.25, crops)
        self.living_book = rng.uniform(0.8, 0.97, crops)
        self.emergence = rng.uniform(0.55, 0.85, crops)
        self.nodes = nodes
        self.truth = Truth()
        self.active = [self.packet(i % crops, -float(rng.uniform(0, 4))) for i in range(slots)]
        self.seeds = {i: float(PACKET) for i in self.active}
        self.tests: list[tuple[int, float, int, int]] = []  # packet, year, n, k

    def packet(self, crop: int, came: float) -> int:
        """A packet of a kind comes into the house."""
        t, rng = self.truth, self.rng
        node = int(rng.integers(0, self.nodes))
        d = (
            self.of_crop[crop]
            + self.of_node[node]
            + rng.normal(0, self.case.own)
            - np.log10(self.case.rosy)
        )
        t.crop.append(crop)
        t.node.append(node)
        t.ki.append(float(rng.normal(KI, KI_SD)))
        t.d.append(float(d))
        t.living.append(float(expit(logit(self.living_book[crop]) + rng.normal(0, 0.5))))
        t.came.append(came)
        return len(t.ki) - 1

    def a(self, i: int, year: float) -> float:
        """Ageing by the book."""
        return float(self.rate[self.truth.crop[i]] * max(0.0, year - self.truth.came[i]))

    def g(self, i: int, year: float) -> float:
        """True germination."""
        t = self.truth
        return float(t.living[i] * ndtr(t.ki[i] - self.a(i, year) * 10 ** -t.d[i]))

    def test(self, i: int, year: float, n: int) -> int:
        """A test of n seeds is made: how many come up."""
        p, size = np.clip(self.g(i, year), 1e-6, 1 - 1e-6), (1 - RHO) / RHO
        k = int(self.rng.binomial(n, self.rng.beta(p * size, (1 - p) * size)))
        self.seeds[i] -= n
        self.tests.append((i, year, n, k))
        return k

    def belief(self, relatives: bool) -> wo.Belief:
        """What is believed of all packets by all tests so far."""
        t, count = self.truth, len(self.truth.ki)
        full = lambda x: np.full(count, float(x))  # noqa: E731
        living = self.living_book[np.array(t.crop)]
        prior = be.Prior(
            full(KI),
            full(KI_SD),
            full(0),
            full(np.hypot(BOOK_SD, RECORD_SD)),
            living,
            full(0.5),
            full(DUDS),
        )
        counts = be.Counts.none()
        if self.tests:
            i, year, n, k = (np.array(x) for x in zip(*self.tests, strict=True))
            a = np.array([self.a(int(p), float(y)) for p, y in zip(i, year, strict=True)])
            ones = np.ones(len(i))
            counts = be.Counts(
                i.astype(np.intp), a, n.astype(float), k.astype(float), np.ones((len(i), 3)), RHO * ones,
                ones, 0 * ones,
            )  # fmt: skip
        if not relatives:
            return be.fit(prior, counts)
        share = np.zeros((count, self.nodes))
        share[np.arange(count), t.node] = 1
        kin = po.Kin(
            np.array(t.crop), np.full(count, -1), share, full(BOOK_SD), full(RECORD_SD),
            [f"c{x}" for x in range(len(self.rate))], [f"n{x}" for x in range(self.nodes)], [],
        )  # fmt: skip
        found = po.relatives(kin, be.sites(prior, counts), np.arange(count))
        return be.fit(replace(prior, d_mean=found.d_mean, d_sd=found.d_sd), counts)


@dataclass
class Bill:
    """What a school cost."""

    sown: int = 0
    short: int = 0
    tested: int = 0
    replaced: int = 0
    needless: int = 0


def needed(g: np.ndarray, e: Emergence, held: float) -> int | None:
    """Seeds for the stand by what is believed [S]; None: not so many promise it."""
    return seeds_for(STAND, Seed(g, e), CONFIDENCE, int(held))


def stakes(h: House, g: np.ndarray, later: np.ndarray) -> wt.Stakes:
    """What hangs on the packets in the house: g, later [L, S]."""
    order = np.argsort(g, axis=1)
    slices = lambda x: np.take_along_axis(x, order, axis=1).reshape(len(x), 32, -1).mean(axis=2)  # noqa: E731
    count = len(h.active)
    full = lambda x: np.full(count, float(x))  # noqa: E731
    return wt.Stakes(
        slices(g), slices(later), np.array([h.emergence[h.truth.crop[i]] for i in h.active]), full(20),
        np.array([h.seeds[i] for i in h.active]), full(150), full(FIGURES.worth.anew_bought), full(STAND),
        full(0), (CONFIDENCE, 0.95),
    )  # fmt: skip


def year_of(h: House, school: str, year: float, bill: Bill) -> None:
    """One spring: tests, then sowings, then what is replaced."""
    counted: dict[int, tuple[int, int]] = {}
    at = np.array(h.active)
    ages = lambda when: np.array([h.a(i, when) for i in h.active])  # noqa: E731
    relatives = school == "forecast"
    if school in ("forecast", "alone"):
        now = h.belief(relatives).rows(at)
        g, later = (wo.germination(now, ages(y)) for y in (year, year + 1))
        most = np.array([h.seeds[i] for i in h.active]) * FIGURES.trials.most_share_of_lot
        worth = wt.tests_worth(stakes(h, g, later), most, [True] * len(at), RHO, FIGURES.worth)
        for i, w in zip(h.active, worth, strict=True):
            if w is None or w.pays < FIGURES.trials.least_gain:
                continue
            k = h.test(i, year, w.seeds)
            bill.tested += w.seeds
            if w.more and w.more_from <= k <= w.more_to:
                h.test(i, year, w.more)
                bill.tested += w.more
    elif school == "test all":
        for i in h.active:
            counted[i] = (h.test(i, year, HABIT), HABIT)
            bill.tested += HABIT
    g = wo.germination(h.belief(relatives).rows(at), ages(year))
    for j, i in enumerate(list(h.active)):
        e = Emergence(float(h.emergence[h.truth.crop[i]]), 20.0)
        typical = float(h.living_book[h.truth.crop[i]] * ndtr(KI))
        if school == "three years":
            old = year - h.truth.came[i] > 3
            n = None if old else needed(np.full(wo.COUNT, typical), e, h.seeds[i])
        elif school == "test all":
            k, m = counted[i]
            beta = np.sort(np.random.default_rng(k).beta(k + 1, m - k + 1, wo.COUNT))
            n = needed(beta, e, h.seeds[i])
        else:
            n = needed(g[j], e, h.seeds[i])
        who = i
        if n is None:
            could = needed(np.full(wo.COUNT, h.g(i, year)), e, h.seeds[i])
            bill.replaced += 1
            bill.needless += could is not None
            who = h.packet(h.truth.crop[i], year)
            h.active[j], h.seeds[who] = who, float(PACKET)
            new = np.full(wo.COUNT, typical)
            if school in ("forecast", "alone", "no tests"):
                z = np.sort(np.random.default_rng(5).normal(KI, KI_SD, wo.COUNT))
                odds = logit(h.living_book[h.truth.crop[i]]) + np.random.default_rng(6).normal(
                    0, 0.5, wo.COUNT
                )
                new = expit(odds) * ndtr(z)
            n = needed(new, e, PACKET) or PACKET
        true_e = h.rng.beta(e.mean * 20, (1 - e.mean) * 20)
        plants = h.rng.binomial(n, min(1.0, h.g(who, year) * true_e))
        h.seeds[who] -= n
        if h.seeds[who] < PACKET / 3:
            h.seeds[who] = float(
                PACKET
            )  # more of the same is saved or given: this asks of age, not of amounts
        bill.sown += 1
        bill.short += plants < STAND


def main() -> None:
    """Run all schools and print what they cost."""
    quick = "--quick" in sys.argv
    say = dict(zip(sys.argv[1:], sys.argv[2:], strict=False))
    households, case = int(say.get("households", 2 if quick else 12)), say.get("case", "crop")
    slots, crops, nodes = (16, 4, 3) if quick else (60, 12, 5)
    out: dict[str, dict[str, float]] = {}
    begin = perf_counter()
    for school in SCHOOLS:
        bill = Bill()
        for seed in range(households):
            h = House(np.random.default_rng(seed), CASES[case], slots, crops, nodes)
            for year in range(YEARS):
                year_of(h, school, float(year), bill)
        packets = households * slots
        out[school] = {
            "short": round(bill.short / bill.sown, 3),
            "test_seeds_a_packet": round(bill.tested / packets, 1),
            "replaced": round(bill.replaced / packets, 2),
            "needless": round(bill.needless / packets, 2),
        }
    every, rule = out["test all"]["test_seeds_a_packet"], out["three years"]["needless"]
    out["ratio"] = {
        "test_seeds": round(out["forecast"]["test_seeds_a_packet"] / every, 3),
        "needless": round(out["forecast"]["needless"] / max(rule, 1e-9), 3),
        "seconds": round(perf_counter() - begin, 1),
    }
    for school, cost in out.items():
        print(f"{school:<12}", "  ".join(f"{k} {v}" for k, v in cost.items()))
    print(json.dumps(out))


if __name__ == "__main__":
    main()
