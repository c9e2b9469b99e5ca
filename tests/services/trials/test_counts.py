"""A count of a test: every state of a seed arrives where it is reckoned with."""

from dataclasses import asdict, fields

import pytest
from sqlmodel import select

from brisk_larder.core.trials.when_to_test import Tally
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import TrialCount
from brisk_larder.services.forecast.counts import all_tests
from brisk_larder.services.trials import trial_acts

STATES = tuple(f.name for f in fields(Tally))


@pytest.mark.parametrize("state", STATES)
def test_each_state_that_is_counted_is_kept_and_reckoned_with(small, state):
    lot = small.lots["onion"]
    trial = trial_acts.start_trial(small.larder, ActRef(), lot, 20).trial_id
    small.larder.clock.at_s += 9 * 86_400
    trial_acts.count_trial(small.larder, ActRef(), trial, trial_acts.CountEntry(**{state: 3}))
    with small.larder.store.read() as session:
        (row,) = session.exec(select(TrialCount)).all()
        (test,) = all_tests(session, [lot], small.larder.now_s())
    assert {name: getattr(row, name) for name in STATES} == asdict(Tally(**{state: 3}))
    assert test.tally == Tally(**{state: 3})
    assert test.viable == (3 if state in ("normal", "hard", "fresh") else 0)
    assert test.n == (17 if state == "gone" else 20)


def test_a_count_says_what_it_can_hold():
    assert tuple(f.name for f in fields(trial_acts.CountEntry)) == (*STATES, "seeds")
