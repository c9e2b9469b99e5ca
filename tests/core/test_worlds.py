"""Worlds: what several lots give together, against plain simulation; nothing hangs on order or company."""

import numpy as np
import pytest
from scipy.special import ndtr
from scipy.stats import kendalltau

from brisk_larder.core.lines.safe_years import chance_of_mothers
from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.plants import Emergence, Seed, Sown, chance, promised, seeds_for

EMERGENCE = Emergence(0.7, 20.0)
GOOD, OLD, FRESH = (1.6, 0.4, 0.35, 0.8), (1.8, 0.35, 0.3, 1.2), (2.0, 0.3, 0.3, 0.1)
LIVING = 0.95


def seed(lots):
    """Seed of lots (cohort, what is believed of it)."""
    one = np.ones(len(lots))
    ki, ki_sd, d_sd, a = (np.array([b[j] for _, b in lots]) for j in range(4))
    prior = be.Prior(ki, ki_sd, 0 * one, d_sd, LIVING * one, 0 * one, 0 * one)
    held = be.fit(prior, be.Counts.none(), wo.ranks([f"cohort:{key}" for key, _ in lots]))
    return [Seed(g, EMERGENCE) for g in wo.germination(held, a)]


def by_force(plants, lots, draws=400_000):
    """Drawn, sown and grown."""
    rng, cohorts, up = np.random.default_rng(1), {}, np.zeros(draws)
    share = rng.beta(0.7 * 20, 0.3 * 20, draws)
    for key, (ki, ki_sd, d_sd, a), (mean, sd) in lots:
        if key not in cohorts:
            v = rng.normal(ki, ki_sd, draws) - a * 10 ** -rng.normal(0, d_sd, draws)
            cohorts[key] = LIVING * ndtr(v)
        there = np.maximum(np.floor(rng.normal(mean, sd, draws)), 0) if sd else np.full(draws, mean)
        up += rng.binomial(there.astype(int), cohorts[key] * share)
    return (up >= plants).mean()


@pytest.mark.parametrize(
    ("plants", "lots"),
    [
        (10, [("a", GOOD, (20, 0))]),
        (3, [("a", GOOD, (6, 0))]),
        (12, [("a", GOOD, (30, 18))]),
        (60, [("a", GOOD, (30, 0))] * 4),
        (60, [("a", GOOD, (60, 0)), ("b", OLD, (60, 0))]),
        (20, [("a", GOOD, (20, 0)), ("b", OLD, (12, 6)), ("c", FRESH, (8, 0))]),
        (200, [("a", GOOD, (400, 0)), ("b", FRESH, (100, 30))]),
    ],
)
def test_the_chance_of_enough_plants_is_that_of_seed_drawn_sown_and_grown(plants, lots):
    sown = [
        Sown(wo.amount(f"seeds:{i}", *held), one)
        for i, ((_, _, held), one) in enumerate(
            zip(lots, seed([(key, b) for key, b, _ in lots]), strict=True)
        )
    ]
    assert chance(plants, sown) == pytest.approx(by_force(plants, lots), abs=0.01)


def test_four_packets_of_one_cohort_are_one_packet_of_their_sum_and_two_cohorts_are_not():
    four, (one,) = seed([("kale", GOOD)] * 4), seed([("kale", GOOD)])
    apart = seed([(f"kale {i}", GOOD) for i in range(4)])
    quarter = [np.full(wo.COUNT, 30.0)] * 4
    together = chance_of_mothers(quarter, four, 30)
    assert together == pytest.approx(chance_of_mothers([np.full(wo.COUNT, 120.0)], [one], 30))
    assert chance_of_mothers(quarter, apart, 30) > together + 0.03


def test_nothing_hangs_on_order_or_on_who_else_is_there():
    lots = [("a", GOOD), ("b", OLD), ("c", FRESH)]
    alone, more = seed(lots[:1])[0], seed([*reversed(lots), ("d", OLD)])
    assert alone.g.tolist() == more[2].g.tolist()
    sown = [Sown(20, one) for one in seed(lots)]
    assert chance(25, sown) == pytest.approx(chance(25, sown[::-1]), abs=1e-12)
    # lots of one belief give the same figures whatever their names
    x, y = seed([("x", GOOD), ("y", GOOD)])
    assert chance(9, [Sown(20, x)]) == pytest.approx(chance(9, [Sown(20, y)]), abs=1e-12)


def test_subjects_have_nothing_to_do_with_each_other_and_each_meets_every_slice_once():
    order = wo.ranks([f"cohort:{i}" for i in range(60)])
    assert (np.sort(order, axis=1) == np.arange(wo.COUNT)).all()
    ties = [kendalltau(order[0], other).statistic for other in order[1:]]
    assert abs(np.mean(ties)) < 0.01
    assert np.std(ties) == pytest.approx(2 / 3 / np.sqrt(wo.COUNT), rel=0.3)
    for values in (wo.SECOND, wo.THIRD, wo.beside(np.arange(float(wo.COUNT)))):
        assert abs(np.corrcoef(values, np.arange(wo.COUNT))[0, 1]) < 0.03


def test_a_promise_is_kept_with_the_fewest_seeds():
    (one,) = seed([("a", GOOD)])
    few = seeds_for(12, one, 0.9)
    assert chance(12, [Sown(few, one)]) >= 0.9 > chance(12, [Sown(few - 1, one)])
    assert by_force(12, [("a", GOOD, (few, 0))]) == pytest.approx(0.9, abs=0.012)
    plants = promised([Sown(200, one)], 0.9, 500)
    assert chance(plants, [Sown(200, one)]) >= 0.9 > chance(plants + 1, [Sown(200, one)])
    assert promised([], 0.9, 5) == 0


def test_news_moves_worlds_as_weighting_them_would():
    (one,) = seed([("a", GOOD)])
    weight = one.g**12 * (1 - one.g) ** 3
    worlds = wo.picked(one.g, weight)
    assert one.g[worlds].mean() == pytest.approx(np.average(one.g, weights=weight), abs=0.004)
    assert wo.picked(one.g, np.ones(wo.COUNT)).tolist() == list(range(wo.COUNT))
