"""Emergence learnt from counted sowings: against plain sums over all that may be, and a simulated truth."""

import itertools

import numpy as np
import pytest
from scipy.special import expit
from scipy.stats import betabinom, norm

from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import emerging as em
from brisk_larder.core.seed import worlds as wo
from tests.core.book import FIGURES

F = FIGURES.emerging
WEIGHT = 20.0


def pairs(*mean_and_setting):
    mean, setting = zip(*mean_and_setting, strict=True)
    return em.Pairs(np.array(mean), np.array(setting, dtype=np.intp), WEIGHT)


def sown(*rows, g=(0.9,)):
    """Sowings as (pair, n, k)."""
    pair, n, k = (np.array(x) for x in zip(*rows, strict=True))
    count = len(rows)
    return em.CountedSowings(
        pair.astype(np.intp),
        n.astype(float),
        k.astype(float),
        np.tile(np.array(g), (count, 1)),
        np.ones((count, 3)),
    )


NONE = em.CountedSowings(
    np.empty(0, dtype=np.intp), np.empty(0), np.empty(0), np.empty((0, 4)), np.empty((0, 3))
)


def test_without_sowings_the_book_speaks():
    learnt = em.learn(pairs((0.7, 0), (0.5, 1)), NONE, F)
    assert [e.mean for e in learnt.pairs] == pytest.approx([0.7, 0.5])
    assert [e.weight for e in learnt.pairs] == pytest.approx([20, 20])


def test_what_others_let_expect_agrees_with_sums_over_all_effects():
    """Two sowings of a kind and one of another in the same bed, summed over the bed's, each kind's and each
    sowing's own effect on fine grids."""
    told = [(0, 60, 12), (0, 40, 15), (1, 80, 40)]
    learnt = em.learn(pairs((0.6, 0), (0.7, 0)), sown(*told, g=(0.75, 0.9)), F)
    mu, var = em.as_logit(np.array([0.6, 0.7]), WEIGHT)
    scale = np.sqrt(var)
    z = np.linspace(-4, 4, 81)
    w = norm.pdf(z) / norm.pdf(z).sum()
    bed, kind = z * np.sqrt(F.share_setting), z * np.sqrt(F.share_kind)
    own = z * np.sqrt(1 - F.share_setting - F.share_kind)

    def likely(pair, n, k):
        x = mu[pair] + scale[pair] * (bed[:, None, None] + kind[None, :, None] + own[None, None, :])
        chance = np.zeros(x.shape)
        size = (1 - F.sowing_rho) / F.sowing_rho
        for g in (0.75, 0.9):
            p = np.clip(expit(x) * g, 1e-7, 1 - 1e-7)
            chance += 0.5 * betabinom.pmf(k, n, p * size, (1 - p) * size)
        harmonic = (1 / np.arange(1, n + 2)).sum()
        return x, (1 - F.lost) * chance + F.lost / (k + 1) / harmonic

    x0, one = likely(*told[0])
    _, two = likely(*told[1])
    _, three = likely(*told[2])
    others = (three @ w) @ w  # over the other kind's effect and the sowing's own: [bed]
    rest = w[:, None] * w[None, :] * others[:, None] * (two @ w)  # bed, kind
    joint = rest[:, :, None] * w
    joint /= joint.sum()
    mean = (joint * x0).sum()
    sd = np.sqrt((joint * (x0 - mean) ** 2).sum())
    assert learnt.x_mean[0] == pytest.approx(mean, abs=0.02)
    assert learnt.x_sd[0] == pytest.approx(sd, rel=0.05)
    # the next sowing of the first kind, with all three known
    all_three = w[:, None] * w[None, :] * others[:, None] * (two @ w) * (one @ w)
    joint = all_three[:, :, None] * w
    joint /= joint.sum()
    assert learnt.pairs[0].mean == pytest.approx((joint * expit(x0)).sum(), abs=0.01)


