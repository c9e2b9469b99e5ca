"""Acts: the only way a service writes. One transaction, replay, history, undo."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, Protocol, TypeVar
from uuid import uuid4

from sqlalchemy import desc, event, inspect
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session as OrmSession
from sqlmodel import Session, SQLModel, col, select

from ..core.base.errors import Conflict, NotFound
from .limits import check_row
from .store import Store
from .tables import HISTORY_TABLES, Act, Change, Person

UNDO_DAYS = 90


class Clock(Protocol):
    """Who tells the time; only the command line and the API know the real one."""

    def now_s(self) -> int:
        """Epoch seconds now."""
        ...


@dataclass(frozen=True)
class ActRef:
    """Identity of an act as the client made it: a UUID, who, when it was done, a digest of what was sent
    for it (empty: not by a page), and the number of the last act that the form it was written in had
    seen (None: nobody says), beside acts of the same page."""

    id: str = field(default_factory=lambda: str(uuid4()))
    person_id: int | None = None
    client_at_s: int | None = None
    said: str = ""
    seen: int | None = None
    own: frozenset[str] = frozenset()


@dataclass
class Recorder:
    """What a service fills in while it acts."""

    session: Session
    now_s: int
    id: str
    replayed: bool = False
    summary: str = ""
    subjects: list[str] = field(default_factory=list)
    result: dict[str, Any] = field(default_factory=dict)
    undoes: str | None = None
    changes: list[tuple[str, int, str | None, str]] = field(default_factory=list)

    def about(self, *subjects: str) -> None:
        """Name what the act is about: ``lot:12``, ``node:3``, ``trial:7``."""
        self.subjects.extend(s for s in subjects if s not in self.subjects)


def row_json(row: SQLModel) -> str:
    """A row's columns as JSON, keys sorted."""
    return json.dumps(row.model_dump(), sort_keys=True)


def _before_json(row: SQLModel) -> str:
    values = row.model_dump()
    for attr in inspect(row).attrs:
        if attr.history.has_changes() and attr.history.deleted:
            values[attr.key] = attr.history.deleted[0]
    return json.dumps(values, sort_keys=True)


@event.listens_for(OrmSession, "before_flush")
def _note_updates(session: OrmSession, context: Any, instances: Any) -> None:
    for row in (*session.new, *session.dirty):
        if getattr(row, "__tablename__", "") in HISTORY_TABLES:
            check_row(row)
    recorder: Recorder | None = session.info.get("act")
    if recorder is None:
        return
    for row in session.dirty:
        name = getattr(row, "__tablename__", "")
        if name not in HISTORY_TABLES or not session.is_modified(row):
            continue
        before = _before_json(row)
        if "version" in type(row).model_fields and not session.info.get("restoring"):
            row.version = json.loads(before)["version"] + 1
        recorder.changes.append((name, row.id, before, row_json(row)))
    session.info["born"] = [r for r in session.new if r.__tablename__ in HISTORY_TABLES]


@event.listens_for(OrmSession, "after_flush")
def _note_inserts(session: OrmSession, context: Any) -> None:
    recorder: Recorder | None = session.info.get("act")
    if recorder is None:
        return
    for row in session.info.pop("born", []):
        recorder.changes.append((row.__tablename__, row.id, None, row_json(row)))


R = TypeVar("R", bound="Recorder")


