"""Places that cost seed, odd readings, spikes, what may be sealed; seedlings awaited."""

import numpy as np
import pytest

from brisk_larder.core.base.units import DAY_S
from brisk_larder.core.growing import life_cycle
from brisk_larder.core.storage import placement
from brisk_larder.core.storage import places as p
from tests.core.book import FIGURES

F, M = FIGURES.places, FIGURES.moisture


@pytest.mark.parametrize(
    ("lots", "speed", "today", "erh", "hurts"),
    [
        (3, 2.0, 6.0, 0.84, False), (3, 2.01, 1, 0.5, True), (3, 1, 6.01, 0.5, True),
        (1, 1, 1, 0.85, True), (0, 9, 9, 0.99, False),
    ],
)  # fmt: skip
def test_a_place_hurts_by_its_year_its_day_or_its_damp_and_only_where_seed_lies(
    lots, speed, today, erh, hurts
):
    assert p.hurting(lots, speed, today, erh, FIGURES) is hurts


@pytest.mark.parametrize(
    ("speed", "today", "code"),
    [(0.5, 0, "slower"), (0.8, 0, "alike"), (1.24, 0, "alike"), (1.25, 0, "faster"), (1, 6, "alike"),
     (1, 6.1, "today"), (4, 7, "faster"), (3, 6.1, "today")],
)  # fmt: skip
def test_speed_is_said_of_the_year_unless_the_day_is_bad(speed, today, code):
    assert p.speed_code(speed, today, F) == code


def test_words_for_dryness_change_at_their_limits():
    words = [
        p.dryness(u, M) for u in (0.0, 0.249, 0.25, 0.399, 0.40, 0.599, 0.60, 0.849, 0.85, 1.0)
    ]
    assert words == [
        "crisp",
        "crisp",
        "dry",
        "dry",
        "middling",
        "middling",
        "damp",
        "damp",
        "wet",
        "wet",
    ]


def test_a_reading_is_odd_beyond_three_sd_and_never_within_a_plain_step():
    wide = p.expected(12, 3, 4, 0.5, 0.1, F)
    assert wide == pytest.approx((-3, 27, 0.2, 0.8))
    narrow = p.expected(12, 0.1, 0.1, 0.5, 0.01, F)
    assert narrow == pytest.approx((9, 15, 0.4, 0.6))
    assert p.expected(12, 1, 1, 0.95, 0.2, F)[2:] == pytest.approx((0.35, 1.0))
    assert p.expected(12, 1, 1, 0.1, 0.2, F).low_erh == 0.0


def test_a_spike_stands_alone_to_one_side():
    calm = np.full(9, 12.0)
    for value, count in ((20.0, 0), (20.1, 1), (3.9, 1), (4.0, 0)):
        spiked = calm.copy()
        spiked[4] = value
        assert p.spikes(spiked, F) == count
    step = np.array([12.0, 12, 30, 30, 12])
    assert p.spikes(step, F) == 0  # two in a row are weather
    assert p.spikes(np.array([0.0, 12, 24]), F) == 0  # a rise is none
    assert p.spikes(np.array([12.0, 40]), F) == 0
    assert p.spikes(np.array([12.0, 40, 12]), F) == 1


@pytest.mark.parametrize(
    ("erh", "cold", "sealed", "codes"),
    [
        (0.30, False, True, []), (0.36, False, True, ["drier_better"]), (0.35, False, True, []),
        (0.60, False, True, ["drier_better"]), (0.61, False, True, ["would_mould"]), (0.9, False, False, []),
        (0.40, True, True, ["drier_better", "wait_before_opening"]),
        (0.41, True, True, ["dry_before_freezing", "drier_better", "wait_before_opening"]),
        (0.2, True, False, ["close_tight", "wait_before_opening"]),
    ],
)  # fmt: skip
def test_precautions_of_moisture(erh, cold, sealed, codes):
    assert p.precautions(erh, cold, sealed, False, M).codes == codes
    assert p.precautions(erh, cold, sealed, True, M).codes == [*codes, "coloured_gel"]


def test_what_may_be_sealed_and_what_cracks():
    assert [p.may(u, 0.35, 0.6) for u in (0.35, 0.36, 0.6, 0.61)] == ["yes", "better_not_yet"] * 1 + [
        "better_not_yet", "no"]  # fmt: skip
    assert p.cracks(True, 6.4, M)
    assert not p.cracks(True, 6.5, M)
    assert not p.cracks(False, 3.0, M)


def test_good_places_are_much_slower_than_the_middle_one():
    mixed = np.array([0.5, 0.59, 0.6, 1.0, 3.0, 9, 9])
    assert placement.good_places(mixed, FIGURES.placement).tolist() == [True] * 2 + [False] * 5
    assert placement.good_places(np.array([1.0, 1.0, 0.6]), FIGURES.placement).sum() == 0
    f = FIGURES.placement
    assert [
        placement.counted_seeds(n, k, f) for n, k in ((150, True), (900, True), (900, False))
    ] == [150, 200, 20]
    assert (placement.worth_of_one(True, f), placement.worth_of_one(False, f)) == (2, 1)
    damp = np.array([0.39, 0.41, 0.61])
    assert placement.unfit(damp, True, True, FIGURES).tolist() == [False, True, True]
    assert placement.unfit(damp, False, True, FIGURES).tolist() == [False, False, True]
    assert not placement.unfit(damp, False, False, FIGURES).any()


@pytest.mark.parametrize(
    ("day", "setting", "state"),
    [(5.9, "indoors", "early"), (6, "indoors", "due"), (14 + 6.9, "indoors", "due"), (14 + 7, "indoors", "overdue"),
     (8.9, "outdoors", "early"), (9, "outdoors", "due"), (31.4, "outdoors", "due"), (31.5, "outdoors", "overdue")],
)  # fmt: skip
def test_seedlings_are_awaited_longer_in_the_open(day, setting, state):
    found = life_cycle.awaited(1000.0, 1000.0 + day * DAY_S, 6, 14, setting, FIGURES.growing)
    assert found.state == state
    slow = 1.5 if setting == "outdoors" else 1.0
    assert (found.first_s, found.last_s) == (1000 + 6 * slow * DAY_S, 1000 + 14 * slow * DAY_S)
    assert (
        life_cycle.seasons("biennial"),
        life_cycle.seasons("annual"),
        life_cycle.seasons("perennial"),
    ) == (2, 1, 1)


def test_good_and_fitting_places_at_their_limits():
    f = FIGURES
    share = f.placement.good_place_speed_share
    good = placement.good_places(np.array([share, share - 0.01, 1.0, 1.0, 9.0]), f.placement)
    assert good.tolist() == [False, True, False, False, False]
    limit = f.moisture.never_seal_above_erh25
    assert placement.unfit(np.array([limit, limit + 0.01]), False, True, f).tolist() == [
        False,
        True,
    ]
    assert not placement.unfit(np.array([1.0]), False, False, f).any()
    assert placement.good_places(np.empty(0), f.placement).size == 0
