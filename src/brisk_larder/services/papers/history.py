"""History: what was done, by whom, and taking an act back (or doing it again)."""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlalchemy import text
from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, NotFound
from ...core.base.units import DAY_S
from ...data.acts import UNDO_DAYS, Recorder, is_undone, restore_rows
from ...data.tables import Act, Change, ImportBatch, Lot, Node, Person, Stay
from ..acts.acting import Doing, act
from ..acts.readings_past import bring_back_batch, take_back_batch, undo_readings
from ..air.air import Air
from ..air.look import looking_at
from ..household.larder import Larder, household, is_live


@dataclass(frozen=True)
class PastAct:
    """One act, newest first in lists. ``undoable``: still within reach and not undone."""

    act_id: str
    at_s: int
    who: str
    kind: str
    summary: str
    undone: bool
    undoable: bool
    is_undo: bool


def recent(larder: Larder, limit: int = 40) -> list[PastAct]:
    """The latest acts, newest first."""
    with looking_at(larder) as v:
        people = {p.id: p.name for p in v.session.exec(select(Person))}
        rows = v.session.exec(
            select(Act).order_by(col(Act.at_s).desc(), text("act.rowid DESC")).limit(limit)
        ).all()
        now_s = larder.now_s()
        out = []
        for row in rows:
            undone = is_undone(v.session, row.id)
            reach = (
                now_s - row.at_s < UNDO_DAYS * DAY_S and row.schema_rev == larder.store.schema_rev
            )
            out.append(
                PastAct(
                    act_id=row.id,
                    at_s=row.at_s,
                    who=people.get(row.person_id, ""),
                    kind=row.kind,
                    summary=row.summary,
                    undone=undone,
                    undoable=reach and not undone,
                    is_undo=row.undoes_act_id is not None,
                )
            )
        return out


@dataclass(frozen=True)
class Undone:
    """The act that was taken back."""

    undone: str


@act("undo")
def undo(a: Doing, act_id: str) -> Undone:
    """Take an act back; taking back an undo does the act again.

    Raises NotFound, and Conflict when it is out of reach, already undone, or something changed since.
    """
    target = a.session.get(Act, act_id)
    if target is None:
        raise NotFound("There is no such act in this file")
    if a.now_s - target.at_s > UNDO_DAYS * DAY_S:
        raise Conflict(f"Only acts of the last {UNDO_DAYS} days can be taken back")
    if target.schema_rev != a.of.store.schema_rev:
        raise Conflict("That act was made by an older version and can only be read")
    if is_undone(a.session, act_id):
        raise Conflict("That act has already been taken back")
    a.undoes = act_id
    _refuse_hiding(a, target)
    rows = restore_rows(a, target)
    undo_readings(a, target)
    for _, row in rows:
        if isinstance(row, ImportBatch):
            move = take_back_batch if row.deleted_s is not None else bring_back_batch
            move(a.session, a.now_s, row)
    _sweep(a.session, a.of)
    a.about(*json.loads(target.subjects))
    word = "Did again" if target.undoes_act_id else "Took back"
    inner = target.summary.removeprefix("Took back: ").removeprefix("Did again: ")
    a.summary = f"{word}: {inner}"
    return Undone(undone=act_id)


def _refuse_hiding(a: Recorder, target: Act) -> None:
    """Raises Conflict when readings that came since would be left without a place to be read in."""
    made = a.session.exec(
        select(Change).where(
            Change.act_id == target.id,
            col(Change.before).is_(None),
            col(Change.table_name).in_(("node", "device")),
        )
    ).all()
    for change in made:
        row = json.loads(change.after)
        if change.table_name == "device":
            where, values = "d.series_id = ?", (row["series_id"],)
        else:
            where, values = "d.node_id = ?", (row["id"],)
        count = (
            a.session.connection()
            .exec_driver_sql(
                "SELECT count(*) FROM deployment d JOIN reading r ON r.series_id = d.series_id AND "
                "r.at_s >= d.from_s AND r.at_s < coalesce(d.to_s, 9e18) "
                f"WHERE d.deleted_s IS NULL AND {where}",
                values,
            )
            .scalar()
        )
        if count:
            raise Conflict(
                f"{row['name']} has {count} readings since: take those back first, or take "
                f"{'away its right to send' if change.table_name == 'device' else 'it out of use'}"
            )


def _sweep(session: Session, larder: Larder) -> None:
    """The checks any write makes: nothing live may stand in something that is gone or in itself."""
    air = Air(session, household(session), larder.now_s())
    nodes = {n.id: n for n in session.exec(select(Node))}
    lots = {lot.id: lot for lot in session.exec(select(Lot))}
    for stay in session.exec(select(Stay)):
        if not is_live(stay) or stay.to_s is not None:
            continue
        parent = nodes[stay.parent_node_id]
        subject = lots.get(stay.lot_id) if stay.lot_id else nodes.get(stay.node_id)
        if subject is not None and is_live(subject) and not is_live(parent):
            raise Conflict(
                f"{parent.name} would be gone while something stands in it: move it first"
            )
    if (node := air.circle()) is not None:
        raise Conflict(f"{nodes[node].name} would stand inside itself")
