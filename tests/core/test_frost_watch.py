"""Sowings moved off a frost that is forecast, against walking day by day; sowings one after the other."""

from datetime import date, timedelta

import numpy as np
import pytest
from scipy.stats import norm

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.core.growing.frost_watch import Night, off_frost
from brisk_larder.core.growing.succession import sowings
from brisk_larder.reference import load_reference

F = load_reference().figures.frost
DAY = date(2027, 5, 1)


def day_by_day(day, last, nights, harm_c):
    """The first day none of whose next nights is likely to harm."""
    while day < last:
        hits = [
            n.day
            for n in nights
            if n.day > DAY
            and day <= n.day <= day + timedelta(days=F.reach_nights)
            and norm.cdf((harm_c - n.low_c) / n.sd_c) >= F.chance
        ]
        if not hits:
            return day
        day = min(hits) + timedelta(days=F.settle_nights)
    return last


@pytest.mark.parametrize("seed", range(12))
def test_a_sowing_waits_for_the_first_day_without_frost_within_reach(seed):
    rng = np.random.default_rng(seed)
    nights = [
        Night(DAY + timedelta(days=i), float(rng.normal(4, 4)), float(rng.uniform(0.5, 3)))
        for i in range(14)
    ]
    last = DAY + timedelta(days=int(rng.integers(3, 30)))
    for tender, harm in ((True, F.tender_c), (False, F.hardy_c)):
        found = off_frost(DAY, last, nights, tender, F)
        expected = day_by_day(DAY, last, nights, harm)
        assert (found.day if found else DAY) == expected
        if found:
            assert all(chance >= F.chance for _, chance in found.nights)


def test_mild_nights_and_frost_long_after_move_nothing():
    mild = [Night(DAY + timedelta(days=i), 9.0, 1.5) for i in range(10)]
    assert off_frost(DAY, DAY + timedelta(days=30), mild, True, F) is None
    late = [Night(DAY + timedelta(days=F.reach_nights + 5), -5.0, 1.0)]
    assert off_frost(DAY, DAY + timedelta(days=30), late, True, F) is None
    cold = [Night(DAY + timedelta(days=2), -1.0, 0.0)]
    assert off_frost(DAY, DAY + timedelta(days=30), cold, True, F).day == DAY + timedelta(days=3)
    assert (
        off_frost(DAY, DAY + timedelta(days=30), cold, False, F) is None
    )  # a hardy kind stands it


def test_the_night_before_a_sowing_and_a_night_at_the_limit_move_nothing():
    last = DAY + timedelta(days=30)
    assert off_frost(DAY, last, [Night(DAY, -9.0, 0.0)], True, F) is None
    assert Night(DAY, F.tender_c, 0.0).below(F.tender_c) == 0.0
    found = sowings(70, 21.0, 3.0, DAY, DAY)
    assert (found.wanted, len(found.days)) == (7, 1)


def test_sowings_one_after_the_other_feed_all_the_weeks_as_far_as_the_year_goes():
    split = sowings(70, 21.0, 3.0, DAY, DAY + timedelta(days=200))
    assert (split.wanted, split.plants, split.every_days, split.late) == (7, 10, 21, 0)
    assert split.days[-1] == DAY + timedelta(days=6 * 21)
    short = sowings(70, 21.0, 3.0, DAY, DAY + timedelta(days=70))
    assert short.wanted == 7
    assert len(short.days) == 4
    assert short.late == 3
    assert sowings(2, 21.0, 3.0, DAY, DAY).wanted == 2  # no more sowings than plants
    assert sowings(10, 3.0, 3.0, DAY, DAY).wanted == 1
    with pytest.raises(InvalidValue):
        sowings(10, 3.0, 0.0, DAY, DAY)
