"""Opinions and what follows; filing and dividing."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.hand.filing import GROUPINGS, Filed, arrange, bulk, divide, neighbours
from brisk_larder.core.judging.edible import fit_for_food, fit_for_shoots
from brisk_larder.core.judging.triage import (
    Opinions,
    by_age,
    by_forecast,
    by_test,
    thick_sowing,
)
from tests.core.book import FIGURES
from tests.core.seeds import either, sure

LEVEL = 0.7
F = FIGURES.triage


def test_opinions_of_the_three_rules():
    assert [by_age(y, 2, 4) for y in (1, 3, 5)] == ["good", "doubtful", "poor"]
    assert by_age(1, 2, 4, guessed=True) == "doubtful"
    assert [by_test(s, 10, LEVEL, F) for s in (0.8, 0.5, 0.2, None)] == [
        "good",
        "doubtful",
        "poor",
        "none",
    ]
    assert by_forecast(0.05, 0.85, LEVEL, F) == "good"
    assert by_forecast(0.5, 0.7, LEVEL, F) == "doubtful"
    assert by_forecast(0.95, 0.5, LEVEL, F) == "poor"
    assert by_forecast(0.8, 0.3, LEVEL, F) == "poor"
    assert Opinions("poor", "good", "doubtful").disagree
    assert not Opinions("doubtful", "none", "good").disagree


def test_what_is_unsafe_never_reaches_the_table():
    assert fit_for_shoots("pea", True)
    assert not fit_for_shoots("pea", True, treated=True)
    assert not fit_for_shoots("pea", True, spoilt=True)
    assert not fit_for_shoots("tomato", True)
    assert not fit_for_shoots("pea", False)
    assert fit_for_food("lentil", True)
    assert not fit_for_food("tomato", True)
    assert not fit_for_food("lentil", True, treated=True)


def packet(i, kind="kale", **more):
    figures = {
        "code": f"K{i}", "variety": f"Sort {i}", "season": "cool", "autumn": False,
        "family": "Brassicaceae", "age_years": 1.0, "place": "Tin", "sowing_month": 4, "tags": (),
        "use": "seed", "urgency": 0, "bulk": 1.0,
    }  # fmt: skip
    return Filed(lot_id=i, kind_name=kind, **{**figures, **more})


def test_each_grouping_has_its_headings_and_its_order():
    pile = [
        packet(
            1, "tomato", season="warm", age_years=4.2, tags=("early", "for Tam"), sowing_month=3
        ),
        packet(12, autumn=True, place="", urgency=3),
        packet(2, family="", use="swap", age_years=0.3, sowing_month=None),
    ]

    def heads(grouping):
        return [g.name for g in arrange(pile, grouping)]

    assert heads("season") == ["Cool season", "Cool season, also for autumn", "Warm season"]
    assert heads("kind") == ["Kale", "Tomato"]
    assert heads("family") == ["Brassicaceae", "Family unknown"]
    assert heads("age") == ["Under a year", "One year", "4 years"]
    assert heads("place") == ["Tin", "No place named"]
    assert heads("sowing") == ["Sown in March", "Sown in April", "No window known"]
    assert heads("tag") == ["early", "for Tam", "No tag"]
    assert heads("use") == ["Meant for seed", "Meant for swap"]
    assert heads("urgency") == ["Now", "Calm"]
    assert heads("alphabet") == ["S"]
    kale = arrange(pile, "kind")[0]
    assert [x.code for x in kale.lots] == ["K12", "K2"]  # by variety: Sort 12 before Sort 2
    with pytest.raises(InvalidValue, match="group by"):
        arrange(pile, "colour")


def test_a_packet_files_between_two_others():
    pile = [packet(i, variety=name) for i, name in enumerate(("Ash", "Birch", "Cedar"), start=1)]
    groups = arrange(pile, "kind")
    heading, before, after = neighbours(groups, 2)
    assert (heading, before.variety, after.variety) == ("Kale", "Ash", "Cedar")
    assert neighbours(groups, 1)[1] is None
    assert neighbours(groups, 3)[2] is None
    assert neighbours(groups, 9) is None


@given(
    st.lists(st.floats(1, 6), min_size=1, max_size=60),
    st.lists(st.integers(6, 30), min_size=1, max_size=6),
    st.sampled_from(GROUPINGS),
)
def test_packets_divide_in_order_and_never_over_the_brim(bulks, capacities, grouping):
    pile = [
        packet(i, "kale" if i % 3 else "leek", bulk=b, tags=())
        for i, b in enumerate(bulks, start=1)
    ]
    groups = arrange(pile, grouping)
    shares, left = divide(groups, capacities, FIGURES.amounts)
    order = [x.lot_id for g in groups for x in g.lots]
    assert [x.lot_id for s in shares for x in s.lots] + [x.lot_id for x in left] == order
    for s in shares:
        assert sum(x.bulk for x in s.lots) <= capacities[s.box] + 1e-9
        assert 0 < s.fill <= 1 + 1e-9
    assert [s.box for s in shares] == sorted(s.box for s in shares)


def test_a_box_ends_with_a_group_where_it_is_well_filled():
    pile = [packet(i, "kale") for i in range(1, 9)] + [packet(i, "leek") for i in range(9, 17)]
    shares, left = divide(arrange(pile, "kind"), [10, 10], FIGURES.amounts)
    assert [len(s.lots) for s in shares] == [8, 8]
    assert left == []
    with pytest.raises(InvalidValue, match="holds"):
        divide(arrange(pile, "kind"), [10, 0], FIGURES.amounts)


def test_each_opinion_turns_exactly_at_its_limit():
    assert by_test(LEVEL, 10, LEVEL, F) == "good"
    assert by_test(0.35, 10, LEVEL, F) == "doubtful"
    assert by_test(0.5, 0, LEVEL, F) == "none"
    assert by_test(0.8, 1, LEVEL, F) == "good"
    ninth = 1 - F.sure
    assert by_forecast(ninth, 0.8, LEVEL, F) == "good"
    assert by_forecast(0.9, 0.6, LEVEL, F) == "poor"
    assert by_forecast(0.5, 0.35, LEVEL, F) == "doubtful"
    assert [by_age(y, 2, 4) for y in (2, 4)] == ["good", "doubtful"]


def test_thick_sowing_meets_a_stand():
    one = sure(0.4)
    seeds = thick_sowing(0.5, one, 0.9, F)
    assert (
        binom.sf(F.stand_plants - 1, seeds, 0.4)
        >= 0.9
        > binom.sf(F.stand_plants - 1, seeds - 1, 0.4)
    )
    assert thick_sowing(0.02, one, 0.9, F) is None
    assert thick_sowing(0.021, one, 0.9, F) == seeds
    assert thick_sowing(0.5, either(1e-9, 0.9, 0.5), 0.9, F) is None


def test_room_in_a_tin_and_lots_without_a_name():
    a = FIGURES.amounts
    assert [bulk(m, a) for m in (0.0, 6.0, 12.0, 999.0, 1000.0, 9000.0)] == [1, 1, 2, 166.5, 40, 40]
    assert packet(1).bulk == Filed(*([None] * 13)).bulk == 1.0
    pile = [
        packet(1, "tomato", variety="Ash"),
        packet(2, "kale", variety="Ash"),
        packet(3, variety="Birch"),
    ]
    by_name = arrange(pile, "alphabet")
    assert [(g.name, [x.lot_id for x in g.lots]) for g in by_name] == [("A", [2, 1]), ("B", [3])]
    ages = [g.name for g in arrange([packet(i, age_years=i) for i in (0, 1, 2)], "age")]
    assert ages == ["Under a year", "One year", "2 years"]
    months = arrange([packet(1, sowing_month=12), packet(2, sowing_month=None)], "sowing")
    assert [g.name for g in months] == ["Sown in December", "No window known"]


def test_all_boxes_are_used_and_a_group_is_torn_only_where_one_would_be_far_from_the_others():
    a = FIGURES.amounts
    shelf = arrange(
        [packet(i, "kale") for i in range(1, 6)] + [packet(i, "leek") for i in range(6, 12)], "kind"
    )
    assert [len(s.lots) for s in divide(shelf, [10, 10], a)[0]] == [5, 6]  # both are used
    assert [len(s.lots) for s in divide(shelf, [10, 5], a)[0]] == [
        7,
        4,
    ]  # each as full as the other
    assert [len(s.lots) for s in divide(shelf, [8, 8], a)[0]] == [5, 6]
    shares, left = divide(shelf, [11], a)
    assert (len(shares), shares[0].fill, left) == (1, 1.0, [])
    big = arrange([packet(1, bulk=12.0), packet(2)], "kind")
    assert [s.box for s in divide(big, [10, 12, 1], a)[0]] == [1, 2]
