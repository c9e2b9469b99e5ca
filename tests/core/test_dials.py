"""A dial read now and then: its hour, its error, and whether the stated doubt holds the simulated truth."""

import numpy as np
import pytest

from brisk_larder.core.seed import ageing as a
from brisk_larder.core.storage import climate as c
from brisk_larder.core.storage import dials
from brisk_larder.core.storage import moisture as m
from tests.core.book import CLASSES, FIGURES, ix

DAY = 86_400
LARDER = c.PlaceCurve(12.5, 4.5, 225, 1.6, 0.60, 0.05, 225, 1.2, 0.05, 35)
F = FIGURES.places


def at_hours(hours, temperature, low=None, high=None):
    n = len(hours)
    nan = np.full(n, np.nan)
    return c.Readings(
        (np.array(hours) * 3600).astype(np.int64), np.array(temperature, float), np.full(n, 0.6),
        nan if low is None else np.array(low, float), nan if high is None else np.array(high, float),
    )  # fmt: skip


def test_the_hour_of_a_dial_is_taken_off_and_least_and_most_go_before_it():
    base = c.usual(LARDER, c.panels(0, 40 * DAY, {20}))
    height = np.sqrt(2) * 1.6
    got = dials.as_day_means(
        base, at_hours([24 * 5 + 15, 24 * 12 + 3, 24 * 13 + 9], [20, 20, 20]), 0.0
    )
    assert got.temperature_c == pytest.approx([20 - height, 20 + height, 20])
    # two hours east of Greenwich the sun is there two hours sooner
    assert dials.as_day_means(
        base, at_hours([24 * 5 + 13], [20]), 2.0
    ).temperature_c == pytest.approx([20 - height])
    both = at_hours([24 * 5, 24 * 6 + 15], [20, 24], [14, 15], [20, 27])
    assert dials.as_day_means(base, both, 0.0).temperature_c == pytest.approx([17, 21])
    late = at_hours(
        [24 * 5, 24 * 7 + 15], [20, 24], [14, 15], [20, 27]
    )  # over two days: the hour it is
    assert dials.as_day_means(base, late, 0.0).temperature_c[1] == pytest.approx(24 - height)
    logged = at_hours([24 * 20 + h for h in range(8)], np.arange(8.0))
    assert np.array_equal(dials.as_day_means(base, logged, 0.0).temperature_c, logged.temperature_c)


def test_a_reading_with_an_error_is_not_known_for_sure():
    base = c.usual(LARDER, c.panels(0, 40 * DAY, set()))
    r = at_hours([24 * 10 + 12, 24 * 24 + 12], [15, 13])
    sure, told = c.fill(base, r, 35), c.fill(base, r, 35, error=(0.7, 0.04))
    assert sure.sd_c[10] == pytest.approx(0, abs=1e-6)
    assert told.sd_c[10] == pytest.approx(0.7, abs=0.01)
    assert told.sd_c[17] ** 2 - sure.sd_c[17] ** 2 == pytest.approx(2 * 0.49 * 0.25, rel=0.1)
    assert np.array_equal(sure.temperature_c, told.temperature_c)


def one_year(rng, curve, hour, every, key, days=365):
    """A place simulated by the hour, seed in it aged, and the same told by a dial read at one hour."""
    hours = np.arange(days * 24)
    keep = np.exp(-1 / curve.memory_days)

    def departures(sd):
        x = np.empty(days)
        x[0] = rng.normal(0, sd)
        for i in range(1, days):
            x[i] = keep * x[i - 1] + rng.normal(0, sd * np.sqrt(1 - keep**2))
        for_good = rng.uniform(0.3, 0.9)
        x = np.sqrt(1 - for_good) * x + np.sqrt(for_good) * rng.normal(0, sd)
        return np.interp(hours / 24, np.arange(days) + 0.5, x)

    swing = np.repeat(curve.swing_sd_c * np.sqrt(2) * rng.lognormal(0, 0.3, days), 24)
    mean_c = curve.temperature_c(hours * 3600.0) + departures(curve.anomaly_sd_c)
    t = mean_c + swing * np.cos((hours % 24 - dials.PEAK_HOUR) * np.pi / 12)
    rh = np.clip(curve.erh(hours * 3600.0) + departures(curve.anomaly_sd_erh), 0.1, 0.95)
    panels = c.Panels(hours * 3600, np.ones(len(hours)))
    zero, none = np.zeros(len(hours)), np.zeros(len(hours), dtype=np.int64)
    truth = c.Climate(panels, t, m.erh25(rh, mean_c), zero, zero, zero, none.astype(np.int8), none)
    seen = np.arange(3, days, every) * 24 + hour
    bias_c, bias_rh = rng.normal(0, 0.4), rng.normal(0, 0.02)
    dial = c.Readings(
        seen * 3600,
        t[seen] + bias_c + rng.normal(0, 0.5, len(seen)),
        np.clip(rh[seen] + bias_rh + rng.normal(0, 0.03, len(seen)), 0.02, 0.98),
        *np.full((2, len(seen)), np.nan),
    )
    base = c.usual(curve, c.panels(0, days * DAY, set()))
    told = c.fill(
        base,
        dials.as_day_means(base, dial, 0.0),
        curve.memory_days,
        error=(F.dial_error_c, F.dial_error_erh),
        lasting=(F.house_lasting_share, F.house_known_days),
    )
    start, tau = a.fresh_state(np.array([0.55]), np.array([0.0])), np.array([3.0])
    true, ours = (a.integrate(start, CLASSES, ix(key), x, tau) for x in (truth, told))
    own = a.doubt_of_instrument(CLASSES, ix(key), ours.state, F)
    doubt = np.hypot(ours.state.sd_log10_a[0], own[0])
    return np.log10(ours.a_probit[0, -1] / true.a_probit[0, -1]), doubt


@pytest.mark.parametrize(
    ("hour", "every", "key"), [(8, 7, "onion"), (15, 7, "carrot"), (20, 7, "tomato")]
)
def test_the_stated_doubt_of_a_dial_holds_the_truth_eight_times_in_ten(hour, every, key):
    rng = np.random.default_rng(hour)
    off, doubt = np.array([one_year(rng, LARDER, hour, every, key) for _ in range(150)]).T
    assert np.mean(np.abs(off) < 1.2816 * doubt) == pytest.approx(0.80, abs=0.06)
    assert abs(off.mean()) < 0.03  # and on average it is right
