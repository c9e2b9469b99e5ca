"""The list as it is worked: evenings, places, jobs of one's own."""

from datetime import date

import pytest

from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.services.papers import history, settings_page
from brisk_larder.services.today import jobs, own_jobs
from brisk_larder.services.today.evenings import rows_of
from brisk_larder.services.today.own_jobs import JobSaid
from brisk_larder.services.today.this_years_list import Proposal

DAY = 86_400


def gathered(jobs_, confidence=0.9):
    tested = {j.subject for j in jobs_ if j.kind == "test" and j.seeds}
    return rows_of(jobs_, tested, confidence)


def job(kind, key, **more):
    return Proposal(
        origin_key=more.pop("origin_key", f"{kind}:{key}"),
        kind=kind,
        title=f"{kind} {key}",
        why=f"because {key}",
        where="house",
        due_s=more.pop("due_s", 10.0 * DAY),
        subject=more.pop("subject", f"lot:{key}"),
        urgent=more.pop("urgent", False),
        short=str(key),
        **more,
    )


def keys(rows):
    return sorted(sorted(j.origin_key for j in r.jobs) for r in rows)


def test_tests_of_one_evening_of_the_plan_are_one_row():
    tests = [
        job("test", 1, seeds=10, spot_c=20.0, evening="2026-12-01"),
        job("test", 2, seeds=15, spot_c=25.0, evening="2026-12-01", due_s=40.0 * DAY),
        job("test", 3, seeds=10, spot_c=20.0, evening="2026-12-08"),
        job("test", 4, seeds=4, spot_c=20.0),  # the bench has no room for it
    ]
    rows = gathered(tests)
    assert keys(rows) == [["test:1", "test:2"], ["test:3"], ["test:4"]]
    evening = next(r for r in rows if len(r.jobs) == 2)
    assert "20 °C and 25 °C" in evening.title
    assert "25 seeds of 2 packets" in evening.why
    assert evening.due_s == 10 * DAY


def test_what_somebody_said_of_one_job_keeps_it_alone_and_a_test_is_not_asked_twice():
    rows = gathered(
        [
            job("test", 1, seeds=10, spot_c=20.0),
            job("test", 2, seeds=10, spot_c=20.0, state="moved"),
            job("test", 9, seeds=0, waits_for=("lot:1",)),  # a food that waits for the test of 1
            job("test", 8, seeds=0, waits_for=("lot:7",)),
            job(
                "test", 7, seeds=0, waits_for=("lot:1", "lot:7")
            ),  # one of its two is not asked for
        ]
    )
    assert keys(rows) == [["test:1"], ["test:2"], ["test:7"], ["test:8"]]


def test_two_alarms_of_one_tin_are_one_row_and_every_job_stands_in_one_row():
    mixed = [
        job("alarm", "damp", subject="node:3", urgent=True),
        job("alarm", "battery", subject="node:3"),
        job("read", "jar", subject="node:4"),
        *[job("order", n, subject=f"food:{n}") for n in range(3)],
        *[job("regrow", n) for n in range(2)],
        job("count", "T-1", subject="trial:1"),
        job("count", "T-2", subject="trial:2"),
        job("count", "lot", subject="lot:5"),
        job("move", 6),
    ]
    rows = gathered(mixed)
    assert sorted(j.origin_key for r in rows for j in r.jobs) == sorted(j.origin_key for j in mixed)
    assert rows[0].urgent
    assert len(rows[0].jobs) == 2
    assert ["order:0", "order:1", "order:2"] in keys(rows)
    assert ["count:T-1", "count:T-2"] in keys(rows)
    assert ["count:lot"] in keys(rows)


