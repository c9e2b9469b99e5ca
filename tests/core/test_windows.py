"""Sowing windows against dates worked by hand; properties of cover, seeds and regrowing."""

from datetime import UTC, date, datetime, timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.growing.windows import (
    Climate,
    Window,
    autumn_window,
    gaps_of,
    last_day_to_sow,
    last_missed,
    month_ahead,
    months_open,
    next_sowing,
    next_sowing_s,
    order_state,
    sowing_windows,
)
from brisk_larder.core.growing.windows import Sown as NextSowing
from brisk_larder.core.lines.safe_years import last_safe_year
from brisk_larder.core.needs.cover import Demand, cover
from brisk_larder.core.needs.cover_ways import Supply
from brisk_larder.core.seed.plants import Sown, chance, seeds_for
from tests.core.book import FIGURES
from tests.core.seeds import held, sure

LAST_FROST = 129  # 9 May in a common year


def windows(year=2027, frost=LAST_FROST, hemisphere="north", indoors=(8, 10), outdoors=(-2, 4)):
    here = Climate(hemisphere, "UTC", frost)
    return sowing_windows(year, here, indoors, outdoors, FIGURES.calendar)


def test_windows_are_weeks_from_the_last_frost():
    inside, outside = windows()
    assert (inside.first, inside.last) == (date(2027, 2, 28), date(2027, 3, 14))
    assert (outside.first, outside.last) == (date(2027, 4, 25), date(2027, 6, 6))
    assert (inside.setting, outside.setting) == ("indoors", "outdoors")
    assert not inside.guessed


def test_without_a_frost_date_may_stands_in_and_says_so():
    (north,) = windows(frost=None, indoors=None)
    (south,) = windows(frost=None, indoors=None, hemisphere="south")
    assert (north.first, north.guessed) == (date(2027, 4, 17), True)
    assert south.first == date(2027, 10, 18)


@pytest.mark.parametrize(
    ("today", "expected"),
    [
        (date(2026, 11, 24), date(2027, 2, 28)),  # winter: the next spring
        (date(2027, 3, 5), date(2027, 3, 5)),  # indoors is open to its end, but for its last tenth
        (date(2027, 3, 14), date(2027, 4, 25)),
        (date(2027, 5, 1), date(2027, 5, 1)),  # inside a window: today
        (date(2027, 6, 1), date(2027, 6, 1)),
        (date(2027, 6, 5), date(2028, 2, 29)),  # too late this year
    ],
)
def test_the_next_sowing_is_today_or_the_next_start(today, expected):
    years = [windows(y) for y in (2026, 2027, 2028)]
    found = next_sowing(today, years, FIGURES.calendar)
    assert found is not None
    assert abs((found[0] - expected).days) <= 1


def test_autumn_is_so_many_weeks_before_the_first_frost():
    window = autumn_window(2026, date(2026, 9, 27).timetuple().tm_yday, (6, 8))
    assert (window.first, window.last) == (date(2026, 8, 2), date(2026, 8, 16))
    assert autumn_window(2026, None, (6, 8)) is autumn_window(2026, 270, None) is None


@given(
    st.dates(date(2024, 1, 1), date(2030, 12, 31)).map(lambda d: d.replace(day=1)),
    st.lists(st.tuples(st.integers(0, 330), st.integers(0, 60)), max_size=4),
)
def test_months_open_are_those_with_a_day_in_a_window(first, spans):
    windows = [
        Window(first + timedelta(days=a), first + timedelta(days=a + n), "outdoors", False)
        for a, n in spans
    ]
    days = {
        w.first + timedelta(days=i) for w in windows for i in range((w.last - w.first).days + 1)
    }
    counted = {
        (d.year - first.year) * 12 + d.month - first.month
        for d in days
        if d < month_ahead(first, 12)
    }
    assert months_open(first, windows) == counted
    possible = [1] * 12
    runs = gaps_of(possible, [int(i in counted) for i in range(12)])
    assert {i for a, b in runs for i in range(a, b + 1)} == set(range(12)) - counted
    assert all(later[0] > one[1] + 1 for one, later in pairwise(runs)), "runs never touch"


def test_a_kind_with_no_window_is_never_sown():
    assert (
        sowing_windows(2027, Climate("north", "UTC", LAST_FROST), None, None, FIGURES.calendar)
        == []
    )
    assert next_sowing(date(2027, 1, 1), [[], []], FIGURES.calendar) is None


@settings(deadline=None, max_examples=40)
@given(st.integers(1, 80), st.floats(0.05, 0.99), st.sampled_from([0.5, 0.8, 0.9, 0.95]))
def test_the_number_of_seeds_is_enough_and_one_fewer_is_not(plants, p, confidence):
    seeds = seeds_for(plants, sure(p), confidence)
    assert seeds is not None
    assert chance(plants, [Sown(seeds, sure(p))]) >= confidence
    assert chance(plants, [Sown(seeds - 1, sure(p))]) < confidence


