"""The shelf: what is there, how fast it goes, how old the oldest is."""

import pytest

from brisk_larder.core.needs.pantry import WEEK_S, Entry, shelf
from tests.core.book import FIGURES

F = FIGURES.pantry
NOW = 200 * WEEK_S


def at(weeks_ago, kind, units):
    return Entry(NOW - weeks_ago * WEEK_S, kind, units)


def read(*entries, since_weeks=52):
    return shelf(entries, NOW - since_weeks * WEEK_S, NOW, F)


def test_the_pace_tells_when_it_ends():
    found = read(at(10, "put_up", 30), *(at(w, "opened", 2) for w in range(9, 0, -1)))
    assert found.units == 12
    assert found.pace == pytest.approx(18 / 10)
    assert (found.ends_s - NOW) / WEEK_S == pytest.approx(12 / 1.8)
    assert (found.put_up, found.gone, found.spoiled) == (30, 18, 0)
    assert read(at(10, "put_up", 30)).pace is None  # nothing was opened yet
    assert read(at(1, "put_up", 30), at(0.5, "opened", 9)).pace is None  # hardly begun
    empty = read(at(10, "put_up", 4), at(4, "opened", 4))
    assert (empty.units, empty.ends_s) == (0, None)


def test_a_lower_count_tells_of_what_nobody_wrote_down():
    found = read(at(20, "counted", 20), at(0, "counted", 10))
    assert found.gone == 10
    assert found.pace == pytest.approx(0.5)
    more = read(at(20, "counted", 20), at(10, "counted", 26))
    assert (more.units, more.gone) == (26, 0)


def test_the_oldest_goes_first_and_is_told_only_where_it_is_known():
    two = read(at(60, "put_up", 5), at(8, "put_up", 5), at(2, "opened", 3))
    assert two.oldest_s == NOW - 60 * WEEK_S
    later = read(at(60, "put_up", 5), at(8, "put_up", 5), at(2, "spoiled", 6))
    assert later.oldest_s == NOW - 8 * WEEK_S
    assert (later.spoiled, later.put_up) == (6, 5)  # only what was put up since a year
    assert read(at(60, "counted", 9), at(8, "put_up", 5)).oldest_s is None
    assert read().units == 0


def test_the_pace_forgets_long_ago():
    old = [at(100, "put_up", 200), *(at(w, "opened", 2) for w in range(99, 40, -1))]
    assert read(*old).pace is None
    assert read(*old, at(3, "opened", 1)).pace == pytest.approx(1 / F.pace_weeks)
