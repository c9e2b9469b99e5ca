"""Learning from relatives: against an independent sampler and households whose truth is known."""

from dataclasses import replace

import numpy as np
import pytest
from benchmarks import kin as made
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import betaln, expit, logit, ndtr

from brisk_larder.core.seed import belief as be
from brisk_larder.core.seed import pooling as po
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.counting import log_beta_binomial

ONE_SPLIT = (po.Split(0.05, 0.5, 0.2, 0.05, 1.0),)


def some(cohorts=36, seed=3, **more):
    rng = np.random.default_rng(seed)
    return made.household(rng, made.CASES["crop"], cohorts, 4, 3, 0.7, 2, **more)


def pooled(h, splits=po.SPLITS):
    found = po.relatives(h.kin, be.sites(h.prior, h.counts), np.arange(len(h.a_later)), splits)
    return replace(h.prior, d_mean=found.d_mean, d_sd=found.d_sd), found


def summed(h, split, draws=3_000):
    """Mean and sd of d of each cohort by plain sums: the shared effects on a grid of all of them at once, what
    a cohort's tests say of their sum by draws. Nothing of it is ours but the model."""
    rng = np.random.default_rng(5)
    x, own = h.kin.loadings(split)
    z = np.linspace(-3.6, 3.6, 15)
    u = np.stack(np.meshgrid(*[z] * x.shape[1], indexing="ij"), -1).reshape(-1, x.shape[1])
    log_w = -0.5 * (u**2).sum(axis=1)
    at = np.linspace(-2, 2, 61)
    middle = []
    for i in range(len(x)):
        e = np.sqrt(own[i]) * rng.normal(size=draws)
        ki = h.prior.ki_mean[i] + h.prior.ki_sd[i] * rng.normal(size=draws)
        living = expit(logit(h.prior.living[i]) + h.prior.living_sd[i] * rng.normal(size=draws))
        told = np.zeros((len(at), draws))
        for t in np.flatnonzero(h.counts.row == i):
            a, n, k, rho = (float(c[t]) for c in (h.counts.a, h.counts.n, h.counts.k, h.counts.rho))
            p = np.clip(living * ndtr(ki - a * 10 ** -(at[:, None] + e)), 1e-6, 1 - 1e-6)
            one, other = p * (1 - rho) / rho, (1 - p) * (1 - rho) / rho
            told += betaln(k + one, n - k + other) - betaln(one, other)
        like = np.exp(told - told.max())
        d = at[:, None] + e
        chance = like.mean(axis=1)
        m = u @ x[i]
        log_w = log_w + np.log(np.interp(m, at, chance))
        middle.append([np.interp(m, at, (like * d**j).mean(axis=1) / chance) for j in (1, 2)])
    w = np.exp(log_w - log_w.max())
    w /= w.sum()
    mean, square = np.array([[w @ m for m in moments] for moments in middle]).T
    return mean, np.sqrt(square - mean**2)


def test_it_agrees_with_plain_sums_over_all_that_is_not_known():
    h = made.household(np.random.default_rng(6), made.CASES["crop"], 10, 2, 1, 0.8, 2)
    h = replace(h, kin=replace(h.kin, mother=np.full(10, -1), mothers=[]))
    prior, _ = pooled(h, ONE_SPLIT)
    ours = be.fit(prior, h.counts)
    mean, sd = summed(h, ONE_SPLIT[0])
    assert np.sqrt(np.mean((ours.d.mean(axis=1) - mean) ** 2)) < 0.02
    assert 0.95 < np.median(ours.d.std(axis=1) / sd) < 1.05
    alone = be.fit(h.prior, h.counts)  # without relatives it is another answer
    assert np.sqrt(np.mean((alone.d.mean(axis=1) - mean) ** 2)) > 0.04