@settings(deadline=None, max_examples=40)
@given(st.integers(1, 60), st.floats(0.2, 0.9), st.floats(0.01, 0.09))
def test_better_seed_never_needs_more_of_it(plants, p, more):
    assert seeds_for(plants, sure(p + more), 0.9) <= seeds_for(plants, sure(p), 0.9)


@settings(deadline=None, max_examples=30)
@given(
    st.lists(st.tuples(st.integers(1, 90), st.floats(0.3, 0.95)), min_size=1, max_size=4),
    st.integers(1, 60),
)
def test_a_covered_demand_holds_its_promise(lots, plants):
    supplies = [
        Supply(i, "kale", seeds, sure(p), float(i), True, held(seeds)[0])
        for i, (seeds, p) in enumerate(lots)
    ]
    plan = cover(
        [Demand("d", frozenset({"kale"}), plants)],
        supplies,
        0.9,
        {"kale": sure(0.8)},
        FIGURES.cover,
    )
    seeds = [t.seeds for t in plan.taken]
    given_to_it = chance(plants, [Sown(t.seeds, supplies[t.lot].seed) for t in plan.taken])
    if plan.short:
        assert given_to_it < 0.9
        assert plan.short[0].chance == given_to_it
        assert sum(seeds) == sum(s.seeds for s in supplies)  # all was given before it fell short
    else:
        assert given_to_it >= 0.9


def test_chosen_lots_only_and_two_demands_share_one_lot():
    supplies = [
        Supply(1, "kale", 100, sure(0.9), 1.0, True, held(100)[0]),
        Supply(2, "kale", 100, sure(0.9), 2.0, True, held(100)[0]),
    ]
    chosen = Demand("pick", frozenset({"kale"}), 50, frozenset({2}))
    plan = cover(
        [chosen, Demand("food", frozenset({"kale"}), 80)], supplies, 0.9, {}, FIGURES.cover
    )
    by_demand = {(t.demand, t.lot): t.seeds for t in plan.taken}
    assert ("pick", 1) not in by_demand
    assert ("food", 1) in by_demand
    assert plan.left[1] + by_demand["food", 1] == 100


@pytest.mark.parametrize("bad", [0.2, 1.0, 1.5])
def test_an_impossible_confidence_is_refused(bad):
    with pytest.raises(InvalidValue, match="confidence"):
        seeds_for(3, sure(0.5), bad)


@given(st.lists(st.floats(0, 1), min_size=1, max_size=9))
def test_last_safe_year_is_safe_and_so_is_every_year_before(chances):
    years = [2027 + i for i in range(len(chances))]
    last = last_safe_year(years, chances)
    if last is None:
        assert chances[0] < 0.95
    else:
        assert all(c >= 0.95 for c in chances[: last - 2027 + 1])
        after = chances[last - 2027 + 1 :]
        assert not after or after[0] < 0.95


def test_months_ahead_pass_the_new_year():
    ahead = [month_ahead(date(2027, 11, 20), i) for i in (0, 1, 2, 14)]
    assert ahead == [date(2027, 11, 1), date(2027, 12, 1), date(2028, 1, 1), date(2029, 1, 1)]


def test_the_next_sowing_looks_at_last_years_this_and_next_years_windows():
    c = FIGURES.calendar
    here = Climate("north", "UTC", LAST_FROST)
    at = lambda day, out=(-2, 4), inside=None, at=here: next_sowing_s(day, at, inside, out, c)  # noqa: E731
    epoch = lambda *d: datetime(*d, tzinfo=UTC).timestamp()  # noqa: E731
    assert at(date(2027, 1, 10))[:3] == (epoch(2027, 4, 25), "outdoors", False)
    assert at(date(2027, 5, 10))[:3] == (epoch(2027, 5, 10), "outdoors", False)
    assert at(date(2027, 6, 10)).at_s == epoch(
        2028, 4, 24
    )  # 8 May in a leap year, two weeks before
    assert at(date(2027, 1, 1), inside=(8, 10)).setting == "indoors"
    assert at(date(2027, 1, 10), out=None) is None
    # of its six weeks the last tenth is too little; a day earlier it is still open
    assert at(date(2027, 6, 2)).at_s == epoch(2027, 6, 2)
    assert at(date(2027, 6, 3)).at_s == epoch(2028, 4, 24)
    assert at(date(2027, 5, 10))[3:] == (date(2027, 4, 25), date(2027, 6, 2), date(2027, 5, 23))
    # the window that began with last year's frost runs into January
    assert at(date(2028, 1, 3), out=(30, 40))[:3] == (epoch(2028, 1, 3), "outdoors", False)
    guessed = at(date(2027, 1, 10), inside=(1, 2), at=Climate("north", "UTC", None))
    assert guessed.guessed
    assert at(date(2027, 1, 10), at=Climate("north", "UTC", None)).guessed
    assert not autumn_window(2027, 280, (2, 4)).guessed


