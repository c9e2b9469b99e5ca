"""Whether the year fits, and the least to give up, against trying every set of foods with a plain LP."""

from datetime import date, timedelta
from itertools import combinations

import numpy as np
import pytest
from scipy.optimize import linprog

from brisk_larder.core.needs.room import (
    FORTNIGHT,
    QUARTERS,
    Has,
    Held,
    Stand,
    Takes,
    evenings,
    fit,
    plants_held,
    quarter_rate,
    set_out,
)
from brisk_larder.reference import load_reference

F = load_reference().figures.room
DAY = date(2027, 4, 1)


def held(amount, first, days):
    begin = DAY + timedelta(days=first)
    return Held(amount, begin, begin + timedelta(days=days))


def made_up(rng, n=5):
    return [
        Takes(
            key=f"k{i}",
            weight=float(rng.choice([4.0, 6.0])),
            bed=held(
                float(rng.uniform(2, 30)), int(rng.integers(0, 60)), int(rng.integers(40, 120))
            ),
            cells=held(float(rng.uniform(0, 200)), int(rng.integers(0, 30)), 30),
            evenings=float(rng.uniform(0, 5)),
            jars={1.0: float(rng.uniform(0, 40))} if rng.random() < 0.6 else {},
        )
        for i in range(n)
    ]


def cost(takes, given):
    """What giving up so much costs, quarter by quarter."""
    total = 0.0
    for t in takes:
        left = given.get(t.key, 0.0)
        total += F.touch_cost if left > 1e-6 else 0.0
        for k in range(QUARTERS):
            took = min(left, 1 / QUARTERS)
            total += t.weight * quarter_rate(k, F) * took
            left -= took
    return total


def fits(takes, has, given, tolerance=1e-3):
    """Day by day, not fortnight by fortnight."""
    keep = {t.key: 1 - given.get(t.key, 0.0) for t in takes}
    for ahead in range(-20, 260):
        day = DAY + timedelta(days=ahead)
        for name, limit in (("bed", has.bed_m2), ("cells", has.cells)):
            used = 0.0
            for t in takes:
                h = getattr(t, name)
                if h is not None and h.first <= day <= h.last:
                    used += h.amount * keep[t.key]
            if limit is not None and used > limit * (1 + tolerance) + tolerance:
                return False
    evenings = sum(t.evenings * keep[t.key] for t in takes)
    jars = sum(t.jars.get(1.0, 0.0) * keep[t.key] for t in takes)
    return evenings <= has.evenings + 0.01 and jars <= has.jars[1.0] + 0.1


def cheapest_by_trying(takes, has):
    """For each set of foods that may be touched, a plain linear programme over its quarters."""
    starts = sorted({h.first for t in takes for h in (t.bed, t.cells)})
    days = []
    day = starts[0]
    while day <= max(h.last for t in takes for h in (t.bed, t.cells)):
        days.append(day)
        day += FORTNIGHT
    rates = [quarter_rate(k, F) for k in range(QUARTERS)]
    best = np.inf
    for n in range(len(takes) + 1):
        for some in combinations(range(len(takes)), n):
            rows, most = [], []

            def at_most(used, limit, some=some, rows=rows, most=most):
                rows.append([-used[i] for i in some for _ in rates])
                most.append(limit - sum(used))

            for d in days:
                at_most([t.bed.amount if t.bed.at(d) else 0.0 for t in takes], has.bed_m2)
                at_most([t.cells.amount if t.cells.at(d) else 0.0 for t in takes], has.cells)
            at_most([t.evenings for t in takes], has.evenings)
            at_most([t.jars.get(1.0, 0.0) for t in takes], has.jars[1.0])
            if not some:
                if all(m >= 0 for m in most):
                    best = min(best, 0.0)
                continue
            prices = [takes[i].weight * r for i in some for r in rates]
            found = linprog(prices, A_ub=rows, b_ub=most, bounds=(0, 1 / QUARTERS))
            if found.status == 0:
                best = min(best, found.fun + F.touch_cost * len(some))
    return best


@pytest.mark.parametrize("seed", range(8))
def test_the_least_is_given_up_and_then_it_fits(seed):
    rng = np.random.default_rng(seed)
    takes = made_up(rng)
    has = Has(
        bed_m2=float(rng.uniform(20, 60)), cells=float(rng.uniform(100, 400)),
        evenings=float(rng.uniform(5, 14)), jars={1.0: float(rng.uniform(20, 80))},
    )  # fmt: skip
    found = fit(takes, has, F)
    assert fits(takes, has, found.give_up)
    assert cost(takes, found.give_up) == pytest.approx(cheapest_by_trying(takes, has), abs=0.02)
    assert found.gap == 0


