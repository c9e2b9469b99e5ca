"""The belief against plain importance sampling, and its intervals against simulated truth."""

import numpy as np
import pytest
from scipy.special import expit, logit, ndtr, ndtri
from scipy.stats import betabinom, binom

from brisk_larder.core.seed import belief as b
from brisk_larder.core.seed import shocks
from brisk_larder.core.seed import worlds as wo
from brisk_larder.core.seed.counting import log_beta_binomial
from tests.core.book import FIGURES


def prior(rows=1, ki=2.0, ki_sd=0.4, d_sd=0.3, living=0.95, living_sd=0.5, dud=0.0):
    return b.Prior(*(np.full(rows, x) for x in (ki, ki_sd, 0.0, d_sd, living, living_sd, dud)))


def counts(rows, a, n, k, rho=0.02, ceiling=1.0, weight=1.0, lost=0.0):
    as_float = lambda x: np.broadcast_to(np.asarray(x, float), (len(rows),)).copy()  # noqa: E731
    can = as_float(ceiling)[:, None] * np.ones(3)
    return b.Counts(
        np.array(rows),
        *(as_float(x) for x in (a, n, k)),
        can,
        as_float(rho),
        as_float(weight),
        as_float(lost),
    )


def weighted_quantile(x, w, q):
    order = np.argsort(x)
    return np.interp(q, np.cumsum(w[order]) / w.sum(), x[order])


@pytest.mark.parametrize(("living", "dud"), [(0.95, 0.0), (0.75, 0.0), (0.95, 0.1)])
@pytest.mark.parametrize(
    ("a1", "tests"),
    [(0.6, [(0.6, 20, 13)]), (1.0, [(0.2, 10, 10), (0.9, 30, 12)]), (0.3, []), (0.0, [(0.0, 40, 38)]),
     (1.5, [(1.5, 100, 45)]), (0.1, [(0.1, 20, 8)])],
)  # fmt: skip
def test_posterior_agrees_with_importance_sampling(a1, tests, living, dud):
    """``dud``: so many packets have any share alive, up to the least of the others."""
    if (tests, dud) == ([(0.1, 20, 8)], 0.0):
        return  # where no packet may be a dud, next to nothing explains that count: nobody draws it
    near = 0.02 if dud else 0.012  # the cells of duds are wider
    rng = np.random.default_rng(7)
    ki, d = rng.normal(2.0, 0.4, 600_000), rng.normal(0, 0.3, 600_000)
    z = rng.normal(size=600_000)
    least = expit(logit(living) + 0.5 * ndtri(dud)) if dud else 1.0
    could = np.where(ndtr(z) < dud, least * rng.random(600_000), expit(logit(living) + 0.5 * z))
    log_w = np.zeros(len(ki))
    for a, n, k in tests:
        p = np.clip(could * ndtr(ki - a * 10**-d), 1e-6, 1 - 1e-6)
        size = (1 - 0.02) / 0.02
        log_w += betabinom.logpmf(k, n, p * size, (1 - p) * size)
    w = np.exp(log_w - log_w.max())
    c = b.Counts.none()
    if tests:
        c = counts([0] * len(tests), *map(list, zip(*tests, strict=True)))
    fitted = b.fit(prior(living=living, dud=dud), c)
    for later in (a1, a1 + 0.8):
        g = could * ndtr(ki - later * 10**-d)
        expected = [weighted_quantile(g, w, q) for q in (0.1, 0.5, 0.9)]
        got = wo.quantiles(fitted, np.array([[later]]), (0.1, 0.5, 0.9))[0, 0]
        assert got == pytest.approx(expected, abs=near)
        below = wo.chance_below(fitted, np.array([[later]]), 0.7)[0, 0]
        assert below == pytest.approx(np.average(g < 0.7, weights=w), abs=near)
        mean = wo.germination(fitted, np.array([later])).mean()
        assert mean == pytest.approx(np.average(g, weights=w), abs=0.005)


def test_eight_in_ten_of_the_80_percent_intervals_hold_the_truth():
    rng = np.random.default_rng(11)
    rows = 1500
    ki, d = rng.normal(2.0, 0.4, rows), rng.normal(0, 0.3, rows)
    a = rng.uniform(0.0, 2.0, rows)
    living = expit(logit(0.9) + rng.normal(0, 0.5, rows))
    p = living * ndtr(ki - a * 10**-d)
    k = betabinom.rvs(10, p * 49, (1 - p) * 49, random_state=rng)
    fitted = b.fit(prior(rows, living=0.9), counts(np.arange(rows), a, 10, k))
    later = a + 0.7
    truth = living * ndtr(ki - later * 10**-d)
    low, high = np.moveaxis(wo.quantiles(fitted, later[:, None], (0.1, 0.9))[:, 0], -1, 0)
    assert np.mean((truth >= low) & (truth <= high)) == pytest.approx(0.80, abs=0.03)


