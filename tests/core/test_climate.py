"""Filling in between readings: exact at a reading, local, falling back to the usual curve."""

from dataclasses import replace

import numpy as np
import pytest

from brisk_larder.core.storage import climate as c
from brisk_larder.core.storage import dials
from brisk_larder.core.storage import moisture as m

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
    offset_c, _, times = dials.offset_ahead(
        b, readings(days, warm, np.full(len(days), np.nan)), 365 * DAY, 35
    )
    assert 2.5 < offset_c < 3.0
    assert times == 0.0  # of humidity nothing was read
    one, _, once = dials.offset_ahead(
        b,
        readings([300.5], [LARDER.temperature_c(np.array([300.5 * DAY]))[0] + 3], [0.6]),
        365 * DAY,
        35,
    )
    assert one == pytest.approx(1.5, abs=0.05)
    assert once == 1.0


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


def test_a_day_is_read_by_the_hour_from_six_readings_on():
    at = lambda day, n: [day * DAY + 3600 * i for i in range(n)]  # noqa: E731
    assert c.hourly_days(np.array([*at(3, 6), *at(7, 5), *at(9, 24)])) == {3, 9}


def test_panels_of_the_future_are_even_and_reach_as_far_as_asked():
    p = c.future_panels(1000.0, 2.0)
    assert len(p.hours) == 74  # 730.5 days in steps of ten
    assert set(p.hours) == {240.0}
    assert set(np.diff(p.start_s)) == {10 * DAY}
    assert p.start_s[0] == 1000
    assert len(c.future_panels(0.0, 2.0, 30.0).hours) == 25


def test_a_base_is_looked_up_where_it_holds_each_middle():
    b = base(30)
    hours = c.panels(2 * DAY, 4 * DAY, {2})
    got = c.resample(b, hours)
    assert got.temperature_c[:24] == pytest.approx(b.temperature_c[2])
    assert got.temperature_c[24] == b.temperature_c[3]
    assert set(got.swing_sd_c[:24]) == {0.4}  # half of a day's swing is left inside an hour
    assert got.swing_sd_c[24] == 0.8
    assert set(c.resample(got, hours).swing_sd_c[:24]) == {0.4}  # of an hour all that it had
    far = c.resample(b, c.panels(100 * DAY, 101 * DAY, set()))
    assert far.temperature_c[0] == b.temperature_c[-1]
    assert c.resample(b, c.panels(-9 * DAY, -8 * DAY, set())).temperature_c[0] == b.temperature_c[0]


def test_readings_beyond_the_panels_still_bridge_and_each_gap_is_named_by_the_reading_before():
    b = c.usual(LARDER, c.panels(100 * DAY, 140 * DAY, set()))
    got = c.fill(b, readings([96.5, 110.5, 145.5], [20, 15, 9], [0.6, 0.6, 0.7]), 35)
    lone = c.fill(b, readings([110.5], [15], [0.6]), 35)
    assert got.temperature_c[0] > lone.temperature_c[0] + 1  # drawn up by the one before
    assert got.temperature_c[-1] != pytest.approx(lone.temperature_c[-1], abs=0.1)
    assert set(got.gap[:10]) == {int(96.5 * DAY)}
    assert set(got.gap[11:]) == {int(110.5 * DAY)}
    # a humidity read alone begins a gap too
    nan = float("nan")
    both = c.fill(b, readings([105.5, 120.5], [15, nan], [nan, 0.7]), 35)
    assert (both.gap[3], both.gap[10], both.gap[30]) == (0, int(105.5 * DAY), int(120.5 * DAY))


def test_a_long_window_of_min_and_max_gives_up_what_the_season_did():
    b = base()
    r = readings([50.0, 60.0], [14, 14], [0.6, 0.6], [14, 6], [14, 16])
    got = c.fill(b, r, 35)
    inside = slice(50, 60)
    spread = 10 - np.ptp(b.temperature_c[inside]) - 3 * 1.2
    assert got.swing_sd_c[inside] == pytest.approx(np.clip(spread / c.SINE_RANGE_PER_SD, 0.4, 1.6))
    assert got.swing_sd_c[60] == pytest.approx(0.8)  # the window ends as that day begins
    # two days and no longer: the whole range is the day's own
    short = c.fill(b, readings([50.0, 52.0], [14, 14], [0.6, 0.6], [14, 12], [14, 15]), 35)
    assert short.swing_sd_c[50] == pytest.approx(3 / c.SINE_RANGE_PER_SD)


def test_a_learned_offset_counts_a_memory_once_and_humidity_too():
    b = base()
    warm = LARDER.temperature_c(np.array([300.5, 301.5, 302.5]) * DAY) + 3
    three = dials.offset_ahead(
        b, readings([300.5, 301.5, 302.5], warm, [0.9, 0.9, 0.9]), 365 * DAY, 35
    )
    one = dials.offset_ahead(b, readings([301.5], warm[1:2], [0.9]), 365 * DAY, 35)
    assert three == pytest.approx(one, abs=0.01)  # three days running say no more than one
    damp = m.erh25(np.array([0.9]), warm[1:2])[0] - b.erh25[301]
    assert one[1] == pytest.approx(damp / 2)
    old = readings([5.5], [30.0], [0.9])
    assert dials.offset_ahead(b, old, 380 * DAY, 35) == (0.0, 0.0, 0.0)  # more than a year ago
    nothing = readings([300.5], [float("nan")], [float("nan")])
    assert dials.offset_ahead(b, nothing, 365 * DAY, 35) == (0.0, 0.0, 0.0)


