"""Amounts, dates and codes as people say and write them."""

from datetime import date
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.base.units import GRAMS, grams
from brisk_larder.core.hand.amounts import (
    MOST_SEEDS,
    SPOONS_ML,
    Measures,
    measures_of,
    read_amount,
    replacement_worth,
    scale_slipped,
    seeds_per_gram,
    typical_packet,
)
from brisk_larder.core.hand.codes import SCHEMES, check_code, natural, next_code
from brisk_larder.core.hand.origins import read_origin
from tests.core.book import FIGURES

TODAY = date(2026, 11, 24)


def measures(per_g: float, packet: int | None = None) -> Measures:
    return measures_of(per_g, None, packet, False, 0.78, FIGURES.amounts)


KALE = measures(250.0, 300)


@pytest.mark.parametrize(
    ("text", "seeds", "relative"),
    [
        ("120", 120, 0.02), ("120 seeds", 120, 0.02), ("3,5 g", 875, 0.15), ("1 oz", 7087, 0.15),
        ("a pinch", 30, 0.6), ("two pinches", 60, 0.6), ("2 packets", 600, 0.1), ("1/2 oz", 3544, 0.15),
        ("half a packet", 150, 0.1), ("2 kg", 500_000, 0.15), ("100-150", 125, 0.156), ("~80", 80, 0.1),
        ("about 80", 80, 0.1), ("1 tsp", 875, 0.3), ("2 tbsp", 5250, 0.3), ("half a cup", 21_000, 0.3),
    ],
)  # fmt: skip
def test_amounts_as_people_say_them(text, seeds, relative):
    said = read_amount(text, KALE)
    assert said.seeds == pytest.approx(seeds, rel=0.001)
    assert said.sd / said.seeds == pytest.approx(relative, rel=0.02)


@pytest.mark.parametrize(
    ("text", "share"),
    [
        ("half left", 0.5), ("about half the packet left", 0.5), ("a third left", 1 / 3), ("empty", 0),
        ("3/4 of the packet", 0.75), ("20 %", 0.2), ("a little left", 0.15), ("full", 1),
    ],
)  # fmt: skip
def test_a_share_of_what_was_there(text, share):
    said = read_amount(text, KALE)
    assert said.seeds is None
    assert said.share == pytest.approx(share)
    assert said.sd >= 0.1


def test_how_sure_one_is_widens_the_amount():
    assert read_amount("100", KALE, "guess").sd == pytest.approx(35)
    assert read_amount("100", KALE, "about").sd == pytest.approx(10)
    assert read_amount("100", KALE, "counted").sd == pytest.approx(2)
    with pytest.raises(InvalidValue, match="how sure"):
        read_amount("100", KALE, "very")


@pytest.mark.parametrize("text", ["3 bushels", "-4", "150-100", "1/0", "many"])
def test_what_is_no_amount_says_what_is(text):
    with pytest.raises(InvalidValue):
        read_amount(text, KALE)


@given(st.floats(0.01, 5000), st.sampled_from(list(GRAMS)), st.floats(0.5, 2500))
def test_a_mass_becomes_seeds_with_its_doubt(value, unit, per_g):
    seeds = grams(float(f"{value:.3f}"), unit) * per_g
    if seeds > MOST_SEEDS:
        with pytest.raises(InvalidValue, match="up to"):
            read_amount(f"{value:.3f} {unit}", measures(per_g))
        return
    said = read_amount(f"{value:.3f} {unit}", measures(per_g))
    assert said.seeds == pytest.approx(seeds)
    assert said.sd == pytest.approx(0.15 * said.seeds)


@given(st.text(max_size=14))
def test_no_scribble_breaks_the_readers(text):
    for read in (lambda: read_amount(text, KALE), lambda: read_origin(text, TODAY)):
        try:
            read()
        except InvalidValue as error:
            assert error.allowed  # noqa: PT017 - either outcome is right


def test_a_hundred_weighed_give_the_lots_own_figure():
    assert seeds_per_gram(100, 28.5) == pytest.approx(3.51, abs=0.01)
    for count, mass in ((5, 1.0), (100, 0.0)):
        with pytest.raises(InvalidValue):
            seeds_per_gram(count, mass)
    assert typical_packet(3, FIGURES.amounts) < typical_packet(800, FIGURES.amounts)