def test_what_one_leaves_another_takes_and_nothing_said_is_nothing_missing():
    early, late = (Takes(k, 6.0, bed=held(20.0, first, 50)) for k, first in (("a", 0), ("b", 70)))
    both = fit([early, late], Has(bed_m2=20.0), F)
    assert both.fits
    assert both.uses[0].needed == 20.0
    assert fit([early, late], Has(), F).fits
    beside = fit([early, Takes("b", 6.0, bed=held(20.0, 10, 50))], Has(bed_m2=20.0), F)
    assert not beside.fits
    assert beside.uses[0].missing == 20.0
    assert sum(beside.give_up.values()) == pytest.approx(1.0, abs=0.01)


def test_jars_of_another_size_are_no_jars():
    one = Takes("sauce", 6.0, jars={1.0: 30.0})
    found = fit([one], Has(jars={0.5: 100.0}), F)
    assert [(u.litres, u.missing) for u in found.uses if u.what == "jars"] == [(1.0, 30.0)]
    assert fit([one], Has(), F).fits  # nobody counted any


SOWN = date(2027, 3, 1)


def test_beds_are_held_from_setting_out_to_the_last_harvest_and_cells_until_then():
    # indoors, out after the last frost; 70 days, then picked for three weeks
    stand = Stand(SOWN, set_out(SOWN, 8, date(2027, 5, 12)), 70, 3.0, date(2027, 10, 8))
    bed, cells = plants_held(stand, 4.0, 48)
    assert cells == Held(48, SOWN, date(2027, 5, 12))
    assert bed == Held(4.0, date(2027, 5, 12), date(2027, 5, 12) + timedelta(days=70 + 21))
    assert plants_held(stand, 4.0, 0)[1] is None
    assert set_out(date(2027, 6, 1), 8, date(2027, 5, 12)) == date(2027, 6, 1)
    assert set_out(SOWN, 8, None) == SOWN + timedelta(weeks=8)  # no frost: after its weeks inside


def test_what_bears_until_the_frost_stands_until_the_frost():
    frost = date(2027, 10, 8)
    assert plants_held(Stand(SOWN, SOWN, 90, None, frost), 1.0, 0)[0].last == frost
    late = date(2027, 9, 1)
    assert plants_held(Stand(late, late, 90, None, frost), 1.0, 0)[0].last == late + timedelta(90)
    assert plants_held(Stand(SOWN, SOWN, 90, None, None), 1.0, 0)[0].last == SOWN + timedelta(90)
    # and what does not, does not
    assert plants_held(Stand(SOWN, SOWN, 90, 2.0, frost), 1.0, 0)[0].last == SOWN + timedelta(104)


def test_staggered_sowings_hold_as_much_bed_as_stands_at_a_time():
    """Counted day by day: sowings two weeks apart for twenty weeks, each ten weeks to ripen, eaten in two."""
    weeks, days, feeds = 20, 70, 2.0
    bed, cells = plants_held(Stand(SOWN, SOWN, days, feeds, None, fresh_weeks=weeks), 10.0, 40)
    n = int(weeks / feeds)
    spans = [(14 * i, 14 * i + days + 14) for i in range(n)]
    most = max(sum(a <= d < b for a, b in spans) for d in range(400)) / n
    assert bed.amount == pytest.approx(10.0 * most, rel=0.1)
    assert cells.amount == pytest.approx(4 * bed.amount)
    assert bed.last == SOWN + timedelta(days=days, weeks=weeks)
    # eaten in the weeks of one sowing: all of it stands at once
    once = plants_held(Stand(SOWN, SOWN, days, feeds, None, fresh_weeks=2.0), 10.0, 0)[0]
    assert once.amount == 10.0
    # however long it is eaten, what bears until the frost is one sowing
    assert plants_held(Stand(SOWN, SOWN, days, None, None, 20), 10.0, 0)[0].amount == 10.0


def test_evenings_are_those_of_cells_rows_and_what_is_put_up():
    none = evenings(F, 0, 0, 0, "fresh", 50)
    assert none == 0  # what is eaten fresh is not put up
    assert evenings(F, F.cells_an_evening, 0, 0, "", 0) == pytest.approx(1)
    assert evenings(F, 0, 2 * F.row_m_an_evening, 0, "", 0) == pytest.approx(2)
    assert evenings(F, 0, 0, 3 * F.jars_an_evening, "jam", 999) == pytest.approx(3)
    for method in ("freeze", "dry", "ferment"):
        assert evenings(F, 0, 0, 0, method, 2 * F.kg_an_evening) == pytest.approx(2)
    assert evenings(F, 0, 0, F.jars_an_evening, "ferment", 999) == pytest.approx(1)
