"""Derived values: keep, mark, rebuild. Ageing by month, the belief of each part, projections.

An act marks the parts it touches (``mark``) in its own transaction; ``fresh`` rebuilds from the
last good month. The increment runs the same code from a month's end, so it equals a full rebuild.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy import func, text
from sqlmodel import Session, col, delete, select

from ..core import ageing as ag
from ..core import climate as cl
from ..core.moisture import F
from ..core.units import month_start_s, next_month_s
from ..data.store import Store
from ..data.tables import (
    Cohort,
    DGlance,
    Dirty,
    DLeg,
    DMonth,
    Household,
    Meta,
    Part,
    Variety,
)
from ..reference import load_reference
from .crops import Kind, Kinds, load_kinds
from .larder import Larder
from .world import EPOCH_S, Leg, World, start_moisture

STATE_FIELDS = (
    "erh25", "start_sd", "remain", "a_probit", "var_closed", "gap_open", "gap_key",
)  # fmt: skip
MODEL_VERSION = "1"  # raise when core constants or the meaning of a derived column change


def model_rev() -> str:
    """Hash of the reference files and the model's version: another value drops all caches."""
    seed = f"{MODEL_VERSION}:{load_reference().digest}"
    return hashlib.sha256(seed.encode()).hexdigest()[:16]


def ensure_model_rev(store: Store) -> None:
    """Drop all derived values when they were made by another model."""
    with store.write() as session:
        row = session.exec(select(Meta).where(Meta.key == "model_rev")).first()
        if row is not None and row.value == model_rev():
            return
        for table in (DMonth, DLeg, DGlance, Dirty):
            session.exec(delete(table))
        session.add(row or Meta(key="model_rev", value=model_rev()))
        if row is not None:
            row.value = model_rev()


def mark(session: Session, part_ids: Iterable[int], from_s: float) -> None:
    """Mark parts as to be rebuilt from a time on, and drop what lists show of their lots."""
    ids = list(part_ids)
    if not ids:
        return
    session.connection().execute(
        text(
            "INSERT INTO dirty (part_id, from_s) VALUES (:part, :since) "
            "ON CONFLICT (part_id) DO UPDATE SET from_s = min(from_s, excluded.from_s)"
        ),
        [{"part": part, "since": int(from_s)} for part in ids],
    )
    lots = session.exec(select(Part.lot_id).where(col(Part.id).in_(ids))).all()
    touch(session, lots)


def remark_everything(session: Session) -> None:
    """Mark all parts from their start and drop all glances: the climate or the crops changed."""
    parts = session.exec(select(Part.id)).all()
    mark(session, [p for p in parts if p is not None], 0)
    touch(session)


def touch(session: Session, lot_ids: Iterable[int] | None = None) -> None:
    """Drop what lists show of some lots (None: of all); the next reader makes it again."""
    statement = delete(DGlance)
    if lot_ids is not None:
        statement = statement.where(col(DGlance.lot_id).in_(list(lot_ids)))
    session.exec(statement)


@dataclass(frozen=True)
class Row:
    """One part with what its forecast needs."""

    part: Part
    cohort: Cohort
    variety: Variety
    kind: Kind
    legs: tuple[Leg, ...]

    @property
    def part_id(self) -> int:
        """Id of the part."""
        assert self.part.id is not None, "a part in the file has an id"
        return self.part.id


def load_rows(
    session: Session, world: World, kinds: Kinds, lot_ids: Iterable[int] | None = None
) -> list[Row]:
    """Live parts (of some lots, or of all) with cohort, variety, kind and route."""
    query = (
        select(Part, Cohort, Variety)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(col(Part.deleted_s).is_(None))
        .order_by(col(Part.id))
    )
    if lot_ids is not None:
        query = query.where(col(Part.lot_id).in_(list(lot_ids)))
    out = []
    for part, cohort, variety in session.exec(query):
        start = max(float(part.from_s), float(EPOCH_S))
        legs = tuple(world.legs(part.lot_id, start, part.to_s))
        out.append(Row(part, cohort, variety, kinds.get(variety.crop), legs))
    return out


def stack(states: list[ag.AgeState]) -> ag.AgeState:
    """Single states as one of many rows."""
    return ag.AgeState(*(np.concatenate([getattr(s, n) for s in states]) for n in STATE_FIELDS))


def pick(state: ag.AgeState, index: np.ndarray) -> ag.AgeState:
    """A copy of some rows of a state."""
    return ag.AgeState(*(getattr(state, n)[index] for n in STATE_FIELDS))


def _put(state: ag.AgeState, index: np.ndarray, new: ag.AgeState) -> None:
    for name in STATE_FIELDS:
        getattr(state, name)[index] = getattr(new, name)


def initial_state(row: Row) -> ag.AgeState:
    """State of a part when its record starts: moisture of its source, no ageing."""
    erh25, sd = start_moisture(row.cohort.source)
    return ag.fresh_state(np.array([erh25]), np.array([sd]))


def _segments(row: Row, start_s: float, end_s: float) -> list[Leg]:
    return [
        replace(leg, start_s=max(leg.start_s, start_s), end_s=min(leg.end_s, end_s),
                reset=leg.reset if leg.start_s >= start_s else None)
        for leg in row.legs
        if leg.start_s < end_s and leg.end_s > start_s
    ]  # fmt: skip