def test_a_job_of_ones_own_is_moved_handed_on_and_comes_again(small):
    larder = small.larder
    person = settings_page.add_person(larder, ActRef(), "Ysolde").person_id
    said = JobSaid("Turn the jars", date(2026, 11, 25), "cold store", None, 2)
    made = own_jobs.add_own_job(larder, ActRef(), said).job_id
    (row,) = [r for r in jobs.today_room(larder).rows if r.kind == "own"]
    key = row.jobs[0].origin_key
    jobs.set_job(larder, ActRef(), key, "handed_over", person_id=person)
    assert next(j for j in jobs.today_room(larder).jobs if j.origin_key == key).person == "Ysolde"
    larder.clock.at_s += 4 * DAY
    jobs.set_job(larder, ActRef(), key, "done")
    again = next(j for j in [*jobs.today_room(larder).jobs, *jobs.today_room(larder).later]
                 if j.origin_key == key)  # fmt: skip
    assert (again.state, again.person) == ("handed_over", "Ysolde")  # it is still hers
    assert date.fromtimestamp(again.due_s) == date(2026, 12, 9)
    own_jobs.change_own_job(
        larder, ActRef(), made, JobSaid("Turn the jars twice", date(2026, 12, 1))
    )
    jobs.set_job(larder, ActRef(), key, "done")
    assert key not in {j.origin_key for j in jobs.today_room(larder).jobs}
    for wrong in ({"text": " "}, {"text": "x", "where": "moon"}, {"text": "x", "every_weeks": -1}):
        with pytest.raises(InvalidValue):
            own_jobs.add_own_job(larder, ActRef(), JobSaid(**wrong))
    larder.clock.at_s += 60 * DAY  # the onion wants its test: a job that nobody typed
    other = next(j for j in jobs.today_room(larder).jobs if j.kind != "own")
    proposed = jobs.set_job(larder, ActRef(), other.origin_key, "in_progress").job_id
    with pytest.raises(InvalidValue, match="somebody typed"):
        own_jobs.change_own_job(larder, ActRef(), proposed, JobSaid("mine now"))


def test_a_whole_row_is_settled_in_one_act_and_taken_back_in_one(small):
    larder = small.larder
    for text in ("one", "two", "three"):
        own_jobs.add_own_job(larder, ActRef(), JobSaid(text))
    all_keys = [j.origin_key for j in jobs.today_room(larder).jobs if j.kind == "own"]
    ref = ActRef()
    jobs.set_jobs(larder, ref, all_keys, "dropped")
    assert not [j for j in jobs.today_room(larder).jobs if j.kind == "own"]
    history.undo(larder, ActRef(), ref.id)
    assert len([j for j in jobs.today_room(larder).jobs if j.kind == "own"]) == 3
    with pytest.raises(InvalidValue, match="a job of the list"):
        jobs.set_jobs(larder, ActRef(), [all_keys[0], "own:nobody"], "done")
    assert len([j for j in jobs.today_room(larder).jobs if j.kind == "own"]) == 3


def test_a_reason_is_shared_only_where_it_is_the_same():
    lost = job("order", "gossamer", origin_key="regrow:4:2027")
    short = [job("order", n, subject=f"food:{n}") for n in range(3)]
    rows = gathered([lost, *short], confidence=0.8)
    assert keys(rows) == [["order:0", "order:1", "order:2"], ["regrow:4:2027"]]
    together = next(r for r in rows if len(r.jobs) == 3)
    assert "four years in five" in together.why  # the household's own confidence, not ours


def test_a_job_that_was_moved_comes_again_from_the_day_it_was_moved_to(small):
    larder = small.larder
    own_jobs.add_own_job(larder, ActRef(), JobSaid("air the loft", None, "house", None, 1))
    key = next(j.origin_key for j in jobs.today_room(larder).jobs if j.kind == "own")
    to_s = larder.now_s() + 3 * DAY
    jobs.set_job(larder, ActRef(), key, "moved", moved_to_s=to_s)
    jobs.set_job(larder, ActRef(), key, "done")
    room = jobs.today_room(larder)
    again = next(j for j in [*room.jobs, *room.later] if j.origin_key == key)
    assert again.due_s == to_s + 7 * DAY
