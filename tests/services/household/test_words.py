"""Every code that core or a room gives out has its word, and no word is for nothing."""

import re
from dataclasses import fields
from typing import get_args

from brisk_larder.core.hand import filing
from brisk_larder.core.judging import verdict
from brisk_larder.core.needs import seed_needed
from brisk_larder.core.storage import barrier
from brisk_larder.core.trials import when_to_test
from brisk_larder.services.household.words import WORDS


def test_every_code_has_its_word():
    assert set(WORDS["origin"]) == set(get_args(seed_needed.Origin))
    assert set(WORDS["chain_link"]) == {f.name for f in fields(seed_needed.Chain)} - {"planned"}
    assert set(WORDS["seed_in_test"]) == {f.name for f in fields(when_to_test.Tally)} - {"normal"}
    assert tuple(WORDS["grouping"]) == filing.GROUPINGS
    assert set(WORDS["desiccant"]) == set(barrier.DESICCANTS)
    assert set(WORDS["opinion"]) == {"good", "doubtful", "poor", "none"}
    assert set(WORDS["follows"]) == set(verdict.ACTS)
    codes = re.sub(r"\([^)]*\)", "", when_to_test.Advice.__doc__.split("codes: ")[1])
    by_verdict = set(verdict.STANDINGS) - {"good", "doubtful", "poor"}
    left_alone = set(re.findall("[a-z_]+", codes))
    assert set(WORDS["untested"]) == left_alone | by_verdict | {
        "not_worth", "sibling", "too_late", "known_enough",
    }  # fmt: skip
