"""The compiled loops against the same written out in plain Python, and cut at any border."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brisk_larder.core.seed import ageing as a
from brisk_larder.core.storage import climate as c
from brisk_larder.core.storage import dials
from brisk_larder.core.storage import moisture as m
from tests.core.book import CLASSES, ISO, KEYS, ix

DAY = 86_400


def random_air(rng, count=400):
    """A record with hours and days, gaps, doubt and swing."""
    hours = rng.choice([1.0, 24.0, 7.5], count)
    start = np.concatenate([[0], np.cumsum(hours * 3600)[:-1]]).astype(np.int64)
    return c.Climate(
        c.Panels(start, hours), rng.uniform(-18, 40, count), rng.uniform(0.1, 0.9, count),
        rng.uniform(0, 3, count), rng.uniform(0, 2, count), rng.uniform(0, 0.1, count),
        np.zeros(count, dtype=np.int8), np.sort(rng.integers(0, 9, count)), rng.uniform(1, 2, count),
    )  # fmt: skip


X, W = np.polynomial.hermite_e.hermegauss(60)


def mean_over_departure(ch, cq, t, sd):
    """Mean of the rate over a departure of which only the size is known, against the rate at t: by quadrature."""
    rate = lambda x: 10 ** (ch * x + cq * x**2)  # noqa: E731
    return (W * rate(t + sd * X)).sum() / W.sum() / rate(t)


def plainly(start, key, air, tau):
    """One lot, panel by panel, from the formulas of the papers."""
    k = int(ix(key)[0])
    grid = np.linspace(0, 1, m.GRID_POINTS)
    towards = m.balance(ISO, ix(key), air.erh25, air.temperature_c)[0]
    u, remain = float(start.erh25[0]), 1.0
    total, gaps = 0.0, {}
    for p, h in enumerate(air.panels.hours):
        t = air.temperature_c[p]
        wall = tau / m.vapour_pace(t)
        q = np.exp(-h / 24 / wall)
        mean = towards[p] + (u - towards[p]) * (1 - q) * wall * 24 / h
        u = towards[p] + (u - towards[p]) * q
        rate = a.rate_per_day(
            CLASSES, ix(key), np.array([mean]), air.temperature_c[p], air.swing_sd_c[p]
        )[0]
        remain *= q
        i = min(int(np.clip(mean, 0, 1) * (m.GRID_POINTS - 1)), m.GRID_POINTS - 2)
        slope = (ISO.log10_mc_fwb[k, i + 1] - ISO.log10_mc_fwb[k, i]) / (grid[i + 1] - grid[i])
        by_air, by_start = air.sd_erh[p] * (1 - remain), start.start_sd[0] * remain
        damp = CLASSES.cw[k] * slope * np.hypot(air.far[p] * by_air, by_start)
        by_heat = mean_over_departure(CLASSES.ch[k], CLASSES.cq[k], t, air.sd_c[p])
        by_damp = np.exp(
            0.5 * (np.log(10) * CLASSES.cw[k] * slope * air.sd_erh[p] * (1 - remain)) ** 2
        )
        gain = rate * h / 24 * by_heat * by_damp
        total += gain
        warm = (CLASSES.ch[k] + 2 * CLASSES.cq[k] * air.temperature_c[p]) * air.sd_c[p]
        gaps[air.gap[p]] = gaps.get(air.gap[p], 0.0) + gain * np.hypot(air.far[p] * warm, damp)
    return u, total, np.sqrt(sum(g**2 for g in gaps.values()))


@settings(max_examples=12)
@given(st.integers(0, 10_000), st.floats(0.6, 3000), st.sampled_from(KEYS))
def test_the_loop_does_what_the_formulas_say(seed, tau, key):
    air = random_air(np.random.default_rng(seed))
    start = a.fresh_state(np.array([0.42]), np.array([0.1]))
    done = a.carry(start, CLASSES, ix(key), air, np.array([tau])).state
    u, total, doubt = plainly(start, key, air, tau)
    assert done.erh25[0] == pytest.approx(u, rel=1e-9)
    assert done.a_probit[0] == pytest.approx(total, rel=1e-9)
    assert done.sd_log10_a[0] * total == pytest.approx(doubt, rel=1e-6)


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.floats(1, 2000), st.sampled_from(KEYS))
def test_what_a_slower_wall_would_change_is_what_it_does_change(seed, tau, key):
    """Against carrying the same seed behind walls a thousandth slower and faster."""
    air = random_air(np.random.default_rng(seed))
    sure = replace(air, sd_erh=np.zeros(400), sd_c=np.zeros(400))
    begun, sd, step = a.fresh_state(np.array([0.42]), np.array([0.0])), 0.8, 1e-3

    def behind(times, doubt=0.0):
        walls = np.array([tau * times])
        return a.carry(begun, CLASSES, ix(key), sure, walls, wall_sd=np.array([doubt])).state

    got, slow, fast = behind(1.0, sd), behind(np.exp(step)), behind(np.exp(-step))
    by_erh = (slow.erh25[0] - fast.erh25[0]) / (2 * step) * sd
    by_a = (slow.a_probit[0] - fast.a_probit[0]) / (2 * step) * sd / np.log(10)
    assert got.wall_erh[0] == pytest.approx(by_erh, rel=1e-3, abs=1e-6)
    # the slope of the isotherm is taken panel by panel of its table
    assert got.wall_a[0] == pytest.approx(by_a, rel=0.02, abs=2e-3 * got.a_probit[0])
    assert got.a_probit[0] == behind(1.0).a_probit[0]
    assert got.sd_log10_a[0] == pytest.approx(abs(got.wall_a[0]) / got.a_probit[0])


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.lists(st.integers(1, 399), max_size=6))
def test_a_record_cut_anywhere_gives_the_same_bits_and_stops_note_them(seed, cuts):
    rng = np.random.default_rng(seed)
    air = random_air(rng)
    kinds = ix(*rng.choice(KEYS, 3))
    tau = rng.uniform(0.6, 900, 3)
    start = a.fresh_state(np.array([0.2, 0.5, 0.8]), np.full(3, 0.05))
    doubt = rng.uniform(0, 1, 3)
    stop = np.zeros(400, dtype=bool)
    stop[[x - 1 for x in cuts]] = True
    whole = a.carry(start, CLASSES, kinds, air, tau, stop, wall_sd=doubt)
    state, at = start, 0
    for n, last in enumerate([*sorted(set(cuts)), 400]):
        state = a.carry(state, CLASSES, kinds, air.slice(at, last), tau, wall_sd=doubt).state
        at = last
        if last < 400:
            noted = whole.stops[n]
            assert np.array_equal(noted.a_probit, state.a_probit)
            assert np.array_equal(noted.erh25, state.erh25)
    for name in a.AgeState.__dataclass_fields__:
        assert np.array_equal(getattr(whole.state, name), getattr(state, name)), name


@settings(max_examples=20)
@given(st.integers(0, 10_000), st.floats(0.1, 8), st.floats(0.01, 0.2))
def test_a_warmer_or_damper_record_never_lengthens_life(seed, warmer, damper):
    rng = np.random.default_rng(seed)
    air = random_air(rng)
    kinds = ix(*rng.choice(KEYS, 4))
    tau = rng.uniform(0.6, 900, 4)
    start = a.fresh_state(np.full(4, 0.4), np.full(4, 0.05))

    def aged(climate):
        return a.carry(start, CLASSES, kinds, climate, tau).state.a_probit

    assert np.all(aged(dials.shifted(air, 0.0, damper)) >= aged(air) - 1e-12)
    # warmer at the same dryness of the seed: shut in, moisture cannot follow
    shut = np.full(4, 1e7)
    now = a.carry(start, CLASSES, kinds, air, shut).state.a_probit
    hot = a.carry(start, CLASSES, kinds, dials.shifted(air, warmer, 0.0), shut).state.a_probit
    assert np.all(hot >= now)


def test_no_panel_at_all_changes_nothing():
    air = random_air(np.random.default_rng(1)).slice(0, 0)
    start = a.fresh_state(np.array([0.4]), np.array([0.1]), np.array([0.7]))
    done = a.carry(start, CLASSES, ix("pea"), air, np.array([9.0]), draw=True)
    assert done.state.a_probit[0] == 0.7
    assert done.path.a_probit.shape == (1, 0)


def test_time_constants_per_panel_are_those_given_one_by_one():
    rng = np.random.default_rng(3)
    air, hours = rng.uniform(0.2, 0.8, 60), np.full(60, 24.0)
    tau = rng.uniform(1, 90, 60)
    together = m.relax(np.array([0.3]), air, hours, tau[None, :]).end[0]
    u = 0.3
    for i in range(60):
        u = m.relax(np.array([u]), air[i : i + 1], hours[:1], tau[i : i + 1]).end[0, 0]
        assert together[i] == pytest.approx(u, rel=1e-12)
