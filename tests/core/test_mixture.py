"""A bag of several years against simulation with known truth, and what a test of it teaches."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import ndtr
from scipy.stats import betabinom

from brisk_larder.core import belief as be
from brisk_larder.core.errors import InvalidValue
from brisk_larder.core.mixture import mix, mix_quantiles, pack, shares_by_count, taught
from tests.core.book import FIGURES

NONE = be.Counts.none()


def belief(ki, ki_sd, d_sd, living=0.97):
    one = np.ones(1)
    return be.fit(be.Prior(ki * one, ki_sd * one, 0 * one, d_sd * one, living * one), NONE)


def draws(rng, ki, ki_sd, d_sd, a, n, living=0.97):
    return living * ndtr(rng.normal(ki, ki_sd, n) - a * 10.0 ** -rng.normal(0, d_sd, n))


OLD, NEW, MIDDLE = (1.7, 0.35, 0.3), (2.1, 0.4, 0.3), (1.4, 0.5, 0.4)


@pytest.mark.parametrize(
    ("parts", "ages", "shares", "sds"),
    [
        ([OLD, NEW], [2.2, 0.3], [0.5, 0.5], [0.0, 0.0]),
        ([OLD, NEW], [1.5, 0.1], [0.3, 0.7], [0.1, 0.1]),
        ([OLD, NEW, MIDDLE], [2.5, 0.4, 1.1], [0.5, 0.3, 0.2], [0.0, 0.0, 0.0]),
    ],
)
def test_the_quantiles_of_a_bag_agree_with_simulation(parts, ages, shares, sds):
    rng = np.random.default_rng(11)
    n = 200_000
    nodes = [be.even(belief(*p), np.array([a])) for p, a in zip(parts, ages, strict=True)]
    mixed = mix(nodes, np.array(shares), np.array(sds))
    told = mix_quantiles(mixed, (0.1, 0.5, 0.9))[0]
    if len(parts) == 2:
        share = np.clip(rng.normal(shares[1], sds[1], n), 0, 1)
        weights = [1 - share, share]
    else:
        weights = [np.full(n, s) for s in shares]
    truth = sum(w * draws(rng, *p, a, n) for w, p, a in zip(weights, parts, ages, strict=True))
    assert told == pytest.approx(np.quantile(truth, (0.1, 0.5, 0.9)), abs=0.01)
    assert float((mixed.g * mixed.weight).sum()) == pytest.approx(truth.mean(), abs=0.004)


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
    one = be.nodes(belief(*OLD), np.array([0.8]))
    mixed = mix([one], np.array([1.0]), np.array([0.0]))
    assert mixed is one
    with pytest.raises(InvalidValue, match="shares"):
        mix([], np.array([]), np.array([]))


@given(st.integers(2, 400), st.integers(0, 2**31))
def test_packing_keeps_the_mean_and_the_order(count, seed):
    rng = np.random.default_rng(seed)
    values, weight = rng.random((2, count)), rng.random((2, count)) + 1e-6
    packed = pack(values, weight)
    means = (values * weight).sum(axis=1) / weight.sum(axis=1)
    assert packed.g.mean(axis=1) == pytest.approx(means)
    assert (np.diff(packed.g, axis=1) >= -1e-12).all()
    assert packed.g.min() >= values.min() - 1e-12
    assert packed.g.max() <= values.max() + 1e-12


def test_a_test_of_the_bag_teaches_each_part_as_the_whole_product_would():
    a = np.array([2.0]), np.array([0.4])
    nodes = [be.nodes(belief(*OLD), a[0]), be.nodes(belief(*NEW), a[1])]
    shares, sds = np.array([0.6, 0.4]), np.zeros(2)
    learnt = taught(nodes, shares, sds, 20, 6, rho=0.02)
    # by hand: every pair of nodes, weighted by the beta-binomial of scipy
    g = 0.6 * nodes[0].g[0][:, None] + 0.4 * nodes[1].g[0][None, :]
    size = (1 - 0.02) / 0.02
    likely = betabinom.pmf(6, 20, g * size, (1 - g) * size)
    joint = nodes[0].weight[0][:, None] * nodes[1].weight[0][None, :] * likely
    joint /= joint.sum()
    assert learnt[0] == pytest.approx(joint.sum(axis=1), abs=1e-9)
    assert learnt[1] == pytest.approx(joint.sum(axis=0), abs=1e-9)
    # six of twenty is bad news: the old part, of which less was sure, bears most of it
    fall = [
        float((n.g[0] * n.weight[0]).sum() - (n.g[0] * w).sum())
        for n, w in zip(nodes, learnt, strict=True)
    ]
    assert fall[0] > fall[1] > 0


def test_three_parts_learn_together_and_new_weights_become_a_belief():
    nodes = [
        be.nodes(belief(*p), np.array([a])) for p, a in ((OLD, 2.0), (NEW, 0.4), (MIDDLE, 1.0))
    ]
    shares, sds = np.array([0.5, 0.3, 0.2]), np.array([0.05, 0.05, 0.05])
    learnt = taught(nodes, shares, sds, 30, 27, rho=0.02)
    for part, weight in zip(nodes, learnt, strict=True):
        assert weight.sum() == pytest.approx(1.0)
        assert (part.g[0] * weight).sum() > (part.g[0] * part.weight[0]).sum()
    prior = belief(*OLD)
    again = be.reweighted(prior, be.nodes(prior, np.zeros(1)).weight[0])
    told = be.quantiles(again, np.array([[1.0]]), (0.1, 0.5, 0.9))
    assert told == pytest.approx(be.quantiles(prior, np.array([[1.0]]), (0.1, 0.5, 0.9)), abs=1e-6)
    better = be.reweighted(prior, learnt[0])
    assert be.quantiles(better, np.array([[1.0]]), (0.5,)) > told[0, 0, 1]


def test_quantiles_drawn_between_knots_stay_close():
    rng = np.random.default_rng(3)
    rows = 60
    prior = be.Prior(
        rng.normal(1.8, 0.3, rows), rng.uniform(0.2, 0.6, rows), np.zeros(rows),
        rng.uniform(0.2, 0.6, rows), rng.uniform(0.8, 0.99, rows),
    )  # fmt: skip
    held = be.fit(prior, NONE)
    a = np.sort(rng.gamma(1.2, 1.5, (rows, 50)), axis=1)
    exact = be.quantiles(held, a, (0.1, 0.5, 0.9))
    drawn = be.quantile_curve(held, a, (0.1, 0.5, 0.9))
    assert np.abs(exact - drawn).max() < 0.004
    # the inverse of the distribution function, by itself
    back = be.chance_below(held, a[:, :1], exact[:, 0, 1])
    assert back[:, 0] == pytest.approx(0.5, abs=1e-5)
    many = be.quantiles(held, np.tile(a, (1, 2)), (0.1, 0.5, 0.9))  # large enough for threads
    assert (many[:, :50] == exact).all()
