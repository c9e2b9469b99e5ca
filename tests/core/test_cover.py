"""Which lots are sown for what: against trying every allocation, and as a person would."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from brisk_larder.core.base.units import YEAR_S
from brisk_larder.core.needs import cover_ways as wy
from brisk_larder.core.needs.cover import TRY, Demand, cover
from brisk_larder.core.needs.cover_ways import Supply
from brisk_larder.core.needs.seed_needed import line_reserve, sound
from brisk_larder.core.seed.plants import Sown, chance
from tests.core.book import FIGURES
from tests.core.seeds import either, held, sure

F = FIGURES.cover
KALE = frozenset({"kale"})


def lot(number, seeds, one, oldest=0.0, **more):
    return Supply(number, "kale", seeds, one, oldest * YEAR_S, True, held(seeds)[0], **more)


def planned(demands, lots):
    return cover(demands, lots, 0.9, {}, F)


def brute(demands, lots):
    """The least cost of all ways to deal out whole seeds."""
    options = []
    for d in demands:
        asked = wy.Asked(d.plants, lots)
        mine = [(None, (0,) * len(lots))]
        for given in product(*(range(x.seeds + 1) for x in lots)):
            sown = [Sown(float(n), x.seed) for n, x in zip(given, lots, strict=True) if n]
            if sown and chance(d.plants, sown) >= 0.9:
                way = tuple((x.lot, n) for x, n in zip(lots, given, strict=True) if n)
                mine.append((way, given))
        options.append((asked, mine))
    best = np.inf
    for choice in product(*(mine for _, mine in options)):
        used = np.sum([given for _, given in choice], axis=0)
        if any(n > x.seeds for n, x in zip(used, lots, strict=True)):
            continue
        cost = wy.whole_cost([a for a, _ in options], [way for way, _ in choice], F)
        best = min(best, cost)
    return best


@pytest.mark.parametrize("seed", range(10))
def test_no_dealing_out_of_seeds_is_cheaper(seed):
    rng = np.random.default_rng(seed)
    lots = [
        lot(
            i,
            int(rng.integers(3, 11)),
            sure(float(rng.uniform(0.4, 0.95))),
            float(rng.uniform(0, 4)),
        )
        for i in range(2)
    ]
    demands = [Demand(f"d{i}", KALE, int(rng.integers(2, 6))) for i in range(2)]
    plan = planned(demands, lots)
    taken = {
        d.key: tuple((t.lot, t.seeds) for t in plan.taken if t.demand == d.key) for d in demands
    }
    short = {s.demand for s in plan.short}
    ordered = sorted(lots, key=lambda x: x.oldest_s)
    ours = wy.whole_cost(
        [wy.Asked(d.plants, ordered) for d in demands],
        [None if d.key in short else taken[d.key] for d in demands],
        F,
    )
    best = brute(demands, ordered)
    assert ours <= best * 1.02 + 0.02


@pytest.mark.parametrize("seed", range(25))
def test_what_can_be_met_is_met(seed):
    """Three demands on three lots: where the seed is there at all, none is left short."""
    rng = np.random.default_rng(100 + seed)
    lots = [
        lot(
            i,
            int(rng.integers(20, 60)),
            sure(float(rng.uniform(0.5, 0.95))),
            float(rng.uniform(0, 4)),
        )
        for i in range(3)
    ]
    demands = [Demand(f"d{i}", KALE, int(rng.integers(5, 25))) for i in range(3)]
    # surely there: all poured together would do for the sum and a fifth more
    all_of_it = [Sown(float(x.seeds), x.seed) for x in lots]
    while chance(round(1.2 * sum(d.plants for d in demands)) + 3, all_of_it) < 0.9:
        demands = [replace(d, plants=max(1, d.plants - 2)) for d in demands]
    plan = planned(demands, lots)
    assert not plan.short
    for d in demands:
        seed_of = {x.lot: x.seed for x in lots}
        given = [Sown(float(t.seeds), seed_of[t.lot]) for t in plan.taken if t.demand == d.key]
        assert chance(d.plants, given) >= 0.9


def test_seed_that_may_be_dead_is_never_counted_on_but_may_lie_beside():
    dead_or_not = lot(1, 38, either(0.02, 0.9, 0.4), 0.0, sound=False)
    good = lot(2, 20, sure(0.9), 3.0)
    plan = planned([Demand("peppers", KALE, 3)], [dead_or_not, good])
    assert [t.lot for t in plan.taken] == [2]
    assert [(t.lot, t.seeds < 10) for t in plan.beside] == [(1, True)]  # to be used up beside it
    assert not plan.short
    # not even where so much of it would do in any case: somebody looks at it first
    much = lot(1, 200, either(0.1, 0.9, 0.3), 0.0, sound=False)
    assert chance(3, [Sown(200.0, much.seed)]) >= 0.9
    assert [s.demand for s in planned([Demand("salad", KALE, 3)], [much]).short] == ["salad"]
    assert {t.lot for t in planned([Demand("salad", KALE, 3)], [much, good]).taken} == {2}
    # alone it covers nothing, and takes no more than a row is worth: another demand wants some too
    alone = planned([Demand("a", KALE, 3), Demand("b", KALE, 3)], [dead_or_not])
    assert {s.reason.code for s in alone.short} == {"short_too_unsure"}
    assert len({t.demand for t in alone.taken}) == 2
    # what the keeper chose himself he gets
    chosen = planned(
        [Demand("pick", KALE, 3, frozenset({1}))], [lot(1, 38, sure(0.5), sound=False)]
    )
    assert not chosen.short


def test_a_demand_that_cannot_be_met_leaves_the_others_theirs():
    lots = [lot(1, 40, sure(0.9))]
    plan = planned([Demand("too much", KALE, 300), Demand("salad", KALE, 20)], lots)
    assert [s.demand for s in plan.short] == ["too much"]
    assert plan.chance["salad"] == 0.9
    assert {t.demand for t in plan.taken} == {"too much", "salad"}  # it has what is left


def test_two_share_a_lot_just_so_and_no_third_packet_is_opened():
    one, other = lot(1, 34, sure(0.8), 0.0), lot(2, 34, sure(0.8), 0.1)
    third = lot(3, 500, sure(0.8), 0.2)
    both = planned([Demand("a", KALE, 20), Demand("b", KALE, 20)], [one, other, third])
    assert len({t.lot for t in both.taken}) == 1  # one packet that does for both is opened alone
    few = planned([Demand("a", KALE, 22), Demand("b", KALE, 22)], [one, other])
    assert not few.short
    old = planned([Demand("a", KALE, 10)], [lot(1, 50, sure(0.8), 0.0), lot(2, 50, sure(0.8), 4.0)])
    assert [t.lot for t in old.taken] == [1]  # of two that do the older


def test_a_line_keeps_the_seed_of_its_mothers_once_and_in_its_best_packet():
    good, poor = sure(0.9), sure(0.4)
    keep = line_reserve([(poor, 300), (good, 300)], 15, 0.95)
    assert keep[0] == 0
    assert (
        chance(15, [Sown(float(keep[1]), good)]) >= 0.95 > chance(15, [Sown(keep[1] - 1.0, good)])
    )
    both = line_reserve([(poor, 300), (good, 10)], 15, 0.95)
    assert both[1] == 10
    given = [Sown(10.0, good), Sown(float(both[0]), poor)]
    assert chance(15, given) >= 0.95 > chance(15, [given[0], Sown(both[0] - 1.0, poor)])
    assert line_reserve([(poor, 20), (good, 5)], 15, 0.95) == [
        20,
        5,
    ]  # not enough: it gives nothing
    assert line_reserve([], 15, 0.95) == []


def test_seed_is_sound_that_stands_surely_above_a_share_of_new_seed():
    low, high = F.sound_share * 0.8 - 0.01, F.sound_share * 0.8
    assert sound(sure(high), 0.8, F)
    assert not sound(sure(low), 0.8, F)
    assert sound(either(low, 0.9, 0.05), 0.8, F)
    assert not sound(either(low, 0.9, 0.2), 0.8, F)


def test_what_was_told_stays_while_it_does_and_nothing_is_clearly_cheaper():
    lots = [lot(1, 200, sure(0.9)), lot(2, 200, sure(0.9), oldest=0.01)]
    demands = [Demand("a", KALE, 20), Demand("b", KALE, 30)]
    plain = planned(demands, lots)
    need = {t.demand: t.seeds for t in plain.taken}

    def with_told(told, lots=lots, demands=demands):
        plan = cover(demands, lots, 0.9, {}, F, told=told)
        return {t.demand: (t.lot, t.seeds) for t in plan.taken}

    told = {"a": ((2, need["a"]),), "b": ((2, need["b"] + 1),)}
    assert with_told(told) == {"a": (2, need["a"]), "b": (2, need["b"] + 1)}
    # seed that faded by a hair does not ask for another seed; by more it does, with some to spare
    hair, more = sure(0.897), sure(0.8)
    assert (
        with_told(told, [lot(1, 200, hair), lot(2, 200, hair, oldest=0.01)])["b"][1]
        == need["b"] + 1
    )
    asked = with_told(told, [lot(1, 200, more), lot(2, 200, more, oldest=0.01)])
    assert asked["b"][1] > need["b"] + 1
    # far more than is needed is no longer told, and what cannot be had is not either
    assert with_told({"a": ((2, 4 * need["a"]),)})["a"][1] == need["a"]
    assert with_told(told, [lots[0]]) == {"a": (1, need["a"]), "b": (1, need["b"])}
    assert with_told({"a": ((9, 30),)}) == with_told({})
    # a promise is kept to within a point whatever was told
    seeds = with_told(told, [lot(1, 200, hair), lot(2, 200, hair, oldest=0.01)])["b"][1]
    assert chance(30, [Sown(float(seeds), hair)]) > 0.89


def test_a_need_that_is_nearly_sown_asks_for_nothing_more_but_where_sowings_follow_one_another():
    from brisk_larder.core.needs.shares import InGround, less_what_is_sown

    ground = [InGround(1, "kale", "a", 28.0)]
    demand = [Demand("a", KALE, 30)]
    assert less_what_is_sown(demand, ground)[0][0].plants == 2
    assert less_what_is_sown(demand, ground, 0.1)[0][0].plants == 0
    assert less_what_is_sown(demand, ground, 0.1, frozenset({"a"}))[0][0].plants == 2
    assert less_what_is_sown(demand, [InGround(1, "kale", "a", 26.0)], 0.1)[0][0].plants == 4
    assert (
        less_what_is_sown(demand, [], 1.0)[0][0].plants == 30
    )  # nothing is sown: all is asked for


def test_so_many_seeds_of_a_doubtful_packet_to_try_stay_as_they_were_told():
    def shaky(g):
        return lot(1, 300, either(0.02, g, 0.4), 0.0, sound=False)

    asked = [Demand("a", KALE, 30)]
    first = {t.lot: t.seeds for t in planned(asked, [shaky(0.9)]).taken}

    def again(g, told):
        plan = cover(asked, [shaky(g)], 0.9, {}, F, told={TRY + "a": ((1, told),)})
        return {t.lot: t.seeds for t in plan.taken}[1]

    assert again(0.897, first[1]) == first[1]
    assert again(0.9, first[1] + 1) == first[1] + 1
    assert again(0.7, first[1]) > first[1] * 1.1  # other seed by now
    beside = [Demand("b", KALE, 3)]
    sound_too = [shaky(0.9), lot(2, 200, sure(0.9), 3.0)]
    plan = cover(beside, sound_too, 0.9, {}, F, told={TRY + "b": ((1, 7),)})
    assert [(t.lot, t.seeds) for t in plan.beside] == [(1, 7)]