@pytest.mark.parametrize(
    ("text", "low", "high", "words"),
    [
        ("2024", date(2024, 1, 1), date(2024, 12, 31), "2024"),
        ("Sep 2024", date(2024, 9, 1), date(2024, 9, 30), "September 2024"),
        ("9/2024", date(2024, 9, 1), date(2024, 9, 30), "September 2024"),
        ("2024-02", date(2024, 2, 1), date(2024, 2, 29), "February 2024"),
        ("2024-09-12", date(2024, 9, 12), date(2024, 9, 12), "12 Sep 2024"),
        ("packed '23", date(2023, 1, 1), date(2023, 12, 31), "2023"),
        ("packed for 2027", date(2026, 1, 1), date(2026, 12, 31), "2026"),
    ],
)
def test_dates_of_origin(text, low, high, words):
    (origin,) = read_origin(text, TODAY)
    assert (origin.low, origin.high, origin.words) == (low, high, words)


def test_a_bag_of_several_years_has_shares():
    assert [(o.low.year, o.share) for o in read_origin("2021, 2022", TODAY)] == [
        (2021, 0.5),
        (2022, 0.5),
    ]
    mixed = read_origin("2021: 50, 2022: 30, 2023: 20", TODAY)
    assert [o.share for o in mixed] == [0.5, 0.3, 0.2]
    assert read_origin("who knows", TODAY) == []
    for text in ("2031", "1850", "someday", "2021: 50, 2022", "2024-13", "Dec 2026"):
        with pytest.raises(InvalidValue, match="date"):
            read_origin(text, TODAY)


def test_worth_goes_by_own_price_then_the_kinds_then_a_guess():
    nan = np.nan
    worth = replacement_worth(
        np.array([2.0, 1.0, 400.0, 1.0]), np.array([0.9, 0.5, 1.0, 0.8]),
        np.array([4.0, nan, nan, nan]), ["kale", "kale", "wheat", "dill"], guess=3.0, cap=25.0,
    )  # fmt: skip
    assert worth.total == pytest.approx(2 * 0.9 * 4 + 0.5 * 4 + 25 * 3 + 0.8 * 3)
    assert worth.guessed == pytest.approx(25 * 3 + 0.8 * 3)
    assert worth.packets == 29
    nothing = replacement_worth(*[np.empty(0)] * 3, [], guess=3.0, cap=25.0)
    assert nothing.total == nothing.packets == 0


def test_codes_of_each_scheme_are_new_short_and_in_order():
    taken = {"B1", "B7", "BEA2", "41"}
    assert next_code("letter", "bean (bush)", True, taken) == "B8"
    assert next_code("kind", "bean (bush)", True, taken) == "BEA3"
    assert next_code("number", "bean (bush)", True, taken) == "42"
    assert next_code("letter", "unknown", False, taken) == "?1"
    with pytest.raises(InvalidValue, match="scheme"):
        next_code("runes", "bean", True, taken)
    assert sorted(["B12", "B2", "A10", "B1"], key=natural) == ["A10", "B1", "B2", "B12"]
    assert "spoken" in SCHEMES


def test_spoken_codes_never_repeat_and_neighbours_differ():
    taken: set[str] = set()
    words = []
    for _ in range(3300):  # beyond all words of two syllables
        code = next_code("spoken", "x", True, taken)
        assert code not in taken
        taken.add(code)
        words.append(code)
    assert {len(w) for w in words[:3000]} == {4}
    assert all(a[:2] != b[:2] for a, b in pairwise(words[:500]))


@pytest.mark.parametrize("code", ["", "two words", "a,b", "x" * 13, 'q"'])
def test_a_code_fits_on_tape(code):
    with pytest.raises(InvalidValue, match="code"):
        check_code(code)
    assert check_code(" T-12 ") == "T-12"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("120", "120 seeds"), ("100-150", "about 125 seeds, likely 100–150"),
        ("~80", "about 80 seeds, likely 70–90"), ("100 seeds", "100 seeds"),
        ("a pinch", "about 30 seeds, likely 7–53"), ("half left", "50 % of what it held"),
        ("0-200", "about 100 seeds, likely 0–200"),
    ],
)  # fmt: skip
def test_an_amount_is_read_back_with_what_is_likely(text, words):
    assert read_amount(text, KALE).words == words


