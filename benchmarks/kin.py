"""Made-up households whose truth is known: does learning from relatives sharpen, and does it stay honest?

    python benchmarks/kin.py [--quick] [households 20] [sampler 30000]

A household has cohorts of some crops from mothers, in containers; each has a true Ki, d and living; some
are tested. The 80 % interval of germination two years on is asked of every cohort, tested or not,
once with relatives and once with each cohort alone (the baseline). ``sampler``: so many steps of an
independent sampler are run twice and compared instead. Ends with a fit of 2,000 cohorts and 6,000 tests.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass, replace
from time import perf_counter

import numpy as np
from scipy.special import betaln, expit, logit, ndtr
from scipy.stats import betabinom

from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import pooling as po
from brisk_larder.core.seed import worlds as wo
from brisk_larder.reference import load_reference


@dataclass(frozen=True)
class Case:
    """What is true of a household: sds of log10 sigma, how much too rosy the book is (factor), how many
    packets were duds from the first day, and how much warmer it was than the readings say."""

    crop: float
    node: float
    own: float
    rosy: float = 1.0
    duds: float = 0.0
    warmer_c: float = 0.0


BELIEF = load_reference().figures.belief
LOUDEST, DUDS = BELIEF.loudest_per_log10, BELIEF.dud_share

CASES = {
    "crop": Case(0.22, 0.12, 0.10),
    "place": Case(0.0, 0.30, 0.27, 1.6),
    "alone": Case(0.0, 0.0, 0.27),
    "rosy": Case(0.15, 0.10, 0.20, 1.6),
    "duds": Case(0.15, 0.10, 0.20, duds=0.1),
    "warmer": Case(0.15, 0.10, 0.20, warmer_c=2.0),
}
PER_C = 0.0329 + 0.000478 * 2 * 15  # log10 of life a degree takes at 15 degC (Ellis & Roberts 1980)
KI, KI_SD, BOOK_SD, RECORD_SD, RHO = 1.9, 0.35, 0.30, 0.08, 0.02


@dataclass
class Household:
    """One made-up household: what may be known of it, and the truth."""

    prior: be.Prior
    kin: po.Kin
    counts: be.Counts
    a_later: np.ndarray
    truth_later: np.ndarray
    years: np.ndarray
    dud: np.ndarray


def household(
    rng: np.random.Generator, case: Case, cohorts: int = 120, crops: int = 15, nodes: int = 6,
    tested_share: float = 0.6, tests_each: int = 2,
) -> Household:  # fmt: skip
    """Draw one."""
    crop, node = rng.integers(0, crops, cohorts), rng.integers(0, nodes, cohorts)
    mother = np.where(rng.random(cohorts) < 0.3, rng.integers(0, cohorts // 4, cohorts), -1)
    d = rng.normal(0, case.crop, crops)[crop] + rng.normal(0, case.node, nodes)[node]
    d = d + rng.normal(0, case.own, cohorts) - np.log10(case.rosy) - PER_C * case.warmer_c
    d_record = rng.normal(0, RECORD_SD, nodes)[node]
    living_book = rng.uniform(0.8, 0.97, crops)[crop]
    living = expit(logit(living_book) + rng.normal(0, 0.5, cohorts))
    dud = rng.random(cohorts) < case.duds if case.duds else np.zeros(cohorts, dtype=bool)
    living = np.where(dud, living * rng.beta(3, 4, cohorts), living) if case.duds else living
    ki = rng.normal(KI, KI_SD, cohorts)
    years = rng.uniform(1, 6, cohorts)
    rate = 10 ** rng.normal(-0.75, 0.25, crops)[crop]  # probits a year by the book
    a_now = rate * years

    def g(a: np.ndarray, which: np.ndarray) -> np.ndarray:
        return living[which] * ndtr(ki[which] - a * 10 ** -(d + d_record)[which])

    row = np.repeat(np.flatnonzero(rng.random(cohorts) < tested_share), tests_each)
    n = rng.choice([8, 10, 15, 20], len(row)).astype(float)
    a_test = a_now[row] * rng.uniform(0.6, 1.0, len(row))
    p = np.clip(g(a_test, row), 1e-6, 1 - 1e-6)
    size = (1 - RHO) / RHO
    k = betabinom.rvs(n.astype(int), p * size, (1 - p) * size, random_state=rng)
    full = lambda x: np.full(cohorts, x)  # noqa: E731
    # a line of one shares nothing
    lines = [m for m in range(cohorts // 4) if (mother == m).sum() > 1]
    mother = np.array([lines.index(m) if m in lines else -1 for m in mother])
    share = np.zeros((cohorts, nodes))
    share[np.arange(cohorts), node] = 1
    return Household(
        be.Prior(full(KI), full(KI_SD), full(0.0), full(float(np.hypot(BOOK_SD, RECORD_SD))),
                 living_book, full(0.5), full(DUDS)),
        po.Kin(crop, mother, share, full(BOOK_SD), full(RECORD_SD),
               [f"crop {i}" for i in range(crops)], [f"node {i}" for i in range(nodes)],
               [f"mother {i}" for i in lines]),
        be.Counts(row.astype(np.intp), a_test, n, k.astype(float), np.ones((len(row), 3)),
                  np.full(len(row), RHO), np.ones(len(row)), np.zeros(len(row))),
        rate * (years + 2),
        g(rate * (years + 2), np.arange(cohorts)), years, dud,
    )  # fmt: skip


def with_relatives(h: Household) -> tuple[be.Prior, po.Pooled]:
    """The prior of each cohort, its own tests left out."""
    sites = be.sites(h.prior, h.counts)
    sites = replace(sites, like=po.held_back(sites.like, sites.d, LOUDEST))
    found = po.relatives(h.kin, sites, np.arange(len(h.prior.ki_mean)))
    p = h.prior
    return replace(p, d_mean=found.d_mean, d_sd=found.d_sd), found


def judged(belief: wo.Belief, h: Household) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Whether each interval holds, the error of the median, and the width."""
    q = wo.quantiles(belief, h.a_later[:, None], (0.1, 0.5, 0.9))[:, 0]
    holds = (h.truth_later >= q[:, 0]) & (h.truth_later <= q[:, 2])
    return holds, q[:, 1] - h.truth_later, q[:, 2] - q[:, 0]


