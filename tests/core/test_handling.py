"""Dew, cans, alarms, the few good places: each against another way to the answer."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.storage import alarms as al
from brisk_larder.core.storage import handling, placement
from tests.core.book import FIGURES

DAY = 86_400.0
NOW = 1000 * DAY


@pytest.mark.parametrize(
    ("t", "rh", "dew"), [(20, 0.5, 9.3), (25, 0.6, 16.7), (20, 1.0, 20.0), (10, 0.3, -6.7)]
)
def test_dew_points_of_the_psychrometric_table(t, rh, dew):
    assert handling.dew_point_c(t, rh) == pytest.approx(dew, abs=0.15)


def test_a_frozen_jar_waits_about_three_hours_and_a_cool_one_not():
    frozen = handling.dew_advice(-18.0, 20.0, 0.5, 0.5, FIGURES.handling)
    assert 1.5 < frozen.wait_hours < 4
    assert handling.dew_advice(-18, 20, 0.5, 5, FIGURES.handling).wait_hours > frozen.wait_hours
    wait = lambda kilos: handling.dew_advice(-18, 20, 0.5, kilos, FIGURES.handling).wait_hours  # noqa: E731
    assert wait(8) == pytest.approx(2 * wait(1))  # heat by volume, through a surface: cube root
    # Newton's law gone through in small steps, from the freezer to a degree above the dew point
    c, t, target = -18.0, 0.0, handling.dew_point_c(20, 0.5) + 1
    while c < target:
        c, t = c + (20 - c) * 0.001 / 2, t + 0.001
    assert wait(1) == pytest.approx(t, abs=0.01)
    assert handling.dew_advice(12.0, 20.0, 0.5, 1, FIGURES.handling).wait_hours == 0
    with pytest.raises(InvalidValue, match="humidity"):
        handling.dew_point_c(20, 0)


@given(st.floats(0.3, 20), st.lists(st.sampled_from([0.5, 1.0, 2.0, 5.0]), min_size=1, max_size=3))
def test_no_other_filling_leaves_less_over(kilos, sizes):
    found = handling.fill_cans(kilos, 0.8, sizes)
    held = sum(size * n for size, n in found.cans) * 0.8
    assert held == pytest.approx(found.filled_kg, abs=1e-3)
    assert found.left_kg >= -1e-6
    room = kilos / 0.8
    counts = [range(int(room / s + 1e-9) + 1) for s in sizes]
    best = max(
        (v for combo in product(*counts) if (v := sum(n * s for n, s in zip(combo, sizes, strict=True)))
         <= room + 1e-9), default=0.0,
    )  # fmt: skip
    assert held == pytest.approx(0.8 * best, abs=0.8 * 0.1 + 1e-6)


def test_a_can_rests_is_due_and_counts_anew_when_opened_early():
    def state(days, opened=None):
        at = None if opened is None else NOW - (days - opened) * DAY
        return handling.can_state(NOW - days * DAY, NOW, at, FIGURES.handling)

    assert (state(20).state, state(20).days_to_go) == ("resting", 40)
    assert state(80).state == "due"
    assert state(500).state == "overdue"
    assert (state(50, 10).state, state(50, 10).days_to_go) == ("opened_early", 60)
    assert state(90, 70).state == "open"
    with pytest.raises(InvalidValue, match="at least 30"):
        handling.can_state(0, NOW, None, FIGURES.handling, 5)
    assert handling.can_size_l(0.5, 0.8, [0.5, 1, 2, 5, 10], FIGURES.handling) == 2


@given(
    st.lists(st.lists(st.floats(0, 100), min_size=2, max_size=2), min_size=1, max_size=5),
    st.tuples(st.integers(0, 3), st.integers(0, 3)),
)
def test_the_best_use_of_places_is_the_best_of_all_ways(table, capacity):
    worth = np.array(table)
    lots = len(worth)
    outside = np.linspace(0, 40, lots)
    found = placement.best_use(
        worth, outside, np.full(lots, -1), np.array(capacity, dtype=np.int64), 0.0
    )
    best = max(
        sum(outside[i] if p < 0 else worth[i, p] for i, p in enumerate(way))
        for way in product((-1, 0, 1), repeat=lots)
        if all(sum(p == s for p in way) <= capacity[s] for s in (0, 1))
    )
    got = sum(outside[i] if p < 0 else worth[i, p] for i, p in enumerate(found.place))
    assert got == pytest.approx(best)
    assert found.total == pytest.approx(best - outside.sum())
    assert all((found.place == s).sum() <= capacity[s] for s in (0, 1))


def test_a_lot_that_stands_well_stays_and_an_unfit_one_is_not_moved():
    worth = np.array([[50.0], [49.0], [np.nan]])
    found = placement.best_use(
        worth, np.array([10.0, 10.0, 10.0]), np.array([0, -1, -1]), np.array([1]), 2.0
    )
    assert found.place.tolist() == [0, -1, -1]
    roomy = placement.best_use(
        worth, np.array([10.0, 10.0, 10.0]), np.array([0, -1, -1]), np.array([3]), 2.0
    )
    assert roomy.place.tolist() == [0, 0, -1]
    lazy = placement.best_use(worth, np.full(3, 45.0), np.full(3, -1), np.array([3]), 12.0)
    assert lazy.place.tolist() == [-1, -1, -1]


def evidence(**more):
    nothing = np.empty(0)
    base = dict(
        now_s=NOW, read_s=nothing, read_c=nothing, read_erh=nothing, day_s=nothing,
        day_range_c=nothing, freezer=False, airtight=False, inside_erh25=0.3, closed_s=0.0,
        last_read_s=NOW - DAY, has_logger=False,
    )  # fmt: skip
    return al.Evidence(**(base | more))


def codes(**more):
    return [a.code for a in al.of_node(evidence(**more), FIGURES)]


def read(*values, erh=False):
    at = NOW - DAY * np.arange(len(values))[::-1]
    nan = np.full(len(values), np.nan)
    v = np.array(values, dtype=float)
    return {"read_s": at, "read_c": nan if erh else v, "read_erh": v if erh else nan}


def test_one_cause_rings_once_and_is_settled_by_the_next_good_reading():
    (first,) = al.of_node(evidence(**read(20, 33, 31)), FIGURES)
    (still,) = al.of_node(evidence(**read(20, 33, 31, 34, 29)), FIGURES)
    assert (first.code, still.code) == ("too_hot", "too_hot")
    assert still.since_s == NOW - 3 * DAY  # the cause began with 33, not with 34
    assert still.reason.figures["worst_c"] == 34
    assert codes(**read(20, 33, 31, 27)) == []
    assert codes(**read(20, 33, 31, 27, 31)) == []  # warm again, but not yet hot


def test_each_alarm_has_its_evidence():
    assert codes(**read(0.6, 0.74, erh=True)) == ["too_damp"]
    assert codes(airtight=True, inside_erh25=0.66, **read(0.74, erh=True)) == ["airtight_damp"]
    assert codes(freezer=True, **read(-18, -6)) == ["freezer_warming"]
    assert codes(freezer=True, **read(-18, -17)) == []
    assert codes(day_s=np.array([NOW]), day_range_c=np.array([19.0])) == ["swinging"]
    assert codes(last_read_s=NOW - 40 * DAY) == ["not_read"]
    assert codes(last_read_s=NOW - 3 * DAY, has_logger=True) == ["logger_silent"]
    assert codes(battery_pct=9.0) == ["battery_low"]
    assert codes(out_since_s=NOW - 5 * 3600) == ["left_out"]
    assert codes(out_since_s=NOW - 2 * 3600) == []
    sachet = {"desiccant_s": NOW - 20 * DAY, "desiccant_erh25": 0.2}
    assert codes(**sachet, **read(0.40, erh=True)) == ["drying_stalled"]
    assert codes(**sachet, desiccant_now_erh25=0.45) == ["desiccant_spent"]
    assert codes(**sachet, desiccant_now_erh25=0.30) == []
    assert codes(can={"sealed_s": NOW - 70 * DAY}) == ["can_due"]
    assert codes(can={"sealed_s": NOW - 70 * DAY, "opened_s": NOW - 60 * DAY}) == [
        "can_opened_early"
    ]


def test_how_urgent_each_alarm_is_and_when_a_weak_battery_is_told_again():
    def urgency(**more):
        return [(a.code, a.urgency) for a in al.of_node(evidence(**more), FIGURES)]

    f = FIGURES.alarms
    assert urgency(airtight=True, inside_erh25=0.66) == [("airtight_damp", 3)]
    assert urgency(**read(0.6, 0.74, erh=True)) == [("too_damp", 2)]
    assert urgency(day_s=np.array([NOW]), day_range_c=np.array([19.0])) == [("swinging", 1)]
    assert urgency(last_read_s=NOW - f.silent_dial_days * DAY) == []
    assert urgency(last_read_s=NOW - f.silent_dial_days * DAY - 60) == [("not_read", 1)]
    assert urgency(battery_pct=9.0) == [("battery_low", 1)]
    assert urgency(battery_pct=f.battery_pct) == []
    # the same alarm all through its days, a new one after them
    again_s = f.battery_again_days * DAY
    now = int(NOW // again_s * again_s)
    since = [
        al.of_node(evidence(now_s=now + s, last_read_s=now + s, battery_pct=9.0), FIGURES)[
            0
        ].since_s
        for s in (0, again_s - 1, again_s)
    ]
    assert since == [now, now, now + again_s]
    least = FIGURES.handling.can_least_shut_days
    assert handling.can_state(NOW - DAY, NOW, None, FIGURES.handling, least).state == "resting"
    with pytest.raises(InvalidValue, match="days shut"):
        handling.can_state(NOW - DAY, NOW, None, FIGURES.handling, least - 1)


def test_damp_air_is_an_alarm_of_what_is_shut_and_dry_air_of_nothing():
    assert codes(airtight=False, inside_erh25=0.9) == []  # it can dry out by itself
    assert codes(airtight=True, inside_erh25=0.9) == ["airtight_damp"]
    assert codes(airtight=True, inside_erh25=0.3) == []
    f = FIGURES.alarms
    assert codes(**read(20, f.hot_c + 1, f.hot_cleared_c)) == []  # down to the clearing level: over
    assert codes(**read(f.hot_c)) == []


def test_the_days_of_a_stalled_drying_and_the_kilos_left_over_are_counted():
    f = FIGURES.alarms
    damp = 0.25 + f.stalled_above_erh + 0.05
    told = evidence(
        read_s=np.array([NOW - DAY]), read_c=np.array([np.nan]), read_erh=np.array([damp]),
        desiccant_s=NOW - 1000 * DAY, desiccant_erh25=0.25, desiccant_now_erh25=0.3,
    )  # fmt: skip
    assert "drying_stalled" in [a.code for a in al.of_node(told, FIGURES)]
    done = handling.fill_cans(5.0, 0.8, [2.0, 1.0])
    assert (done.filled_kg, done.left_kg) == (4.8, 0.2)
    assert done.cans == [(2.0, 3)]
    state = handling.can_state(0.0, 100 * DAY, 70 * DAY, FIGURES.handling, 60)
    assert (state.state, state.days_shut, state.days_to_go) == ("open", 70, 0)
    exact = handling.can_state(0.0, 100 * DAY, 60 * DAY, FIGURES.handling, 60)
    assert exact.state == "open"
    assert handling.can_state(0.0, 60 * DAY, None, FIGURES.handling, 60).state == "due"


def test_a_placing_of_wrong_shapes_or_of_nothing():
    none = placement.best_use(
        np.empty((0, 2)), np.empty(0), np.empty(0, dtype=np.int64), np.array([1, 1]), 1.0
    )
    assert (len(none.place), len(none.gain)) == (0, 0)
    worth, outside, now, room = np.ones((2, 1)), np.zeros(2), np.array([-1, -1]), np.array([1])
    for wrong in (
        (worth, outside[:1], now, room), (worth, outside, now[:1], room),
        (worth, outside, now, np.array([1, 1])),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match="shapes"):
            placement.best_use(*wrong, 0.1)
    one = placement.best_use(worth, outside, now, room, 0.1)
    assert sorted(one.place.tolist()) == [-1, 0]


def one(code, **more):
    return next(a for a in al.of_node(evidence(**more), FIGURES) if a.code == code)


def test_desiccant_tells_when_it_stalls_and_when_it_is_spent():
    f, spent = FIGURES.alarms, FIGURES.walls.desiccant_spent_above_erh25
    dried = {"desiccant_s": NOW - 20 * DAY, "desiccant_erh25": 0.15, "desiccant_now_erh25": spent}
    at = lambda days, erh: {  # noqa: E731
        "read_s": np.array([NOW - 20 * DAY + days * DAY]), "read_c": np.array([np.nan]), "read_erh": np.array([erh]),
    }  # fmt: skip
    over = 0.15 + f.stalled_above_erh + 0.01
    stalled = one("drying_stalled", **dried, **at(f.stalled_days + 0.1, over))
    assert (stalled.urgency, stalled.since_s) == (2, NOW - 20 * DAY)
    assert "drying_stalled" not in codes(**dried, **at(f.stalled_days - 0.1, over))  # give it time
    assert "drying_stalled" not in codes(**dried, **at(f.stalled_days + 0.1, over - 0.02))
    assert codes(**dried) == []  # at the limit it still holds
    gone = one("desiccant_spent", **{**dried, "desiccant_now_erh25": spent + 0.01})
    assert gone.reason.figures["days"] == pytest.approx(20)
    assert codes(desiccant_s=NOW, desiccant_erh25=None, desiccant_now_erh25=0.9) == []
    assert codes(desiccant_s=None, desiccant_erh25=0.1, desiccant_now_erh25=0.9) == []


def test_a_can_tells_how_it_stands_and_damp_waits_until_it_may_be_opened():
    shut = {"sealed_s": NOW - 10 * DAY, "shut_days": 60.0}
    assert codes(can=shut) == []
    damp = one("airtight_damp", airtight=True, inside_erh25=0.9, can=shut)
    assert damp.reason.figures["rests_until_s"] == pytest.approx(NOW + 50 * DAY)
    for free in (None, {"sealed_s": NOW - 70 * DAY, "shut_days": 60.0}):
        told = one("airtight_damp", airtight=True, inside_erh25=0.9, can=free)
        assert "rests_until_s" not in told.reason.figures
    early = one("can_opened_early", can={**shut, "opened_s": NOW - 2 * DAY})
    assert (early.urgency, early.since_s, early.reason.figures["days_shut"]) == (
        2,
        NOW - 2 * DAY,
        8,
    )
    due = one("can_due", can={"sealed_s": NOW - 60 * DAY, "shut_days": 60.0})
    assert (due.urgency, due.since_s) == (1, NOW - 60 * DAY)
    late = {"sealed_s": NOW - (FIGURES.handling.can_shelf_days + 1) * DAY, "shut_days": 60.0}
    assert one("can_overdue", can=late).urgency == 2


def test_a_spell_is_worst_from_where_it_began():
    hot = FIGURES.alarms.hot_c
    calm = FIGURES.alarms.hot_cleared_c
    found = one("too_hot", **read(hot + 9, calm, hot + 1, hot + 3, hot - 0.1))
    assert found.reason.figures["worst_c"] == hot + 3  # the one before it was calm is another spell
    assert found.since_s == NOW - 2 * DAY
    assert codes(**read(hot + 1, calm)) == []