@contextmanager
def one_act(
    store: Store, clock: Clock, ref: ActRef, kind: str, begin: Callable[[Session, int, str], R]
) -> Iterator[R]:
    """Open the transaction of one act; ``begin`` makes its recorder of session, moment and id.

    An id already stored is replayed: ``recorder.replayed`` is true and ``result`` holds what was
    answered then; the service returns it and writes nothing. Changed rows of hand-edited tables
    are recorded by the session itself; their ``version`` is bumped.
    """
    now_s = clock.now_s()
    with store.write() as session:
        known = session.get(Act, ref.id)
        recorder = begin(session, now_s, ref.id)
        if known is not None:
            if known.kind != kind:
                raise Conflict(
                    f"The act {ref.id} was another one ({known.summary}): a new act needs a new id"
                )
            if known.said and ref.said and known.said != ref.said:
                raise Conflict(
                    f"The act {ref.id} was done already, with something else in it ({known.summary}): take "
                    "that back, or send this as an act of its own"
                )
            recorder.replayed = True
            recorder.result = json.loads(known.result)
            yield recorder
            return
        session.info["act"] = recorder
        yield recorder
        session.flush()
        session.info.pop("act")
        if ref.seen is not None:
            _refuse_unseen(recorder, ref.seen, ref.own)
        session.add(
            Act(
                id=ref.id,
                at_s=now_s,
                client_at_s=ref.client_at_s or now_s,
                person_id=_known_person(session, ref.person_id),
                kind=kind,
                summary=recorder.summary or kind,
                subjects=json.dumps(recorder.subjects),
                result=json.dumps(recorder.result),
                undoes_act_id=recorder.undoes,
                said=ref.said,
                schema_rev=store.schema_rev,
            )
        )
        session.flush()
        session.add_all(
            Change(act_id=ref.id, seq=i, table_name=t, row_id=r, before=b, after=a)
            for i, (t, r, b, a) in enumerate(recorder.changes)
        )


def _known_person(session: Session, person_id: int | None) -> int | None:
    """A person of this household, or nobody: a page may still name one of another file."""
    if person_id is None or not 0 < person_id < 2**62:
        return None
    person = session.get(Person, person_id)
    return person_id if person is not None and person.deleted_s is None else None


# small rows that are set as a whole, by forms that carry no version of each
SET_BY_FORMS = frozenset((
    "chain_override", "crop_change", "earmark", "household", "jar", "job", "neighbour", "own_window", "pick",
    "plan_cell", "spot",
))  # fmt: skip


def _differing(before: str | None, after: str) -> dict[str, Any]:
    """What a change put in: the columns that it changed, with their new values (all of a new row)."""
    old, new = json.loads(before) if before else {}, json.loads(after)
    return {k: v for k, v in new.items() if k != "version" and (k not in old or old[k] != v)}


def _refuse_unseen(recorder: Recorder, seen: int, own: frozenset[str]) -> None:
    """Raises Conflict where an act would put its value over one that came in after its form was opened."""
    run = recorder.session.connection().exec_driver_sql
    for table, row_id, before, after in recorder.changes:
        if before is None or table not in SET_BY_FORMS:
            continue
        mine = _differing(before, after)
        for was, became, words, act_id in run(
            "SELECT change.before, change.after, act.summary, act.id FROM change JOIN act ON act.id = "
            "change.act_id WHERE change.table_name = ? AND change.row_id = ? AND act.rowid > ?",
            (table, row_id, seen),
        ):
            if act_id in own:
                continue
            theirs = _differing(was, became)
            both = mine.keys() & theirs.keys()
            # to take away what somebody has just changed is to put it over, too
            if mine.get("deleted_s") is not None or any(mine[k] != theirs[k] for k in both):
                raise Conflict(
                    f"This was saved since your form was opened: {words}. Look at it, then save again if "
                    "yours is to stand",
                    meanwhile=True,
                    current=json.loads(before),
                )


def expect_version(row: Any, version: int | None, what: str) -> None:
    """Refuse a stale write: raises Conflict with ``yours`` and ``theirs`` when versions differ."""
    if version is not None and row.version != version:
        raise Conflict(
            f"{what} was changed meanwhile; look at it again before saving",
            yours=version,
            theirs=row.version,
            current=json.loads(row_json(row)),
        )


def is_undone(session: Session, act_id: str) -> bool:
    """Whether an act stands undone: its last undo has not itself been undone."""
    undo = session.exec(
        select(Act).where(Act.undoes_act_id == act_id).order_by(desc(col(Act.at_s)), Act.id)
    ).all()
    return any(not is_undone(session, u.id) for u in undo)