def groups(h: Household) -> dict[str, np.ndarray]:
    """Which cohorts are young or old, tested or not, and tested duds."""
    tested = np.bincount(h.counts.row, minlength=len(h.years)) > 0
    young, old = h.years < 2.5, h.years > 4
    return {
        "young_untested": young & ~tested, "old_untested": old & ~tested,
        "young_tested": young & tested, "old_tested": old & tested, "dud_tested": h.dud & tested,
    }  # fmt: skip


def run(case: str, households: int, seed: int, tests_each: int = 2) -> dict[str, float]:
    """Over some households: coverage with its spread and by groups, error with relatives against alone,
    seconds."""
    rng = np.random.default_rng(seed)
    held, width, with_sq, alone_sq, alone_held, seconds = [], [], [], [], [], 0.0
    by_group: dict[str, list[np.ndarray]] = {}
    for _ in range(households):
        h = household(rng, CASES[case], tests_each=tests_each)
        begin = perf_counter()
        prior, _found = with_relatives(h)
        seconds += perf_counter() - begin
        holds, error, wide = judged(be.fit(prior, h.counts), h)
        held.append(holds.mean())
        width.append(wide.mean())
        with_sq.append((error**2).mean())
        for name, which in groups(h).items():
            by_group.setdefault(name, []).append(holds[which])
        holds, error, _ = judged(be.fit(h.prior, h.counts), h)
        alone_held.append(holds.mean())
        alone_sq.append((error**2).mean())
    together = {name: np.concatenate(held) for name, held in by_group.items()}
    return {
        "held": float(np.mean(held)),
        "spread": float(np.std(held)),
        "alone_held": float(np.mean(alone_held)),
        "width": float(np.mean(width)),
        "rmse": float(np.sqrt(np.mean(with_sq))),
        "ratio": float(np.sqrt(np.mean(with_sq) / np.mean(alone_sq))),
        "seconds": seconds / households,
        **{name: float(held.mean()) for name, held in together.items() if len(held)},
    }


