"""The plan of the years: against trying every choice, and by what a keeper knows."""

from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest
from benchmarks import years as made
from hypothesis import given, settings
from hypothesis import strategies as st

from brisk_larder.core.lines import regrow_plan as ye
from tests.core.book import FIGURES

F = FIGURES.regrow
PROMISED = made.PROMISED


def line(key, safe=2, life=6, years=6, **more):
    at, after = np.arange(years), np.arange(years + 1)
    usual = {
        "group": "g", "seasons": 1, "crosses": True, "by_wind": False, "purity": "mostly", "bed_m2": 1.0,
        "chances": tuple(np.where(at <= safe, 0.99, 0.6).tolist()),
        "fresh": tuple(np.where(after <= life, 0.99, 0.5).tolist()),
    }  # fmt: skip
    return ye.KeptLine(key, **{**usual, **more})


LIMITS = ye.Limits(PROMISED, None, 6)


def plan(*lines, **limits):
    return ye.plan_years(lines, replace(LIMITS, **limits), F)


def short_of(chance):
    return 0.0 if chance >= PROMISED else F.unsafe_cost + F.loss_cost * (PROMISED - chance)


def at_the_end(chance):
    return short_of(chance) + (F.owed_cost if chance < PROMISED else 0.0)


def run_of(chances):
    n = 0
    while n < len(chances) and chances[n] >= PROMISED:
        n += 1
    return n


def price_alone(x, years):
    """What the growings of one line cost: what is relied on below what is promised, years early and late, a
    told or settled year that is left."""
    cost = F.moved_cost * len([y for y in x.agreed if y not in years])
    if x.told is not None and (not years or years[0] != x.told):
        cost += F.retold_cost
    if not years:
        return cost + at_the_end(x.chances[-1])
    safe, fresh, harvest = run_of(x.chances) - 1, max(run_of(x.fresh) - 1, 1), None
    for year in years:
        cost += 1.0 + (F.season_cost if x.seasons == 2 else 0.0)
        if harvest is None:
            cost += short_of(x.chances[year])
            cost += F.late_cost * max(0, year - max(safe, 0)) + F.early_cost * max(0, safe - year)
        else:
            cost += short_of(x.fresh[year - harvest])
            cost += F.early_cost * max(0, fresh - (year - harvest))
        harvest = year + x.seasons - 1
    return cost + (at_the_end(x.fresh[x.years - 1 - harvest]) if harvest < x.years - 1 else 0.0)


def price_apart(some, year):
    """The cheapest way to bag some of those that flower together so that all that care come true."""
    prices = []
    for bagged in product((False, True), repeat=len(some)):
        pairs = list(zip(some, bagged, strict=True))
        open_ = [x for x, bag in pairs if not bag]
        agreed = all(bag or year not in x.apart for x, bag in pairs)
        if agreed and all(x.purity == "any" or (len(open_) == 1 and not x.hedge) for x in open_):
            price = 0.0
            for x, bag in pairs:
                if bag and year not in x.apart:
                    each = F.apart_wind if x.by_wind else F.apart_insect
                    price += each * F.apart_strict if x.purity == "strict" else each
            prices.append(price)
    return min(prices)


def plain_price(lines, chosen, bounds):
    """What a choice of years costs, said anew in plain loops."""
    cost, flowering, years = 0.0, {}, lines[0].years
    bed, work, roots = [0.0] * years, [0] * years, [0] * years
    for x in lines:
        cost += price_alone(x, chosen[x.key])
        for year in chosen[x.key]:
            work[year] += 1
            bed[year] += x.bed_m2
            if x.seasons == 2:  # a biennial stands in its bed a second year
                roots[year] += x.roots
                if year + 1 < years:
                    bed[year + 1] += x.bed_m2
            if x.crosses and year + x.seasons - 1 < years:
                flowering.setdefault((x.group, year + x.seasons - 1), []).append(x)
    cost += sum(price_apart(some, year) for (_, year), some in flowering.items())
    for year in range(years):
        if bounds.bed_m2 is not None:
            cost += F.borrow_cost * max(0.0, bed[year] - bounds.bed_m2)
        cost += F.beyond_cost * max(0, work[year] - bounds.lines)
        if bounds.winter_roots is not None:
            cost += F.store_cost * max(0, roots[year] - bounds.winter_roots)
    return cost


@pytest.mark.parametrize("seed", range(12))
def test_no_choice_of_patterns_is_better(seed):
    rng = np.random.default_rng(seed)
    lines = [
        replace(x, group=f"g{x.key % 2}", crosses=x.key < 4) for x in made.household(rng, 5, 4)
    ]
    lines = [replace(x, hedge=seed % 3 == 0 and x.group == "g1") for x in lines]
    lines = [replace(x, roots=4 + x.key) for x in lines]
    store = int(rng.integers(3, 9)) if seed % 2 else None
    bounds = replace(made.limits(lines, 4), lines=2, winter_roots=store)
    if seed % 4 == 1:
        lines[0] = replace(lines[0], agreed=frozenset({1}), barred=frozenset({0}))
        lines[1] = replace(lines[1], apart=frozenset({1, 2}))
    ways = [ye.patterns(x, PROMISED, F) for x in lines]
    keys = [x.key for x in lines]
    best = min(
        plain_price(lines, dict(zip(keys, way, strict=True)), bounds) for way in product(*ways)
    )
    found = ye.plan_years(lines, bounds, F)
    assert found.gap == 0
    assert found.cost == pytest.approx(best, abs=2 * F.tie)
    # what it says is what it chose
    assert ye.priced(lines, found.chosen, bounds, F).apart == found.apart


