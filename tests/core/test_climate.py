"""Filling in between readings: exact at a reading, local, falling back to the usual curve."""

import numpy as np
import pytest

from brisk_larder.core import climate as c
from brisk_larder.core import moisture as m

DAY = 86_400
LARDER = c.PlaceCurve(12.5, 4.5, 225, 0.8, 0.64, 0.06, 225, 1.2, 0.06, 35)


def readings(days, temperature, erh, low=None, high=None):
    n = len(days)
    nan = np.full(n, np.nan)
    return c.Readings(
        (np.array(days) * DAY).astype(np.int64), np.array(temperature, float), np.array(erh, float),
        nan if low is None else np.array(low, float), nan if high is None else np.array(high, float),
    )  # fmt: skip


def base(days=400):
    return c.usual(LARDER, c.panels(0, days * DAY, set()))


def test_curve_peaks_on_its_day():
    days = np.arange(365) * float(DAY)
    t = LARDER.temperature_c(days)
    assert t.max() == pytest.approx(17.0, abs=0.01)
    assert abs(int(t.argmax()) + 1 - 225) <= 1


def test_exact_at_a_reading_and_back_to_the_curve_in_the_gap():
    b = base()
    got = c.fill(b, readings([50.5, 300.5], [20.0, 8.0], [0.5, 0.7]), 35)
    assert got.temperature_c[50] == pytest.approx(20.0)
    assert got.sd_c[50] == pytest.approx(0.0, abs=1e-6)
    far = 175
    assert got.temperature_c[far] == pytest.approx(b.temperature_c[far], abs=0.6)
    assert got.sd_c[far] == pytest.approx(1.2, abs=0.03)
    assert got.source[far] == c.USUAL
    assert got.source[60] == c.BRIDGED
    assert m.erh_at(got.erh25[50], 20.0) == pytest.approx(0.5, abs=1e-6)


def test_the_bridge_is_the_conditional_gaussian():
    """Against the conditional mean and variance of the same process by linear algebra."""
    s, mem = 1.2, 35.0
    ti, tj, t = 10.0, 31.0, 18.5
    x = np.array([2.0, -1.0])
    cov = lambda p, q: s**2 * np.exp(-np.abs(np.subtract.outer(p, q)) / mem)  # noqa: E731
    known = np.array([ti, tj])
    weight = np.linalg.solve(cov(known, known), cov(known, np.array([t])))[:, 0]
    mean = weight @ x
    var = s**2 - weight @ cov(known, np.array([t]))[:, 0]
    got_mean, got_sd, _ = c._bridge(
        np.array([t]) * DAY, (known * DAY).astype(np.int64), x, np.array([s]), mem
    )
    assert got_mean[0] == pytest.approx(mean)
    assert got_sd[0] == pytest.approx(np.sqrt(var))


def test_a_new_reading_changes_nothing_before_the_one_before_it():
    b = base()
    old = c.fill(b, readings([50.5, 120.5], [15, 12], [0.6, 0.6]), 35)
    new = c.fill(b, readings([50.5, 120.5, 160.5], [15, 12, 19], [0.6, 0.6, 0.8]), 35)
    assert np.array_equal(old.temperature_c[:120], new.temperature_c[:120])
    assert np.array_equal(old.gap[:120], new.gap[:120])
    assert not np.array_equal(old.temperature_c[125:], new.temperature_c[125:])


def test_hourly_days_get_hour_panels_with_what_was_read():
    at = (np.arange(48) * 3600 + 1800 + 10 * DAY).astype(np.int64)
    nan = np.full(48, np.nan)
    logged = c.Readings(at, np.linspace(5, 28, 48), np.full(48, 0.5), nan, nan)
    p = c.panels(0, 20 * DAY, c.hourly_days(at))
    assert len(p.hours) == 18 + 48
    got = c.fill(c.usual(LARDER, p), logged, 35)
    hourly = p.hours < 24
    assert got.temperature_c[hourly] == pytest.approx(np.linspace(5, 28, 48))
    assert set(got.source[hourly]) == {c.LOGGED}
    # of the day's swing little is left inside an hour whose mean was read; usually half of it
    assert got.swing_sd_c[hourly].max() <= 0.3
    assert set(c.usual(LARDER, p).swing_sd_c[hourly]) == {0.4}
    assert set(c.usual(LARDER, p).swing_sd_c[~hourly]) == {0.8}


def test_min_max_widens_the_swing_within_limits():
    got = c.fill(base(), readings([50.5, 51.5], [14, 14], [0.6, 0.6], [14, 9], [14, 20]), 35)
    assert got.swing_sd_c[51] == pytest.approx(1.6)  # 11 degC / 2.8 held at twice the usual 0.8
    assert got.swing_sd_c[80] == pytest.approx(0.8)


def test_an_offset_is_learned_for_the_future_only_and_shrunk():
    b = base()
    days = np.arange(5.5, 360, 30)
    warm = LARDER.temperature_c(days * DAY) + 3.0
    offset_c, _ = c.offset_ahead(b, readings(days, warm, np.full(len(days), np.nan)), 365 * DAY, 35)
    assert 2.5 < offset_c < 3.0
    one, _ = c.offset_ahead(
        b,
        readings([300.5], [LARDER.temperature_c(np.array([300.5 * DAY]))[0] + 3], [0.6]),
        365 * DAY,
        35,
    )
    assert one == pytest.approx(1.5, abs=0.05)


def test_a_container_lags_the_humidity_and_not_the_temperature():
    b = base(800)
    inside, end = c.lagged(b, 60.0)
    assert len(end) == 800
    assert np.array_equal(inside.temperature_c, b.temperature_c)
    assert np.ptp(inside.erh25[365:]) < 0.8 * np.ptp(b.erh25[365:])
    assert np.ptp(c.lagged(b, 2000.0)[0].erh25[365:]) < 0.1 * np.ptp(b.erh25[365:])


def test_clip_cuts_panels_at_the_edges_only():
    cut = c.clip(base(), 3.25 * DAY, 7.5 * DAY)
    assert cut.panels.hours == pytest.approx([18, 24, 24, 24, 12])
