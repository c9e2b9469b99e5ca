"""Codes of lots: free, said aloud, sorted as people sort them."""

from itertools import pairwise

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.hand import codes as c


def test_the_next_code_follows_the_highest_of_its_own_prefix():
    taken = ["B2", "B11", "BEA40", "7", "K99", "B", "B1x"]
    assert c.next_code("letter", "bean, pole", True, taken) == "B12"
    assert c.next_code("kind", "bean, pole", True, taken) == "BEA41"
    assert c.next_code("number", "bean, pole", True, taken) == "8"
    assert c.next_code("letter", "bean", True, []) == "B1"
    assert c.next_code("letter", "something", False, ["?3"]) == "?4"
    assert c.next_code("number", "something", False, ["?3"]) == "1"
    with pytest.raises(InvalidValue, match="letter"):
        c.next_code("rainbow", "bean", True, [])


def test_said_codes_are_words_of_their_own_and_neighbours_do_not_sound_alike():
    said: list[str] = []
    for _ in range(60):
        said.append(c.next_code("spoken", "", True, set(said)))
    assert len(set(said)) == 60
    assert all(len(word) == 4 for word in said)
    assert not any(a[:2] == b[:2] for a, b in pairwise(said))
    every = {c._word(i) for i in range(56 * 56)}
    assert len(every) == 56 * 56  # each word of two syllables once
    assert {len(c._word(i)) for i in (56 * 56, 56 * 56 + 1)} == {6}
    assert len({c._word(i) for i in range(56 * 56, 3 * 56 * 56)}) == 2 * 56 * 56
    assert c.next_code("spoken", "", True, {c._word(1), "B1"}) == c._word(2)
    assert c.next_code("spoken", "", True, {c._word(1)}) == c._word(2)


def test_a_code_is_one_short_word():
    assert c.check_code(" B12 ") == "B12"
    assert c.check_code("x" * 12) == "x" * 12
    for odd in ("", "x" * 13, "a b", "a,b", 'a"b'):
        with pytest.raises(InvalidValue, match="1 to 12"):
            c.check_code(odd)


def test_codes_sort_as_people_sort_them():
    assert sorted(["B12", "b2", "B2a", "A1", "3", "12"], key=c.natural) == [
        "3", "12", "A1", "b2", "B2a", "B12",
    ]  # fmt: skip
