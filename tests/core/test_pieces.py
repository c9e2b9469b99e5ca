"""Tubers, cloves, sets and plants: which words mean them, and how long they keep."""

from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from brisk_larder.core.hand.amounts import read_amount, says_no_count
from brisk_larder.core.hand.origins import read_origin
from brisk_larder.core.seed.pieces import keeps, lifted_on, piece_state
from brisk_larder.reference import load_reference
from brisk_larder.services.household.kinds import _overlaid
from brisk_larder.services.household.naming import guess_kind
from brisk_larder.services.household.own_units import measures_of
from brisk_larder.services.household.planting_stock import as_set, form_of

F = load_reference().figures.pieces
KINDS = _overlaid(False, (), (), (), ())
DAY = 86_400.0


@pytest.mark.parametrize(
    ("word", "amount", "kind", "form"),
    [
        ("potato", "60", "potato", "tuber"),
        ("seed potatoes", "4 kg", "potato", "tuber"),
        ("garlic", "3 heads", "garlic", "clove"),
        ("Knoblauch", "2 bulbs", "garlic", "clove"),
        ("onion sets", "250", "onion", "set"),
        ("onion", "40 sets", "onion", "set"),
        ("onion", "300 seeds", "onion", ""),
        ("bulb onion", "2 g", "onion", ""),
        ("tomato", "6 plants", "tomato", "plant"),
        ("egg plant", "1 packet", "aubergine", ""),
        ("runner bean", "40", "runner_bean", ""),
        ("strawberry", "200 seeds", "strawberry", ""),
        ("strawberry plants", "12", "strawberry", "plant"),
        ("asparagus crowns", "10", "asparagus", "crown"),
        ("slips of sweet potato", "12", "sweet_potato", "slip"),
        ("dill", "3 heads", "dill", ""),
        ("fennel", "2 bulbs", "fennel", ""),
    ],
)
def test_words_say_what_is_seed_and_what_is_set(word, amount, kind, form):
    assert guess_kind(word, KINDS) == kind
    assert form_of(KINDS.get(kind), "", word, amount) == form


def test_heads_are_so_many_cloves_and_kilos_so_many_tubers():
    garlic = measures_of(KINDS.get("garlic"), form="clove")
    said = read_amount("3 heads", garlic)
    assert (said.seeds, said.words.split(",")[0]) == (30.0, "about 30 cloves")
    assert not says_no_count("3 heads", garlic)
    assert says_no_count("3 heads", measures_of(KINDS.get("dill")))
    potato = measures_of(KINDS.get("potato"), form="tuber")
    assert 48 < read_amount("4 kg", potato).seeds < 80
    assert read_amount("60 seed tubers", potato).words == "60 seed tubers"
    assert read_amount("1 piece", potato).words == "1 seed tuber"


def test_sets_of_a_kind_of_seed_have_days_of_their_own():
    onion = KINDS.get("onion")
    assert as_set(onion, "set").crop.sow_outdoors_weeks_rel_last_frost == (-7, 0)
    assert as_set(onion, "") is onion
    tomato = as_set(KINDS.get("tomato"), "plant")
    assert tomato.crop.sow_indoors_weeks_before_last_frost is None
    low, high = tomato.crop.sow_outdoors_weeks_rel_last_frost
    assert 0 <= low < high
    # what is set in autumn is set after the last frost of its year, not before that of the next
    assert KINDS.get("garlic").crop.sow_outdoors_weeks_rel_last_frost == (22, 30)


def air(temperatures):
    return np.arange(len(temperatures)) * 10 * DAY, np.array(temperatures, dtype=float)


def test_what_lies_well_keeps_its_weeks_and_warmth_shortens_them_as_an_integral_says():
    start, cold = air([5.0] * 60)
    well = keeps(0.0, (10.0, 20.0), (3.0, 12.0), start, cold, None, F)
    assert (well.low_s, well.high_s) == pytest.approx((70 * DAY, 140 * DAY))
    warm = 12 + 10 * np.abs(np.sin(np.arange(60) / 5))
    found = keeps(0.0, (10.0, 20.0), (3.0, 12.0), *air(warm), None, F)

    def rate(t):
        return 2 ** (max(0.0, warm[int(t // 10)] - 12) / F.warm_halves_c)

    for at, weeks in ((found.low_s, 10), (found.high_s, 20)):
        lived, _ = quad(rate, 0, at / DAY, limit=400, points=np.arange(10, at / DAY, 10))
        assert lived == pytest.approx(7 * weeks, rel=1e-6)


@given(st.lists(st.floats(-10, 35), min_size=3, max_size=30), st.integers(0, 29), st.floats(0, 15))
def test_a_warmer_place_never_lets_them_keep_longer(temperatures, at, more):
    warmer = list(temperatures)
    warmer[at % len(warmer)] += more
    one, other = (
        keeps(0.0, (4.0, 9.0), (0.0, 10.0), *air(t), None, F) for t in (temperatures, warmer)
    )
    assert other.low_s <= one.low_s + 1e-3
    assert other.high_s <= one.high_s + 1e-3
    assert one.low_s <= one.high_s


def test_what_was_looked_over_is_good_for_a_while():
    start, cold = air([5.0] * 60)
    told = keeps(0.0, (1.0, 2.0), (3.0, 12.0), start, cold, 30 * DAY, F)
    assert told.high_s == (30 + F.told_before_days) * DAY
    assert piece_state(31 * DAY, told, None, F) == "last_days"


def test_states_in_their_order():
    start, cold = air([5.0] * 60)
    last = keeps(0.0, (10.0, 20.0), (3.0, 12.0), start, cold, None, F)
    assert piece_state(0.0, last, 60 * DAY, F) == "keeps"
    assert piece_state(69 * DAY, last, 80 * DAY, F) == "last_days"
    assert piece_state(0.0, last, 141 * DAY, F) == "too_short"
    assert piece_state(141 * DAY, last, 142 * DAY, F) == "over"


SPRING = [(date(y, 4, 1), date(y, 5, 1)) for y in (2024, 2025, 2026)]
AUTUMN = [(date(y, 10, 1), date(y, 11, 1)) for y in (2024, 2025, 2026)]
TODAY = date(2026, 12, 1)


@pytest.mark.parametrize(
    ("said", "form", "set_on", "days", "on"),
    [
        ("2026", "tuber", SPRING, 100, date(2026, 7, 25)),
        ("2026", "clove", AUTUMN, 250, date(2026, 6, 23)),
        ("2025", "clove", AUTUMN, 250, date(2025, 6, 23)),
        (None, "tuber", SPRING, 100, date(2026, 7, 25)),
        (None, "tuber", SPRING, 250, date(2025, 12, 22)),  # this year's is not lifted yet
        ("2026", "tuber", [], 100, TODAY),
        ("2025", "tuber", [], 100, date(2025, 12, 31)),
        (None, "plant", SPRING, 100, TODAY),
        ("2025", "plant", SPRING, 100, date(2025, 12, 31)),
        ("Sep 2026", "tuber", SPRING, 100, date(2026, 9, 15)),
    ],
)
def test_when_pieces_were_lifted_or_came(said, form, set_on, days, on):
    origin = read_origin(said, TODAY)[0] if said else None
    assert lifted_on(origin, form, set_on, days, TODAY) == on