def later_on(session: Session, target: Act, subjects: Collection[str]) -> list[str]:
    """Summaries of the acts that stand otherwise now than right after ``target``, of those about some
    subjects; its own chain of undos left out."""
    if not subjects:
        return []
    about = " OR ".join("instr(subjects, ?)" for _ in subjects)
    rows = session.connection().exec_driver_sql(
        f"SELECT rowid, id, summary, undoes_act_id FROM act WHERE {about} ORDER BY rowid",
        tuple(json.dumps(s) for s in subjects),
    )
    chain: dict[str, str] = {}  # act or undo -> the act that it is, or takes back, at the end
    then: dict[str, bool] = {}
    now: dict[str, bool] = {}
    words: dict[str, str] = {}
    reached = False
    for _, act_id, summary, undoes in rows:
        origin = chain[act_id] = chain.get(undoes, act_id) if undoes else act_id
        now[origin] = not now.get(origin, False)
        words[origin] = summary
        if not reached:
            then[origin] = now[origin]
        reached = reached or act_id == target.id
    mine = chain.get(target.id)
    return [
        words[origin]
        for origin, stands in now.items()
        if origin != mine and stands != then.get(origin, False)
    ]


# what readings are filed under; it serves all later ones too, so undoing the first leaves it
FILING = ("series", "deployment")
READING_ACTS = ("reading", "import_readings")


# what was replaced or closed stays so: an address that somebody was told of comes back by no undo
SECRETS = {("household", "calendar_token")}


def restore_rows(recorder: Recorder, target: Act) -> list[tuple[str, SQLModel]]:
    """Write back the rows an act changed; returns (table, row) of each.

    Refuses as a whole (Conflict naming the later acts) when a row has changed since.
    """
    session = recorder.session
    changes = session.exec(
        select(Change).where(Change.act_id == target.id).order_by(desc(col(Change.seq)))
    ).all()
    if target.kind in READING_ACTS:
        changes = [c for c in changes if c.before is not None or c.table_name not in FILING]
    seen: set[tuple[str, int]] = set()
    blockers: list[str] = []
    rows: list[tuple[str, SQLModel]] = []
    for change in changes:
        row = session.get(HISTORY_TABLES[change.table_name], change.row_id)
        if row is None:
            raise NotFound(f"{change.table_name} {change.row_id} is not in this file")
        if (change.table_name, change.row_id) not in seen:
            seen.add((change.table_name, change.row_id))
            now, then = json.loads(row_json(row)), json.loads(change.after)
            # an undo that was itself undone leaves a higher version on the same values
            now.pop("version", None), then.pop("version", None)
            if now != then:
                blockers += _later_acts(session, change, target.id)
    if blockers:
        listed = "; ".join(dict.fromkeys(blockers))
        raise Conflict(f"Changed again since: undo that first ({listed})", later=blockers)
    for change in changes:
        row = session.get(HISTORY_TABLES[change.table_name], change.row_id)
        assert row is not None, "seen a moment ago in the same transaction"
        if change.before is None:
            row.deleted_s = recorder.now_s
        else:
            for name, value in json.loads(change.before).items():
                dead = (change.table_name, name) in SECRETS and value != ""
                if name != "version" and not dead:
                    setattr(row, name, value)
        table = change.table_name  # read before the flush: a failed one leaves nothing readable
        session.add(row)
        try:
            session.flush()
        except IntegrityError as error:
            what = table.replace("_", " ")
            raise Conflict(f"Another {what} of the same name is in use by now") from error
        rows.append((table, row))
    return rows


def _later_acts(session: Session, change: Change, act_id: str) -> list[str]:
    later = session.exec(
        select(Act)
        .join(Change)
        .where(
            Change.table_name == change.table_name,
            Change.row_id == change.row_id,
            col(Change.id) > change.id,
            Act.id != act_id,
        )
    ).all()
    return [a.summary for a in later] or ["a later change"]
