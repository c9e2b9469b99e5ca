"""Numbers and days as people write them: each habit, and what could be two things is asked."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.hand import writing as w
from brisk_larder.core.hand.amounts import Measures, read_amount
from brisk_larder.core.hand.origins import read_origin

TODAY = date(2026, 11, 24)  # a Tuesday
GB, US, DE = (w.WAYS[k] for k in ("en-GB", "en-US", "de-DE"))
KALE = Measures(280.0, 0.15, 200.0, 0.5, 30.0, 0.7)


@pytest.mark.parametrize(
    ("text", "way", "whole", "value"),
    [
        ("1500", GB, True, 1500), ("1,500", GB, True, 1500), ("1.500", GB, True, 1500),
        ("1 500", GB, True, 1500), ("1\u202f500", GB, False, 1500), ("1'500", GB, False, 1500),
        ("1,500", GB, False, 1500), ("1.500", GB, False, 1.5), ("1,500", DE, False, 1.5),
        ("1.500", DE, False, 1500), ("1,500", DE, True, 1500), ("1.500,5", GB, False, 1500.5),
        ("1,500.5", DE, False, 1500.5), ("1,500,000", DE, False, 1_500_000), ("2,5", GB, False, 2.5),
        ("0,250", GB, True, 0.25), ("0.250", DE, False, 0.25), (".5", GB, False, 0.5),
        ("12,50", GB, False, 12.5), ("1234,5", DE, False, 1234.5), ("1234,567", GB, True, 1234.567),
        ("2 1/2", GB, False, 2.5), ("1/4", GB, False, 0.25), ("1\u00bd", GB, False, 1.5),
        ("\u00bd", GB, False, 0.5), ("12 000", GB, True, 12000), ("1 000 000", GB, True, 1_000_000),
    ],
)  # fmt: skip
def test_a_number_is_read_by_the_habit(text, way, whole, value):
    assert w.read_number(text, way, whole) == pytest.approx(value)


@pytest.mark.parametrize(
    "text",
    ["", "1,50,0", "1.2.3", "12,34,567", "1,500.000,5", "five", "1/0", "-3", "nan", "1,", "1e5"],
)
def test_what_could_be_anything_is_asked(text):
    with pytest.raises(InvalidValue, match="number"):
        w.read_number(text)


@given(st.integers(0, 10**9), st.sampled_from([GB, US, DE]))
def test_thousands_written_in_any_habit_come_back(value, way):
    for sign in (" ", "\u00a0", "'", way.thousands):
        assert w.read_number(f"{value:,}".replace(",", sign), way) == value
        assert w.read_number(f"{value:,}".replace(",", sign), way, whole=True) == value


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("today", (2026, 11, 24)), ("", (2026, 11, 24)), ("yesterday", (2026, 11, 23)),
        ("last Tuesday", (2026, 11, 17)), ("Monday", (2026, 11, 23)), ("sat", (2026, 11, 21)),
        ("3 days ago", (2026, 11, 21)), ("a week ago", (2026, 11, 17)), ("2 weeks ago", (2026, 11, 10)),
        ("3 Nov", (2026, 11, 3)), ("3 November", (2026, 11, 3)), ("Nov 3", (2026, 11, 3)),
        ("3rd of November", (2026, 11, 3)), ("3 Dec", (2025, 12, 3)), ("Nov 3 2025", (2025, 11, 3)),
        ("Nov 3, 2025", (2025, 11, 3)), ("3.11.", (2026, 11, 3)), ("4.9.2025", (2025, 9, 4)),
        ("2025-09-04", (2025, 9, 4)), ("03/04/2025", (2025, 4, 3)), ("3/4/25", (2025, 4, 3)),
    ],
)  # fmt: skip
def test_a_day_is_read_as_it_is_said(text, day):
    assert w.read_day(text, TODAY) == date(*day)


def test_the_order_of_day_and_month_is_the_households():
    assert w.read_day("03/04/2025", TODAY, US) == date(2025, 3, 4)
    assert w.read_day("4.9.2025", TODAY, US) == date(2025, 9, 4)  # full stops: the day goes first
    assert w.way_of("fr-XX") == w.PLAIN == GB


@pytest.mark.parametrize("text", ["31/02/2025", "31/02", "30 Feb", "tomorrow", "25 Nov 2026", "whenever",
                                  "13/13/2025", "0 Nov", "99999 days ago"])  # fmt: skip
def test_a_day_that_there_is_not_or_not_yet_is_refused(text):
    with pytest.raises(InvalidValue, match="day"):
        w.read_day(text, TODAY)


@given(st.dates(date(1995, 1, 1), TODAY), st.sampled_from([GB, US]))
def test_every_day_written_out_is_found_again(day, way):
    order = "%d/%m/%Y" if way.day_first else "%m/%d/%Y"
    for form in (order, "%Y-%m-%d", "%d.%m.%Y", "%d %b %Y", "%B %d %Y"):
        assert w.read_day(day.strftime(form), TODAY, way) == day
    if TODAY - day < timedelta(days=360):
        assert w.read_day(day.strftime("%d %b"), TODAY, way) == day


@pytest.mark.parametrize(
    ("text", "spans"),
    [
        ("22, 23, 24", ["2022", "2023", "2024"]), ("2022-2024", ["2022", "2023", "2024"]),
        ("2022\u20132024", ["2022", "2023", "2024"]), ("2022-24", ["2022", "2023", "2024"]),
        ("2005-12", ["December 2005"]), ("2022/23", ["2022/23"]), ("24", ["2024"]),
        ("Sept 24", ["September 2024"]), ("sep '24", ["September 2024"]), ("4.9.2025", ["4 Sep 2025"]),
        ("03/04/2025", ["3 Apr 2025"]), ("4 Sept 2025", ["4 Sep 2025"]), ("9/2024", ["September 2024"]),
        ("'23", ["2023"]), ("packed for 2027", ["2026"]), ("22: 50, 23: 50", ["2022", "2023"]),
    ],
)  # fmt: skip
def test_an_origin_is_read_as_packets_say_it(text, spans):
    found = read_origin(text, TODAY)
    assert [o.words for o in found] == spans
    assert sum(o.share for o in found) == pytest.approx(1)


@pytest.mark.parametrize("text", ["31/02/2024", "2024-2022", "1990-2024", "99", "2022/25", "31.2.2024",
                                  "2030", "Nov 30 2026"])  # fmt: skip
def test_an_origin_that_cannot_be_is_refused(text):
    with pytest.raises(InvalidValue, match="date"):
        read_origin(text, TODAY)


def test_the_origin_of_a_packet_follows_the_household_too():
    assert read_origin("03/04/2025", TODAY, US)[0].low == date(2025, 3, 4)


@pytest.mark.parametrize(
    ("text", "seeds"),
    [
        ("1,500", 1500), ("1.500", 1500), ("1 500", 1500), ("1,500 seeds", 1500), ("a dozen", 12),
        ("half a dozen", 6), ("two dozen", 24), ("3 dozen seeds", 36), ("a hundred", 100),
        ("half a cup", 120 * 0.7 * 280), ("two handfuls", 120 * 0.7 * 280), ("a handful", 60 * 0.7 * 280),
        ("1 1/2 tsp", 7.5 * 0.7 * 280), ("\u00bd tsp", 2.5 * 0.7 * 280), ("1,5 g", 420), ("2.500 g", 700),
        ("2,500 g", 700_000), ("a quarter of a cup", 60 * 0.7 * 280), ("1 500-2 000", 1750),
        ("a couple of pinches", 60),
    ],
)  # fmt: skip
def test_amounts_as_people_write_them(text, seeds):
    assert read_amount(text, KALE).seeds == pytest.approx(seeds)


def test_amounts_follow_a_decimal_comma():
    assert read_amount("2,500 g", KALE, way=DE).seeds == pytest.approx(700)
    assert read_amount("2.500 g", KALE, way=DE).seeds == pytest.approx(700_000)
    assert read_amount("1,500", KALE, way=DE).seeds == 1500


@pytest.mark.parametrize(
    "text", ["1.5", "1,5 seeds", "2.5-3", "1,50,0", "a quarter", "lots", "3 armfuls"]
)
def test_an_amount_that_could_be_anything_is_asked(text):
    with pytest.raises(InvalidValue):
        read_amount(text, KALE)


@pytest.mark.parametrize("way", [GB, US, DE])
@given(st.dates(date(1990, 1, 1), TODAY))
def test_a_written_day_is_read_back_as_that_day(way, day):
    assert w.read_day(w.day_written(day, way, year=True), TODAY, way) == day


def test_a_day_is_written_in_the_order_of_the_habit():
    day = date(2026, 11, 3)
    assert [w.day_written(day, way) for way in (GB, US, DE)] == ["3 Nov", "Nov 3", "3 Nov"]
    assert [w.day_written(day, way, year=True) for way in (GB, US)] == ["3 Nov 2026", "Nov 3, 2026"]
