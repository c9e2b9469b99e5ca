"""What is told at the door: since when, of which type, how a germination is stated, how old without a year."""

from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import truncnorm

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import YEAR_S, day_start_s
from brisk_larder.core.hand.origins import likely_age, read_origin
from brisk_larder.core.hand.plant_types import believed, serves, types_in, wanted
from brisk_larder.core.hand.stay_start import began
from brisk_larder.core.hand.told_tests import read_tested
from brisk_larder.core.seed import belief as be
from brisk_larder.reference import load_reference
from tests.core.book import FIGURES

TZ = "Europe/London"
NOW = day_start_s(date(2026, 11, 24), TZ) + 10 * 3600
CAME = day_start_s(date(2017, 2, 1), TZ)
TYPES = load_reference().types


@pytest.mark.parametrize(
    ("said", "from_s", "since"),
    [
        ("", NOW, "told"), ("only from now", NOW, "told"), ("since it came", CAME, "came"),
        ("Since  it came", CAME, "came"), ("since about 2023", day_start_s(date(2023, 7, 2), TZ), "told"),
        ("Mar 2020", day_start_s(date(2020, 3, 16), TZ), "told"), ("2011", CAME, "came"),
        ("2026", day_start_s(date(2026, 6, 13), TZ), "told"),
        ("yesterday", day_start_s(date(2026, 11, 23), TZ), "told"),
        ("last Monday", day_start_s(date(2026, 11, 23), TZ), "told"),
        ("since 3 Nov", day_start_s(date(2026, 11, 3), TZ), "told"),
    ],
)  # fmt: skip
def test_since_when_is_read_as_it_is_said(said, from_s, since):
    assert began(said, CAME, NOW, TZ) == (from_s, since)


def test_seed_of_this_year_is_supposed_to_have_lain_there_since_it_came():
    fresh = day_start_s(date(2026, 9, 1), TZ)
    assert began("", fresh, NOW, TZ) == (fresh, "supposed")


@pytest.mark.parametrize("said", ["since the flood", "2031", "2019, 2021"])
def test_what_is_no_day_is_asked_again(said):
    with pytest.raises(InvalidValue, match="since when"):
        began(said, CAME, NOW, TZ)


@pytest.mark.parametrize(
    ("crop", "words", "types"),
    [
        ("maize", "popcorn", {"pop"}), ("maize", "sweet corn Early Lantern", {"sweet"}),
        ("maize", "field corn", {"dent"}), ("maize", "corn", set()), ("pea", "sugar snap", {"snap"}),
        ("pea", "mangetout", {"flat"}), ("pea", "Snapdragon Hollow", set()), ("tomato", "plum", {"paste"}),
        ("bean_pole", "for drying, or as green beans", {"dry", "pods"}), ("onion", "Spring-onion", {"bunch"}),
    ],
)  # fmt: skip
def test_types_are_read_from_the_words_of_a_label(crop, words, types):
    assert types_in(words, TYPES[crop]) == types


def test_popcorn_is_not_sweet_corn():
    corn, frozen = TYPES["maize"], "sweetcorn, cut, frozen"
    assert [serves([t], frozen, corn) for t in ("sweet", "pop", "flint")] == [
        "well",
        "never",
        "never",
    ]
    assert serves([], frozen, corn) == "pinch"  # nobody said which: it is not counted on
    assert serves(["pop", "sweet"], frozen, corn) == "well"  # a packet of both
    assert wanted("popcorn, dry stored", corn) == ("pop",)
    assert serves(["pop"], frozen, corn, chosen=["pop"]) == "well"  # the keeper says so
    assert serves(["sweet"], frozen, corn, chosen=["pop"]) == "never"
    assert serves([], frozen, corn, chosen=["pop"]) == "pinch"  # it may be that


def test_what_nothing_is_said_of_is_the_usual_type_and_no_type_is_asked_of_most():
    assert believed([], TYPES["pea"]) == {"shelling"}
    assert believed([], TYPES["maize"]) == set()
    assert serves([], "peas, shelled, frozen", TYPES["pea"]) == "well"
    assert serves(["snap"], "a soup of our own", TYPES["pea"]) == "well"
    assert serves([], "leeks, frozen sliced", ()) == "well"


@pytest.mark.parametrize("crop", TYPES)
def test_types_of_a_kind_can_be_told_apart_and_one_at_most_is_usual(crop):
    types = TYPES[crop]
    assert sum(t.usual for t in types) <= 1
    for t in types:
        assert len(t.well | t.pinch | t.never) == len(t.well) + len(t.pinch) + len(t.never)
        assert t.key in types_in(t.name, types) or len(types) == 1, t.name


