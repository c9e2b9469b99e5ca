"""This year's list and today's jobs: one set of proposals, computed; rows only once acted upon."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from sqlalchemy import or_
from sqlmodel import col, select

from ...core.base.errors import InvalidValue
from ...core.base.units import DAY_S, YEAR_S
from ...core.trials.when_to_test import count_due
from ...data.acts import ActRef
from ...data.queries import key, live
from ...data.tables import Job, Person
from ..acts.acting import Doing, Together, act, step, together
from ..acts.lot_acts import put_lot
from ..air.look import looking_at
from ..growing.sowings import Due, GrowingRoom, growing_room, sow_seed
from ..household.kinds import figures
from ..household.larder import Larder, today
from ..household.memory import recall, remember
from ..household.possible_values import get_live
from ..household.wording import day_words, many
from ..needs.chains import needs_room, season_room
from ..storage.alarms_now import all_alarms
from ..storage.best_places import planned_moves
from ..storage.shelves import shelves
from ..trials.bench import Bench, Running, bench
from .evenings import Row, rows_of
from .line_jobs import line_jobs
from .own_jobs import OWN, come_again
from .reminders import foods_to_name, late_orders, pieces_to_see_to, stays_to_ask
from .sowing_jobs import SOW, sow_jobs
from .this_years_list import Proposal, shortfalls_of, year_of

FORTNIGHT_S = 14 * DAY_S
STATES = ("open", "in_progress", "done", "moved", "handed_over", "dropped")
STATE_WORDS = {"in_progress": "in progress", "handed_over": "handed over", "open": "open again"}


@dataclass(frozen=True)
class TodayRoom:
    """The fortnight's jobs, what is due, and what was settled lately. ``rows``, ``later_rows``: the jobs
    as they are worked, what is done together in one."""

    day: str
    jobs: list[Proposal]
    later: list[Proposal]
    rows: list[Row]
    later_rows: list[Row]
    due: list[Due]
    settled: list[Proposal]
    readings_due: int
    hurting: list[str]
    lots: int
    foods: int
    places: int


@dataclass(frozen=True)
class Counts:
    """The numbers beside the names of the rooms: rows of the fortnight's list, boxes that cost seed, tests
    wanted, needs short of plants."""

    today: int
    storage: int
    tests: int
    needs: int


def _counts_due(room: Bench, now_s: int) -> list[Proposal]:
    out = []
    for r in room.running:
        counted = r.counted_days[-1] if r.counted_days else 0.0
        if r.cold_until_s is not None and r.cold_until_s <= now_s and r.day < r.first_day:
            out.append(_out_of_the_cold(r, r.cold_until_s))
        if not count_due(r.day, r.first_day, r.days, counted, figures().growing.count_again_days):
            continue
        last = r.day >= r.days
        act = "First look at" if counted < r.first_day and not last else "Count"
        out.append(
            Proposal(
                origin_key=f"count:{r.trial_id}:{len(r.counted_days)}",
                kind="count",
                title=f"{act} test {r.code} of {r.line.code} {r.line.variety}",
                why=f"{_day_of(r)}; {_up_of(r)}; {r.verdict}.",
                where="house",
                due_s=float(now_s),
                subject=f"trial:{r.trial_id}",
                urgent=last,
                short=f"{r.code} {r.line.variety}",
            )
        )
    return out


def _up_of(r: Running) -> str:
    """How many are up; nothing is said to be none where nobody looked."""
    return f"{r.up} of {r.n} up so far" if r.counted_days else f"{r.n} seeds, not looked at yet"


def _day_of(r: Running) -> str:
    """The day of a test, and how it stands to its last."""
    day, over = int(r.day), int(r.day) - round(r.days)
    if over > 0:
        return f"Day {day}, {many(over, 'day')} after its last count was due"
    return f"Day {day} of {r.days:.0f}"


def _out_of_the_cold(r: Running, since_s: float) -> Proposal:
    """A test whose days in the cold are over goes into its warmth."""
    return Proposal(
        origin_key=f"warm:{r.trial_id}",
        kind="warm",
        title=f"Put test {r.code} of {r.line.code} {r.line.variety} into its warmth",
        why=f"Its days in the cold are over; the first look is on day {r.first_day:.0f} from now.",
        where="house",
        due_s=since_s,
        subject=f"trial:{r.trial_id}",
        urgent=True,
        short=f"{r.code} {r.line.variety}",
    )


def _alarms(larder: Larder, now_s: int) -> list[Proposal]:
    """Alarms as jobs; a dial not read for long is a plain reading job."""
    out = []
    for a in all_alarms(larder):
        reading = a.code == "not_read"
        out.append(
            Proposal(
                origin_key=a.key,
                kind="read" if reading else "alarm",
                title=f"Read {a.path}" if reading else a.title,
                why=f"{a.evidence} {a.todo}"
                + (f" {many(a.lots, 'packet')} inside." if a.lots else ""),
                where="cold store",
                due_s=a.since_s,
                subject=f"node:{a.node_id}",
                urgent=a.urgency >= 2,
            )
        )
    return out


def _moves(larder: Larder, now_s: int) -> list[Proposal]:
    """Moves the keeper planned; done means moved."""
    return [
        Proposal(
            origin_key=j.origin_key, kind="move", title=j.title, why=json.loads(j.reason)["why"],
            where=j.place,
            due_s=float(j.due_s or now_s), subject=j.subject, urgent=False,
        )
        for j in planned_moves(larder)
    ]  # fmt: skip


def _decided(larder: Larder) -> list[Proposal]:
    """What was decided of lots at triage, or typed by somebody, and is still to do."""
    with looking_at(larder) as v:
        told = or_(col(Job.origin_key).like("triage:%"), col(Job.kind) == OWN)
        rows = v.session.exec(live(Job).where(told))
        return [
            _settled(j) for j in rows if j.state not in ("done", "dropped") and j.kind != "keep"
        ]


def _with_state(larder: Larder, proposals: list[Proposal]) -> list[Proposal]:
    """Put the keeper's own states on the computed proposals."""
    with looking_at(larder) as v:
        people = {p.id: p.name for p in v.session.exec(select(Person))}
        rows = {j.origin_key: j for j in v.session.exec(live(Job))}
    out = []
    for p in proposals:
        row = rows.get(p.origin_key)
        if row is None:
            out.append(p)
            continue
        due = float(row.moved_to_s) if row.state == "moved" and row.moved_to_s else p.due_s
        out.append(
            replace(
                p,
                state=row.state,
                job_id=row.id,
                version=row.version,
                due_s=due,
                moved_to_s=row.moved_to_s,
                person=people.get(row.person_id, ""),
            )
        )
    return out


