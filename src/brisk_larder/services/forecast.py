"""Derived values: keep, mark, rebuild. Ageing by month, the belief of each part, projections.

An act marks the parts it touches (``mark``) in its own transaction; ``fresh`` rebuilds from the
last good month. The increment runs the same code from a month's end, so it equals a full rebuild.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy import text
from sqlmodel import Session, col, delete, select

from ..core import ageing as ag
from ..core import climate as cl
from ..core.moisture import F
from ..core.units import month_start_s, next_month_s
from ..data.store import Store
from ..data.tables import (
    Cohort,
    DAir,
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
from .buckets import rebuild_buckets
from .crops import Kind, Kinds, load_kinds
from .larder import Larder
from .world import EPOCH_S, Leg, World, start_moisture

STATE_FIELDS = (
    "erh25", "start_sd", "remain", "a_probit", "var_closed", "gap_open", "gap_key",
)  # fmt: skip
MODEL_VERSION = "2"  # raise when core constants or the meaning of a derived column change


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
        for table in (DMonth, DLeg, DAir, DGlance, Dirty):
            session.exec(delete(table))
        rebuild_buckets(session)
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
    session.exec(delete(DAir))
    touch(session)


def mark_node(session: Session, world: World, node_ids: Iterable[int], from_s: float) -> None:
    """Mark what ever lay in some nodes, or in what ever stood in them, from a time on."""
    below = {inner for node in node_ids for inner in world.below(node)}
    listed = ", ".join(map(str, sorted(below))) or "0"
    parts = world.query(
        "SELECT DISTINCT part.id FROM stay JOIN part ON part.lot_id = stay.lot_id "
        f"WHERE stay.deleted_s IS NULL AND stay.parent_node_id IN ({listed})"
    )
    session.connection().execute(
        text(f"DELETE FROM d_air WHERE month_s >= :since AND node_id IN ({listed})"),
        {"since": month_start_s(max(from_s, 0))},
    )
    mark(session, [int(row[0] or 0) for row in parts], from_s)


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


Snapshots = dict[tuple[int, int], ag.AgeState]  # (row, month): its state at the month's end
LegParts = dict[tuple[int, int, int], float]  # (row, month, node): ageing in probits


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
    starts_s: Sequence[float],
    end_s: float,
    months: Snapshots | None = None,
    legs_out: LegParts | None = None,
) -> ag.AgeState:
    """Carry all parts from ``starts_s`` [R] to ``end_s`` through the past climates of their routes.

    Parts that share node and span are carried together. ``months`` gathers the states at month
    ends, ``legs_out`` the ageing by (row, month, node).
    """
    state = pick(state, np.arange(len(rows)))
    pending = [_segments(row, at, end_s) for row, at in zip(rows, starts_s, strict=True)]
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
        jobs: list[CarryJob] = []
        notes: list[tuple[ag.AgeState, list[int], tuple[int, float, float], list[int]]] = []
        for (node, a, b), members in groups.items():
            index = np.array(members)
            part = pick(state, index)
            for j, i in enumerate(members):
                reset = pending[i][step].reset
                if reset is not None:
                    part.erh25[j], part.start_sd[j], part.remain[j] = reset[0], reset[1], 1.0
            tau = np.array([pending[i][step].tau_days for i in members])
            past = cl.clip(world.past(node), a, b)
            borders = [m for m in _month_ends(a, b) if months is not None or legs_out is not None]
            stop = np.isin(past.panels.end_s, borders)
            jobs.append((part, kinds.classes, class_ix[index], past, tau, stop))
            notes.append((part, members, (node, a, b), borders))
        for carried, note in zip(_carry_all(jobs), notes, strict=True):
            _note(carried, *note, months, legs_out)
            _put(state, np.array(note[1]), carried.state)
        step += 1


CarryJob = tuple[
    ag.AgeState, ag.SigmaClasses, np.ndarray, cl.Climate, np.ndarray, "np.ndarray | None"
]


def _carry_all(jobs: list[CarryJob]) -> list[ag.Carried]:
    work = sum(len(job[2]) * len(job[3].panels.hours) for job in jobs)
    if work < 2_000_000 or len(jobs) < 2:
        return [ag.carry(*job) for job in jobs]
    with ThreadPoolExecutor(os.cpu_count()) as pool:  # the loops let go of the interpreter
        return list(pool.map(lambda job: ag.carry(*job), jobs))


def _month_ends(a: float, b: float) -> list[int]:
    out, at = [], next_month_s(a)
    while at <= b:
        out.append(at)
        at = next_month_s(at)
    return out


def _note(
    carried: ag.Carried, before: ag.AgeState, members: list[int], leg: tuple[int, float, float],
    borders: list[int], months: Snapshots | None, legs_out: LegParts | None,
) -> None:  # fmt: skip
    """Write down states at month ends, and what was aged in each month in this node."""
    node, a, b = leg
    pieces = [*zip(borders, carried.stops, strict=True)]
    if not borders or borders[-1] < b:
        pieces.append((0, carried.state))  # a month under way
    last, month = before.a_probit, month_start_s(a)
    for border, at in pieces:
        for j, i in enumerate(members):
            if legs_out is not None:
                key = (i, month, node)
                legs_out[key] = legs_out.get(key, 0.0) + float(at.a_probit[j] - last[j])
            if months is not None and border:
                months[i, month] = pick(at, np.array([j]))
        last, month = at.a_probit, border


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
    behind = [i for i, start in enumerate(starts) if start < now_month]
    if behind:
        months: Snapshots = {}
        legs: LegParts = {}
        index = np.array(behind)
        advance(
            world, kinds, [rows[i] for i in behind], pick(stack(states), index),
            [starts[i] for i in behind], now_month, months, legs,
        )  # fmt: skip
        names = ["part_id", "month_s", *STATE_FIELDS]
        table = [
            (
                rows[behind[i]].part_id,
                month,
                *(getattr(at, name)[0].item() for name in STATE_FIELDS),
            )
            for (i, month), at in months.items()
        ]
        _insert(session, "d_month", names, sorted(table))
        aged = [(rows[behind[i]].part_id, month, node, a) for (i, month, node), a in legs.items()]
        _insert(session, "d_leg", ["part_id", "month_s", "node_id", "a_probit"], sorted(aged))
    _insert(session, "d_air", ["node_id", "month_s", "erh25"], world.air_at_months())


def _insert(
    session: Session, table: str, names: list[str], rows: Sequence[tuple[object, ...]]
) -> None:
    # hundreds of thousands of rows in a full rebuild: straight to the driver
    raw = session.connection().connection.cursor()
    marks = ", ".join("?" * len(names))
    raw.executemany(f"INSERT OR REPLACE INTO {table} ({', '.join(names)}) VALUES ({marks})", rows)
    raw.close()


def _behind(world_rows: Sequence[tuple[float | None, ...]], now_month: int) -> dict[int, float]:
    """Parts to rebuild, with the time from which their climate is needed."""
    out: dict[int, float] = {}
    for part_id, from_s, to_s, marked, reached in world_rows:
        start = next_month_s(reached) if reached is not None else float(from_s or 0)
        live_on = to_s is None or to_s > now_month
        due = live_on and start < now_month and (from_s or 0) < now_month
        if marked is not None:
            start = min(start, float(month_start_s(max(marked, 0))))
        if marked is not None or due:
            out[int(part_id or 0)] = max(start, float(EPOCH_S))
    return out


def fresh(larder: Larder, lot_ids: Iterable[int] | None = None) -> None:
    """Rebuild what is marked or not yet reached; every reader of derived values calls it first.

    ``lot_ids``: only these lots (None: all).
    """
    now_s = larder.now_s()
    now_month = month_start_s(now_s)
    only = "" if lot_ids is None else f" AND p.lot_id IN ({', '.join(map(str, lot_ids)) or '0'})"
    asked = (
        "SELECT p.id, p.from_s, p.to_s, d.from_s, "
        "(SELECT max(m.month_s) FROM d_month m WHERE m.part_id = p.id) "
        "FROM part p LEFT JOIN dirty d ON d.part_id = p.id WHERE p.deleted_s IS NULL" + only
    )
    with larder.store.read() as session:
        if session.get(Household, 1) is None:
            return
        found = session.connection().exec_driver_sql(asked).fetchall()
    if not _behind([tuple(r) for r in found], now_month):
        return
    with larder.store.write() as session:
        home = session.get(Household, 1)
        assert home is not None, "read a moment ago, never removed"
        # asked again inside the write: another thread may have rebuilt meanwhile
        again = [tuple(r) for r in session.connection().exec_driver_sql(asked).fetchall()]
        behind = _behind(again, now_month)
        if not behind:
            return
        listed = ", ".join(map(str, behind))
        run = session.connection().exec_driver_sql
        marks = [(int(p), month_start_s(max(m, 0))) for p, _, _, m, _ in again if m is not None]
        for table in ("d_month", "d_leg"):
            for part_id, since in marks:
                run(f"DELETE FROM {table} WHERE part_id = ? AND month_s >= ?", (part_id, since))
        run(f"DELETE FROM dirty WHERE part_id IN ({listed})")
        lots = [int(r[0]) for r in run(f"SELECT lot_id FROM part WHERE id IN ({listed})")]
        world = World(session, home, now_s, min(behind.values()))
        world.only_lots(lots)
        kinds = load_kinds(session)
        _rebuild(session, world, kinds, load_rows(session, world, kinds, lots))