@given(st.floats(0.05, 0.93), st.floats(0.05, 0.93), st.sampled_from(["tested", "at_least"]))
def test_more_stated_is_never_believed_less(a, b, how):
    f, usual = FIGURES.belief, be.quality("bought", None, None, FIGURES.belief)
    low, high = (be.stated_quality(usual, x, how, 0.95, f)[0] for x in sorted((a, b)))
    assert low <= high + 1e-9


def test_tested_at_sixty_is_about_sixty_and_at_least_leaves_the_usual_belief_above_it():
    f, usual = FIGURES.belief, be.quality("bought", None, None, FIGURES.belief)
    rng = np.random.default_rng(1)
    mean, sd = be.stated_quality(usual, 0.6, "tested", 0.95, f)
    share = 0.95 * be.ndtr(rng.normal(mean, sd, 20_000))
    assert float(np.mean(share)) == pytest.approx(0.6, abs=0.01)
    for least in (0.3, 0.85, 0.92):
        at = be.ndtri(least / 0.95)
        mean, sd = be.stated_quality(usual, least, "at_least", 0.95, f)
        cut = truncnorm((at - usual[0]) / usual[1], np.inf, loc=usual[0], scale=usual[1])
        assert (mean, sd) == pytest.approx((cut.mean(), cut.std()), abs=1e-3)
    assert be.stated_as(0.7, 70.0) == "at_least"
    assert [be.stated_as(0.6, x) for x in (70.0, None)] == ["tested", "tested"]


def test_seed_without_a_year_is_as_old_as_what_the_household_keeps_of_it():
    years = [int(NOW - y * YEAR_S) for y in (1, 3, 8)]
    oldest, about = likely_age(years, NOW, 4.0)
    assert oldest == years[2]
    assert (NOW - about) / YEAR_S == pytest.approx(4.0, abs=0.01)
    assert about <= max(years)  # never younger than the newest
    none = likely_age([], NOW, 4.0)
    assert [(NOW - x) / YEAR_S for x in none] == pytest.approx([4.0, 2.0], abs=0.01)


def test_the_doubt_of_an_age_is_that_of_seed_drawn_at_any_age_within():
    low, about = likely_age([], NOW, 6.0)
    years, sd = be.doubt_of_age(
        low, NOW, about, NOW, 0.9
    )  # probits lost in the three years reckoned
    ages = np.random.default_rng(2).uniform(0, NOW - low, 100_000)
    assert years == pytest.approx(0, abs=1e-6)
    assert sd == pytest.approx(float(np.std(0.9 * ages / (NOW - about))), rel=0.01)
    # a file of before began its record on the day it was written: all its years are doubt
    assert be.doubt_of_age(low, NOW, NOW, NOW, 0.0) == (pytest.approx(6.0), 0.0)
    assert be.doubt_of_age(low, NOW, about, NOW, 2.0)[1] > sd


@pytest.mark.parametrize(
    ("text", "said"),
    [("9/10", (0.9, 10)), ("9 of 10", (0.9, 10)), ("72 %", (0.72, None)), ("72", (0.72, None)),
     ("0.72", (0.72, None)), ("0,8", (0.8, None)), ("18 von 20", (0.9, 20)), ("1", (0.01, None))],
)  # fmt: skip
def test_a_germination_as_people_write_it(text, said):
    found = read_tested(text)
    assert (found.share, found.n) == pytest.approx(said) if said[1] else (found.share, None) == said


@pytest.mark.parametrize("text", ["11/10", "good", "172 %", "0/0", "9/10/11"])
def test_what_cannot_be_a_germination_is_refused(text):
    with pytest.raises(InvalidValue):
        read_tested(text)
    assert read_tested("not tested") is None


@pytest.mark.parametrize(
    ("text", "words"),
    [("Okt 2023", "October 2023"), ("octobre 2023", "October 2023"), ("enero 2022", "January 2022"),
     ("3 de abril de 2022", "3 Apr 2022"), ("1. M\u00e4rz 2021", "1 Mar 2021"), ("mrt 2020", "March 2020"),
     ("ao\u00fbt 2021", "August 2021"), ("market 2020", "2020"), ("Herbst 2022", "2022")],
)  # fmt: skip
def test_months_of_other_tongues(text, words):
    (origin,) = read_origin(text, date(2026, 12, 1))
    assert origin.words == words
