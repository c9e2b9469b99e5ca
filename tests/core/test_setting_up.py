"""What the table's words on waking seed ask of a test, and how it is laid."""

import pytest

from brisk_larder.core.trials.setting_up import Before, before, laid, reads_low
from brisk_larder.reference import load_reference
from tests.core.book import FIGURES

F = FIGURES.bench


@pytest.mark.parametrize(
    ("words", "asks"),
    [
        ("none", Before()),
        ("none (chill optional)", Before()),
        ("chill 2-4 weeks helps", Before(cold_days=21)),
        ("chill 1-3 weeks (black and small seed dormant); remove bracts", Before(cold_days=14)),
        ("chill 3-7 d at 5-10 C if freshly harvested and dormant", Before(5, cold_if_fresh=True)),
        ("soak 12-24 h or nick hard seed", Before(soak_hours=18, nick=True)),
        ("soak 24-48 h", Before(soak_hours=36)),
        ("none; avoid soaking (imbibition injury)", Before()),
        ("hard seed: scarify optional; chill optional", Before()),
        ("none (KNO3 optional)", Before(nitrate=True)),
    ],
)
def test_words_are_read_as_they_are_meant(words, asks):
    assert before(words, F) == asks


def test_all_words_of_the_table_are_read_and_none_asks_for_a_winter():
    asks = [before(crop.pretreatment, F) for crop in load_reference().crops.values()]
    assert len(asks) > 60
    assert 2 <= sum(a.cold_days > 0 and not a.cold_if_fresh for a in asks) <= 12
    assert all(a.cold_days <= 30 and a.soak_hours <= 48 for a in asks)


def test_fresh_seed_alone_is_chilled_where_only_it_sleeps():
    fresh = before("chill 3-7 d at 5-10 C if freshly harvested and dormant", F)
    assert fresh.cold_for(30, F) == 5
    assert fresh.cold_for(F.fresh_days + 1, F) == 0
    assert before("chill 3-4 weeks", F).cold_for(2000, F) == 24.5


def test_large_seed_is_rolled_and_drinks_more_small_seed_shares_a_layer():
    bean = laid(24, 3.0, "either", "high", Before(), F)
    carrot = laid(24, 700.0, "either", "low", Before(), F)
    lettuce = laid(24, 900.0, "light", "low", Before(), F)
    assert (bean.medium, carrot.medium, lettuce.medium) == ("rolled", "paper", "top")
    assert (bean.per_layer, bean.layers, carrot.layers) == (12, 2, 1)
    assert bean.water_ml > carrot.water_ml
    dry = laid(24, 3.0, "either", "low", Before(), F)
    assert bean.water_ml == pytest.approx(dry.water_ml * F.wet_share_sensitive)  # it rots when wet
    assert lettuce.reads_low
    assert not carrot.reads_low
    told = [
        m for m in ("paper", "rolled", "top", "sand", "compost") if reads_low(m, "light", Before())
    ]
    assert told == ["paper", "rolled"]  # on top it has its light
    assert reads_low("top", "either", Before(nitrate=True))
    assert not reads_low("compost", "light", Before(nitrate=True))
    assert laid(3, 0.5, "either", "low", Before(), F).per_layer == F.least_a_layer
