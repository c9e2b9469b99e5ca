"""Isotherms against published tables and a grain equation; the lag against an ODE solver."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.storage import moisture as m
from tests.core.book import ISO, KEYS, REF, ix, seed_kind


def test_cromarty_matches_the_worked_examples():
    # rules.md section 3, worked by hand: wheat-like, oil 2 %
    assert m.equation_pct_fwb(0.02, 0.60, 25.0) == pytest.approx(12.5, abs=0.05)
    assert m.equation_pct_fwb(0.02, 0.15, 15.0) == pytest.approx(6.14, abs=0.3)


def test_cromarty_fits_the_observed_crops_to_a_point():
    errors = []
    for key, row in REF.isotherms.items():
        oil = REF.crops[key].seed_oil_pct_dry / 100
        rh = np.array(row.rh)
        kept = rh <= 0.75
        errors.extend(m.equation_pct_fwb(oil, rh[kept]) - np.array(row.mc_pct_fwb)[kept])
    assert np.sqrt(np.mean(np.square(errors))) < 1.2


@pytest.mark.parametrize("key", ["wheat", "bean_bush", "onion", "lettuce", "radish"])
def test_observed_points_are_met_exactly(key):
    row = REF.isotherms[key]
    inside = [(r, mc) for r, mc in zip(row.rh, row.mc_pct_fwb, strict=True) if 0.1 <= r <= 0.85]
    rh = np.array([[r for r, _ in inside]])
    got = m.moisture_pct_fwb(ISO, ix(key), rh)[0]
    assert got == pytest.approx([mc for _, mc in inside], abs=0.02)


def test_grain_agrees_with_the_modified_henderson_equation():
    # ASAE D245 (rules.md section 3): 25 degC, 60 % RH
    for key, published in {"wheat": 13.1, "barley": 11.7, "maize": 12.5, "soybean": 10.1}.items():
        got = m.moisture_pct_fwb(ISO, ix(key), np.array([0.60]))[0]
        assert got == pytest.approx(published, abs=0.9), key


@given(st.floats(0.12, 0.84), st.floats(-20, 40))
def test_erh25_goes_there_and_back(erh, temperature):
    assert m.erh_at(m.erh25(erh, temperature), temperature) == pytest.approx(erh, abs=1e-9)


def test_a_sealed_jar_keeps_its_moisture_when_it_cools():
    state = m.erh25(0.40, 20.0)
    shown_cold = float(m.erh_at(state, -18.0))
    assert shown_cold < 0.40  # cold seed of the same moisture shows a lower eRH
    # the clamp: below freezing the isotherm does not move further
    assert m.erh_at(state, -18.0) == pytest.approx(float(m.erh_at(state, 0.0)))


def test_balance_scales_the_dry_basis():
    # an observed isotherm at 20 degC is its 25 degC moisture (dry basis) times what warmth does to it
    air = m.erh25(np.array([0.5]), 20.0)
    state = m.balance(ISO, ix("lettuce"), air, np.array([20.0]))
    got = m.moisture_pct_fwb(ISO, ix("lettuce"), state)[0, 0]
    at25 = m.moisture_pct_fwb(ISO, ix("lettuce"), np.array([0.5]))[0]
    db = at25 / (1 - at25 / 100) * float(REF.warmth["lettuce"].ratio(20.0))
    assert got == pytest.approx(100 * db / (100 + db), abs=0.02)
    assert got == pytest.approx(REF.viability["lettuce"].mc_pct_at_20C_50RH, abs=0.15)


def test_moisture_content_is_read_back():
    for key in ("pea", "carrot", "sunflower"):
        mc = m.moisture_pct_fwb(ISO, ix(key), np.array([0.33]))[0]
        assert m.erh25_from_moisture(ISO, KEYS.index(key), mc) == pytest.approx(0.33, abs=1e-3)


@settings(deadline=None, max_examples=25)
@given(st.integers(0, 10_000), st.floats(0.3, 400.0))
def test_relax_agrees_with_an_ode_solver(seed, tau):
    rng = np.random.default_rng(seed)
    air = rng.uniform(0.1, 0.9, 40)
    hours = rng.choice([1.0, 5.0, 24.0, 240.0], 40)
    got = m.relax(np.array([0.35]), air, hours, np.array([tau]))
    state, ends, means = 0.35, [], []
    for a, h in zip(air, hours, strict=True):
        ode = solve_ivp(
            lambda t, y, a=a: [(a - y[0]) / tau, y[0]],
            (0, h / 24),
            [state, 0.0],
            rtol=1e-10,
            atol=1e-12,
            method="LSODA",
        )
        state = ode.y[0, -1]
        ends.append(state)
        means.append(ode.y[1, -1] / (h / 24))
    assert got.end[0] == pytest.approx(ends, abs=1e-6)
    assert got.mean[0] == pytest.approx(means, abs=1e-6)


def test_relax_is_the_same_in_two_parts():
    rng = np.random.default_rng(1)
    air, hours = rng.uniform(0.2, 0.8, 2000), np.full(2000, 24.0)
    start, tau = np.array([0.5, 0.5, 0.5]), np.array([0.5, 40.0, 9000.0])
    whole = m.relax(start, air, hours, tau)
    first = m.relax(start, air[:777], hours[:777], tau)
    second = m.relax(first.end[:, -1], air[777:], hours[777:], tau)
    assert np.allclose(whole.end[:, 777:], second.end, rtol=0, atol=1e-12)


def test_a_sealed_dry_lot_ignores_the_room():
    damp = m.relax(np.array([0.30]), np.full(365, 0.8), np.full(365, 24.0), np.array([10_000.0]))
    assert damp.end[0, -1] < 0.32


def test_walls_add_up_and_refuse_nonsense():
    one, two = m.wall_tau_days([(20, 173)]), m.wall_tau_days([(0.707, 6.32), (20, 173)])
    assert two - one == pytest.approx(np.sqrt(0.707 * 6.32))
    assert one == pytest.approx(np.sqrt(20 * 173) + 0.5)
    with pytest.raises(InvalidValue, match="low <= high"):
        m.wall_tau_days([(5, 2)])


# rms of the equation, and of our curve at a point left out of it: stated in docs/model.md
ERRORS = {
    "wheat": (0.62, 0.52),
    "bean_bush": (1.22, 0.13),
    "onion": (1.09, 0.15),
    "lettuce": (0.82, 0.18),
}


@pytest.mark.parametrize("key", ERRORS)
def test_published_isotherms_are_met_within_the_stated_error(key):
    row, oil = REF.isotherms[key], REF.crops[key].seed_oil_pct_dry / 100
    rh, mc = np.array(row.rh), np.array(row.mc_pct_fwb)
    left_out = []
    for i in range(1, len(rh) - 1):
        keep = np.arange(len(rh)) != i
        iso = m.build_isotherms([m.SeedKind(key, oil, tuple(rh[keep]), tuple(mc[keep]))])
        left_out.append(m.moisture_pct_fwb(iso, np.array([0]), rh[i : i + 1])[0] - mc[i])
    equation = m.equation_pct_fwb(oil, rh) - mc
    rms = [float(np.sqrt(np.mean(np.square(e)))) for e in (equation, left_out)]
    assert rms == pytest.approx(ERRORS[key], abs=0.006)


def test_sunflower_has_no_published_row_and_takes_the_equation():
    assert "sunflower" not in REF.isotherms
    iso = m.build_isotherms([seed_kind("sunflower")])
    oil = REF.crops["sunflower"].seed_oil_pct_dry / 100
    got = m.moisture_pct_fwb(iso, np.array([0]), np.array([0.6]))[0]
    assert got == pytest.approx(float(m.equation_pct_fwb(oil, 0.6)), abs=0.01)


@pytest.mark.parametrize(
    ("rh", "mc"),
    [((0.2, 0.2, 0.6), (5, 7, 9)), ((0.2, 0.4, 0.6), (5, 9, 8)), ((0.2, 0.4, 0.6), (5, 5, 8)),
     ((0.6, 0.4, 0.2), (5, 7, 9))],
)  # fmt: skip
def test_points_that_do_not_rise_are_no_isotherm(rh, mc):
    with pytest.raises(InvalidValue, match="both rise"):
        m.build_isotherms([m.SeedKind("x", 0.05, rh, mc)])


def test_beyond_what_was_observed_the_equation_is_drawn_to_meet_it():
    seed = m.SeedKind("x", 0.05, (0.3, 0.6), (8.0, 13.0))
    iso = m.build_isotherms([seed])
    at = lambda u: np.interp(u, np.linspace(0, 1, m.GRID_POINTS), iso.dry_basis[0])  # noqa: E731
    db = lambda fwb: 100 * fwb / (100 - fwb)  # noqa: E731
    assert at(0.3) == pytest.approx(db(8.0), rel=1e-3)
    assert at(0.6) == pytest.approx(db(13.0), rel=1e-3)
    for u, end in ((0.2, 0.3), (0.8, 0.6)):
        ratio = db(m.equation_pct_fwb(0.05, u)) / db(m.equation_pct_fwb(0.05, end))
        assert at(u) / at(end) == pytest.approx(ratio, rel=2e-3)


@pytest.mark.parametrize(
    ("temperature_c", "pa"),
    [(-18.0, 124.9), (-5.0, 401.8), (5.0, 872.6), (12.0, 1403.0), (20.0, 2339.0), (38.0, 6633.0)],
)
def test_moisture_passes_a_wall_as_the_vapour_pressure_drives_it(temperature_c, pa):
    # saturation pressures of the steam tables (over ice below zero)
    assert m.vapour_pace(temperature_c) == pytest.approx(pa / 2339.0, rel=0.01)


def test_the_doubt_of_walls_is_that_of_their_ranges():
    """Against walls drawn from log-normals that hold eight in ten within their range."""
    assert m.wall_sd([]) == 0.0
    assert m.wall_sd([(30.0, 30.0)]) == 0.0
    rng = np.random.default_rng(4)
    for ranges in ([(77.5, 632.0)], [(40.0, 60.0), (20.0, 173.0)]):
        drawn = np.full(200_000, m.BARE_SEED_TAU_DAYS)
        for low, high in ranges:
            z = rng.normal(0, 1, len(drawn))
            wall = np.exp((np.log(low) + np.log(high)) / 2 + z * np.log(high / low) / 2 / 1.2816)
            assert np.mean((wall > low) & (wall < high)) == pytest.approx(0.80, abs=0.01)
            drawn += wall
        held = np.quantile(np.log(drawn), (0.1, 0.9))
        assert m.wall_sd(ranges) == pytest.approx(np.ptp(held) / 2 / 1.2816, rel=0.12)


@pytest.mark.parametrize(
    ("key", "ratio"),
    [("barley", 1.04), ("bean_bush", 1.035), ("soybean", 1.10), ("wheat", 1.11), ("maize", 1.155)],
)
def test_cool_seed_holds_as_much_more_water_as_its_kind_does(key, ratio):
    # moisture of fresh weight at 60 %, 5 against 25 degC: modified Henderson equation, tabulated
    air = np.array([m.erh25(0.60, 5.0), m.erh25(0.60, 25.0)])
    state = m.balance(ISO, ix(key), air, np.array([5.0, 25.0]))
    cool, warm = m.moisture_pct_fwb(ISO, ix(key), state)[0]
    assert cool / warm == pytest.approx(ratio, abs=0.008)


def test_kinds_without_constants_of_their_own_take_the_middle_of_their_relatives():
    at = np.array([0.0, 5.0, 15.0, 25.0, 35.0])
    own = {key: np.log(REF.warmth[key].ratio(at)) for key in ("bean_bush", "soybean")}
    pea, onion = (np.log(REF.warmth[key].ratio(at)) for key in ("pea", "onion"))
    assert np.all(pea[:2] > own["bean_bush"][:2])  # groundnut and soybean bend more
    assert pea[3] == pytest.approx(0.0, abs=1e-12)
    assert np.all(np.diff(pea) < 0)
    rye = np.log(REF.warmth["rye"].ratio(at))
    equation = np.log(m.k(25.0) / m.k(at))
    assert onion == pytest.approx((pea + rye + equation) / 3)
    assert REF.warmth["onion"].ratio(-18.0) == REF.warmth["onion"].ratio(0.0)
    assert not REF.warmth["onion"].own
    assert REF.warmth["wheat"].own
