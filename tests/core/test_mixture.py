"""A bag of several years against simulation with known truth, and what a test of it teaches."""

import numpy as np
import pytest
from scipy.special import ndtr
from scipy.stats import betabinom

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.mixture import BagTest, mix, shares, shares_by_count, taught
from tests.core.book import FIGURES

NONE = be.Counts.none()


def belief(ki, ki_sd, d_sd, living=0.97):
    one = np.ones(1)
    prior = be.Prior(ki * one, ki_sd * one, 0 * one, d_sd * one, living * one, 0 * one, 0 * one)
    return be.fit(prior, NONE, wo.ranks([f"cohort:{ki}"]))


def bag(parts, ages):
    """Germination of parts in each world [N, S]."""
    return np.concatenate(
        [wo.germination(belief(*p), np.array([a])) for p, a in zip(parts, ages, strict=True)]
    )


def shared(mean, sd):
    return shares([f"share:{i}" for i in range(len(mean))], np.array(mean), np.array(sd))


def draws(rng, ki, ki_sd, d_sd, a, n, living=0.97):
    return living * ndtr(rng.normal(ki, ki_sd, n) - a * 10.0 ** -rng.normal(0, d_sd, n))


OLD, NEW, MIDDLE = (1.7, 0.35, 0.3), (2.1, 0.4, 0.3), (1.4, 0.5, 0.4)


@pytest.mark.parametrize(
    ("parts", "ages", "means", "sds"),
    [
        ([OLD, NEW], [2.2, 0.3], [0.5, 0.5], [0.0, 0.0]),
        ([OLD, NEW], [1.5, 0.1], [0.3, 0.7], [0.1, 0.1]),
        ([OLD, NEW, MIDDLE], [2.5, 0.4, 1.1], [0.5, 0.3, 0.2], [0.0, 0.0, 0.0]),
    ],
)
def test_the_quantiles_of_a_bag_agree_with_simulation(parts, ages, means, sds):
    rng = np.random.default_rng(11)
    n = 200_000
    mixed = mix(bag(parts, ages), shared(means, sds))
    told = wo.spread(mixed, (0.1, 0.5, 0.9))
    if len(parts) == 2:
        share = np.clip(rng.normal(means[1], sds[1], n), 0, 1)
        weights = [1 - share, share]
    else:
        weights = [np.full(n, s) for s in means]
    truth = sum(w * draws(rng, *p, a, n) for w, p, a in zip(weights, parts, ages, strict=True))
    assert told == pytest.approx(np.quantile(truth, (0.1, 0.5, 0.9)), abs=0.01)
    assert mixed.mean() == pytest.approx(truth.mean(), abs=0.004)


def test_shares_of_what_is_poured_together_agree_with_simulation():
    seeds, sd = np.array([400.0, 150.0, 90.0]), np.array([40.0, 30.0, 5.0])
    share, doubt = shares_by_count(seeds, sd, 0.25)
    drawn = np.random.default_rng(2).normal(seeds, sd, (200_000, 3))
    drawn = drawn / drawn.sum(axis=1, keepdims=True)
    assert share == pytest.approx(drawn.mean(axis=0), abs=0.003)
    assert doubt == pytest.approx(drawn.std(axis=0), rel=0.05)
    for uncounted in (np.nan, 0.0):
        share, doubt = shares_by_count(
            np.array([400.0, uncounted]), np.array([40.0, 0.0]), FIGURES.belief.uncounted_share_sd
        )
        assert (share == 0.5).all()
        assert (doubt == 0.125).all()


def test_a_bag_of_one_part_is_that_part():
    one = bag([OLD], [0.8])
    assert mix(one, shared([1.0], [0.3])) == pytest.approx(one[0])
    with pytest.raises(InvalidValue, match="shares"):
        shared([], [])
    with pytest.raises(InvalidValue, match="shares"):
        shared([0.0, 0.0], [0.1, 0.1])


def test_a_test_of_the_bag_teaches_its_parts_together_as_plain_weighting_of_draws_would():
    rng, n = np.random.default_rng(4), 400_000
    parts, ages, means, sds = [OLD, NEW], [2.0, 0.4], [0.6, 0.4], [0.1, 0.1]
    g, share = bag(parts, ages), shared(means, sds)
    for k in (6, 12):
        worlds = taught(mix(g, share), BagTest(20, k, (1.0, 1.0, 1.0), 0.02, 1.0))
        second = np.clip(rng.normal(0.4, 0.1, n), 0, 1)
        drawn = [draws(rng, *p, a, n) for p, a in zip(parts, ages, strict=True)]
        p = np.clip((1 - second) * drawn[0] + second * drawn[1], 1e-6, 1 - 1e-6)
        weight = betabinom.pmf(k, 20, p * 49, (1 - p) * 49)
        for got, truth in ((g[0], drawn[0]), (g[1], drawn[1]), (share[1], second)):
            assert got[worlds].mean() == pytest.approx(np.average(truth, weights=weight), abs=0.012)
        # together: what one part is not, the other must be
        both = np.cov(drawn[0], drawn[1], aweights=weight)[0, 1]
        assert np.cov(g[0][worlds], g[1][worlds])[0, 1] == pytest.approx(both, abs=0.002)


def test_parts_of_one_origin_are_good_or_bad_together():
    g = bag([OLD, OLD], [2.0, 2.0])
    assert mix(g, shared([0.5, 0.5], [0.2, 0.2])) == pytest.approx(g[0])


def test_quantiles_drawn_between_knots_stay_close():
    rng = np.random.default_rng(3)
    rows = 60
    prior = be.Prior(
        rng.normal(1.8, 0.3, rows), rng.uniform(0.2, 0.6, rows), np.zeros(rows),
        rng.uniform(0.2, 0.6, rows), rng.uniform(0.8, 0.99, rows), np.full(rows, 0.5),
        np.full(rows, 0.05),
    )  # fmt: skip
    held = be.fit(prior, NONE)
    a = np.sort(rng.gamma(1.2, 1.5, (rows, 50)), axis=1)
    exact = wo.quantiles(held, a, (0.1, 0.5, 0.9))
    drawn = wo.quantile_curve(held, a, (0.1, 0.5, 0.9))
    assert np.abs(exact - drawn).max() < 0.03
    assert np.abs(exact - drawn).mean() < 0.0012
    # the inverse of the distribution function, by itself
    back = wo.chance_below(held, a[:, :1], exact[:, 0, 1])
    assert back[:, 0] == pytest.approx(0.5, abs=0.002)
    many = wo.quantiles(held, np.tile(a, (1, 2)), (0.1, 0.5, 0.9))  # large enough for threads
    assert (many[:, :50] == exact).all()
