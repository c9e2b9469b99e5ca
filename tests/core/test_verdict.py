"""The verdict on a packet: each rule, its limit, and which goes before which; what is to spare."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.base.units import DAY_S
from brisk_larder.core.hand.seed_count import NOTHING_SAID, Seeds
from brisk_larder.core.judging import verdict as v
from brisk_larder.core.judging.triage import Opinions
from tests.core.book import FIGURES

NOW, YEAR = 1_795_507_200.0, 2026
F = FIGURES.verdict
GOOD = Opinions("good", "none", "good")
DOUBTFUL = Opinions("good", "none", "doubtful")
POOR = Opinions("poor", "none", "poor")
CALM = v.Packet(
    seeds=Seeds(200.0, 0.0, True), now_mid=0.85, now_high=0.9, mid=0.85, chance_below=0.05, level=0.7,
    opinions=GOOD, school="forecast", use="seed", spoilt=False, wet=False, wanted=True, running=False,
    asked_of_sibling=False, test_due_s=None, advice="certainly_good", regrow_asked=False,
    last_safe_year=None, line_lives=False, line_uncounted=False, good_until_s=NOW + 900 * DAY_S,
    beyond=False, spare=0.0, shoots=False, food=False,
)  # fmt: skip
LATE = {"test_due_s": NOW + 300 * DAY_S}
DEAD = {"now_mid": 0.001, "now_high": 0.1, "mid": 0.0, "opinions": POOR, "advice": "certainly_poor"}
LINE = {"regrow_asked": True, "last_safe_year": 2031}


def said(**change):
    return v.verdict(replace(CALM, **change), NOW, YEAR, FIGURES)


@pytest.mark.parametrize(
    ("change", "code", "acts", "urgency"),
    [
        ({}, "good", ("keep",), 0),
        ({"good_until_s": NOW}, "good", ("keep",), 0),
        ({"good_until_s": NOW - 1}, "below", ("keep",), 2),
        ({"good_until_s": None, "beyond": True}, "good_beyond", ("keep",), 0),
        ({"good_until_s": None}, "none", ("keep",), 0),
        ({"named": False}, "unnamed", ("name",), 1),
        ({"named": False, **DEAD}, "unnamed", ("name",), 1),
        ({"named": False, "spare": 0.9, **LATE}, "unnamed", ("name",), 1),
        ({"named": False, "spoilt": True}, "spoilt", ("let_go",), 2),
        ({"spare": 0.7}, "good", ("give", "keep"), 0),
        ({"spare": 0.5}, "good", ("keep",), 0),
        ({"spare": 0.7, **LINE}, "good", ("keep",), 0),
        ({"spare": 0.7, **LATE}, "test", ("test", "keep"), 1),
        ({"opinions": DOUBTFUL, "mid": 0.5}, "good", ("sow_thick",), 0),
        ({"opinions": POOR, "mid": 0.35, "advice": "certainly_poor"}, "poor", ("sow_thick",), 2),
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.69}, "over", ("let_go",), 2),
        ({"opinions": POOR, "mid": 0.2, "now_high": 0.69, "shoots": True, "food": True}, "over",
         ("shoots", "food", "let_go"), 2),
        # only the book condemns it: it is tested before it is let go
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.7}, "test", ("test", "sow_thick"), 1),
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.7, "asked_of_sibling": True}, "sibling",
         ("wait", "sow_thick"), 1),
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.7, "advice": "too_few_seeds"}, "good",
         ("sow_thick",), 0),
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.7, "seeds": NOTHING_SAID, "wanted": False}, "good",
         ("sow_thick",), 0),
        ({"opinions": POOR, "mid": 0.34, "now_high": 0.7, **LATE}, "test", ("test", "sow_thick"), 1),
        ({"opinions": Opinions("poor", "poor", "poor"), "mid": 0.34}, "over", ("let_go",), 2),
        ({"opinions": POOR, "mid": 0.2, **LINE}, "good", ("sow_thick",), 0),
        (LATE, "test", ("test", "keep"), 1),
        ({"test_due_s": NOW + 120 * DAY_S - 1}, "test", ("test", "keep"), 2),
        ({"test_due_s": NOW + 120 * DAY_S}, "test", ("test", "keep"), 1),
        ({**LATE, "asked_of_sibling": True}, "sibling", ("wait", "keep"), 1),
        ({**LINE, "last_safe_year": 2027}, "regrow", ("regrow", "keep"), 3),
        ({**LINE, "last_safe_year": 2028}, "good", ("keep",), 0),
        ({"regrow_asked": True}, "regrow_unsafe", ("regrow", "keep"), 3),
        ({"regrow_asked": True, "line_uncounted": True}, "good", ("keep",), 0),
        ({"last_safe_year": 2020}, "good", ("keep",), 0),  # no line to keep
        ({"running": True}, "running", ("wait",), 2),
        ({"use": "food", "food": True, **LATE}, "table", ("food",), 0),
        ({"use": "shoots"}, "table", ("keep",), 0),
        ({"spoilt": True}, "spoilt", ("let_go",), 2),
        ({"spoilt": True, **LINE}, "spoilt_regrow", ("regrow", "let_go"), 2),
        ({"wet": True}, "dry_test", ("dry", "test"), 3),
        ({"wet": True, "wanted": False}, "dry", ("dry",), 3),
        (DEAD, "dead", ("let_go",), 1),
        ({**DEAD, "regrow_asked": True}, "dead_find", ("find_again", "let_go"), 3),
        ({**DEAD, "regrow_asked": True, "line_lives": True}, "dead", ("let_go",), 1),
        ({"seeds": Seeds(0.9, 0.0, True)}, "empty", ("let_go",), 0),
        ({"seeds": Seeds(0.9, 0.2, True), "regrow_asked": True}, "few", ("find_again", "let_go"), 3),
        ({"seeds": Seeds(2.0, 0.0, True), "now_high": 0.99}, "few", ("let_go",), 0),
        ({"seeds": Seeds(3.0, 0.0, True)}, "good", ("keep",), 0),
        ({"seeds": NOTHING_SAID}, "count", ("count", "keep"), 2),
        ({"seeds": NOTHING_SAID, **LATE, "regrow_asked": True, "line_uncounted": True}, "count",
         ("count", "keep"), 2),
        ({"seeds": NOTHING_SAID, "wanted": False}, "good", ("keep",), 0),
    ],
)  # fmt: skip
def test_each_rule_and_its_limit(change, code, acts, urgency):
    found = said(**change)
    assert (found.code, found.acts, found.urgency) == (code, acts, urgency)


def test_the_more_urgent_goes_first():
    rest = {
        **LATE,
        "regrow_asked": True,
        "spoilt": True,
        "wet": True,
        "seeds": Seeds(0.0, 0.0, True),
    }
    order = []
    for lift in ({"seeds": Seeds(50.0, 0.0, True)}, {"running": False}, {"spoilt": False},
                 {"wet": False}, {"regrow_asked": False}, {"test_due_s": None}):  # fmt: skip
        order.append(said(**{"running": True, **rest}).code)
        rest |= lift
    assert order == ["empty", "running", "spoilt_regrow", "dry_test", "regrow_unsafe", "test"]
    assert said(**{**rest, **DEAD, "running": True}).code == "running"
    assert said(**DEAD, wet=True).code == "dead"  # nothing to dry it for


def test_schools_order_the_acts_and_end_no_line():
    old = Opinions("poor", "good", "good")
    assert said(school="age_rule", opinions=old).acts == ("let_go",)
    assert said(school="age_rule", opinions=old, food=True, **LATE).acts == ("let_go",)
    assert said(school="age_rule", opinions=old, **LINE).acts == ("keep",)
    assert said(school="age_rule", opinions=old).code == "over"
    assert said(school="test", opinions=Opinions("good", "none", "good")).acts == ("test", "keep")
    assert said(school="test", spare=0.9).acts == ("test", "keep")
    assert said(school="test", asked_of_sibling=True).acts == ("wait", "keep")
    assert said(school="test", opinions=Opinions("good", "doubtful", "good")).acts[0] == "sow_thick"
    assert said(school="routine", opinions=old) == said(opinions=old)  # it tests at other times
    assert said(school="count", opinions=old).code == "thick"
    doubtful = {"opinions": Opinions("good", "none", "doubtful"), "test_due_s": 1e9, "mid": 0.5}
    assert said(**doubtful).test
    assert not said(school="count", **doubtful).test  # sow extra and count
    assert said(school="age_rule", opinions=old, **LATE, asked_of_sibling=True).code == "sibling"
    assert said(school="count", regrow_asked=True).code == "regrow_unsafe"
    assert said(school="age_rule", opinions=old, running=True).code == "running"


@given(
    st.builds(
        replace, st.just(CALM), seeds=st.sampled_from([NOTHING_SAID, Seeds(0, 0, True), Seeds(90, 20, True)]),
        now_mid=st.sampled_from([0.0, 0.3, 0.9]), now_high=st.sampled_from([0.0, 0.5, 0.95]),
        mid=st.floats(0, 1), opinions=st.sampled_from([GOOD, DOUBTFUL, POOR]), spoilt=st.booleans(),
        school=st.sampled_from(["forecast", "age_rule", "test", "routine", "count"]), wet=st.booleans(),
        use=st.sampled_from(["seed", "food", "swap"]), wanted=st.booleans(), running=st.booleans(),
        asked_of_sibling=st.booleans(), test_due_s=st.sampled_from([None, NOW]), spare=st.floats(0, 1),
        regrow_asked=st.booleans(), last_safe_year=st.sampled_from([None, 2026, 2040]),
        line_lives=st.booleans(), line_uncounted=st.booleans(),
    )
)  # fmt: skip
def test_a_verdict_never_contradicts_itself(packet):
    found = v.verdict(packet, NOW, YEAR, FIGURES)
    assert found.standing in v.STANDINGS
    assert found.acts
    assert set(found.acts) <= set(v.ACTS)
    assert len(set(found.acts)) == len(found.acts)
    if not found.alive:
        assert set(found.acts) <= {"find_again", "let_go"}
        doable = (found.may_sow, found.may_move, found.test, found.settled)
        assert not any(doable)
    if found.test:
        assert not found.settled
        assert "let_go" not in found.acts[:1]
        assert not packet.running
        assert packet.seeds.known or not packet.wanted
    if packet.running:
        assert found.standing in ("running", "empty")
        assert not found.settled
    assert not ({"give", "regrow"} <= set(found.acts))
    assert "give" not in found.acts or (
        found.settled or found.acts[0] in ("keep", "sow_thick", "test")
    )


def test_dead_means_few_at_best_as_well():
    assert v.dead(0.019, 0.149, F)
    assert not v.dead(0.02, 0.149, F)
    assert not v.dead(0.019, 0.15, F)  # may well be alive: unsure, not dead


def test_packets_of_one_origin_are_one_question():
    asked = [(1, 7, 40.0), (2, 7, 300.0), (3, 7, 300.0), (4, 8, 0.0)]
    assert v.one_test_each(asked) == {1: 2, 2: 2, 3: 2, 4: 4}
    assert v.one_test_each([]) == {}


def spare(
    seeds=Seeds(1000, 0, True), success=0.5, asked=0.0, wanted=False, life=5.0, mothers=0, test=0
):
    return v.seeds_to_spare(seeds, success, asked, wanted, life, mothers, test, FIGURES)


def test_to_spare_is_what_nothing_asks_for():
    n, t = FIGURES.needs, FIGURES.triage
    assert spare() == 1000 - n.spare_uses * n.spare_least_use_seeds
    assert spare(asked=100) == 1000 - n.spare_uses * 200
    assert spare(mothers=20) == spare() - 20 * n.spare_good_lines_times
    assert spare(test=15) == spare() - 15
    used = t.usual_sowings_a_year * 5 * t.stand_plants / 0.5
    assert spare(wanted=True) == 1000 - used
    assert spare(wanted=True, life=0.1) == 1000 - used / 10  # half a year at least
    assert spare(wanted=True, life=None) == spare(wanted=True, life=F.longest_use_years)
    assert spare(wanted=True, life=80.0) == spare(wanted=True, life=F.longest_use_years)
    assert spare(Seeds(1000, 100, True)) == int(spare() - 128.16)  # what is there at least
    assert spare(NOTHING_SAID) == spare(Seeds(10, 0, True)) == spare(success=0) == 0


def test_only_seed_alive_by_a_margin_is_passed_on():
    assert v.good_to_give(0.7, 0.6, 0.6, False, F)
    assert not v.good_to_give(0.69, 0.6, 0.6, False, F)
    assert not v.good_to_give(0.7, 0.59, 0.6, False, F)
    assert not v.good_to_give(0.9, 0.8, 0.6, True, F)


def test_too_many_is_more_than_its_life_can_use():
    assert v.too_many(3, 301, 40, 5, F)
    assert not v.too_many(3, 300, 40, 5, F)
    assert not v.too_many(2, 3000, 40, 5, F)
    assert v.too_many(3, 31, 40, 0.1, F)  # half a year at least
    assert v.too_many(3, 8, 0, 5, F)  # never used


def test_a_promise_on_a_pinch_holds_as_often_as_it_says():
    """Seeds drawn, sown and grown: a promise at nine in ten holds nine times in ten, although nobody
    counted the pinch."""
    from brisk_larder.core.needs.cover import Demand, cover
    from brisk_larder.core.needs.cover_ways import Supply
    from brisk_larder.core.seed.worlds import amount, ranks
    from tests.core.seeds import either, held

    rng = np.random.default_rng(5)
    one = either(0.6, 0.8, 0.5)
    kale = frozenset({"kale"})
    lots = [
        Supply(i, "kale", 30, replace(one, g=one.g[order]), i, True, amount(f"seeds:{i}", 30, 18))
        for i, order in enumerate(ranks([f"cohort:{i}" for i in range(4)]))
    ]
    demand = Demand("soup", kale, 12)
    plan = cover([demand], lots, 0.9, {}, FIGURES.cover)
    assert not plan.short
    drawn = 40_000
    plants = np.zeros(drawn)
    for t in plan.taken:
        there = np.maximum(np.floor(rng.normal(30, 18, drawn)), 0)
        g = rng.choice([0.6, 0.8], drawn)
        plants += rng.binomial(np.minimum(there, t.seeds).astype(int), g)
    assert 0.895 < (plants >= 12).mean() < 0.97
    # taken for certain, the same lots would have been promised too cheaply
    sure = cover([demand], [replace(x, held=held(30)[0]) for x in lots], 0.9, {}, FIGURES.cover)
    assert sum(t.seeds for t in sure.taken) < sum(t.seeds for t in plan.taken)
    (short,) = cover([demand], lots[:1], 0.9, {}, FIGURES.cover).short
    assert short.reason.code == "short_amount_unsure"
    (short,) = cover([demand], [], 0.9, {}, FIGURES.cover, {8: "kale"}).short
    assert short.reason.code == "short_uncounted"
    assert (
        cover([demand], [], 0.9, {}, FIGURES.cover, {8: "leek"}).short[0].reason.code
        == "short_no_seed"
    )