@pytest.mark.parametrize("seed", range(4))
def test_keeping_apart_is_the_least_that_keeps_pure(seed):
    """Against all sets of lines kept apart: pure where no line that cares stands open beside another."""
    rng = np.random.default_rng(seed)
    for _ in range(40):
        some = [x for x in made.household(rng, 5, 3) if x.key < 1 + rng.integers(5)]
        some = [replace(x, apart=frozenset({0} if rng.random() < 0.2 else ())) for x in some]
        some = [replace(x, hedge=bool(rng.random() < 0.3)) for x in some]
        costs = []
        for way in product((True, False), repeat=len(some)):
            open_ = [x for x, apart in zip(some, way, strict=True) if not apart]
            care = [x for x in open_ if x.purity != "any"]
            if (
                (care and len(open_) > 1)
                or any(x.hedge for x in care)
                or any(0 in x.apart for x in open_)
            ):
                continue
            costs.append(
                sum(
                    ye.apart_cost(x, F)
                    for x, apart in zip(some, way, strict=True)
                    if apart and 0 not in x.apart
                )
            )
        assert ye.kept_apart(some, 0, F)[1] == pytest.approx(min(costs))


def test_a_line_is_grown_as_late_as_it_is_safe_and_again_when_its_fresh_seed_is_past():
    assert plan(line(1)).chosen == {1: (2,)}
    assert plan(line(1, safe=9)).chosen == {1: ()}
    assert plan(line(1, safe=-1)).chosen == {1: (0,)}  # not safe any more: at once
    assert plan(line(1, safe=1, life=2)).chosen == {1: (1, 3)}
    # a biennial's harvest is a year later, and so is the end of its fresh seed
    assert plan(line(1, safe=1, life=2, seasons=2)).chosen == {1: (1, 4)}


def test_two_that_cross_do_not_flower_in_one_year():
    one, other = plan(line(1), line(2)).chosen.values()
    assert sorted((one, other)) == [(1,), (2,)]
    assert plan(line(1), line(2, crosses=False)).chosen == {1: (2,), 2: (2,)}
    assert plan(line(1), line(2, group="h")).chosen == {1: (2,), 2: (2,)}
    # sown in one year and flowering in the next it meets what is sown there
    met = plan(line(1, safe=1, seasons=2), line(2, safe=2)).chosen
    assert met[1][0] + 1 != met[2][0]
    # those that welcome surprises may meet; beside one that cares they may not
    either = plan(line(1, purity="any"), line(2, purity="any"))
    assert (either.chosen, either.apart) == ({1: (2,), 2: (2,)}, frozenset())
    assert len(set(plan(line(1, purity="any"), line(2)).chosen.values())) == 2


def test_what_cannot_be_kept_is_paid_for_and_told():
    now = [line(i, safe=0) for i in (1, 2)]
    crowded = plan(*now)
    assert crowded.chosen == {1: (0,), 2: (0,)}
    assert len(crowded.apart) == 1  # one is bagged, as two in flower cannot both stand open
    hedge = plan(line(1, safe=0, hedge=True))
    assert hedge.apart == {(1, 0)}
    assert plan(line(1, safe=0, purity="any", hedge=True)).apart == frozenset()
    bed = plan(line(1, safe=0, bed_m2=5.0), bed_m2=3.0)
    assert bed.borrowed_m2[0] == pytest.approx(2.0)
    busy = plan(*(line(i, safe=0, crosses=False) for i in range(3)), lines=2)
    assert busy.beyond[0] == 1.0
    # a full year is no reason to let a line wait that is not safe any more
    two_years = [line(i, safe=0, seasons=2, crosses=False, roots=10) for i in (1, 2)]
    stored = plan(*two_years, winter_roots=12)
    assert stored.over_store[0] == 8.0
    assert plan(*two_years).over_store[0] == 0.0
    could_wait = [line(i, safe=1, seasons=2, crosses=False, roots=10) for i in (1, 2)]
    assert max(plan(*could_wait, winter_roots=12).over_store) == 0.0
    failing = replace(line(9, crosses=False), chances=(0.9, 0.89, 0.88, 0.87, 0.86, 0.85))
    crowd = plan(failing, *(line(i, safe=0, crosses=False) for i in range(2)), lines=2)
    assert crowd.chosen[9] == (0,)
    spread = plan(*(line(i, safe=1, crosses=False) for i in range(4)), lines=2)
    assert max(spread.beyond) == 0