def test_a_kind_learns_from_its_own_sowings_most_and_other_settings_nothing():
    learnt = em.learn(
        pairs((0.7, 0), (0.7, 0), (0.7, 1)), sown((0, 50, 15), (0, 50, 12), (0, 60, 20)), F
    )
    same, bed, window = (e.mean for e in learnt.pairs)
    assert same < bed - 0.03
    assert bed < window - 0.02
    assert window == pytest.approx(0.7)
    again = em.learn(pairs((0.7, 0)), sown(*[(0, 50, 30)] * 6), F).pairs[0]
    assert again.weight > 1.2 * WEIGHT  # what the bed and the kind do is known then


def test_the_order_of_sowings_changes_nothing():
    rows = [(0, 50, 15), (1, 50, 40), (0, 60, 44)]
    first = em.learn(pairs((0.7, 0), (0.6, 0)), sown(*rows), F)
    for order in itertools.permutations(range(3)):
        again = em.learn(pairs((0.7, 0), (0.6, 0)), sown(*(rows[i] for i in order)), F)
        assert [e.mean for e in again.pairs] == pytest.approx(
            [e.mean for e in first.pairs], abs=1e-4
        )


def _believed(n, k, x=(0.4, 0.5), rho=F.sowing_rho, lost=F.lost):
    prior = be.Prior(*(np.array([v]) for v in (2.0, 0.4, 0.0, 0.3, 0.95, 0.5)))
    nodes = em.could_come_up(*x, (1.0, 1.0, 1.0))
    one = lambda v: np.array([float(v)])  # noqa: E731
    k = em.read_as(n, k, nodes, F)
    told = be.Counts(
        np.array([0]), one(0.5), one(n), one(k), nodes[None, :], one(rho), one(1), one(lost)
    )
    g = wo.quantiles(be.fit(prior, told), np.array([[0.5]]), (0.1, 0.5, 0.9))[0, 0]
    return g


def test_a_cold_bed_is_not_read_as_dead_seed():
    """None of two hundred up: a test would call the seed dead, a sowing hardly."""
    prior = wo.quantiles(
        be.fit(be.Prior(*(np.array([v]) for v in (2.0, 0.4, 0.0, 0.3, 0.95, 0.5))), be.Counts.none()),
        np.array([[0.5]]), (0.1, 0.5, 0.9),
    )[0, 0]  # fmt: skip
    bed = _believed(200, 0)
    assert prior[1] > bed[1] > prior[1] - 0.15
    good = _believed(200, 130)
    assert good[1] > bed[1]
    for n in (20, 200):
        by_k = [_believed(n, k)[1] for k in range(0, n + 1, n // 20)]
        assert all(
            b >= a - 0.002 for a, b in itertools.pairwise(by_k)
        )  # bad news never reads better


def test_learnt_emergence_holds_the_truth_of_a_made_up_garden():
    """Forty gardens with a cold bed and kinds of their own: a next sowing's emergence lies within the 80 %
    interval as often as it should, nearer than by the book."""
    rng = np.random.default_rng(5)
    book = np.array([0.7, 0.6, 0.8, 0.5, 0.65, 0.75])
    kinds = pairs(*((m, 0) for m in book))
    mu, var = em.as_logit(book, WEIGHT)
    held, own, by_book = 0, [], []
    for _ in range(40):
        common = rng.normal() * np.sqrt(F.share_setting)
        of_kind = common + rng.normal(size=6) * np.sqrt(F.share_kind)

        def emerges(i, of_kind=of_kind):
            own = rng.normal() * np.sqrt(1 - F.share_setting - F.share_kind)
            return expit(mu[i] + np.sqrt(var[i]) * (of_kind[i] + own))

        rows = []
        for i in range(6):
            for _ in range(4):
                p = emerges(i) * 0.88
                size = (1 - F.sowing_rho) / F.sowing_rho
                k = rng.binomial(60, rng.beta(p * size, (1 - p) * size))
                rows.append((i, 60, k if rng.random() > F.lost else 0))
        learnt = em.learn(kinds, sown(*rows, g=(0.84, 0.88, 0.92)), F)
        for i, e in enumerate(learnt.pairs):
            true = emerges(i)
            low, high = np.quantile(e.by_rank(), [0.1, 0.9])
            held += low <= true <= high
            own.append((e.mean - true) ** 2)
            by_book.append((book[i] - true) ** 2)
    assert 0.74 <= held / 240 <= 0.87
    assert np.mean(own) < 0.93 * np.mean(by_book)