def test_no_data_gives_the_prior():
    h = some()
    prior, found = pooled(replace_counts(h, be.Counts.none()))
    assert found.d_mean == pytest.approx(0.0)
    scale = sum(w * s.scale for s, w in found.splits)
    assert found.d_sd**2 == pytest.approx(scale * made.BOOK_SD**2 + made.RECORD_SD**2)
    assert (found.shared > 0.1).all()
    assert prior.ki_mean is h.prior.ki_mean


def replace_counts(h, counts):
    return replace(h, counts=counts)


def test_swapping_cohorts_changes_nothing_and_a_stranger_moves_nobody():
    h = some()
    _, found = pooled(h)
    rng = np.random.default_rng(8)
    order = rng.permutation(len(h.a_later))
    back = np.argsort(order)
    kin = replace(
        h.kin,
        crop=h.kin.crop[order],
        mother=h.kin.mother[order],
        node_share=h.kin.node_share[order],
    )
    counts = replace(h.counts, row=back[h.counts.row])
    _, swapped = pooled(replace(h, prior=h.prior.rows(order), kin=kin, counts=counts))
    assert swapped.d_mean == pytest.approx(found.d_mean[order], abs=1e-6)
    assert swapped.d_sd == pytest.approx(found.d_sd[order], abs=1e-6)
    # one more, untested, of a crop and a place of its own
    add = lambda x, v: np.append(x, v)  # noqa: E731
    more = replace(
        h.kin, crop=add(h.kin.crop, 4), mother=add(h.kin.mother, -1),
        node_share=np.pad(h.kin.node_share, ((0, 1), (0, 1))), book_sd=add(h.kin.book_sd, 0.3),
        record_sd=add(h.kin.record_sd, 0.08), crops=[*h.kin.crops, "new"], nodes=[*h.kin.nodes, "far"],
    )  # fmt: skip
    more.node_share[-1, -1] = 1.0
    got = po.relatives(more, be.sites(h.prior, h.counts), np.arange(len(h.a_later) + 1))
    assert got.d_mean[:-1] == pytest.approx(found.d_mean, abs=1e-6)
    assert (
        abs(got.d_mean[-1]) < abs(found.d_mean).max()
    )  # only the household as a whole speaks of it


def test_a_relative_s_bad_test_is_bad_news_and_its_own_is_not_counted_twice():
    h = some()
    bare = replace_counts(h, be.Counts.none())
    row = 0
    kin = np.flatnonzero(h.kin.crop == h.kin.crop[row])[1]

    def after(k, weight=1.0):
        one = lambda x: np.array([float(x)])  # noqa: E731
        counts = be.Counts(
            np.array([row]),
            one(0.8),
            one(20),
            one(k),
            np.ones((1, 3)),
            one(0.02),
            one(weight),
            one(0),
        )
        return pooled(replace_counts(bare, counts))[1]

    means = [after(k).d_mean[kin] for k in (0, 5, 10, 15, 20)]
    assert means == sorted(means)
    assert means[0] < -0.03 < 0 < means[-1]
    assert after(3).d_mean[row] == pytest.approx(0.0, abs=1e-6)  # told by relatives alone
    assert abs(after(3, 0.3).d_mean[kin]) < abs(after(3).d_mean[kin])  # flawed: less


def _one_tested(a, n, k, tests=1, dud=0.05):
    """Eight packets of a kind in a place, the first tested: log10 of life and germination (three quantiles, at
    ageing a and 1.0) of that one and of another."""
    prior = be.Prior(*(np.full(8, v) for v in (1.9, 0.35, 0.0, 0.31, 0.93, 0.5, dud)))
    kin = po.Kin(
        np.zeros(8, dtype=np.intp), np.full(8, -1), np.ones((8, 1)), np.full(8, 0.3), np.full(8, 0.08),
        ["crop"], ["node"], [],
    )  # fmt: skip
    same = lambda x: np.full(tests, float(x))  # noqa: E731
    told = be.Counts(
        np.zeros(tests, dtype=np.intp), same(a), same(n), same(k), np.ones((tests, 3)), same(0.02), same(1), same(0)
    )  # fmt: skip
    sites = be.sites(prior, told)
    sites = replace(sites, like=po.held_back(sites.like, sites.d, made.LOUDEST))
    found = po.relatives(kin, sites, np.arange(8))
    belief = be.fit(replace(prior, d_mean=found.d_mean, d_sd=found.d_sd), told)
    return found.d_mean[3], wo.quantiles(belief, np.array([[a, 1.0]] * 8), (0.1, 0.5, 0.9))[[0, 3]]


