"""Where the clock of seed starts, whose year it is, who may eat it, what pouring together would mix."""

from datetime import UTC, date, datetime

import pytest

from brisk_larder.core.base.units import YEAR_S
from brisk_larder.core.hand import origins
from brisk_larder.core.hand.origins import (
    likely_age,
    packet_year,
    planning_year,
    read_origin,
    record_start,
)
from brisk_larder.core.judging import edible
from brisk_larder.core.seed import mixture
from tests.core.book import FIGURES

NOW = 1_795_507_200  # 24 November 2026
EARLIEST = 631_152_000
TODAY = date(2026, 11, 24)

LIKELY = likely_age((), NOW, 4.0)


def start(text, own=True, north=True):
    origin = read_origin(text, TODAY)[0] if text else None
    return record_start(origin, own, north, "UTC", NOW, EARLIEST, LIKELY, FIGURES.calendar)


def day(at_s):
    return datetime.fromtimestamp(at_s, UTC).date().isoformat()


@pytest.mark.parametrize(
    ("text", "own", "north", "begins"),
    [("2024", True, True, "2024-10-01"), ("2024", False, True, "2024-03-01"), ("2024", True, False, "2024-04-01"),
     ("2024", False, False, "2024-09-01"), ("2026", True, True, "2026-10-01"), ("1990", False, True, "1990-03-01"),
     ("Sep 2024", True, True, "2024-09-15"), ("2024-09-12", True, True, "2024-09-12")],
)  # fmt: skip
def test_the_clock_starts_at_harvest_or_at_the_buying_season(text, own, north, begins):
    assert day(start(text, own, north).record_s) == begins


def test_no_clock_starts_in_the_future_nor_before_all_records():
    late = record_start(read_origin("2026", date(2026, 12, 1))[0], False, False, "UTC", NOW - 200 * 86_400,
                        EARLIEST, LIKELY, FIGURES.calendar)  # fmt: skip
    assert late.record_s == NOW - 200 * 86_400
    assert late.high_s == NOW - 200 * 86_400
    assert start("1990", True, False).record_s >= EARLIEST
    unknown = start("")
    assert (unknown.high_s, unknown.record_s) == (NOW, LIKELY[1])
    assert (NOW - unknown.low_s) / YEAR_S == pytest.approx(4, abs=0.01)
    for text in ("2024", "Sep 2024"):
        found = start(text)
        assert found.low_s < found.high_s <= NOW
        assert found.low_s <= found.record_s


def test_the_year_on_the_packet_is_the_middle_of_its_range():
    span = start("2024")
    assert packet_year(span.low_s, span.high_s, NOW) == 2024
    assert packet_year(None, span.high_s, NOW) == packet_year(span.low_s, None, NOW) == 2026


@pytest.mark.parametrize(
    ("when", "first", "household", "planning"),
    [(date(2026, 11, 24), 10, 2026, 2026), (date(2026, 9, 30), 10, 2025, 2026), (date(2027, 6, 30), 10, 2026, 2026),
     (date(2027, 7, 1), 10, 2026, 2027), (date(2026, 3, 31), 4, 2025, 2026), (date(2026, 10, 1), 10, 2026, 2026),
     (date(2026, 12, 31), 1, 2026, 2027), (date(2026, 9, 30), 1, 2026, 2026), (date(2026, 10, 1), 1, 2026, 2027)],
)  # fmt: skip
def test_near_the_end_of_its_year_a_household_plans_the_next(when, first, household, planning):
    assert origins.household_year(when, first) == household
    assert planning_year(when, first, FIGURES.calendar) == planning


@pytest.mark.parametrize(
    ("use", "kinds", "dressed", "spoilt", "why"),
    [
        ("seed", [("unknown", False)], True, True, None),
        ("food", [("pea", True)], False, False, None),
        ("food", [("pea", True)], True, True, ("dressed", "")),
        ("shoots", [("pea", True)], False, True, ("spoilt", "")),
        ("food", [("pea", True), ("own:x", False)], False, False, ("unknown", "own:x")),
        ("shoots", [("pea", True), ("tomato", True)], False, False, ("not_as_shoots", "tomato")),
        ("food", [("tomato", True)], False, False, None),
    ],
)
def test_dressed_spoilt_and_unknown_seed_never_goes_to_the_table(use, kinds, dressed, spoilt, why):
    assert edible.refusal(use, kinds, dressed, spoilt) == why


def test_uses_and_cautions_of_a_lot():
    assert edible.uses_of("pea", True, False) == ["seed", "sale", "swap", "food", "shoots"]
    assert edible.uses_of("pea", True, True) == ["seed", "sale", "swap"]
    assert edible.uses_of("tomato", True, False) == ["seed", "sale", "swap"]
    plain = ("pea", "Fabaceae", True, False, False, False, "bought")
    assert edible.cautions(*plain) == []
    assert edible.cautions("hot_pepper", "Cucurbitaceae", True, True, True, True, "own") == [
        "hazard", "dressed", "burns", "bitter_cross", "hybrid", "passing_on",
    ]  # fmt: skip
    assert edible.cautions("pea", "Fabaceae", False, False, False, False, "gift") == []
    assert edible.cautions("pea", "Fabaceae", True, False, False, False, "gift") == ["passing_on"]


def test_what_pouring_together_would_mix():
    one = mixture.Poured("pea", "Millrace", 2024, False, "open")
    assert mixture.mixes([one, one], ["seed", "seed"]) == []
    other = mixture.Poured("bean", "Speckle", None, True, "hybrid")
    assert mixture.mixes([one, other], ["seed", "food"]) == [
        "kinds", "varieties", "no_year", "dressed", "hybrid", "uses",
    ]  # fmt: skip
    older = mixture.Poured("pea", "Millrace", 2021, False, "open")
    assert mixture.mixes([one, older], ["seed"]) == ["years"]
