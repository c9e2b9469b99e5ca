"""Looking back at forecasts: of households that are told the truth, too much or too little."""

import numpy as np
import pytest
from scipy.special import expit, logit, ndtr
from scipy.stats import betabinom

from brisk_larder.core.seed import calibration as c

RHO = 0.02


def told(n, wide=1.0, shift=0.0, seeds=15, seed=3):
    """Forecasts of germination whose truth is drawn from them, or from ones ``wide`` times as doubtful."""
    rng = np.random.default_rng(seed)
    middle, sd = rng.normal(0.8, 0.5, n), rng.uniform(0.2, 0.6, n)
    truth = np.clip(ndtr(middle + shift + wide * sd * rng.normal(size=n)), 1e-6, 1 - 1e-6)
    size = (1 - RHO) / RHO
    k = betabinom.rvs(seeds, truth * size, (1 - truth) * size, random_state=rng)
    quantiles = ndtr(middle[:, None] + sd[:, None] * np.array([-1.2816, 0.0, 1.2816]))
    full = np.full(n, float(seeds))
    return c.Forecasts(quantiles, full, k.astype(float), np.full(n, RHO), np.full(n, 0.9))


@pytest.mark.parametrize("seeds", [4, 15, 50])
def test_a_true_forecast_holds_four_times_in_five_whatever_the_size_of_its_test(seeds):
    got = c.record(told(3000, seeds=seeds))
    assert got.held == pytest.approx(0.8, abs=0.02)
    assert got.verdict == "kept"
    assert got.bias == pytest.approx(0.0, abs=0.01)
    assert got.off == pytest.approx(got.chance_off, abs=0.01)


def test_forecasts_too_sure_too_careful_or_too_rosy_are_told_so():
    assert c.record(told(400, wide=2.5)).verdict == "too_sure"
    assert c.record(told(400, wide=0.1)).verdict == "too_careful"
    rosy = c.record(told(400, shift=-0.8))
    assert rosy.bias < -0.1
    assert rosy.verdict == "too_sure"
    assert rosy.off > rosy.chance_off + 0.03
    few = c.record(told(4, wide=9.0))
    assert few.verdict == "few"
    assert few.low < 0.45


def test_bands_of_chance_narrow_with_tests_and_groups_stand_by_size():
    some, many = c.record(told(20)), c.record(told(500))
    assert many.high - many.low < some.high - some.low
    forecasts = told(9)
    names = ["kale"] * 5 + ["leek"] * 3 + ["rue"]
    found = c.groups(names, forecasts)
    assert [(n, r.tests) for n, r in found] == [("kale", 5), ("leek", 3)]
    assert found[0][1].off == pytest.approx(
        np.abs(forecasts.k[:5] / 15 - forecasts.quantiles[:5, 1]).mean()
    )
    with pytest.raises(ValueError, match="no forecast"):
        c.record(forecasts.of(np.zeros(9, dtype=bool)))


def test_what_tests_of_young_seed_say_of_a_kind_holds_as_often_as_it_should():
    rng, held = np.random.default_rng(8), 0
    for _ in range(400):
        share = expit(logit(0.7) + 0.5 * rng.normal(size=6))
        n = rng.choice([10, 20, 40], 6)
        size = (1 - RHO) / RHO
        k = rng.binomial(n, rng.beta(share * size, (1 - share) * size))
        mean, sd = c.own_new_seed(k.astype(float), n.astype(float), 0.5, RHO)
        held += abs(mean - expit(logit(0.7) + 0.5 * rng.normal(size=20_000)).mean()) < 1.2816 * sd
    assert 0.74 <= held / 400 <= 0.88
    assert c.own_new_seed(np.full(4, 9.0), np.full(4, 10.0), 0.5, RHO)[0] == pytest.approx(0.9)