def advance(
    world: World,
    kinds: Kinds,
    rows: list[Row],
    state: ag.AgeState,
    start_s: float,
    end_s: float,
    legs_out: dict[tuple[int, int], float] | None = None,
) -> ag.AgeState:
    """Carry all parts from ``start_s`` to ``end_s`` through the past climates of their routes.

    Parts that share node and span are integrated together. ``legs_out`` gathers the ageing by
    (row, node).
    """
    state = pick(state, np.arange(len(rows)))
    pending = [_segments(row, start_s, end_s) for row in rows]
    class_ix = np.array([row.kind.class_ix for row in rows], dtype=np.intp)
    step = 0
    while True:
        groups: dict[tuple[int, float, float], list[int]] = {}
        for i, segments in enumerate(pending):
            if step < len(segments):
                leg = segments[step]
                groups.setdefault((leg.node, leg.start_s, leg.end_s), []).append(i)
        if not groups:
            return state
        for (node, a, b), members in groups.items():
            index = np.array(members)
            part = pick(state, index)
            for j, i in enumerate(members):
                reset = pending[i][step].reset
                if reset is not None:
                    part.erh25[j], part.start_sd[j], part.remain[j] = reset[0], reset[1], 1.0
            tau = np.array([pending[i][step].tau_days for i in members])
            past = cl.clip(world.past(node), a, b)
            end = ag.integrate(part, kinds.classes, class_ix[index], past, tau).state
            if legs_out is not None:
                for j, i in enumerate(members):
                    gain = float(end.a_probit[j] - part.a_probit[j])
                    legs_out[i, node] = legs_out.get((i, node), 0.0) + gain
            _put(state, index, end)
        step += 1


def month_state(row: DMonth) -> ag.AgeState:
    """The state at the end of a cached month."""

    def one(value: float) -> F:
        return np.array([value])

    return ag.AgeState(
        one(row.erh25),
        one(row.start_sd),
        one(row.remain),
        one(row.a_probit),
        one(row.var_closed),
        one(row.gap_open),
        np.array([row.gap_key], dtype=np.int64),
    )


def _rebuild(session: Session, world: World, kinds: Kinds, rows: list[Row]) -> None:
    """Bring d_month and d_leg of some parts up to the start of the current month."""
    now_month = month_start_s(world.now_s)
    starts, states = [], []
    for row in rows:
        last = session.exec(
            select(DMonth)
            .where(DMonth.part_id == row.part_id)
            .order_by(col(DMonth.month_s).desc())
            .limit(1)
        ).first()
        if last is None:
            starts.append(month_start_s(max(row.part.from_s, EPOCH_S)))
            states.append(initial_state(row))
        else:
            starts.append(next_month_s(last.month_s))
            states.append(month_state(last))
    if not rows:
        return
    state = stack(states)
    month = min(starts)
    while month < now_month:
        end = next_month_s(month)
        active = [
            i
            for i, row in enumerate(rows)
            if starts[i] <= month and row.legs and row.legs[-1].end_s > month
        ]
        if active:
            index = np.array(active)
            legs: dict[tuple[int, int], float] = {}
            new = advance(
                world, kinds, [rows[i] for i in active], pick(state, index), month, end, legs
            )
            _put(state, index, new)
            for j, i in enumerate(active):
                session.add(
                    DMonth(
                        part_id=rows[i].part_id,
                        month_s=month,
                        erh25=float(new.erh25[j]),
                        start_sd=float(new.start_sd[j]),
                        remain=float(new.remain[j]),
                        a_probit=float(new.a_probit[j]),
                        var_closed=float(new.var_closed[j]),
                        gap_open=float(new.gap_open[j]),
                        gap_key=int(new.gap_key[j]),
                    )
                )
            session.add_all(
                DLeg(part_id=rows[active[j]].part_id, month_s=month, node_id=node, a_probit=gain)
                for (j, node), gain in legs.items()
            )
        month = end


def fresh(larder: Larder, lot_ids: Iterable[int] | None = None) -> None:
    """Rebuild what is marked or not yet reached; every reader of derived values calls it first.

    ``lot_ids``: only these lots (None: all).
    """
    only = None if lot_ids is None else set(lot_ids)
    now_s = larder.now_s()
    now_month = month_start_s(now_s)
    with larder.store.read() as session:
        home = session.get(Household, 1)
        if home is None:
            return
        dirty = {d.part_id: d.from_s for d in session.exec(select(Dirty))}
        reached = dict(
            session.exec(
                select(DMonth.part_id, func.max(DMonth.month_s)).group_by(col(DMonth.part_id))
            ).all()
        )
        parts = session.exec(select(Part).where(col(Part.deleted_s).is_(None))).all()
        behind = [
            p.lot_id
            for p in parts
            if p.id is not None
            and (only is None or p.lot_id in only)
            and (
                p.id in dirty
                or (
                    (p.to_s is None or p.to_s > now_month)
                    and next_month_s(reached.get(p.id, 0)) < now_month
                    and p.from_s < now_month
                )
            )
        ]
    if not behind:
        return
    with larder.store.write() as session:
        home = session.get(Household, 1)
        assert home is not None, "read a moment ago, never removed"
        again = set(session.exec(select(Part.id).where(col(Part.lot_id).in_(set(behind)))).all())
        for mark_row in session.exec(select(Dirty)).all():
            if mark_row.part_id not in again:
                continue
            since = month_start_s(max(mark_row.from_s, 0))
            for table in (DMonth, DLeg):
                session.exec(
                    delete(table).where(
                        col(table.part_id) == mark_row.part_id, col(table.month_s) >= since
                    )
                )
            session.delete(mark_row)
        session.flush()
        world = World(session, home, now_s)
        kinds = load_kinds(session)
        _rebuild(session, world, kinds, load_rows(session, world, kinds, set(behind)))