def test_a_dud_is_blamed_on_itself():
    """A fresh packet at 40 %: its relatives lose little, even after three tests, and it is not dead in a year."""
    fresh = _one_tested(0.1, 20, 19)[1][1, 1, 1]
    for tests, most in ((1, 0.1), (3, 0.2)):
        _, g = _one_tested(0.1, 20, 8, tests)
        assert fresh - most < g[1, 1, 1] < fresh
        assert 0.3 < g[0, 0, 1] < 0.5
        assert g[0, 1, 1] > 0.2
    # where no packet may be a dud age alone is to blame, and all are condemned
    _, g = _one_tested(0.1, 20, 8, 3, dud=0.0)
    assert g[0, 1, 1] < 0.05


@pytest.mark.parametrize("a", [0.1, 0.5, 1.2, 2.5])
@pytest.mark.parametrize("tests", [1, 3])
def test_relatives_hear_no_better_of_a_packet_the_worse_it_does(a, tests):
    heard = [_one_tested(a, 20, k, tests)[0] for k in range(21)]
    assert min(np.diff(heard)) > -0.004


def test_more_seeds_leave_less_doubt_of_relatives():
    """Posterior variance of a relative, expected over what a test may show, falls with its size."""
    h = replace_counts(some(12), be.Counts.none())
    kin = np.flatnonzero(h.kin.crop == h.kin.crop[0])[1]
    believed = be.fit(h.prior, be.Counts.none())
    g = np.clip(wo.germination(believed, np.full(len(h.a_later), 0.8))[0], 1e-6, 1 - 1e-6)
    expected = []
    for n in (4, 10, 30):
        total = 0.0
        for k in range(n + 1):
            one = lambda x: np.array([float(x)])  # noqa: E731
            chance = np.exp(log_beta_binomial(np.float64(k), n, g, 0.02)).mean()
            counts = be.Counts(
                np.array([0]), one(0.8), one(n), one(k), np.ones((1, 3)), one(0.02), one(1), one(0)
            )
            total += chance * pooled(replace_counts(h, counts), ONE_SPLIT)[1].d_sd[kin] ** 2
        expected.append(total)
    assert expected == sorted(expected, reverse=True)
    assert expected[0] < pooled(h, ONE_SPLIT)[1].d_sd[kin] ** 2


@pytest.mark.parametrize(
    ("case", "least", "most", "better"),
    [("crop", 0.76, 0.86, 0.87), ("place", 0.72, 0.86, 0.9), ("alone", 0.74, 0.86, 1.04),
     ("rosy", 0.72, 0.86, 0.9), ("duds", 0.74, 0.86, 1.04), ("warmer", 0.74, 0.86, 1.0)],
)  # fmt: skip
def test_made_up_households_are_told_the_truth(case, least, most, better):
    """The large run stands in docs/model.md; this one is small."""
    got = made.run(case, 4, 2)
    assert least - 0.02 < got["held"] < most + 0.02
    assert got["ratio"] < better
    assert got["old_untested"] > 0.66
    if case == "duds":
        assert got["dud_tested"] > 0.6