def today_room(larder: Larder) -> TodayRoom:
    """The worked list for the day and the fortnight."""
    # long: what each room has to say, then one part of the list after the other
    now_s = larder.now_s()
    room, needs, growing = bench(larder), needs_room(larder), growing_room(larder)
    places = shelves(larder)
    year = year_of(larder, room, needs, growing)
    season = season_room(larder)
    under_way = [] if season.year == needs.year else shortfalls_of(season, now_s)
    of_lines = line_jobs(larder, growing)
    begun = {p.origin_key.split(":")[2] for p in of_lines if p.kind == SOW}
    sowing = sow_jobs(larder, season)
    proposals = [
        *_counts_due(room, now_s),
        *year.tests,
        *year.shortfalls,
        *under_way,
        *(p for p in year.regrow if p.origin_key.split(":")[1] not in begun),
        *of_lines,
        *sowing,
        *pieces_to_see_to(larder, {p.subject for p in sowing}),
        *late_orders(larder),
        *foods_to_name(larder),
        *stays_to_ask(larder),
        *_alarms(larder, now_s),
        *_moves(larder, now_s),
    ]
    known = {(p.kind, p.subject) for p in proposals}
    proposals += [p for p in _decided(larder) if p.kind == OWN or (p.kind, p.subject) not in known]
    proposals = _with_state(larder, proposals)
    with looking_at(larder) as v:
        day, confidence = today(larder, v.home), v.home.confidence
        due = due_list_of(growing)
        settled = [
            _settled(j)
            for j in v.session.exec(live(Job).order_by(col(Job.id).desc()))
            if j.state in ("done", "dropped")
        ][:12]
    active = [p for p in proposals if p.state not in ("done", "dropped")]
    _remember_offers(larder, day.isoformat(), active)
    soon = [p for p in active if _is_soon(p, day, now_s)]
    later = [p for p in active if p not in soon]
    tested = {p.subject for p in active if p.kind == "test" and p.seeds}
    hurting = [
        f"{box.path}: {box.says}, {many(box.lots, 'packet')} inside"
        for shelf in places
        for box in shelf.boxes
        if box.hurting
    ]
    return TodayRoom(
        day=day.isoformat(),
        jobs=sorted(soon, key=lambda p: (not p.urgent, p.due_s or 0.0, p.title)),
        later=sorted(later, key=lambda p: (not p.urgent, p.due_s or now_s + YEAR_S, p.title)),
        rows=rows_of(soon, tested, confidence, now_s),
        later_rows=rows_of(later, tested, confidence, now_s),
        due=due,
        settled=settled,
        readings_due=sum(p.kind == "read" for p in soon),
        hurting=hurting,
        lots=sum(box.lots for shelf in places for box in [shelf.place, *shelf.boxes]),
        foods=year.wanted_foods,
        places=len(places),
    )