def test_without_frost_the_months_of_the_household_are_sown_and_no_may_stands_in():
    c = FIGURES.calendar
    spans = lambda months, inside=None, out=(-2, 4): [  # noqa: E731
        (w.first, w.last, w.setting, w.guessed)
        for w in sowing_windows(2027, Climate("south", "UTC", None, True, months), inside, out, c)
    ]
    # two rains, the second over the new year; what is also started indoors is sown with the rest
    assert spans((1, 4, 11, 12, 3), inside=(8, 10)) == [
        (date(2027, 3, 1), date(2027, 4, 30), "outdoors", False),
        (date(2027, 11, 1), date(2028, 1, 31), "outdoors", False),
    ]
    # what is only started indoors is ready when the rains begin
    assert spans((3,), inside=(8, 10), out=None) == [
        (date(2026, 12, 21), date(2027, 2, 3), "indoors", False)
    ]
    for months, guessed in (((), True), (tuple(range(1, 13)), False)):
        assert spans(months) == [(date(2027, 1, 1), date(2027, 12, 31), "outdoors", guessed)]
    assert spans((3,), out=None) == []
    rains = Climate("north", "UTC", None, True, (11, 12, 1))
    at = lambda *d: next_sowing_s(date(*d), rains, None, (-2, 4), c)  # noqa: E731
    epoch = lambda *d: datetime(*d, tzinfo=UTC).timestamp()  # noqa: E731
    assert at(2027, 1, 9)[:3] == (epoch(2027, 1, 9), "outdoors", False)
    assert at(2027, 5, 9)[:3] == (epoch(2027, 11, 1), "outdoors", False)


@given(st.integers(1, 299), st.integers(0, 400))
def test_a_window_is_over_by_its_own_length_and_its_end_is_told_before(length, at):
    f = FIGURES.calendar
    w = Window(date(2027, 3, 1), date(2027, 3, 1) + timedelta(days=length), "outdoors", False)
    left = (w.last - w.closes(f)).days
    assert 0 <= left <= f.window_over_share * length
    assert w.first <= w.last_days(f) <= w.closes(f)
    told = (w.closes(f) - w.last_days(f)).days + 1
    assert told >= min(f.last_days_least, (w.closes(f) - w.first).days + 1)
    assert told <= f.last_days_most
    # it can be sown on every day of it but those, and on no other
    day = w.first + timedelta(days=at)
    assert (next_sowing(day, [[w]], f) is not None) == (day <= w.closes(f))


def test_the_two_weeks_of_tomatoes_are_fourteen_days():
    w = Window(date(2027, 3, 10), date(2027, 3, 24), "indoors", False)
    days = [w.first + timedelta(days=i) for i in range(15)]
    assert sum(next_sowing(d, [[w]], FIGURES.calendar) is not None for d in days) == 14
    whole = Window(date(2027, 1, 1), date(2027, 12, 31), "outdoors", True)
    assert whole.closes(FIGURES.calendar) == whole.last


@given(st.integers(-100, 90))
def test_seed_is_reckoned_for_days_that_do_not_slide(at):
    first, until = date(2027, 4, 1), date(2027, 6, 20)
    one = NextSowing(0.0, "outdoors", False, first, until, until)
    today = first + timedelta(days=at)
    day = one.reckoned(today, 28)
    assert day >= today or at <= 0
    if at <= 0:
        assert day == first
    elif today <= until:
        assert day == until or (day - first).days % 28 == 0


SPRING, LATE = (  # of 100 and of 50 days: their last tenth is too little to begin in
    Window(date(2027, 3, 1), date(2027, 6, 9), "indoors", False),
    Window(date(2027, 7, 1), date(2027, 8, 20), "outdoors", False),
)


def test_the_last_day_of_a_year_is_that_of_its_last_window_and_past_it_that_one_was_missed():
    f, (begins, ends) = FIGURES.calendar, (date(2027, 1, 1), date(2028, 1, 1))
    both = [LATE, SPRING]
    assert SPRING.closes(f) == date(2027, 5, 30)
    assert LATE.closes(f) == date(2027, 8, 15)
    for day in (date(2027, 1, 1), SPRING.closes(f), LATE.closes(f)):
        assert last_day_to_sow(both, day, ends, f) == LATE.closes(f)
    assert last_day_to_sow(both, date(2027, 8, 16), ends, f) is None
    assert last_day_to_sow(both, date(2027, 4, 1), date(2027, 7, 1), f) == SPRING.closes(f)
    assert last_missed(both, SPRING.closes(f), begins, ends, f) is None
    assert last_missed(both, date(2027, 5, 31), begins, ends, f) == SPRING
    assert last_missed(both, date(2027, 8, 16), begins, ends, f) == LATE
    # what closed before the year began, or opens after it, was not this year's to miss
    assert last_missed([SPRING], date(2027, 9, 1), date(2027, 6, 1), ends, f) is None
    assert last_missed([LATE], date(2027, 9, 1), begins, date(2027, 7, 1), f) is None


def test_an_order_is_in_time_till_the_sowing_opens_and_late_till_its_last_day():
    opens, last = date(2027, 3, 1), date(2027, 3, 20)
    states = [
        order_state(opens + timedelta(days=d), 21, opens, last) for d in (-22, -21, -20, -2, -1)
    ]
    assert states == ["in_time", "in_time", "late", "late", "too_late"]
