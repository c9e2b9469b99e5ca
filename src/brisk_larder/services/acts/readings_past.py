"""Readings set aside and brought back, one by one or a file at once, and in which order undo may."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence

from sqlalchemy import text
from sqlmodel import Session, select

from ...core.base.errors import Conflict
from ...data.acts import Recorder, later_on
from ...data.queries import live
from ...data.tables import Act, Deployment, ImportBatch, Reading, ReadingPast
from ..air.air import Air
from ..air.buckets import refresh_buckets
from ..air.reach import kinds_read, previous_s
from ..forecast.stale import mark_node
from ..household.larder import household

MOST_NAMED = 5


def nodes_of_series(session: Session, series_id: int, at_s: int) -> list[int]:
    """Nodes in which a series was read at a time."""
    rows = session.exec(live(Deployment).where(Deployment.series_id == series_id))
    return [d.node_id for d in rows if d.from_s <= at_s and (d.to_s is None or at_s < d.to_s)]


def _mark(session: Session, now_s: int, row: Reading | ReadingPast) -> list[int]:
    """Mark what one reading touches, be it there or not; returns its nodes."""
    session.flush()
    air = Air(session, household(session), now_s)
    nodes = nodes_of_series(session, row.series_id, row.at_s)
    read = kinds_read(row.temperature_c is not None, row.erh is not None)
    for node in nodes:
        mark_node(session, air, [node], previous_s(air, node, row.at_s, read), read=True)
    refresh_buckets(session, row.series_id, row.at_s, row.at_s)
    return nodes


def put_in_place(session: Session, now_s: int, row: Reading) -> None:
    """Write a reading into its slot and mark what it touches. Raises Conflict when that is filled."""
    if session.get(Reading, (row.series_id, row.at_s)) is not None:
        raise Conflict("Another reading stands at that time by now: take that one back first")
    session.add(row)
    _mark(session, now_s, row)


def set_aside(
    session: Session, now_s: int, act_id: str, series_id: int, at_s: int, why: str
) -> list[int]:
    """Move one reading to the past ones and mark what it touched; returns its nodes."""
    row = session.get(Reading, (series_id, at_s))
    if row is None:
        raise Conflict("That reading is not there any more")
    past = ReadingPast(
        series_id=series_id,
        at_s=at_s,
        temperature_c=row.temperature_c,
        erh=row.erh,
        t_min_c=row.t_min_c,
        t_max_c=row.t_max_c,
        batch_id=row.batch_id,
        act_id=act_id,
        why=why,
    )
    session.add(past)
    session.delete(row)
    return _mark(session, now_s, past)


def bring_back(session: Session, now_s: int, series_id: int, at_s: int, act_id: str) -> None:
    """Put a reading that an act set aside back in its place. Raises Conflict when its slot is filled,
    or the file it came with was taken back."""
    past = session.exec(
        select(ReadingPast).where(
            ReadingPast.series_id == series_id,
            ReadingPast.at_s == at_s,
            ReadingPast.act_id == act_id,
        )
    ).first()
    if past is None:
        raise Conflict("That reading cannot be found among the past ones")
    batch = session.get(ImportBatch, past.batch_id) if past.batch_id else None
    if batch is not None and batch.deleted_s is not None:
        raise Conflict(
            f"It came with {batch.file_name}, which was taken back: bring that back first"
        )
    row = Reading(
        series_id=series_id,
        at_s=at_s,
        temperature_c=past.temperature_c,
        erh=past.erh,
        t_min_c=past.t_min_c,
        t_max_c=past.t_max_c,
        batch_id=past.batch_id,
    )
    session.delete(past)
    put_in_place(session, now_s, row)


def _origin(batch: ImportBatch) -> str:
    return f"batch:{batch.id}"


def _summaries(session: Session, act_ids: Iterable[str]) -> list[str]:
    found = [session.get(Act, i.split("#")[0]) for i in dict.fromkeys(act_ids)]
    return [a.summary for a in found if a is not None]


def _refuse(blockers: Sequence[str]) -> None:
    if blockers:
        named = list(dict.fromkeys(blockers))
        more = f" and {len(named) - MOST_NAMED} more" if len(named) > MOST_NAMED else ""
        listed = "; ".join(named[:MOST_NAMED]) + more
        raise Conflict(f"Changed again since: undo that first ({listed})", later=named)


def take_back_batch(session: Session, now_s: int, batch: ImportBatch) -> None:
    """Move a file's readings to the past ones in one statement, and mark what they touched.

    Raises Conflict, naming the acts, when one of them was corrected or voided since.
    """
    origin = _origin(batch)
    changed = session.execute(
        text("SELECT DISTINCT act_id FROM reading_past WHERE batch_id = :b AND act_id <> :act"),
        {"act": origin, "b": batch.id},
    ).scalars()
    _refuse(_summaries(session, changed))
    session.execute(
        text(
            "INSERT INTO reading_past (series_id, at_s, temperature_c, erh, t_min_c, t_max_c, "
            "batch_id, act_id, why) SELECT series_id, at_s, temperature_c, erh, t_min_c, t_max_c, "
            "batch_id, :act, 'file taken back' FROM reading WHERE batch_id = :b"
        ),
        {"act": origin, "b": batch.id},
    )
    session.execute(text("DELETE FROM reading WHERE batch_id = :b"), {"b": batch.id})
    _mark_batch(session, now_s, batch)


def bring_back_batch(session: Session, now_s: int, batch: ImportBatch) -> None:
    """The reverse of take_back_batch. Raises Conflict, naming by what, when its times are filled."""
    origin = _origin(batch)
    filled = session.execute(
        text(
            "SELECT DISTINCT r.batch_id FROM reading_past p JOIN reading r ON r.series_id = p.series_id "
            "AND r.at_s = p.at_s WHERE p.batch_id = :b AND p.act_id = :act"
        ),
        {"act": origin, "b": batch.id},
    ).scalars()
    names = []
    for other in filled:
        found = session.get(ImportBatch, other) if other is not None else None
        names.append(f"took in {found.file_name}" if found else "readings taken one by one")
    _refuse(names)
    session.execute(
        text(
            "INSERT INTO reading (series_id, at_s, temperature_c, erh, t_min_c, t_max_c, batch_id) "
            "SELECT series_id, at_s, temperature_c, erh, t_min_c, t_max_c, batch_id "
            "FROM reading_past WHERE batch_id = :b AND act_id = :act"
        ),
        {"act": origin, "b": batch.id},
    )
    session.execute(
        text("DELETE FROM reading_past WHERE batch_id = :b AND act_id = :act"),
        {"act": origin, "b": batch.id},
    )
    _mark_batch(session, now_s, batch)


def _mark_batch(session: Session, now_s: int, batch: ImportBatch) -> None:
    air = Air(session, household(session), now_s)
    for node in nodes_of_series(session, batch.series_id, batch.last_s or 0):
        since = previous_s(air, node, batch.first_s or 0)
        mark_node(session, air, [node], since, read=True)
    refresh_buckets(session, batch.series_id, batch.first_s or 0, batch.last_s or 0)


def undo_readings(a: Recorder, target: Act) -> None:
    """Readings keep no changes of their own: their acts name them in their subjects.

    Raises Conflict, naming the later acts, when what the act did to a reading is not the last that
    was done to it.
    """
    origin = target
    depth = 0
    while origin.undoes_act_id is not None:
        parent = a.session.get(Act, origin.undoes_act_id)
        assert parent is not None, "an undo names an act of this file"
        origin, depth = parent, depth + 1
    named = [s for s in json.loads(origin.subjects) if s.startswith("reading:")]
    _refuse(later_on(a.session, target, named))
    again = depth % 2 == 1  # an undo of an undo
    for subject in named:
        _, series_text, at_text = subject.split(":")
        series, at = int(series_text), int(at_text)
        # notes are filed under the act itself, so that a redo finds them whatever the chain
        if origin.kind == "reading":
            if again:
                bring_back(a.session, a.now_s, series, at, origin.id)
            else:
                set_aside(a.session, a.now_s, origin.id, series, at, "taken back")
        elif origin.kind == "void_reading":
            if again:
                set_aside(a.session, a.now_s, origin.id, series, at, "voided")
            else:
                bring_back(a.session, a.now_s, series, at, origin.id)
        elif origin.kind == "correct_reading":
            old, new = origin.id, f"{origin.id}#new"
            leaving, coming = (old, new) if again else (new, old)
            set_aside(a.session, a.now_s, leaving, series, at, "corrected")
            bring_back(a.session, a.now_s, series, at, coming)