def _is_soon(p: Proposal, day: date, now_s: int) -> bool:
    """Whether a job is one of the coming fortnight: due by then, planned for an evening of it, or asked about
    from its first day on (the foods of the next year)."""
    if p.kind in ("name", "since") or (p.due_s is not None and p.due_s <= now_s + FORTNIGHT_S):
        return True
    until = day + timedelta(days=FORTNIGHT_S // DAY_S)
    return bool(p.evening) and date.fromisoformat(p.evening) <= until


def counts(larder: Larder) -> Counts:
    """What waits in each room; made of the rooms themselves, so it says what they say."""
    return Counts(
        today=len(today_room(larder).rows),
        storage=sum(box.hurting for shelf in shelves(larder) for box in shelf.boxes),
        tests=len(bench(larder).wanted),
        needs=sum(
            bool(line.short_plants) and line.missed_s is None for line in needs_room(larder).lines
        ),
    )


def due_list_of(growing: GrowingRoom) -> list[Due]:
    """Sowings whose seedlings are due or overdue first."""
    order = {"overdue": 0, "due": 1, "early": 2}
    return sorted(growing.due, key=lambda d: (order[d.state], d.sown_s))


def _settled(job: Job) -> Proposal:
    reason = json.loads(job.reason)
    return Proposal(
        origin_key=job.origin_key,
        kind=job.kind,
        title=job.title,
        why=reason.get("why", ""),
        where=job.place,
        due_s=float(job.due_s) if job.due_s else None,
        subject=job.subject,
        urgent=False,
        state=job.state,
        job_id=job.id,
        version=job.version,
        every_weeks=int(reason.get("every_weeks", 0)),
    )


@dataclass(frozen=True)
class JobSet:
    """The job that was settled."""

    job_id: int


def set_jobs(
    larder: Larder,
    ref: ActRef,
    origin_keys: list[str],
    state: str,
    *,
    moved_to_s: int | None = None,
    person_id: int | None = None,
) -> Together | JobSet:
    """Say of several jobs at once what became of them; one act. Raises as set_job."""
    if len(origin_keys) == 1:
        return set_job(
            larder, ref, origin_keys[0], state, moved_to_s=moved_to_s, person_id=person_id
        )
    _check_state(larder, state, moved_to_s, person_id)
    found = _proposals(larder)
    steps = [
        step(_set_job, k, state, _proposal(found, k), moved_to_s, person_id) for k in origin_keys
    ]
    said = f"{many(len(steps), 'job')}: {STATE_WORDS.get(state, state)}"
    return together(larder, ref, "job", steps, said)


def _check_state(larder: Larder, state: str, moved_to_s: int | None, person_id: int | None) -> None:
    if state not in STATES:
        raise InvalidValue("state", state, ", ".join(STATES))
    if state == "moved" and (moved_to_s is None or moved_to_s <= larder.now_s()):
        raise InvalidValue("moved to", moved_to_s, "a day after today")
    if state == "handed_over" and person_id is None:
        raise InvalidValue("handed to", person_id, "somebody of the household")


def _proposals(larder: Larder) -> dict[str, Proposal]:
    """What may be acted on: the jobs as they stand, and those that were offered this day, for a page that
    still shows them: what is done with one may take another off the list."""
    room = today_room(larder)
    now = {p.origin_key: p for p in [*room.settled, *room.later, *room.jobs]}
    with looking_at(larder) as v:
        offered = recall(v.session, OFFERED).get(room.day, {})
    return {k: Proposal(origin_key=k, urgent=False, **one) for k, one in offered.items()} | now


OFFERED = "jobs"
KEPT_OF_OFFER = ("kind", "title", "why", "where", "due_s", "subject", "seeds", "setting")


def _remember_offers(larder: Larder, day: str, shown: Sequence[Proposal]) -> None:
    """Keep what is offered on a day."""
    with looking_at(larder) as v:
        before = recall(v.session, OFFERED)
    mine = {p.origin_key: {k: getattr(p, k) for k in KEPT_OF_OFFER} for p in shown}
    remember(larder, OFFERED, before, {day: before.get(day, {}) | mine})


def _proposal(found: dict[str, Proposal], origin_key: str) -> Proposal:
    if origin_key not in found:
        raise InvalidValue("job", origin_key, "a job of the list")
    return found[origin_key]


def set_job(
    larder: Larder,
    ref: ActRef,
    origin_key: str,
    state: str,
    *,
    moved_to_s: int | None = None,
    person_id: int | None = None,
) -> JobSet:
    """Say what became of a proposed job: in progress, done, moved, handed to somebody, dropped.

    Raises InvalidValue for a move without a later date or a handing over without a person.
    """
    _check_state(larder, state, moved_to_s, person_id)
    with looking_at(larder) as v:
        known = v.session.exec(live(Job).where(Job.origin_key == origin_key)).first()
    found = None
    if known is None:
        found = _proposal(_proposals(larder), origin_key)
    return _set_job(larder, ref, origin_key, state, found, moved_to_s, person_id)


@act("job")
def _set_job(
    a: Doing,
    origin_key: str,
    state: str,
    found: Proposal | None,
    moved_to_s: int | None,
    person_id: int | None,
) -> JobSet:
    row = a.session.exec(live(Job).where(Job.origin_key == origin_key)).first()
    if row is None:
        assert found is not None, "looked up above"
        row = Job(
            origin_key=origin_key,
            kind=found.kind,
            title=found.title,
            place=found.where,
            due_s=int(found.due_s) if found.due_s else None,
            subject=found.subject,
            reason=json.dumps({"why": found.why, "seeds": found.seeds, "setting": found.setting}),
        )
    who = ""
    if person_id is not None:
        who = get_live(a.session, Person, person_id, "person").name
    told = json.loads(row.reason)
    if told.get("every_weeks") and state == "done":
        come_again(row, told["every_weeks"], a.now_s)
    else:
        row.state, row.person_id, row.moved_to_s = state, person_id, moved_to_s
    a.session.add(row)
    a.session.flush()
    a.about(row.subject, f"job:{row.id}")
    words = {
        "moved": f"moved to {day_words(moved_to_s or 0)}",
        "handed_over": f"handed to {who}",
    }.get(state, STATE_WORDS.get(state, state))
    if row.kind == SOW and state == "done":
        seeds = found.seeds if found is not None else told["seeds"]
        # sow:food:12:LOT:...: what for; sow:line:7:LOT:...
        lot_id, meant = int(row.subject.removeprefix("lot:")), row.origin_key.split(":")[1:3]
        sow_seed(a, lot_id, seeds, told["setting"], meant_for=":".join(meant))
    if row.kind == "move" and state == "done":
        put_lot(a, told["lot_id"], told["node_id"], None, None)
    a.summary = f"{row.title}: {words}"
    return JobSet(key(row))
