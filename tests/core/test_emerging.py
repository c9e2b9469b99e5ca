"""Emergence learnt from counted sowings: against plain sums over all that may be, and a simulated truth."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import expit
from scipy.stats import betabinom, norm

from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import emerging as em
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.sowing_news import log_news
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


def _counts(n, k, nodes, a=0.5, rho=F.sowing_rho, lost=F.lost):
    one = lambda v: np.array([float(v)])  # noqa: E731
    return be.Counts(
        np.array([0]), one(a), one(n), one(k), np.array(nodes)[None], one(rho), one(1), one(lost)
    )


def _prior(ki=2.0, ki_sd=0.4, d_sd=0.3, living=0.95, living_sd=0.5, dud=0.0):
    return be.Prior(*(np.array([v]) for v in (ki, ki_sd, 0.0, d_sd, living, living_sd, dud)))


def _believed(n, k, a=0.5, prior=None, x=(0.4, 0.5)):
    """Quantiles .1, .5, .9 and mean of germination after k of n came up (n 0: before)."""
    told = _counts(n, k, em.could_come_up(*x, (1.0, 1.0, 1.0)), a) if n else be.Counts.none()
    belief = be.fit(prior or _prior(), told)
    g = wo.quantiles(belief, np.array([[a]]), (0.1, 0.5, 0.9))[0, 0]
    return np.append(g, wo.even(belief, np.array([a]), 64).mean())


def test_a_cold_bed_is_not_read_as_dead_seed():
    """None of two hundred up: a test would call the seed dead, a sowing doubts it."""
    before, none_up, many_up = _believed(0, 0), _believed(200, 0), _believed(200, 130)
    assert before[1] - 0.2 < none_up[1] < before[1] - 0.1
    assert many_up[1] > none_up[1]


def test_none_up_leaves_old_seed_no_hope():
    """Seed of which nobody expected much is not saved by the thought of a cold bed."""
    for a, most in ((2.5, 0.01), (3.5, 0.001)):
        assert _believed(0, 0, a)[1] > 0.05
        assert _believed(100, 0, a)[1] <= most


@pytest.mark.parametrize("n", [1, 7, 60, 61, 400])
def test_what_a_count_says_never_falls_with_it(n):
    """Between any two shares alive, fewer up never speak more for the larger; none up never for it."""
    for x, could in itertools.product(
        ((0.4, 0.5), (-2, 0.9), (2, 0.1)), ((1.0,) * 3, (0.02, 0.1, 0.4))
    ):
        for lost in (0.02, 0.3):
            nodes = tuple(float(v) for v in em.could_come_up(*x, could))
            score = [
                np.diff(log_news(float(n), float(k), nodes, F.sowing_rho, lost)[1])
                for k in np.unique(np.linspace(0, n, 41).round())
            ]
            assert np.diff(score, axis=0).min() > -1e-9
            assert score[0].max() <= 1e-9
            assert score[-1].min() >= -1e-9


@settings(max_examples=60)
@given(
    st.floats(0.5, 2.5), st.floats(0.2, 0.8), st.floats(0.1, 0.6), st.floats(0.0, 4.0),
    st.integers(1, 500), st.floats(0, 1), st.floats(0, 1), st.floats(-1.5, 2.0), st.floats(0.1, 0.9),
)  # fmt: skip
def test_fewer_up_never_reads_better(ki, ki_sd, d_sd, a, n, one, other, x, x_sd):
    fewer, more = sorted((round(n * one), round(n * other)))
    prior = _prior(ki, ki_sd, d_sd)
    lower = _believed(n, fewer, a, prior, (x, x_sd))
    assert (lower <= _believed(n, more, a, prior, (x, x_sd)) + 0.01).all()
    if not fewer:
        assert (lower <= _believed(0, 0, a, prior) + 0.01).all()


@pytest.mark.parametrize(
    ("a", "n", "k"), [(0.5, 100, 40), (0.5, 40, 30), (1.5, 60, 20), (2.5, 200, 60), (3.5, 10, 1)]
)
def test_where_the_bed_is_not_suspected_the_news_is_that_of_all_beds_and_seeds(a, n, k):
    """Summed over seed (Ki, d, share living) and bed (its emergence, its failure), by another formula."""
    z = np.linspace(-4, 4, 61)
    w = norm.pdf(z)
    ki, d, alive = 2 + 0.4 * z, 0.3 * z, expit(np.log(0.95 / 0.05) + 0.5 * z)
    g = alive * norm.cdf(ki[:, None, None] - a * 10 ** -d[:, None])
    weight = (w[:, None, None] * w[:, None] * w).ravel()
    shares = np.linspace(0, 1, 201)
    size = (1 - F.sowing_rho) / F.sowing_rho
    mu, reach = em.could_come_up(0.4, 0.5, (1.0, 1.0, 1.0)), (1 / 6, 2 / 3, 1 / 6)
    chance = sum(
        r * betabinom.pmf(k, n, p * size, (1 - p) * size)
        for r, p in (
            (r, np.clip(shares * c, 1e-7, 1 - 1e-7)) for r, c in zip(reach, mu, strict=True)
        )
    )
    lost = F.lost / (k + 1) / (1 / np.arange(1, n + 2)).sum()
    weight = weight * np.interp(g.ravel(), shares, (1 - F.lost) * chance + lost)
    order = np.argsort(g.ravel())
    cumulated = np.cumsum(weight[order]) / weight.sum()
    exact = np.interp((0.1, 0.5, 0.9), cumulated, g.ravel()[order])
    assert _believed(n, k, a)[:3] == pytest.approx(exact, abs=0.03)


def test_ranges_after_sowings_hold_the_truth_as_often_as_they_say():
    """Made-up seed of all ages in made-up beds, one in twelve of them failed."""
    rng = np.random.default_rng(11)
    rows, n = 4000, 80
    ages = rng.choice([0.3, 1.0, 2.0, 3.0], rows)
    z = rng.normal(size=(3, rows))
    living = expit(np.log(0.95 / 0.05) + 0.5 * z[2])
    truth = living * norm.cdf(2 + 0.4 * z[0] - ages * 10 ** (-0.3 * z[1]))
    p = np.clip(truth * expit(0.4 + 0.5 * rng.normal(size=rows)), 1e-6, 1 - 1e-6)
    size = (1 - F.sowing_rho) / F.sowing_rho
    k = rng.binomial(n, rng.beta(p * size, (1 - p) * size))
    few = rng.choice(n + 1, rows, p=(1 / np.arange(1, n + 2)) / (1 / np.arange(1, n + 2)).sum())
    k = np.where(rng.random(rows) < F.lost, few, k)
    nodes = np.tile(em.could_come_up(0.4, 0.5, (1.0, 1.0, 1.0)), (rows, 1))
    alike = [np.full(rows, v) for v in (F.sowing_rho, 1.0, F.lost)]
    told = be.Counts(np.arange(rows), ages, np.full(rows, float(n)), k.astype(float), nodes, *alike)
    prior = be.Prior(*(np.full(rows, v) for v in (2.0, 0.4, 0.0, 0.3, 0.95, 0.5, 0.0)))
    low, high = np.moveaxis(
        wo.quantiles(be.fit(prior, told), ages[:, None], (0.1, 0.9))[:, 0], -1, 0
    )
    held = (low - 1e-3 <= truth) & (truth <= high + 1e-3)
    assert 0.78 <= held.mean() <= 0.86
    for age in np.unique(ages):
        assert 0.76 <= held[ages == age].mean() <= 0.9, age


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
