"""What is done next with a lot: each rule, its limit, and which goes before which."""

from dataclasses import replace

import pytest

from brisk_larder.core.next_act import LotNow, next_act
from brisk_larder.core.units import DAY_S
from tests.core.book import FIGURES

NOW, YEAR = 1_795_507_200.0, 2026
CALM = LotNow(
    test_running=False, seeds_known=True, seeds=200.0, regrow_asked=False, last_safe_year=None,
    test_due_s=None, advice="certainly_good", good_until_s=NOW + 900 * DAY_S, beyond=False,
)  # fmt: skip
LATE = {"test_due_s": NOW + 300 * DAY_S}
POOR = {"advice": "certainly_poor"}


def decided(**change):
    act = next_act(replace(CALM, **change), NOW, YEAR, FIGURES.growing)
    return act.code, act.group, act.urgency


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({}, ("good", "good", 0)),
        ({"good_until_s": NOW - 1}, ("below", "poor", 2)),
        ({"good_until_s": NOW}, ("good", "good", 0)),
        ({"good_until_s": None, "beyond": True}, ("good_beyond", "good", 0)),
        ({"good_until_s": None}, ("none", "none", 0)),
        (POOR, ("poor", "poor", 2)),
        (LATE, ("test", "test", 1)),
        ({"test_due_s": NOW + 120 * DAY_S - 1}, ("test", "test", 2)),
        ({"test_due_s": NOW + 120 * DAY_S}, ("test", "test", 1)),
        ({"regrow_asked": True, "last_safe_year": 2027}, ("regrow", "regrow", 3)),
        ({"regrow_asked": True, "last_safe_year": 2028}, ("good", "good", 0)),
        ({"regrow_asked": True}, ("regrow_unsafe", "regrow", 3)),
        ({"last_safe_year": 2020}, ("good", "good", 0)),  # no line to keep
        ({"seeds": 0.9}, ("empty", "empty", 0)),
        ({"seeds": 1.0}, ("good", "good", 0)),
        ({"seeds": 0.0, "seeds_known": False}, ("good", "good", 0)),
        ({"test_running": True}, ("running", "running", 2)),
    ],
)
def test_each_rule_and_its_limit(change, said):
    assert decided(**change) == said


def test_the_more_urgent_goes_first():
    rest = {**LATE, **POOR, "regrow_asked": True, "last_safe_year": 2027, "seeds": 0.0}
    assert decided(**rest, test_running=True)[0] == "running"
    assert decided(**rest)[0] == "empty"
    assert decided(**{**rest, "seeds": 5.0})[0] == "regrow"
    assert decided(**LATE, **POOR)[0] == "test"
    assert decided(**POOR, good_until_s=None, beyond=True)[0] == "poor"