def test_in_balance_with_the_first_year_and_damped_by_the_wall():
    b = base(800)
    inside, _ = c.lagged(b, 1e9)
    assert inside.erh25 == pytest.approx(b.erh25[:366].mean(), abs=1e-3)
    at20 = c.usual(replace(LARDER, mean_c=20.0, amplitude_c=0.0), b.panels)
    assert c.lagged(at20, 90.0)[0].sd_erh == pytest.approx(at20.sd_erh / 2)
    # in the cool moisture passes slower, as the vapour pressure is
    cool = c.usual(replace(LARDER, mean_c=5.0, amplitude_c=0.0), b.panels)
    slow = 90.0 * 2339 / 873  # Pa, of the steam tables
    assert c.lagged(cool, 90.0)[0].sd_erh[0] / cool.sd_erh[0] == pytest.approx(
        np.sqrt(30 / (30 + slow)), rel=5e-3
    )
    assert c.lagged(b, 1e9, 0.2)[0].erh25[0] == pytest.approx(0.2)
    empty = b.slice(0, 0)
    assert c.lagged(empty, 5.0)[0] is empty


def test_clip_leaves_out_what_lies_outside():
    b = base(20)
    assert c.clip(b, 5 * DAY, 7 * DAY).panels.start_s.tolist() == [5 * DAY, 6 * DAY]
    assert not len(c.clip(b, 30 * DAY, 40 * DAY).panels.hours)
    assert c.clip(b, -5 * DAY, 1.5 * DAY).panels.hours == pytest.approx([24, 12])
    assert c.clip(b, 4.5 * DAY, 5 * DAY).temperature_c[0] == b.temperature_c[4]


def test_what_a_reading_taught_fades_and_never_leaves_from_one_day_to_the_next():
    """Eleven readings of one year, far off the curve: over the next the offset goes down in small steps."""
    b = base(800)
    days = np.arange(20.0, 360.0, 34.0)
    warm = np.array([float(b.temperature_c[int(d)]) + 9.0 for d in days])
    told = readings(days, warm, np.full(len(days), np.nan))
    offsets = [dials.offset_ahead(b, told, (361 + i) * DAY, 35)[0] for i in range(400)]
    steps = np.abs(np.diff(offsets))
    assert offsets[0] > 7.0
    assert offsets[-1] == 0.0
    assert steps.max() < 0.15  # one reading of eleven, at once, was most of a degree at the end


def test_how_a_house_departs_for_good_is_read_and_doubted_where_nobody_read():
    """Against a Gaussian process conditioned by plain matrices on the two readings around each panel."""
    far, share, known = 1.45, 0.6, 365.0
    b = c.usual(LARDER, c.panels(0, 700 * DAY, set()), far)
    days = np.array([100.5, 160.5, 420.5])
    warm = LARDER.temperature_c(days * DAY) + np.array([2.0, 1.0, -1.0])
    got = c.fill(
        b, readings(days, warm, np.full(3, 0.6)), 35, error=(0.7, 0.04), lasting=(share, known)
    )

    def together(x, y):
        apart = np.abs(np.subtract.outer(x, y))
        return share * np.exp(-apart / known) + (1 - share) * np.exp(-apart / 35)

    for day in (20, 105, 130, 200, 333, 650):
        at = np.array([day + 0.5])
        near = [
            i
            for i in (np.searchsorted(days, at[0]) - 1, np.searchsorted(days, at[0]))
            if 0 <= i < 3
        ]
        weights = np.linalg.solve(together(days[near], days[near]), together(days[near], at))[:, 0]
        departs = weights @ np.array([2.0, 1.0, -1.0])[near]
        var = LARDER.anomaly_sd_c**2 * (1 - weights @ together(days[near], at)[:, 0])
        var += 0.7**2 * (weights**2).sum()
        assert got.temperature_c[day] - b.temperature_c[day] == pytest.approx(departs, abs=1e-9)
        assert got.sd_c[day] == pytest.approx(np.sqrt(var), rel=1e-9)
    assert np.all(b.times == far)
    assert got.times[100] == pytest.approx(1.0)
    assert np.all(np.diff(got.times[421:]) > 0)  # the longer ago, the less is known
    assert 1.2 < got.times[-1] < far
    dry = readings(days, warm, np.full(3, np.nan))
    assert np.all(c.fill(b, dry, 35, lasting=(share, known)).times == far)  # nobody read the damp
    ahead = dials.shifted(b, 1.0, 0.0, 3.0)
    assert ahead.times**2 - 1 == pytest.approx((far**2 - 1) / 4)
    assert c.resample(got, b.panels).times == pytest.approx(got.times)
    assert c.clip(got, 10 * DAY, 20 * DAY).times == pytest.approx(got.times[10:20])
