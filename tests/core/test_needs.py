"""The chain from the plate to the seed, cover by lots, and the last safe year of a line."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import binom, lognorm, norm

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import YEAR_S
from brisk_larder.core.judging.schools import packed_success, seeds_for_each
from brisk_larder.core.lines.safe_years import chance_of_mothers, last_safe_year
from brisk_larder.core.needs import cover as co
from brisk_larder.core.needs import seed_needed as n
from brisk_larder.core.needs.cover import Demand
from brisk_larder.core.needs.cover_ways import Supply
from brisk_larder.core.seed.plants import Emergence, Seed, Sown, chance, holes_for, seeds_for
from brisk_larder.core.seed.worlds import COUNT
from tests.core.book import FIGURES
from tests.core.seeds import either, held, sure, wide

F = FIGURES.needs


def test_a_chain_by_hand():
    # 2 jars a week for 52 weeks, 9 on the shelf, 1.0 kg a jar, 0.25 kg a plant, a tenth lost
    got = n.chain(
        n.FoodTarget(2, 52, "jars"),
        n.Amount(0.9, 1.0, 1.1, "kg", "book"),
        n.Amount(0.125, 0.25, 0.5, "kg", "book"),
        9,
        None,
        0.1,
    )
    assert got.to_put_up.mid == 95
    assert got.fresh_kg.mid == pytest.approx(95)
    assert got.plants.mid == np.ceil(95 / 0.25 / 0.9)
    assert got.plants.low < got.plants.mid < got.plants.high
    own = n.chain(
        n.FoodTarget(2, 52, "jars"),
        n.Amount(0.9, 1.0, 1.1, "kg", "book"),
        n.Amount(0.125, 0.25, 0.5, "kg", "book"),
        9,
        {"to_put_up": 40},
        0.1,
    )
    assert (own.fresh_kg.mid, own.to_put_up.origin) == (pytest.approx(40), "set")
    assert (
        n.chain(
            n.FoodTarget(1, 4, "kg"), n.Amount.exact(1, "kg", "book"), None, 99, None, 0.1
        ).to_put_up.mid
        == 0
    )


def test_negative_needs_are_refused():
    with pytest.raises(InvalidValue, match="pantry"):
        n.chain(n.FoodTarget(1, 4, "kg"), n.Amount.exact(1, "kg", "book"), None, -1, None, 0.1)


@pytest.mark.parametrize(
    ("plants", "p", "expected"),
    [(10, 0.5, 26), (10, 0.7, 18), (10, 0.9, 13), (20, 0.5, 48), (20, 0.7, 33), (20, 0.9, 24),
     (50, 0.5, 113), (50, 0.7, 79), (50, 0.9, 59)],
)  # fmt: skip
def test_seeds_for_plants_are_the_published_ones(plants, p, expected):
    # rules.md section 10: seeds for at least N plants with 90 % assurance
    assert seeds_for(plants, sure(p), 0.90) == pytest.approx(expected, abs=1)


def test_a_belief_too_wide_says_test_first():
    maybe_dead = either(1e-4, 0.9, 0.2)
    assert seeds_for(20, maybe_dead, 0.90, at_most=2000) is None
    assert seeds_for(20, maybe_dead, 0.75) is not None


def test_several_lots_together_are_a_convolution():
    pmf = np.convolve(binom.pmf(np.arange(31), 30, 0.5), binom.pmf(np.arange(21), 20, 0.8))
    sown = [Sown(30, sure(0.5)), Sown(20, sure(0.8))]
    for wanted in (1, 24, 28, 31, 34, 38, 50):
        assert chance(wanted, sown) == pytest.approx(pmf[wanted:].sum(), abs=3e-3)


def lot(key, seeds, oldest, one=None, usable=True, crop="kale", **more):
    return Supply(
        key, crop, seeds, one or sure(0.8), oldest * YEAR_S, usable, held(seeds)[0], **more
    )


def cover(demands, lots, confidence, bought, uncounted=None):
    return co.cover(demands, lots, confidence, bought, FIGURES.cover, uncounted or {})


KALE = frozenset({"kale"})


def test_oldest_usable_lot_goes_first_and_the_next_fills_up():
    plan = cover(
        [Demand("soup", KALE, 40)],
        [lot(1, 500, 2019), lot(2, 30, 2015), lot(3, 99, 2010, usable=False)],
        0.9,
        {},
    )
    assert (plan.taken[0].lot, plan.taken[0].seeds) == (2, 30)
    assert plan.taken[1].lot == 1
    assert not plan.short
    sown = sum(t.seeds for t in plan.taken)
    assert 0.90 <= binom.sf(39, sown, 0.8) < 0.95  # enough, and not much more


def test_a_shortfall_says_how_many_plants_and_seeds():
    plan = cover([Demand("soup", KALE, 40)], [lot(1, 20, 1)], 0.9, {"kale": sure(0.7)})
    (short,) = plan.short
    assert short.reason.code == "short_too_few"
    assert short.chance == pytest.approx(0.0, abs=1e-9)
    assert short.seeds == seeds_for(short.plants, sure(0.7), 0.9)
    nothing = cover([Demand("soup", KALE, 5)], [], 0.9, {"kale": sure(0.7)}).short[0]
    assert (nothing.reason.code, nothing.plants) == ("short_no_seed", 5)
    unsure = cover([Demand("s", KALE, 20)], [lot(1, 60, 1, wide(0.05, 0.95))], 0.9, {}).short[0]
    assert unsure.reason.code == "short_too_unsure"


def test_cover_takes_the_fewest_seeds_that_keep_the_promise_and_no_lot_of_another_crop():
    lots = [lot(1, 15, 1, sure(0.6)), lot(2, 24, 2), lot(3, 90, 0, crop="leek"), lot(4, 0, 0)]
    plan = cover([Demand("soup", KALE, 20)], lots, 0.9, {})
    (first, second) = plan.taken
    assert (first.lot, first.seeds, second.lot) == (1, 15, 2)
    promised = lambda n_: chance(20, [Sown(15, sure(0.6)), Sown(n_, sure(0.8))])  # noqa: E731
    assert promised(second.seeds) >= 0.9 > promised(second.seeds - 1)
    assert plan.left == {1: 0, 2: 24 - second.seeds, 3: 90, 4: 0}
    assert plan.chance == {"soup": 0.9}
    # the whole of a lot is enough when its last seed is needed, and one less is not
    exact = second.seeds
    assert not cover([Demand("s", KALE, 20)], [lots[0], lot(2, exact, 2)], 0.9, {}).short
    (short,) = cover([Demand("s", KALE, 20)], [lots[0], lot(2, exact - 1, 2)], 0.9, {}).short
    assert short.chance == pytest.approx(promised(exact - 1))
    assert short.reason.figures["plants_promised"] == 19
    assert short.plants == 1


def test_a_demand_takes_only_what_the_keeper_chose_and_nothing_when_nothing_is_wanted():
    lots = [lot(1, 500, 1), lot(2, 500, 2)]
    plan = cover([Demand("a", KALE, 5, frozenset({2})), Demand("b", KALE, 0)], lots, 0.9, {})
    assert [t.lot for t in plan.taken] == [2]
    assert plan.chance == {"a": 0.9, "b": 0.9}
    # each has one packet that does: nobody opens a second for a few seeds
    twice = cover(
        [Demand("a", KALE, 40), Demand("b", KALE, 40)], [lot(9, 60, 1), lot(3, 60, 1)], 0.9, {}
    )
    assert sorted((t.demand, t.lot) for t in twice.taken) in (
        [("a", 3), ("b", 9)], [("a", 9), ("b", 3)],
    )  # fmt: skip


def test_seed_to_buy_is_of_the_first_crop_that_is_sold():
    both = frozenset({"kale", "chard"})
    (short,) = cover([Demand("s", both, 6)], [], 0.9, {"kale": sure(0.5), "rye": sure(1.0)}).short
    assert short.seeds == seeds_for(6, sure(0.5), 0.9)
    assert cover([Demand("s", both, 6)], [], 0.9, {"rye": sure(1.0)}).short[0].seeds is None


@settings(deadline=None, max_examples=30)
@given(
    st.lists(st.integers(1, 60), min_size=1, max_size=4), st.lists(st.integers(1, 90), max_size=5)
)
def test_no_lot_gives_more_than_it_has(plants, seeds):
    demands = [Demand(f"d{i}", KALE, p) for i, p in enumerate(plants)]
    plan = cover(demands, [lot(i, s, i) for i, s in enumerate(seeds)], 0.9, {"kale": sure(0.8)})
    for i, s in enumerate(seeds):
        assert sum(t.seeds for t in plan.taken if t.lot == i) + plan.left[i] == s
        assert plan.left[i] >= 0
    assert {d.key for d in demands} == set(plan.chance)


def test_chance_of_mothers_over_all_lots_of_a_line():
    assert chance_of_mothers(held(30), [sure(0.5)], 12) == pytest.approx(binom.sf(11, 30, 0.5))
    two = chance_of_mothers(held(30, 10), [sure(0.5), sure(0.9)], 20)
    assert two > chance_of_mothers(held(30), [sure(0.5)], 20)
    assert chance_of_mothers([], [], 3) == 0


def test_last_safe_year_is_the_end_of_the_unbroken_run():
    assert last_safe_year([2027, 2028, 2029], [0.99, 0.96, 0.90]) == 2028
    assert last_safe_year([2027, 2028], [0.5, 0.99]) is None


def test_ranges_are_of_eighty_in_a_hundred():
    assert norm.cdf(n.Z80) - norm.cdf(-n.Z80) == pytest.approx(0.8, abs=1e-4)
    # the chain's range is the exact one of a product of two log-normals
    one, other = (0.9, 1.3), (0.125, 0.5)
    got = n.chain(
        n.FoodTarget(2, 52, "jars", gifts=6, reserve_share=0.25),
        n.between(*one, "kg", "book", ""), n.between(*other, "kg", "book", ""), 0, None, 0.1,
    )  # fmt: skip
    assert got.wanted.mid == 137.5
    sd = np.hypot(*(np.log(b / a) / (2 * norm.ppf(0.9)) for a, b in (one, other)))
    middle = 137.5 * np.sqrt(0.9 * 1.3) / np.sqrt(0.125 * 0.5) / 0.9
    tails = lognorm(sd, scale=middle).ppf([0.1, 0.9])
    assert (got.plants.low, got.plants.high) == pytest.approx(tails, abs=1.0)
    assert (got.fresh_kg.low, got.fresh_kg.high) == pytest.approx((137.5 * 0.9, 137.5 * 1.3))


def test_emergence_indoors_loses_half_of_what_the_field_does():
    assert n.emergence(0.6, "outdoors", F) == n.emergence(0.6, None, F) == 0.6
    assert n.emergence(0.6, "indoors", F) == pytest.approx(0.8)
    with pytest.raises(InvalidValue, match="emergence"):
        chance(1, [Sown(3, Seed(np.full(COUNT, 0.5), Emergence(0.0, 20.0)))])
    assert wide(0.6, 0.9).mean == pytest.approx(0.75 * 0.8)
    g, even = np.linspace(0.6, 0.9, 63), np.full((1, 63), 1 / 63)
    p, weight = packed_success(g, even, 0.7, 20.0)
    assert weight.sum() == pytest.approx(1)
    assert (p * weight).sum() == pytest.approx(0.75 * 0.7, abs=0.006)


def test_what_a_lot_keeps_for_its_line_and_what_it_may_give():
    (keep,) = n.line_reserve([(sure(0.5), 500)], 20, 0.9)
    assert binom.sf(19, keep, 0.5) >= 0.9 > binom.sf(19, keep - 1, 0.5)
    assert n.line_reserve([(sure(0.5), 30)], 20, 0.9) == [30]  # all: it cannot promise its own
    # of two that each could, the better one keeps them: not both are free to go
    assert n.line_reserve([(sure(0.4), 500), (sure(0.5), 500)], 20, 0.9) == [0, keep]
    # of 0.3 usable germination, three in ten of what comes up outdoors
    assert n.usable(0.18, 0.6, F)
    assert not n.usable(0.17, 0.6, F)


def test_the_shelf_is_counted_filled_and_emptied():
    assert n.on_the_shelf(9, "counted", 4) == 4
    assert n.on_the_shelf(9, "put_up", 4) == 13
    assert n.on_the_shelf(9, "eaten", 4) == 5
    assert n.on_the_shelf(3, "eaten", 4) == 0
    assert n.between(4, 9, "kg", "guess", "").mid == pytest.approx(6)
    assert n.between(0, 9, "kg", "guess", "").mid == 4.5


def test_wishes_of_none_and_of_more_than_there_are():
    got = [chance(wanted, [Sown(3, sure(0.5))]) for wanted in (0, 1, 3, 4)]
    assert got == pytest.approx([1.0, 0.875, 0.125, 0.0])
    assert chance(1, []) == 0.0
    assert seeds_for(0, sure(0.5), 0.9) == 0
    assert seeds_for(1, sure(0.5), 0.5) == 1
    assert seeds_for(3, sure(0.5), 0.9, at_most=7) is None
    assert seeds_for(3, sure(0.5), 0.9, at_most=8) is None  # 0.855
    assert seeds_for(3, sure(0.5), 0.9, at_most=9) == 9  # 0.910


def test_mothers_of_several_lots_are_counted_together():
    # equal seed of two lots is as one lot of all of it; the border of a year's rules is exact
    two = chance_of_mothers(held(12, 18), [sure(0.5), sure(0.5)], 15)
    assert two == pytest.approx(binom.sf(14, 30, 0.5))
    assert chance_of_mothers(held(2, 3), [sure(0.5)] * 2, 5) == pytest.approx(0.5**5)
    assert chance_of_mothers(held(2, 3), [sure(0.5)] * 2, 6) == 0
    assert chance_of_mothers(held(10**6, 10**6), [sure(0.5)] * 2, 20) == pytest.approx(1)
    assert last_safe_year([2027, 2028], [0.95, 0.9499]) == 2027


def test_the_search_finds_the_fewest_seeds_of_each_of_many_beliefs():
    rng = np.random.default_rng(5)
    p, weight = rng.beta(4, 2, (40, 6)), rng.dirichlet(np.ones(6), 40)
    p[0], p[1] = 0.9, [1e-9, 0.9, 0.9, 0.9, 0.9, 0.9]
    weight[1] = [
        0.2,
        0.16,
        0.16,
        0.16,
        0.16,
        0.16,
    ]  # one in five is dead: nothing is nine in ten sure
    found = seeds_for_each(20, p, weight, 0.9)
    for i, few in enumerate(found):
        if few >= 0:
            sure, less = (float(binom.sf(19, m, p[i]) @ weight[i]) for m in (few, few - 1))
            assert less < 0.9 <= sure
    assert found[1] == -1
    assert found[0] == 24
    assert seeds_for_each(0, p, weight, 0.9).tolist() == [0] * 40


@pytest.mark.parametrize("each", [1, 2, 3])
def test_holes_with_several_seeds_are_counted_by_sowing_them(each):
    rng = np.random.default_rng(each)
    one = Seed(wide(0.4, 0.8).g, Emergence(0.8, 30.0))
    holes = holes_for(20, one, each, 0.9)
    share = rng.beta(24.0, 6.0, 60_000)  # one emergence a sowing
    p = rng.choice(one.g, 60_000) * share
    for n_holes, enough in ((holes, True), (holes - 2, False)):
        plants = rng.binomial(n_holes, 1 - (1 - p) ** each)
        assert (np.mean(plants >= 20) >= 0.9 - 0.006) == enough
    if each == 1:
        assert holes == seeds_for(20, one, 0.9)
    assert holes_for(20, Seed(np.zeros(COUNT), Emergence(0.8, 30.0)), 2, 0.9) is None
