"""Walls that change, desiccant by mass balance, drying: against other ways to the same number."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.storage import barrier as b
from brisk_larder.core.storage import climate as c
from brisk_larder.core.storage import dials
from brisk_larder.core.storage import moisture as m
from tests.core.book import CLASSES, FIGURES, ix

DAY = 86_400.0
TIN = (20.0, 173.0)
GRID = np.linspace(0, 1, m.GRID_POINTS)
WHEAT = CLASSES.iso.dry_basis[CLASSES.iso_ix[ix("wheat")[0]]]
events = st.lists(
    st.tuples(
        st.floats(0, 300),
        st.sampled_from(["opened", "airtight", "vented", "breathing", "desiccant"]),
    ),
    max_size=8,
)


def changes(made):
    return [
        b.Change(day * DAY, kind, 0.25 if kind == "desiccant" else None, 3.0)
        for day, kind in sorted(made)
    ]


@given(events)
def test_stretches_cover_all_time_without_overlap(made):
    found = b.stretches(TIN, changes(made), FIGURES.walls)
    assert found[0].start_s == -np.inf
    assert found[-1].end_s == np.inf
    assert all(x.end_s == y.start_s for x, y in pairwise(found))
    assert sum(s.reset is not None for s in found) <= sum(k == "desiccant" for _, k in made)


@settings(max_examples=8)
@given(events)
def test_a_wall_that_changes_is_followed_exactly(made):
    """Moisture through a wall that opens, closes and leaks, against a numerical solver on the same wall."""
    made = [(d, k) for d, k in made if k != "desiccant"]
    parts = b.stretches(TIN, changes(made), FIGURES.walls)
    days = 40
    starts = np.arange(0, days, dtype=np.int64) * int(DAY)
    tau = b.tau_per_panel(parts, starts, np.full(days, 24.0))
    air = 0.5 + 0.2 * np.sin(np.arange(days) / 9.0)
    ours = m.relax(np.array([0.3]), air, np.full(days, 24.0), tau[None, :]).end[0, -1]
    u = 0.3
    for day in range(days):
        inside = [p for p in parts if p.start_s < (day + 1) * DAY and p.end_s > day * DAY]
        for p in inside:
            span = (min(p.end_s, (day + 1) * DAY) - max(p.start_s, day * DAY)) / DAY
            slope = lambda _, y, p=p, day=day: (air[day] - y) / p.tau_days  # noqa: E731
            u = solve_ivp(slope, (0, span), [u], method="DOP853", rtol=1e-8, atol=1e-10).y[0, -1]
    assert ours == pytest.approx(u, abs=1e-6)


def test_opening_often_brings_the_room_in_and_airtight_keeps_it_out():
    def end(made, wall=(1732.0, 10954.0)):
        tau = b.tau_per_panel(
            b.stretches(wall, changes(made), FIGURES.walls),
            np.arange(365, dtype=np.int64) * 86_400,
            np.full(365, 24.0),
        )
        return m.relax(np.array([0.25]), np.full(365, 0.7), np.full(365, 24.0), tau[None, :]).end[
            0, -1
        ]

    shut, weekly = end([]), end([(7.0 * i, "opened") for i in range(52)])
    ajar, open_ = end([(0.0, "vented")]), end([(0.0, "breathing")])
    assert shut < 0.30 < weekly < open_
    assert shut < ajar
    assert open_ == pytest.approx(0.7, abs=1e-3)


@given(st.floats(5, 3000), st.floats(0.2, 0.8), st.floats(1, 3000))
def test_seed_and_gel_come_to_one_dryness_and_no_water_is_lost(seed_g, erh25, gel_g):
    found = b.settle(seed_g, WHEAT, erh25, "silica_gel", gel_g)
    dry_g = seed_g / (1 + np.interp(erh25, GRID, WHEAT) / 100)

    def water(u):
        return (
            dry_g * np.interp(u, GRID, WHEAT) / 100 + gel_g * b.loading_pct("silica_gel", u) / 100
        )

    had = dry_g * np.interp(erh25, GRID, WHEAT) / 100
    assert found.erh25 == pytest.approx(brentq(lambda u: water(u) - had, 0.0, 1.0), abs=2e-3)
    assert found.erh25 < erh25
    assert found.slow > 1


def test_the_worked_example_of_the_rules_is_met():
    """100 g of seed from 10 % to 6 % of fresh weight gives up 4.3 g of water; rules, section 5."""
    mc = 100 * WHEAT / (100 + WHEAT)
    start, end = np.interp([10.0, 6.0], mc, GRID)
    grams = b.desiccant_needed_g(100.0, WHEAT, start, end, "zeolite_beads")
    held = float(b.loading_pct("zeolite_beads", end)) / 100
    assert grams * held == pytest.approx(100 * (10 - 6) / (100 - 6), rel=0.01)
    assert 18 < grams < 27  # "about 22 g" of beads
    with pytest.raises(InvalidValue, match="silica_gel"):
        b.loading_pct("salt", 0.3)
    assert b.desiccant_needed_g(100, WHEAT, 0.2, 0.3, "silica_gel") == 0


def test_days_to_dry_and_days_until_spent_solve_their_equation():
    days = b.days_to_dry(2.6, 0.6, 0.2, 0.35)
    u = m.relax(np.array([0.6]), np.full(1, 0.2), np.array([24 * days]), np.array([2.6])).end[0, 0]
    assert u == pytest.approx(0.35)
    assert b.days_to_dry(2.6, 0.6, 0.5, 0.35) == np.inf
    assert b.days_to_dry(2.6, 0.3, 0.5, 0.35) == 0
    spent = b.days_until_spent(400.0, 0.15, 0.65, FIGURES.walls)
    limit = FIGURES.walls.desiccant_spent_above_erh25
    assert 0.65 + (0.15 - 0.65) * np.exp(-spent / 400) == pytest.approx(limit)
    assert b.days_until_spent(400.0, 0.15, 0.30, FIGURES.walls) == np.inf


def test_a_sealed_dry_lot_ignores_the_humidity_of_the_room():
    curve = c.PlaceCurve(12.5, 4.5, 225, 0.8, 0.64, 0.06, 225, 1.2, 0.06, 35)
    damp = c.usual(curve, c.panels(0, 1000 * DAY, set()))
    wet = dials.shifted(damp, 0.0, 0.2)
    sealed = b.stretches((5000.0, 50000.0), [], FIGURES.walls)[0].tau_days
    ends = [c.lagged(air, sealed, 0.25)[1][-1] for air in (damp, wet)]
    assert ends[1] - ends[0] < 0.02
    assert c.lagged(wet, 5.0, 0.25)[1][-1] - c.lagged(damp, 5.0, 0.25)[1][-1] > 0.15


def test_each_event_changes_the_wall_as_it_is_told():
    w = FIGURES.walls
    hours = w.opening_hours_without_lid * 3600.0
    made = [
        b.Change(10.0, "vented"),
        b.Change(20 * DAY, "opened"),
        b.Change(20 * DAY + hours / 2, "opened"),  # again, before the lid was on
        b.Change(30 * DAY, "desiccant", 0.2, 5.0),
        b.Change(40 * DAY, "desiccant_out"),
        b.Change(50 * DAY, "breathing"),
        b.Change(60 * DAY, "sealed"),
    ]
    vented = tuple(x * w.vented_share_of_wall for x in TIN)
    found = [(s.start_s, s.wall, s.slow, s.dried, s.reset) for s in b.stretches(TIN, made, w)]
    assert found == [
        (-np.inf, TIN, 1.0, False, None),
        (10.0, vented, 1.0, False, None),
        (20 * DAY, None, 1.0, False, None),
        (20 * DAY + hours / 2, None, 1.0, False, None),
        (20 * DAY + hours, None, 1.0, False, None),
        (20 * DAY + 1.5 * hours, vented, 1.0, False, None),
        (30 * DAY, vented, 5.0, True, 0.2),
        (40 * DAY, vented, 1.0, False, None),
        (50 * DAY, None, 1.0, False, None),
        (60 * DAY, TIN, 1.0, False, None),
    ]
    assert b.closed(None, "vented", w) is None


def test_a_wall_that_changes_inside_a_panel_is_the_mean_of_its_rates():
    parts = b.stretches(TIN, [b.Change(0.0, "airtight"), b.Change(6 * 3600.0, "breathing"),
                              b.Change(9 * 3600.0, "airtight")], FIGURES.walls)  # fmt: skip
    shut, open_ = 1 / parts[0].tau_days, 1 / parts[2].tau_days
    tau = b.tau_per_panel(parts, np.array([0, 86_400], dtype=np.int64), np.array([24.0, 12.0]))
    assert 1 / tau == pytest.approx([(21 * shut + 3 * open_) / 24, shut])
    before = b.tau_per_panel(parts, np.array([-86_400], dtype=np.int64), np.array([30.0]))
    assert 1 / before == pytest.approx([shut])


def test_how_much_slower_a_wall_works_is_the_slope_of_both_against_that_of_seed():
    found = b.settle(200.0, WHEAT, 0.5, "dried_rice", 100.0, loaded_pct=2.0)
    dry_g = 200.0 / (1 + np.interp(0.5, GRID, WHEAT) / 100)
    lo, hi = max(found.erh25 - 0.05, 0.0), found.erh25 + 0.20
    seed = dry_g * (np.interp(hi, GRID, WHEAT) - np.interp(lo, GRID, WHEAT)) / 100
    rice = 100.0 * (b.loading_pct("dried_rice", hi) - b.loading_pct("dried_rice", lo)) / 100
    assert found.slow == pytest.approx(1 + rice / seed, rel=0.05)
    # water that is in the rice already counts
    assert found.erh25 > b.settle(200.0, WHEAT, 0.5, "dried_rice", 100.0).erh25
    had = dry_g * np.interp(0.5, GRID, WHEAT) / 100 + 2.0
    now = dry_g * np.interp(found.erh25, GRID, WHEAT) / 100 + b.loading_pct(
        "dried_rice", found.erh25
    )
    assert now == pytest.approx(had, rel=5e-3)
    for seed_g, gel_g in ((0, 5), (5, 0), (-1, 5), (float("nan"), 5)):
        with pytest.raises(InvalidValue, match="above 0 g"):
            b.settle(seed_g, WHEAT, 0.5, "silica_gel", gel_g)


def test_a_sachet_is_ample_and_says_when_it_never_gets_there():
    w = FIGURES.walls
    job = (100.0, WHEAT, 0.6)
    just = b.desiccant_needed_g(*job, 0.3, "silica_gel")
    got = b.sachet_for(*job, 0.3, "silica_gel", 2.0, w)
    assert got.grams == pytest.approx(w.ample_desiccant_times * just)
    air = b.settle(*job, "silica_gel", got.grams).erh25
    assert got.days == pytest.approx(2.0 * np.log((0.6 - air) / (0.3 - air)))
    assert b.sachet_for(*job, 0.6, "silica_gel", 2.0, w) == b.Sachet(0.0, 0.0)
    assert b.sachet_for(*job, 0.0, "silica_gel", 2.0, w) == b.Sachet(None, np.inf)
    assert b.desiccant_needed_g(*job, 0.6, "silica_gel") == 0
    assert b.desiccant_needed_g(*job, 0.0, "silica_gel") == np.inf


def test_what_is_tight_sealed_or_spent_at_the_limit():
    w = FIGURES.walls

    own = m.wall_tau_days([])  # what a lot takes by itself is added to each wall

    def stretch(tau_days):
        return b.Stretch(0, 1, (tau_days - own,) * 2, 1.0, False, None)

    assert b.keeps_its_dryness(stretch(w.tight_tau_days), w)
    assert not b.keeps_its_dryness(stretch(w.tight_tau_days - 0.01), w)
    assert not b.keeps_its_dryness(b.Stretch(0, 1, None, 1e9, False, None), w)
    assert not b.shuts_in([], w)
    assert b.shuts_in([(w.sealed_tau_days * 1.01,) * 2], w)
    assert not b.shuts_in([(w.sealed_tau_days * 0.99,) * 2], w)
    assert b.days_until_spent(400.0, w.desiccant_spent_above_erh25, 0.65, w) == 0
    assert b.days_until_spent(400.0, 0.1, w.desiccant_spent_above_erh25, w) == np.inf
    assert b.days_to_dry(2.0, 0.4, 0.2, 0.4) == 0
    assert b.days_to_dry(2.0, 0.5, 0.4, 0.4) == np.inf