def test_beta_binomial_is_scipys():
    k = np.arange(11.0)
    got = log_beta_binomial(k, 10.0, np.float64(0.8), np.float64(0.05))
    assert got == pytest.approx(betabinom.logpmf(k, 10, 0.8 * 19, 0.2 * 19))
    none = log_beta_binomial(k, 10.0, np.float64(0.8), np.float64(0.0))
    assert none == pytest.approx(binom.logpmf(k, 10, 0.8))


def test_waiting_seed_is_not_dead():
    # 3 of 10 up when only 30 % could be up yet says little against the lot
    early = b.fit(prior(), counts([0], 0.5, 10, 3, ceiling=0.3))
    late = b.fit(prior(), counts([0], 0.5, 10, 3, ceiling=1.0))
    at = np.array([[0.5]])
    assert wo.quantiles(early, at, (0.5,))[0, 0, 0] > wo.quantiles(late, at, (0.5,))[0, 0, 0] + 0.15


def test_date_of_fall_is_where_the_chance_is_met():
    fitted = b.fit(prior(2), counts([0], 0.4, 20, 18))
    a = wo.ageing_until(fitted, 0.7, 0.5)
    assert wo.chance_below(fitted, a[:, None], 0.7)[:, 0] == pytest.approx([0.5, 0.5], abs=1e-6)
    median = wo.quantiles(fitted, a[:, None], (0.5,))[:, 0, 0]
    assert median == pytest.approx([0.7, 0.7], abs=0.002)
    assert wo.ageing_until(fitted, 0.99, 0.5) == pytest.approx([0, 0])  # more than ever could grow


def test_the_share_that_could_grow_is_learnt():
    """Duds differ from lot to lot: a kind of which three in four grow may still give 38 of 40."""
    fresh = prior(living=0.75)
    low, middle, high = wo.quantiles(
        b.fit(fresh, counts([0], 0.0, 40, 38)), np.zeros((1, 1)), (0.1, 0.5, 0.9)
    )[0, 0]
    assert low > 0.75
    assert 0.82 < middle < 0.92 < 0.95 > high
    poor = wo.quantiles(b.fit(fresh, counts([0], 0.0, 40, 20)), np.zeros((1, 1)), (0.5,))[0, 0, 0]
    assert 0.5 < poor < 0.65


def test_one_test_removes_most_of_the_doubt_of_a_book_figure():
    """The claim of docs/model.md, section 6: one test removes half to two thirds of the doubt."""
    wide = prior(ki=1.7, ki_sd=0.35, d_sd=0.34)
    at = np.array([[1.0]])

    def width(belief):
        low, high = wo.quantiles(belief, at, (0.1, 0.9))[0, 0]
        return high - low

    before = width(b.fit(wide, b.Counts.none()))
    after = [width(b.fit(wide, counts([0], 1.0, n, round(0.75 * n)))) for n in (10, 20, 50, 400)]
    assert after == sorted(after, reverse=True)
    assert 0.25 < after[1] / before < 0.6
    assert after[3] / before < 0.3


def test_all_cohorts_at_once_equal_each_alone():
    rng = np.random.default_rng(2)
    rows = 6
    p = b.Prior(
        rng.uniform(1, 2.4, rows), rng.uniform(0.2, 0.6, rows), np.zeros(rows),
        rng.uniform(0.1, 0.5, rows), rng.uniform(0.7, 0.99, rows), np.full(rows, 0.5),
        np.full(rows, 0.05),
    )  # fmt: skip
    data = counts(list(range(rows)), rng.uniform(0.1, 2, rows), 20, rng.integers(0, 20, rows))
    together = wo.quantiles(b.fit(p, data), np.full((rows, 1), 1.2), (0.1, 0.5, 0.9))
    for i in range(rows):
        one = b.Prior(
            *(
                x[i : i + 1]
                for x in (p.ki_mean, p.ki_sd, p.d_mean, p.d_sd, p.living, p.living_sd, p.dud)
            )
        )
        mine = counts([0], data.a[i], 20, data.k[i])
        alone = wo.quantiles(b.fit(one, mine), np.array([[1.2]]), (0.1, 0.5, 0.9))
        assert alone[0, 0] == pytest.approx(together[i, 0], abs=1e-12)


