"""What comes up in soil teaches the bed and the seed, each for itself, and is taken back with its count."""

import pytest

from brisk_larder.data.acts import ActRef
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.current import bring_up_to_date
from brisk_larder.services.forecast.stale import unsettle
from brisk_larder.services.growing import sowings
from brisk_larder.services.papers import history
from brisk_larder.services.stock import lot_page
from brisk_larder.services.today import jobs
from brisk_larder.services.trials import trial_acts as trials_acts
from tests.conftest import DAY


def sow(small, n, up, lot="carrot"):
    made = sowings.sow(small.larder, ActRef(), small.lots[lot], n, "outdoors")
    small.larder.clock.at_s += 40 * DAY
    counting = ActRef()
    sowings.count_sowing(small.larder, counting, made.sowing_id, up, settled=True)
    return made.sowing_id, counting


def now(small, lot="carrot"):
    found = {x.lot_id: x.glance.now for x in lines.lot_lines(small.larder)}
    return found[small.lots[lot]]


def listed(larder):
    room = jobs.today_room(larder)
    return [*room.jobs, *room.later]


def kept(small, sql):
    with small.larder.store.read() as session:
        return [tuple(r) for r in session.connection().exec_driver_sql(sql)]


def test_a_bed_in_which_little_came_is_said_of_the_bed_and_hardly_of_the_seed(small):
    small.larder.clock.at_s += 40 * DAY
    before = now(small)
    small.larder.clock.at_s -= 40 * DAY
    sowing, counting = sow(small, 60, 6)
    after = now(small)
    assert before.mid > after.mid > before.mid - 0.32
    (row,) = sowings.growing_room(small.larder).came_up
    assert (row.up, row.n, row.sowing_id) == (6, 60, sowing)
    assert row.came < row.usual
    assert "more the bed than the seed" in row.says
    page = lot_page.lot_page(small.larder, small.lots["carrot"])
    assert any("6 of 60 up" in x.text for x in page.why)
    # the next carrots outdoors are reckoned with less emergence, indoors with the book's
    pairs = kept(small, "SELECT crop, setting, sowings FROM d_emergence WHERE sowings > 0")
    assert pairs == [("carrot", "outdoors", 1)]
    # taken back, all is as before
    history.undo(small.larder, ActRef(), counting.id)
    assert now(small).mid == pytest.approx(before.mid, abs=1e-6)
    assert kept(small, "SELECT * FROM d_emergence") == []


def test_a_bed_in_which_nothing_came_says_hardly_anything(small):
    sow(small, 200, 0)
    (row,) = sowings.growing_room(small.larder).came_up
    assert "more the bed than the seed" in row.says


def test_the_same_count_on_paper_says_far_more(small):
    sow(small, 60, 6)
    soil = now(small).mid
    test = trials_acts.start_trial(small.larder, ActRef(), small.lots["carrot"], 60)
    small.larder.clock.at_s += 40 * DAY
    entry = trials_acts.CountEntry(normal=6, mouldy=54)
    trials_acts.count_trial(small.larder, ActRef(), test.trial_id, entry, close=True)
    assert now(small).mid < soil - 0.3


def test_a_test_of_sown_seed_tells_that_the_bed_was_poor(small):
    """Once paper shows that the seed is good, the poor sowing is the bed's."""
    sow(small, 60, 14)
    (before,) = sowings.growing_room(small.larder).came_up
    assert before.came < before.usual
    assert "more the bed than the seed" in before.says
    test = trials_acts.start_trial(small.larder, ActRef(), small.lots["carrot"], 50)
    small.larder.clock.at_s += 40 * DAY
    entry = trials_acts.CountEntry(normal=47, mouldy=3)
    trials_acts.count_trial(small.larder, ActRef(), test.trial_id, entry, close=True)
    (after,) = sowings.growing_room(small.larder).came_up
    assert after.came < before.came


def test_what_sowings_teach_is_the_same_however_often_it_is_reckoned(small):
    """Germination is taken from tests and storage alone: no count is used twice, whatever was kept before."""
    sow(small, 60, 14)
    sow(small, 80, 60, "kale")
    now(small)
    sql = ("SELECT * FROM d_emergence", "SELECT * FROM d_sowing")
    first = [kept(small, x) for x in sql]
    assert all(first)
    for lost in ("", "DELETE FROM d_emergence", "DELETE FROM d_sowing"):
        with small.larder.store.write(cache=True) as session:
            unsettle(session)
            if lost:
                session.connection().exec_driver_sql(lost)
        bring_up_to_date(small.larder)
        assert [kept(small, x) for x in sql] == first


def test_what_nobody_looked_at_is_not_said_to_be_none_up(small):
    larder, carrot = small.larder, small.lots["carrot"]
    made = sowings.sow(larder, ActRef(), carrot, 30, "outdoors")
    test = trials_acts.start_trial(larder, ActRef(), small.lots["onion"], 20)
    larder.clock.at_s += 8 * DAY
    (due,) = sowings.growing_room(larder).due
    assert not due.counted
    (job,) = [p for p in listed(larder) if p.subject == f"trial:{test.trial_id}"]
    assert "20 seeds, not looked at yet" in job.why
    sowings.count_sowing(larder, ActRef(), made.sowing_id, 0)
    trials_acts.count_trial(larder, ActRef(), test.trial_id, trials_acts.CountEntry(normal=0))
    larder.clock.at_s += 5 * DAY
    (due,) = sowings.growing_room(larder).due
    assert (due.counted, due.up) == (True, 0)
    (job,) = [p for p in listed(larder) if p.subject == f"trial:{test.trial_id}"]
    assert "0 of 20 up so far" in job.why