def test_worlds_of_relatives_move_together_by_what_they_share():
    h = some(60, 5)
    _, found = pooled(replace_counts(h, be.Counts.none()), ONE_SPLIT)
    names = [f"cohort:{i}" for i in range(60)]
    order = po.together(h.kin, found.shared, names, ONE_SPLIT[0])
    assert (np.sort(order, axis=1) == np.arange(wo.COUNT)).all()
    z = wo.Z[order]
    got = np.corrcoef(z)
    x, own = h.kin.loadings(ONE_SPLIT[0])
    wanted = x @ x.T / np.sqrt(np.outer((x**2).sum(1) + own, (x**2).sum(1) + own))
    off = ~np.eye(60, dtype=bool)
    assert (
        np.sqrt(np.mean((got - wanted)[off] ** 2)) < 0.09
    )  # 512 worlds tell a correlation to 0.044
    assert np.mean((got - wanted)[off]) == pytest.approx(0, abs=0.03)
    alone = po.together(h.kin, found.shared, names, ONE_SPLIT[0])
    assert (alone == order).all()
    # packets of one cohort in one place are one; a cohort with nothing shared has its own order
    kin = replace(h.kin, crop=h.kin.crop[[0, 0]], mother=h.kin.mother[[0, 0]], node_share=h.kin.node_share[[0, 0]],
                  book_sd=h.kin.book_sd[[0, 0]], record_sd=h.kin.record_sd[[0, 0]])  # fmt: skip
    two = po.together(kin, found.shared[[0, 0]], ["cohort:0", "cohort:0"], ONE_SPLIT[0])
    assert (two[0] == two[1]).all()
    assert (two[0] == order[0]).all()
    assert (
        po.together(kin, np.zeros(2), ["cohort:0", "cohort:1"])
        == wo.ranks(["cohort:0", "cohort:1"])
    ).all()


def test_a_fit_from_where_the_last_one_ended_comes_to_the_same():
    h = some(60)
    cohort = np.arange(len(h.a_later))
    sites = be.sites(h.prior, h.counts)
    first = po.relatives(h.kin, sites, cohort)
    like = sites.like.copy()
    like[4] += -0.5 * ((sites.d - 0.3) / 0.1) ** 2  # one more test of one cohort
    fewer = po.Sites(sites.row[1:], sites.d, like[1:])  # and one taken back
    cold = po.relatives(h.kin, fewer, cohort)
    warm = po.relatives(h.kin, fewer, cohort, last=first.fitted)
    assert (warm.fitted.steps, cold.fitted.steps) == (2, 1)
    for name in ("d_mean", "d_sd", "shared"):
        assert (
            np.abs(getattr(warm, name) - getattr(cold, name)).max() < 1e-6
        )  # far below the step they are kept in
    assert np.abs(cold.d_mean - first.d_mean).max() > 0.01  # there was something to learn
    # with much that is new it begins anew, and now and then all the same
    other = po.Sites(sites.row, sites.d, sites.like + like[4])
    assert po.relatives(h.kin, other, cohort, last=first.fitted).fitted.steps == 1
    tired = replace(first.fitted, steps=99)
    assert po.relatives(h.kin, fewer, cohort, last=tired).fitted.steps == 1


@settings(deadline=None, max_examples=60)
@given(st.integers(1, 30), st.floats(0.3, 3.0), st.data())
def test_what_is_held_back_never_turns_and_bad_news_stays_bad(n, a, data):
    """Of a cohort with fewer up its relatives hear no better, however doubtful one cohort is."""
    d = be.D_GRID
    g = np.clip(ndtr(2.0 - a * 10**-d), 1e-6, 1 - 1e-6)
    up = data.draw(st.integers(0, n - 1))
    like = np.array([log_beta_binomial(np.float64(k), n, g, 0.02) for k in (up, up + 1)])
    held = po.held_back(like, d, 5.0)
    prior = np.exp(-0.5 * (d / 0.4) ** 2)
    for some in (like, held):
        w = prior * np.exp(some - some.max(axis=1, keepdims=True))
        mean = (w * d).sum(axis=1) / w.sum(axis=1)
        assert mean[0] <= mean[1] + 1e-9
    # within the bound nothing is changed, beyond it the slope is the bound
    before, after = (np.diff(x, axis=1) / np.diff(d) for x in (like, held))
    assert np.allclose(after, np.clip(before, -5.0, 5.0))