def test_weight_and_overdispersion_only_ever_soften_a_test():
    at = np.array([[0.8]])

    def mid(**how):
        return wo.quantiles(b.fit(prior(), counts([0], 0.8, 20, 4, **how)), at, (0.5,))[0, 0, 0]

    assert mid() < mid(rho=0.2) < mid(rho=0.2, weight=0.5) < mid(weight=0.0)
    untested = wo.quantiles(b.fit(prior(), b.Counts.none()), at, (0.5,))[0, 0, 0]
    assert mid(weight=0.0) == pytest.approx(untested, abs=5e-4)


def test_a_record_hardly_begun_takes_the_doubt_of_the_years_ahead():
    f = FIGURES.belief
    assert b.doubt_of_record(0.1, 0.3, 0, f) == pytest.approx(0.3)
    assert b.doubt_of_record(0.1, 0.3, 30, f) == pytest.approx(0.1 + 0.2 / np.e)
    assert b.doubt_of_record(0.4, 0.3, 5, f) == 0.4
    days = np.linspace(0, 400, 801)
    doubt = np.array([b.doubt_of_record(0.18, 0.31, d, f) for d in days])
    assert np.all(np.diff(doubt) < 0)
    assert np.abs(np.diff(doubt)).max() < 0.003  # no jump overnight


def test_damage_keeps_mean_and_variance_and_adds_its_own():
    fitted = b.fit(prior(), counts([0], 0.8, 20, 11))
    after = shocks.after_shock(fitted, 0.3, 0.4)
    assert after.ki_mean[0] == pytest.approx(fitted.ki.mean() - 0.3)
    assert after.ki_sd[0] == pytest.approx(np.hypot(fitted.ki.std(), 0.4))
    assert after.d_mean[0] == pytest.approx(fitted.d.mean())
    assert after.d_sd[0] == pytest.approx(fitted.d.std())
    again = b.fit(after, b.Counts.none())
    assert logit(again.living).std() == pytest.approx(logit(fitted.living).std(), rel=0.01)


def test_seed_of_unknown_year_or_with_a_past_sets_out_worse_and_wider():
    f = FIGURES.belief
    assert b.quality("bought", None, None, f) == (f.ki_mean_bought, f.ki_sd_bought)
    mean, sd = b.quality("unknown", 4, None, f)
    assert (mean, sd) == pytest.approx((1.4 - 4 * 0.15, 0.5 + 4 * 0.15))
    assert b.quality("unknown", 0.2, None, f) == b.quality("unknown", 1, None, f)
    mean, sd = b.quality("own", None, (0.3, 0.4), f)
    assert (mean, sd) == pytest.approx((f.ki_mean_own - 0.3, np.hypot(f.ki_sd_own, 0.4)))


def test_a_share_that_can_grow_stands_at_the_known_probit_and_has_a_cap():
    f = FIGURES.belief
    low = b.living_share(60.0, f)
    assert low * ndtr(f.typical_at_probit) == pytest.approx(0.60)
    assert b.living_share(100.0, f) == f.living_at_most < 1


def test_each_test_teaches_the_stretch_between_two_damages_in_which_its_day_lies():
    when = np.array([5.0, 10.0, 15.0, 20.0, 1.0])
    data = counts([0] * 5, [0.1, 0.2, 0.3, 0.4, 0.05], 20, [18, 12, 11, 9, 17])
    by_row = {0: [shocks.Shock(10.0, 0.3, 0.4), shocks.Shock(20.0, 0.2, 0.3)]}
    got = shocks.shaken(prior(2), data, when, by_row)
    first = b.fit(prior(), data.of(when < 10))
    second = b.fit(shocks.after_shock(first, 0.3, 0.4), data.of((when >= 10) & (when < 20)))
    third = b.fit(shocks.after_shock(second, 0.2, 0.3), data.of(when >= 20))
    assert got.ki[0] == pytest.approx(third.ki[0])
    assert got.d[0] == pytest.approx(third.d[0])
    assert got.ki[1] == pytest.approx(b.fit(prior(), b.Counts.none()).ki[0])


def test_only_events_that_hurt_are_damage():
    f = FIGURES.belief
    assert shocks.shock_of("mould", 7.0, f) == shocks.Shock(
        7.0, f.shock_mean_mould, f.shock_sd_mould
    )
    assert shocks.shock_of("moved", 7.0, f) is None


def test_many_dates_are_drawn_between_knots_near_enough():
    fitted = b.fit(prior(2, ki_sd=0.8), counts([0], 0.4, 20, 18))
    a = np.vstack([np.linspace(0, 6, 200), np.linspace(0.5, 2, 200)])
    q = (0.1, 0.5, 0.9)
    assert wo.quantile_curve(fitted, a, q) == pytest.approx(wo.quantiles(fitted, a, q), abs=0.015)