def test_every_spoon_number_word_and_share_means_what_it_says():
    ml = {u: read_amount(f"1 {u}", KALE).seeds / (0.7 * 250) for u in SPOONS_ML}
    assert (
        ml["tsp"] * 3 == ml["tbsp"] == ml["teaspoon"] * 3 == ml["tablespoon"] == pytest.approx(15)
    )
    assert ml["cup"] == pytest.approx(16 * 15)
    assert (
        ml["cl"] * 100
        == ml["dl"] * 10
        == ml["l"]
        == ml["litre"]
        == ml["liter"]
        == pytest.approx(1000)
    )
    assert ml["ml"] == pytest.approx(1)
    assert 1 < ml["thimble"] < ml["tsp"] < ml["cup"] < ml["jar"] < 500
    counts = [
        read_amount(f"{w} packets", measures(250, 100)).seeds / 100
        for w in ("one", "two", "three", "four", "five", "six", "ten")
    ]
    assert counts == [1, 2, 3, 4, 5, 6, 10]
    assert read_amount("a dozen beans", KALE).seeds == 12
    assert read_amount("half a packet", KALE).seeds == read_amount("an envelope", KALE).seeds / 2
    share = lambda text: read_amount(f"{text} left", KALE).share  # noqa: E731
    assert share("all") == share("whole") == share("full") == 1
    assert (
        share("a quarter") + share("three quarters") == share("a third") + share("two thirds") == 1
    )
    assert share("half") == share("a half") == 0.5
    assert share("a tenth") < share("little") < share("quarter") < 0.5 < share("most") < 1
    assert read_amount("empty", KALE).share == read_amount("none", KALE).share == 0
    for text in ("101 %", "5/4 left"):
        with pytest.raises(InvalidValue):
            read_amount(text, KALE)
    assert [read_amount(t, KALE) for t in ("", " ? ", "unknown", "-")] == [None] * 4
    assert read_amount("few", KALE).seeds == read_amount("a pinch", KALE).seeds
    assert read_amount("1 pinch", KALE).mass_g is read_amount("1 tsp", KALE).mass_g is None
    assert read_amount("2 g", KALE).mass_g == 2


def test_measures_are_the_lots_own_before_the_books():
    a = FIGURES.amounts
    own = measures_of(250.0, 300.0, None, True, 0.78, a)
    assert (own.seeds_per_g, own.per_g_sd, own.g_per_ml) == (300.0, 0.05, 0.78)
    book = measures_of(250.0, None, None, False, 0.78, a)
    assert (book.seeds_per_g, book.per_g_sd, book.g_per_ml) == (250.0, 0.15, 0.7)
    assert (book.packet_seeds, book.packet_sd) == (pytest.approx(60 * 250**0.3), 0.5)
    assert (KALE.packet_seeds, KALE.packet_sd, KALE.pinch_seeds) == (300, 0.1, 30)
    slipped = [scale_slipped(x, 80.0, a) for x in (9.9, 10, 80, 640, 641)]
    assert slipped == [True, False, False, False, True]


def test_the_least_that_is_weighed_and_the_most_that_is_held():
    assert seeds_per_gram(10, 99_999) == pytest.approx(1e-4, rel=1e-3)
    for count, mass in ((9, 1.0), (100, 100_000)):
        with pytest.raises(InvalidValue):
            seeds_per_gram(count, mass)
    assert read_amount("1000000000", KALE).seeds == 1e9
    with pytest.raises(InvalidValue, match="up to"):
        read_amount("1000000001", KALE)
    free = replacement_worth(
        np.ones(2), np.ones(2), np.array([0.0, 5.0]), ["dill", "dill"], guess=3.0, cap=25.0
    )
    assert (free.total, free.guessed) == (10.0, 0.0)  # nobody sells for nothing: the kind's price
