"""Jobs that somebody typed: what, by when, where, who, and whether it comes again."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from ...core.base.errors import InvalidValue
from ...core.base.units import DAY_S, day_start_s
from ...data.queries import key
from ...data.tables import Job, Person
from ..acts.acting import Doing, act
from ..household.possible_values import get_live

OWN = "own"
PLACES = ("house", "cold store", "greenhouse", "garden")
LONGEST_WEEKS = 104


@dataclass(frozen=True)
class OwnJob:
    """The job that was written down."""

    job_id: int


@dataclass(frozen=True)
class JobSaid:
    """A job as somebody types it: ``due`` a day (today without one), ``every_weeks`` 0: once."""

    text: str
    due: date | None = None
    where: str = "house"
    person_id: int | None = None
    every_weeks: int = 0


def _write(a: Doing, row: Job, said: JobSaid) -> OwnJob:
    if not 1 <= len(said.text.strip()) <= 200:
        raise InvalidValue("what", said.text[:40], "what is to be done, in up to 200 signs")
    if said.where not in PLACES:
        raise InvalidValue("where", said.where, ", ".join(PLACES))
    if not 0 <= said.every_weeks <= LONGEST_WEEKS:
        allowed = f"0 (once) to {LONGEST_WEEKS}"
        raise InvalidValue("every so many weeks", said.every_weeks, allowed)
    if said.person_id is not None:
        get_live(a.session, Person, said.person_id, "person")
    row.title, row.place, row.person_id = said.text.strip(), said.where, said.person_id
    row.due_s = day_start_s(said.due, a.home.tz) + DAY_S // 2 if said.due else a.now_s
    row.reason = json.dumps({"why": "", "every_weeks": said.every_weeks})
    row.moved_to_s, row.state = None, _whose(row)
    a.session.add(row)
    a.session.flush()
    a.about(f"job:{row.id}")
    a.summary = f"To do: {row.title}"
    return OwnJob(key(row))


def _whose(row: Job) -> str:
    return "handed_over" if row.person_id is not None else "open"


@act("own_job")
def add_own_job(a: Doing, said: JobSaid) -> OwnJob:
    """Write down a job of one's own. Raises InvalidValue."""
    return _write(a, Job(origin_key=f"own:{a.id}", kind=OWN, title=said.text), said)


@act("own_job")
def change_own_job(a: Doing, job_id: int, said: JobSaid) -> OwnJob:
    """Put a job of one's own right. Raises InvalidValue, also for one that nobody typed."""
    row = get_live(a.session, Job, job_id, "job")
    if row.kind != OWN:
        raise InvalidValue("job", job_id, "a job that somebody typed")
    return _write(a, row, said)


def come_again(row: Job, every_weeks: int, now_s: int) -> None:
    """Done for this time, early or late: it stands there again at its next day, which is still to come,
    with whoever it was handed to."""
    again_s = every_weeks * 7 * DAY_S
    due_s = (row.moved_to_s or row.due_s or now_s) + again_s
    while due_s <= now_s:
        due_s += again_s
    row.due_s, row.moved_to_s, row.state = due_s, None, _whose(row)
