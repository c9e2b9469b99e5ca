"""When a kind is sown, eaten, and no longer worth sowing."""

from datetime import date, timedelta

import pytest
from scipy.stats import norm

from brisk_larder.core.growing.growing_year import (
    Frosts,
    frost_after,
    growing_year,
    late_by,
    tender,
)
from brisk_larder.core.growing.life_cycle import remnant, ripe_on
from brisk_larder.core.growing.windows import Window
from tests.core.book import FIGURES

FROSTS = Frosts(date(2027, 5, 15), 12.0, date(2027, 9, 27), 10.0)
NONE = Frosts(None, 10.0, None, 10.0)


def window(first, last, setting="outdoors"):
    return Window(date(2027, *first), date(2027, *last), setting, False)


def test_the_chance_of_another_frost_is_that_of_its_spread():
    for day in (date(2027, 5, 1), date(2027, 5, 15), date(2027, 6, 8)):
        wanted = norm.sf((day - FROSTS.last).days, scale=12.0)
        assert frost_after(day, FROSTS) == pytest.approx(wanted)
    assert frost_after(date(2027, 1, 1), NONE) == 0
    sure = Frosts(date(2027, 5, 15), 0.0, None, 0.0)
    assert (frost_after(date(2027, 5, 14), sure), frost_after(date(2027, 5, 15), sure)) == (
        1.0,
        0.0,
    )


def test_a_tender_kind_ends_with_the_frost_and_a_hardy_one_does_not():
    beans = [window((5, 22), (7, 10))]
    tender = growing_year(beans, (60, 80), True, FROSTS)
    assert tender.harvest == (date(2027, 7, 21), FROSTS.first)
    assert tender.last_useful == FROSTS.first - timedelta(days=80)
    assert 0 < tender.frost_risk < 0.5
    hardy = growing_year(beans, (60, 80), False, FROSTS)
    assert hardy.harvest == (date(2027, 7, 21), date(2027, 9, 28))
    assert hardy.last_useful == FROSTS.first - timedelta(days=60)
    assert hardy.frost_risk == 0


def test_what_is_begun_indoors_goes_out_after_the_last_frost():
    found = growing_year([window((3, 20), (4, 3), "indoors")], (70, 90), True, FROSTS)
    assert found.harvest == (FROSTS.last + timedelta(days=70), FROSTS.last + timedelta(days=104))
    assert growing_year([], (70, 90), True, FROSTS).harvest is None
    free = growing_year([window((3, 1), (5, 31))], (70, 90), True, NONE)
    assert free.last_useful is None
    assert free.harvest == (date(2027, 5, 10), date(2027, 8, 29))


def test_a_kind_is_tender_that_the_book_sows_after_the_last_frost_only():
    assert tender((0.0, 6.0), False)  # basil is no kind of the warm season in the table
    assert not tender((-4.0, 6.0), True)
    assert tender(None, True)
    assert not tender(None, False)


def test_a_sowing_that_is_over_is_late_till_it_could_not_ripen():
    useful, over = date(2027, 7, 20), date(2027, 6, 1)
    assert late_by(useful, 0, over) == useful
    assert late_by(useful, 6, over) == date(2027, 6, 8)  # six weeks indoors come off
    assert late_by(useful, 7, over) is None
    assert late_by(None, 0, over) is None


def test_the_seed_of_a_line_is_ripe_after_its_food_and_of_a_biennial_a_year_on():
    sown = date(2027, 4, 1)
    assert ripe_on(sown, 70, 40, "annual") == sown + timedelta(days=110)
    assert ripe_on(sown, 70, 40, "biennial") == sown + timedelta(days=475)


def test_a_remnant_stays_of_a_line_and_never_more_than_a_quarter():
    f = FIGURES.growing
    assert [remnant(n, f) for n in (0, 3, 4, 20)] == [0, 0, 1, 5]
    assert remnant(10_000, f) == f.remnant_seeds
