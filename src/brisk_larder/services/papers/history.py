"""History: what was done, by whom, and taking an act back (or doing it again)."""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlalchemy import text
from sqlmodel import Session, col, select

from ...core.errors import Conflict, NotFound
from ...core.units import DAY_S
from ...data.acts import UNDO_DAYS, ActRef, Recorder, act, is_undone, restore_rows
from ...data.tables import (
    Act,
    Change,
    Cohort,
    ImportBatch,
    Lot,
    Node,
    NodeEvent,
    Part,
    Person,
    Stay,
    Trial,
    TrialCount,
    Variety,
)
from ..acts.readings_past import bring_back_batch, take_back_batch, undo_readings
from ..air.air import Air
from ..forecast.stale import mark, mark_node, remark_everything, touch
from ..household.larder import Larder, household, live

# what these hold changes no forecast of any lot
NO_FORECAST = (
    "job", "person", "saved_view", "stocktake", "stocktake_line", "parcel", "parcel_line",
)  # fmt: skip


@dataclass(frozen=True)
class Done:
    """One act, newest first in lists. ``undoable``: still within reach and not undone."""

    act_id: str
    at_s: int
    who: str
    kind: str
    summary: str
    undone: bool
    undoable: bool
    is_undo: bool


def recent(larder: Larder, limit: int = 40) -> list[Done]:
    """The latest acts, newest first."""
    with larder.store.read() as session:
        people = {p.id: p.name for p in session.exec(select(Person))}
        rows = session.exec(
            select(Act).order_by(col(Act.at_s).desc(), text("act.rowid DESC")).limit(limit)
        ).all()
        now_s = larder.now_s()
        out = []
        for row in rows:
            undone = is_undone(session, row.id)
            reach = (
                now_s - row.at_s < UNDO_DAYS * DAY_S and row.schema_rev == larder.store.schema_rev
            )
            out.append(
                Done(
                    row.id, row.at_s, people.get(row.person_id, ""), row.kind, row.summary, undone,
                    reach and not undone, row.undoes_act_id is not None,
                )
            )  # fmt: skip
        return out


def undo(larder: Larder, ref: ActRef, act_id: str) -> dict[str, object]:
    """Take an act back; taking back an undo does the act again.

    Raises NotFound, and Conflict when it is out of reach, already undone, or something changed since.
    """
    with act(larder.store, larder.clock, ref, "undo") as a:
        if a.replayed:
            return a.result
        target = a.session.get(Act, act_id)
        if target is None:
            raise NotFound("There is no such act in this file")
        if a.now_s - target.at_s > UNDO_DAYS * DAY_S:
            raise Conflict(f"Only acts of the last {UNDO_DAYS} days can be taken back")
        if target.schema_rev != larder.store.schema_rev:
            raise Conflict("That act was made by an older version and can only be read")
        if is_undone(a.session, act_id):
            raise Conflict("That act has already been taken back")
        a.undoes = act_id
        _refuse_hiding(a, target)
        rows = restore_rows(a, target)
        undo_readings(a, target)
        for name, row in rows:
            if isinstance(row, ImportBatch):
                move = take_back_batch if row.deleted_s is not None else bring_back_batch
                move(a.session, a.now_s, row)
            _after(a, name, row)
        _sweep(a.session, larder)
        a.about(*json.loads(target.subjects))
        a.result = {"undone": act_id}
        word = "Did again" if target.undoes_act_id else "Took back"
        inner = target.summary.removeprefix("Took back: ").removeprefix("Did again: ")
        a.summary = f"{word}: {inner}"
        return a.result


def _refuse_hiding(a: Recorder, target: Act) -> None:
    """Raises Conflict when readings that came since would be left without a place to be read in."""
    made = a.session.exec(
        select(Change).where(
            Change.act_id == target.id, col(Change.before).is_(None),
            col(Change.table_name).in_(("node", "device")),
        )
    ).all()  # fmt: skip
    for change in made:
        row = json.loads(change.after)
        if change.table_name == "device":
            where, values = "d.series_id = ?", (row["series_id"],)
        else:
            where, values = "d.node_id = ?", (row["id"],)
        count = a.session.connection().exec_driver_sql(
            "SELECT count(*) FROM deployment d JOIN reading r ON r.series_id = d.series_id AND "
            "r.at_s >= d.from_s AND r.at_s < coalesce(d.to_s, 9e18) "
            f"WHERE d.deleted_s IS NULL AND {where}", values,
        ).scalar()  # fmt: skip
        if count:
            raise Conflict(
                f"{row['name']} has {count} readings since: take those back first, or take "
                f"{'away its right to send' if change.table_name == 'device' else 'it out of use'}"
            )


def _after(a: Recorder, table: str, row: object) -> None:
    """Mark what the restored row touches, as any act on it would."""
    session = a.session
    lot_id = getattr(row, "lot_id", None)
    if table in ("stay", "node", "household", "own_kind", "crop_change", "deployment"):
        if isinstance(row, Stay) and row.lot_id is not None:
            # from the start: the first stay of a lot reaches back to it, whichever that is now
            parts = session.exec(select(Part.id).where(Part.lot_id == row.lot_id)).all()
            mark(session, [p for p in parts if p is not None], 0)
        else:
            remark_everything(session)
    elif isinstance(row, NodeEvent):
        air = Air(session, household(session), a.now_s)
        mark_node(session, air, [row.node_id], row.at_s)
    elif table in ("part", "cohort", "variety", "moisture_obs"):
        mark(session, _parts_of(session, row), 0)
    elif isinstance(row, Lot):
        touch(session, [row.id or 0])
    elif isinstance(row, TrialCount):
        trial = session.get(Trial, row.trial_id)
        touch(session, [trial.lot_id] if trial else None)
    elif isinstance(lot_id, int) and table != "pick":
        touch(session, [lot_id])
    elif table not in NO_FORECAST:
        touch(session)  # what is wanted decides which lots deserve a test, of whatever kind


def _parts_of(session: Session, row: object) -> list[int]:
    """Parts whose ageing hangs on a row: itself, those of its cohort, variety or lot."""
    query = select(Part.id)
    if isinstance(row, Part):
        query = query.where(Part.id == row.id)
    elif isinstance(row, Cohort):
        query = query.where(Part.cohort_id == row.id)
    elif isinstance(row, Variety):
        query = query.join(Cohort, col(Part.cohort_id) == Cohort.id).where(
            Cohort.variety_id == row.id
        )
    else:
        query = query.where(Part.lot_id == getattr(row, "lot_id", 0))
    return [p for p in session.exec(query) if p is not None]


def _sweep(session: Session, larder: Larder) -> None:
    """The checks any write makes: nothing live may stand in something that is gone or in itself."""
    air = Air(session, household(session), larder.now_s())
    nodes = {n.id: n for n in session.exec(select(Node))}
    lots = {lot.id: lot for lot in session.exec(select(Lot))}
    for stay in session.exec(select(Stay)):
        if not live(stay) or stay.to_s is not None:
            continue
        parent = nodes[stay.parent_node_id]
        subject = lots.get(stay.lot_id) if stay.lot_id else nodes.get(stay.node_id)
        if subject is not None and live(subject) and not live(parent):
            raise Conflict(
                f"{parent.name} would be gone while something stands in it: move it first"
            )
    if (node := air.circle()) is not None:
        raise Conflict(f"{nodes[node].name} would stand inside itself")