def test_what_was_settled_stays_and_little_moves_for_a_little_change():
    lines = made.household(np.random.default_rng(5), 30, 6)
    bounds = made.limits(lines, 6)
    first = ye.plan_years(lines, bounds, F)
    assert ye.plan_years(lines, bounds, F) == first  # the same input, the same plan
    settled = [replace(x, agreed=frozenset(first.chosen[x.key])) for x in lines]
    k = next(i for i, x in enumerate(settled) if x.agreed and min(x.agreed) > 0)
    moved = replace(settled[k], agreed=frozenset({min(settled[k].agreed) - 1}))
    after = ye.plan_years([*settled[:k], moved, *settled[k + 1 :]], bounds, F)
    assert min(moved.agreed) in after.chosen[moved.key]
    assert all(after.chosen[x.key] == first.chosen[x.key] for x in settled if x.key != moved.key)
    barred = replace(lines[k], barred=frozenset(first.chosen[lines[k].key]))
    without = ye.plan_years([*lines[:k], barred, *lines[k + 1 :]], bounds, F)
    assert not set(without.chosen[barred.key]) & barred.barred


def test_it_is_never_dearer_than_one_line_after_the_other():
    for seed in (1, 2, 3):
        lines = made.household(np.random.default_rng(seed), 40, 6)
        bounds = made.limits(lines, 6)
        ours, other = ye.plan_years(lines, bounds, F), made.greedy(lines, bounds, F)
        assert ours.cost <= other.cost + 2 * F.tie


@settings(deadline=None, max_examples=60)
@given(
    st.sets(st.integers(0, 5)), st.sets(st.integers(0, 5)), st.integers(1, 2), st.integers(0, 5),
)  # fmt: skip
def test_a_line_always_has_a_pattern_and_what_was_agreed_and_cannot_be_is_told(
    agreed, barred, seasons, safe
):
    """What is settled in a file may be anything: a biennial two years running, a year that is ruled out."""
    one = line(1, safe=safe, seasons=seasons, agreed=frozenset(agreed), barred=frozenset(barred))
    found = ye.patterns(one, PROMISED, F)
    assert found
    for p in found:
        assert not set(p) & barred
        assert all(b > one.flowers(a) for a, b in pairwise(p))
    made_of = plan(one)
    chosen = made_of.chosen[1]
    assert set(made_of.not_kept(one)) == agreed - set(chosen)
    assert ye.possible(one) <= set(chosen)
    # none is given up that could be had beside those that are kept
    for year in agreed - ye.possible(one):
        kept = ye.possible(one)
        clash = any(year <= one.flowers(k) and k <= one.flowers(year) for k in kept)
        assert clash or year in barred


def test_a_year_that_was_told_is_left_only_for_what_is_worth_it():
    a, b = line(1, safe=3), line(2, safe=3)
    free = plan(a, b, lines=1)
    other = {1: free.chosen[2], 2: free.chosen[1]}
    told = [replace(x, told=other[x.key][0]) for x in (a, b)]
    assert plan(*told, lines=1).chosen == other  # as good: what was told stays
    # a year too late by far is not kept for the sake of the word
    late = replace(line(3, safe=0), told=5)
    assert plan(late).chosen[3][0] == 0


@pytest.mark.parametrize(
    ("safe", "first", "agreed", "running", "code"),
    [
        (2, 1, (), False, "regrow_moved_forward"),
        (2, 2, (), False, "regrow_last_safe"),
        (2, 3, (), False, "regrow_crowded"),
        (-1, 0, (), False, "regrow_already_unsafe"),
        (-1, 0, (0,), False, "regrow_locked"),
        (2, 3, (3,), False, "regrow_locked"),
        (2, 2, (4,), False, "regrow_last_safe"),
        (2, 2, (2,), True, "regrow_wait"),
        (-1, 0, (), True, "regrow_wait"),
    ],
)
def test_how_a_line_stands(safe, first, agreed, running, code):
    x = line(1, safe=safe, agreed=frozenset(agreed))
    assert x.safe_to(PROMISED) == safe
    assert ye.how_it_stands(x, first, PROMISED, running=running) == code


@pytest.mark.parametrize("seed", range(6))
def test_every_choice_costs_what_plain_loops_say(seed):
    rng = np.random.default_rng(100 + seed)
    lines = [replace(x, group="g", crosses=True, roots=5) for x in made.household(rng, 4, 5)]
    lines = [replace(x, purity=ye.PURITY[int(rng.integers(3))]) for x in lines]
    lines[0] = replace(lines[0], purity="strict", hedge=seed % 2 == 0, told=1)
    bounds = replace(made.limits(lines, 5), lines=1, winter_roots=4, bed_m2=2.0)
    ways = [ye.patterns(x, PROMISED, F) for x in lines]
    for _ in range(60):
        some = [way[int(rng.integers(len(way)))] for way in ways]
        chosen = dict(zip([x.key for x in lines], some, strict=True))
        told = ye.priced(lines, chosen, bounds, F).cost
        assert told == pytest.approx(plain_price(lines, chosen, bounds), abs=1e-9)
