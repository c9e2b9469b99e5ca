"""The plan of the bench against trying everything, and what it must keep to."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from brisk_larder.core.trials import benchplan as b
from tests.core.book import FIGURES

F, T = replace(FIGURES.bench, gap=1e-9), FIGURES.trials
ROOM, COOL, DARK = b.Spot(20, "either", 2), b.Spot(14, "light", 1), b.Spot(26, "dark", 2)


def asked(due=30.0, days=10.0, cold=0.0, layers=1, likes=(18, 24), light="either", worth=1.0):
    return b.Asked(due, days, cold, layers, *likes, 5.0, 32.0, light, worth)


def price(start, test, evenings):
    """What a start costs, said anew: each day late by what the test is worth, a spot not liked or off the
    middle, each day of waiting, and a word that is broken."""
    worth = test.worth if test.worth > F.least_worth else F.least_worth
    cost = start.late * worth * F.late_cost
    cost += start.off_c * F.off_cost + start.from_middle_c * F.middle_cost
    cost += evenings[start.evening] * F.wait_cost
    if test.told is not None and evenings[start.evening] != test.told:
        cost += F.moved_cost * (20 if test.fixed else 1)
    elif test.told is not None and test.told_spot is not None and test.told_spot != start.spot:
        cost += F.moved_cost / 2
    return cost


def everything(tests, spots, evenings, taken=()):
    """The least cost over all ways to start each test or leave it out."""
    ways = [[None, *b.starts_of(t, spots, evenings, T)] for t in tests]
    best = np.inf
    for plan in itertools.product(*ways):
        used = {s.evening for s in plan if s}
        if any(
            sum(s is not None and s.evening == e for s in plan) > F.most_an_evening for e in used
        ):
            continue
        fits = True
        for i, spot in enumerate(spots):
            for day in evenings:
                lying = sum(
                    t.layers
                    for t, s in zip(tests, plan, strict=True)
                    if s
                    and s.spot == i
                    and evenings[s.evening] <= day < evenings[s.evening] + s.days
                )
                lying += sum(1 for where, until in taken if where == i and until > day)
                fits = fits and lying <= spot.layers
        if fits:
            cost = len(used) + sum(
                (F.left_cost * max(t.worth, F.least_worth) + F.left_at_least)
                if s is None
                else price(s, t, evenings)
                for t, s in zip(tests, plan, strict=True)
            )
            best = min(best, cost)
    return best


@pytest.mark.parametrize("seed", range(12))
def test_it_is_the_best_of_all_plans(seed):
    dice = np.random.default_rng(seed)
    tests = [
        asked(
            due=float(dice.integers(-5, 30)),
            days=float(dice.integers(5, 21)),
            cold=float(dice.choice([0, 7])),
            layers=int(dice.integers(1, 3)),
            likes=[(12, 18), (18, 24), (22, 30)][dice.integers(3)],
            light=["either", "light", "dark"][dice.integers(3)],
            worth=float(dice.uniform(0.2, 3)),
        )
        for _ in range(4)
    ]
    if seed % 3 == 0:
        tests[0] = replace(tests[0], told=7.0, fixed=seed % 2 == 0)
        tests[1] = replace(tests[1], told=0.0, told_spot=1)
    spots, evenings = [ROOM, COOL, DARK], [0.0, 7.0, 14.0]
    taken = [(0, 9.0)] if seed % 2 else []
    found = b.planned(tests, spots, evenings, T, F, taken)
    assert found.gap < 1e-6
    assert found.cost == pytest.approx(everything(tests, spots, evenings, taken), abs=1e-6)


def test_tests_that_can_go_together_do_and_none_is_late_that_need_not_be():
    tests = [asked(due=float(d)) for d in (3, 10, 17, 24)]
    plan = b.planned(tests, [replace(ROOM, layers=4)], [0.0, 7.0, 14.0, 21.0], T, F)
    assert {s.evening for s in plan.starts} == {0}
    # with room for two at a time the others wait until these are over, and are in time all the same
    plan = b.planned(tests, [ROOM], [0.0, 7.0, 14.0, 21.0], T, F)
    assert sorted(s.evening for s in plan.starts) == [0, 0, 2, 2]
    assert [s.late for s in plan.starts] == [0, 0, 0, 0]


def test_a_cool_spot_takes_longer_and_the_cold_comes_first():
    (room,) = b.starts_of(asked(), [ROOM], [0.0], T)
    (cool,) = b.starts_of(asked(likes=(20, 24)), [COOL], [0.0], T)
    (cold,) = b.starts_of(asked(cold=14), [ROOM], [0.0], T)
    assert (room.days, cold.days) == (10, 24)
    assert cool.days > 15
    assert cool.off_c == 6


def test_what_fits_nowhere_is_left_out_and_light_is_kept_to():
    dark = asked(light="dark")
    assert b.planned([dark], [COOL], [0.0], T, F).starts == [None]
    assert b.planned([dark], [COOL, DARK], [0.0], T, F).starts[0].spot == 1
    assert b.planned([asked(layers=5)], [ROOM], [0.0], T, F).starts == [None]
    assert b.planned([], [ROOM], [0.0], T, F).starts == []


def test_of_two_that_cannot_both_be_made_the_one_worth_more_is():
    few, much = asked(days=20, worth=0.3), asked(days=20, worth=3.0)
    plan = b.planned([few, much], [replace(ROOM, layers=1)], [0.0], T, F)
    assert plan.starts[0] is None
    assert plan.starts[1] is not None


def test_an_evening_that_was_told_stands_for_less_than_it_costs_to_move_it():
    tests = [asked(due=20.0), asked(due=20.0)]
    spots, evenings = [replace(ROOM, layers=4)], [0.0, 7.0, 14.0]
    alone = b.planned(tests, spots, evenings, T, F)
    assert {s.evening for s in alone.starts} == {0}
    told = [replace(x, told=14.0) for x in tests]
    assert {s.evening for s in b.planned(told, spots, evenings, T, F).starts} == {2}
    # one evening for both is no reason to break either's word
    apart = [replace(tests[0], told=7.0), replace(tests[1], told=14.0)]
    assert [s.evening for s in b.planned(apart, spots, evenings, T, F).starts] == [1, 2]
    # an answer too late by weeks is, unless the keeper chose the day
    late = replace(tests[0], told=14.0, due=0.0, worth=3.0)
    chosen = replace(late, fixed=True)
    assert b.planned([late], spots, evenings, T, F).starts[0].evening == 0
    assert b.planned([chosen], spots, evenings, T, F).starts[0].evening == 2


def test_a_layer_is_free_on_the_day_its_test_ends_and_the_more_worthy_is_not_the_late_one():
    one = replace(ROOM, layers=1)
    plan = b.planned([asked(due=7.0)], [one], [0.0, 7.0, 14.0], T, F, [(0, 7.0)])
    assert plan.starts[0].evening == 1
    # one of two has to wait till its answer is late: the one of which less hangs
    two = [asked(due=0.0, days=7.0, worth=0.5), asked(due=0.0, days=7.0, worth=2.5)]
    plan = b.planned(two, [one], [0.0, 7.0], T, F)
    assert [s.evening for s in plan.starts] == [1, 0]
    assert [s.late for s in plan.starts] == [7, 0]
