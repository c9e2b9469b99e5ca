"""Jobs that somebody typed: what, by when, where, who, and whether it comes again."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from ...core.errors import InvalidValue
from ...core.units import DAY_S, day_start_s
from ...data.queries import key
from ...data.tables import Job, Person
from ..acts.acting import Doing, act
from ..household.told import get_live

OWN = "own"
PLACES = ("house", "cold store", "greenhouse", "garden")
LONGEST_WEEKS = 104


@dataclass(frozen=True)
class OwnJob:
    """The job that was written down."""

    job_id: int


def _write(
    a: Doing,
    row: Job,
    text: str,
    due: date | None,
    where: str,
    person_id: int | None,
    every_weeks: int,
) -> OwnJob:
    if not 1 <= len(text.strip()) <= 200:
        raise InvalidValue("what", text[:40], "what is to be done, in up to 200 signs")
    if where not in PLACES:
        raise InvalidValue("where", where, ", ".join(PLACES))
    if not 0 <= every_weeks <= LONGEST_WEEKS:
        raise InvalidValue("every so many weeks", every_weeks, f"0 (once) to {LONGEST_WEEKS}")
    if person_id is not None:
        get_live(a.session, Person, person_id, "person")
    row.title, row.place, row.person_id = text.strip(), where, person_id
    row.due_s = day_start_s(due, a.home.tz) + DAY_S // 2 if due else a.now_s
    row.reason = json.dumps({"why": "", "every_weeks": every_weeks})
    row.moved_to_s, row.state = None, "handed_over" if person_id is not None else "open"
    a.session.add(row)
    a.session.flush()
    a.about(f"job:{row.id}")
    return OwnJob(key(row))


@act("own_job")
def add_own_job(
    a: Doing,
    text: str,
    due: date | None = None,
    where: str = "house",
    person_id: int | None = None,
    every_weeks: int = 0,
) -> OwnJob:
    """Write down a job of one's own, ``due`` a day (today without one). Raises InvalidValue."""
    row = Job(origin_key=f"own:{a.id}", kind=OWN, title=text)
    done = _write(a, row, text, due, where, person_id, every_weeks)
    a.summary = f"To do: {row.title}"
    return done


@act("own_job")
def change_own_job(
    a: Doing,
    job_id: int,
    text: str,
    due: date | None = None,
    where: str = "house",
    person_id: int | None = None,
    every_weeks: int = 0,
) -> OwnJob:
    """Put a job of one's own right. Raises InvalidValue, also for one that nobody typed."""
    row = get_live(a.session, Job, job_id, "job")
    if row.kind != OWN:
        raise InvalidValue("job", job_id, "a job that somebody typed")
    done = _write(a, row, text, due, where, person_id, every_weeks)
    a.summary = f"To do: {row.title}"
    return done


def come_again(row: Job, every_weeks: int, now_s: int) -> None:
    """Done for this time, early or late: it stands open again at its next day, which is still to come."""
    again_s = every_weeks * 7 * DAY_S
    due_s = (row.moved_to_s or row.due_s or now_s) + again_s
    while due_s <= now_s:
        due_s += again_s
    row.due_s, row.moved_to_s, row.state = due_s, None, "open"