def sampled(h: Household, split: po.Split, seed: int, steps: int) -> tuple[np.ndarray, np.ndarray]:
    """Mean and sd of d of each cohort by elliptical slice sampling (Murray, Adams, MacKay 2010), cohorts
    side by side and shared effects by turns: nothing of it is ours but the model."""
    rng = np.random.default_rng(seed)
    x, own = h.kin.loadings(split)
    n, row, c = len(x), h.counts.row, h.counts
    u, each = rng.normal(size=x.shape[1]), rng.normal(size=(3, n))
    size = (1 - c.rho) / c.rho

    def by_cohort(u: np.ndarray, each: np.ndarray) -> np.ndarray:
        d = x @ u + np.sqrt(own) * each[0]
        ki = h.prior.ki_mean + h.prior.ki_sd * each[1]
        living = expit(logit(h.prior.living) + h.prior.living_sd * each[2])
        p = np.clip(living[row] * ndtr(ki[row] - c.a * 10 ** -d[row]), 1e-6, 1 - 1e-6)
        told = betaln(c.k + p * size, c.n - c.k + (1 - p) * size) - betaln(p * size, (1 - p) * size)
        return np.bincount(row, told, minlength=n)

    total, square = np.zeros(n), np.zeros(n)
    for step in range(steps):
        for _ in range(2):
            new, level = rng.normal(size=(3, n)), by_cohort(u, each) + np.log(rng.random(n))
            high = rng.uniform(0, 2 * np.pi, n)
            low, angle = high - 2 * np.pi, high.copy()
            while True:
                tried = each * np.cos(angle) + new * np.sin(angle)
                out = by_cohort(u, tried) < level
                if not out.any():
                    break
                low = np.where(out & (angle < 0), angle, low)
                high = np.where(out & (angle >= 0), angle, high)
                angle = np.where(out, rng.uniform(low, high), angle)
            each = tried
        for _ in range(3):
            new, level = rng.normal(size=len(u)), by_cohort(u, each).sum() + np.log(rng.random())
            angle = rng.uniform(0, 2 * np.pi)
            low, high = angle - 2 * np.pi, angle
            while by_cohort(u * np.cos(angle) + new * np.sin(angle), each).sum() < level:
                low, high = (angle, high) if angle < 0 else (low, angle)
                angle = rng.uniform(low, high)
            u = u * np.cos(angle) + new * np.sin(angle)
        if step >= steps // 6:
            d = x @ u + np.sqrt(own) * each[0]
            total += d
            square += d**2
    count = steps - steps // 6
    mean = total / count
    return mean, np.sqrt(square / count - mean**2)


def against_sampler(steps: int) -> dict[str, float]:
    """How two long runs agree with each other and with us."""
    split = po.Split(0.05, 0.5, 0.2, 0.05, 1.0)
    h = household(np.random.default_rng(3), CASES["crop"], 36, 4, 3)
    found = po.relatives(h.kin, be.sites(h.prior, h.counts), np.arange(36), (split,))
    p = h.prior
    prior = replace(p, d_mean=found.d_mean, d_sd=found.d_sd)
    ours = be.fit(prior, h.counts).d
    runs = [sampled(h, split, seed, steps) for seed in (1, 2)]
    mean, sd = ((runs[0][j] + runs[1][j]) / 2 for j in (0, 1))
    rms = lambda x: float(np.sqrt(np.mean(x**2)))  # noqa: E731
    return {
        "runs_apart": rms(runs[0][0] - runs[1][0]),
        "ours_off": rms(ours.mean(axis=1) - mean),
        "sd_ratio": float(np.median(ours.std(axis=1) / sd)),
    }


def large(cohorts: int, tests_each: int) -> dict[str, float]:
    """Seconds that a pooled fit of many cohorts takes, the fit of each alone (the baseline), and another
    pooled fit after one more test."""
    h = household(np.random.default_rng(1), CASES["crop"], cohorts, 60, 15, 1.0, tests_each)
    some = np.flatnonzero(h.counts.row < 5)
    be.fit(h.prior, h.counts.of(some))  # compiled before the clock runs
    with_relatives(replace(h, counts=h.counts.of(some)))
    begin = perf_counter()
    told = be.sites(h.prior, h.counts)
    read = perf_counter()
    first = po.relatives(h.kin, told, np.arange(cohorts))
    joined = perf_counter()
    be.fit(h.prior, h.counts)
    alone = perf_counter()
    like = told.like.copy()
    like[3] += like[4]
    again = perf_counter()
    po.relatives(h.kin, replace(told, like=like), np.arange(cohorts), last=first.fitted)
    one_more = perf_counter()
    return {
        "likelihoods_s": read - begin,
        "relatives_s": joined - read,
        "alone_s": alone - joined,
        "ratio": (joined - begin) / (alone - joined),
        "one_more_test_s": one_more - again,
        "one_more_ratio": (one_more - again) / (joined - read),
    }


def after(word: str, usual: int) -> int:
    """The number that follows a word of the command line."""
    return int(sys.argv[sys.argv.index(word) + 1]) if word in sys.argv else usual


def main() -> None:
    """One line for each case, then one of JSON with ours and the baseline's figures."""
    quick = "--quick" in sys.argv
    steps = after("sampler", 0)
    if steps:
        print(json.dumps(against_sampler(steps)))
        return
    figures: dict[str, dict[str, float]] = {}
    for case in CASES:
        figures[case] = run(case, after("households", 2 if quick else 20), 1, after("tests", 2))
        print(case, {k: round(v, 4) for k, v in figures[case].items()})
    figures["large"] = large(*((60, 2) if quick else (2000, 3)))
    print(json.dumps(figures))


if __name__ == "__main__":
    main()
