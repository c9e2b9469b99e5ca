"""Derived values: keep, mark, rebuild. Ageing by month, the belief of each part, projections.

An act marks the parts it touches (``mark``) in its own transaction; ``bring_up_to_date`` rebuilds from the
last good month. The increment runs the same code from a month's end, so it equals a full rebuild.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
from sqlmodel import Session, delete, select

from ...core.base.units import month_start_s, next_month_s
from ...core.seed import ageing as ag
from ...core.storage import climate as cl
from ...data.store import Store
from ...data.tables import (
    DAir,
    DEmergence,
    DGlance,
    Dirty,
    DKin,
    DLeg,
    DMonth,
    DSowing,
    DTrack,
    Household,
    Meta,
)
from ...reference import load_reference
from ..air.air import Air, start_moisture
from ..air.buckets import rebuild_buckets
from ..air.standing import AHEAD_S, EPOCH_S, Leg
from ..household.kinds import Kinds, figures, load_kinds
from ..household.larder import Larder
from ..household.lineage import Lineage
from .parts import PartRecord, load_rows
from .stale import remark_everything, unsettle
from .tracks import STATE_FIELDS, keep_tracks

MODEL_VERSION = "10"  # raise when core constants or the meaning of a derived column change


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
        _show_hidden_readings(session)
        for table in (DMonth, DTrack, DLeg, DAir, DGlance, DKin, DEmergence, DSowing, Dirty):
            session.exec(delete(table))
        unsettle(session)
        rebuild_buckets(session)
        # also what began or ended this month: it is reached by no month's end, only by its mark
        remark_everything(session)
        session.add(row or Meta(key="model_rev", value=model_rev()))
        if row is not None:
            row.value = model_rev()


def _show_hidden_readings(session: Session) -> None:
    """Earlier releases took the filing of all later readings away when a container's first one was
    undone: what such readings are filed under stands again."""
    run = session.connection().exec_driver_sql
    lost = (
        "SELECT series_id FROM reading WHERE series_id NOT IN (SELECT series_id FROM device) "
        "INTERSECT SELECT series_id FROM deployment WHERE deleted_s IS NOT NULL AND from_s = 0"
    )
    run(f"UPDATE series SET deleted_s = NULL WHERE id IN ({lost})")
    run(
        "UPDATE deployment SET deleted_s = NULL WHERE deleted_s IS NOT NULL AND from_s = 0 "
        f"AND series_id IN ({lost})"
    )


def pick(state: ag.AgeState, index: np.ndarray) -> ag.AgeState:
    """A copy of some rows of a state."""
    return ag.AgeState(*(getattr(state, n)[index] for n in STATE_FIELDS))


def _put(state: ag.AgeState, index: np.ndarray, new: ag.AgeState) -> None:
    for name in STATE_FIELDS:
        getattr(state, name)[index] = getattr(new, name)


def initial_states(rows: Sequence[PartRecord]) -> ag.AgeState:
    """States of parts when their records start: moisture of their source, no ageing."""
    source = [start_moisture(row.cohort.source) for row in rows]
    own = [row.root.start_erh25 for row in rows]
    erh25 = [m[0] if known is None else known for m, known in zip(source, own, strict=True)]
    a = np.array([row.root.start_a_probit or 0.0 for row in rows])
    state = ag.fresh_state(np.array(erh25), np.array([sd for _, sd in source]), a)
    # what aged in another household came with its own doubt
    doubt = np.array([row.root.start_sd_log10_a or 0.0 for row in rows])
    return replace(state, var_closed=(a * doubt) ** 2)


def states_at(rows: Sequence[PartRecord], kept: Mapping[int, Sequence[float]]) -> ag.AgeState:
    """States of parts as they were kept, by part id in the order of STATE_FIELDS; the others as they
    began."""
    state = initial_states(rows)
    columns = {name: getattr(state, name).copy() for name in STATE_FIELDS}
    for i, row in enumerate(rows):
        if row.part_id in kept:
            for name, value in zip(STATE_FIELDS, kept[row.part_id], strict=True):
                columns[name][i] = value
    return ag.AgeState(**columns)


@dataclass
class Ledger:
    """What is written down on the way: rows with their states at a month's end, and what each row
    aged in a month in a node (probits)."""

    months: list[tuple[list[int], int, ag.AgeState]] = field(default_factory=list)
    legs: list[tuple[list[int], int, int, np.ndarray]] = field(default_factory=list)


class _Passage(NamedTuple):
    """A leg, or what of it lies in a span; ``left``: the node that was left for it within the span."""

    leg: Leg
    left: int | None


def _passages(row: PartRecord, start_s: float, end_s: float) -> list[_Passage]:
    out, before = [], None
    for leg in row.legs:
        if leg.start_s < end_s and leg.end_s > start_s:
            new = leg.start_s >= start_s
            span = replace(
                leg,
                start_s=max(leg.start_s, start_s),
                end_s=min(leg.end_s, end_s),
                reset=leg.reset if new else None,
            )
            moved = new and before is not None and before.node != leg.node
            out.append(_Passage(span, before.node if moved and before else None))
        before = leg
    return out


def _begin(part: ag.AgeState, j: int, passage: _Passage, air: Air) -> None:
    """Row j of a state as it enters a leg: found to be so dry, or with the doubt it had where it was."""
    leg = passage.leg
    if leg.reset is not None:
        found_to_be(part, j, leg.reset)
    elif passage.left is not None:
        leave(part, j, air.past(passage.left), leg.start_s)


def found_to_be(state: ag.AgeState, j: int, dryness: tuple[float, float]) -> None:
    """Row j of a state is found to be so dry (erh25 and its sd): how it got there no longer matters."""
    state.erh25[j], state.start_sd[j] = dryness
    state.remain[j], state.wall_erh[j] = 1.0, 0.0


def leave(state: ag.AgeState, j: int, air: cl.Climate, at_s: float) -> None:
    """Row j of a state takes the doubt of its dryness along from an air and walls it leaves."""
    at = min(int(np.searchsorted(air.panels.end_s, at_s)), len(air.sd_erh) - 1)
    state.start_sd[j] = ag.doubt_of_moisture(
        float(state.start_sd[j]),
        float(state.remain[j]),
        float(np.hypot(air.sd_erh[at] * air.times[at], figures().places.dial_bias_erh)),
        float(state.wall_erh[j]),
    )
    state.remain[j], state.wall_erh[j] = 1.0, 0.0
    # other walls are wrong in ways of their own
    state.var_closed[j] += state.wall_a[j] ** 2
    state.wall_a[j] = 0.0


def advance(
    air: Air,
    kinds: Kinds,
    rows: list[PartRecord],
    state: ag.AgeState,
    starts_s: Sequence[float],
    end_s: float,
    ledger: Ledger | None = None,
) -> ag.AgeState:
    """Carry all parts from ``starts_s`` [R] to ``end_s`` through the past climates of their routes.

    Parts that share node and span are carried together. ``ledger`` gathers what is kept
    by month.
    """
    state = pick(state, np.arange(len(rows)))
    pending = [_passages(row, at, end_s) for row, at in zip(rows, starts_s, strict=True)]
    class_ix = np.array([row.kind.class_ix for row in rows], dtype=np.intp)
    step = 0
    while True:
        groups: dict[tuple[int, float, float], list[int]] = {}
        for i, segments in enumerate(pending):
            if step < len(segments):
                leg = segments[step].leg
                groups.setdefault((leg.node, leg.start_s, leg.end_s), []).append(i)
        if not groups:
            return state
        jobs: list[CarryJob] = []
        notes: list[tuple[ag.AgeState, list[int], tuple[int, float, float], list[int]]] = []
        for (node, a, b), members in groups.items():
            index = np.array(members)
            part = pick(state, index)
            for j, i in enumerate(members):
                _begin(part, j, pending[i][step], air)
            tau, doubt = walls_of([pending[i][step].leg for i in members])
            past = cl.clip(air.past(node), a, b)
            borders = _month_ends(a, b) if ledger is not None else []
            stop = np.isin(past.panels.end_s, borders)
            jobs.append((part, kinds.classes, class_ix[index], past, tau, stop, doubt))
            notes.append((part, members, (node, a, b), borders))
        for carried, note in zip(_carry_all(jobs), notes, strict=True):
            if ledger is not None:
                _note(ledger, carried, *note)
            _put(state, np.array(note[1]), carried.state)
        step += 1


CarryJob = tuple[
    ag.AgeState,
    ag.SigmaClasses,
    np.ndarray,
    cl.Climate,
    np.ndarray,
    "np.ndarray | None",
    np.ndarray,
]


def walls_of(legs: Sequence[Leg]) -> tuple[np.ndarray, np.ndarray]:
    """Time constants of the walls of some legs, days, and their doubt (sd of ln tau)."""
    return np.array([leg.tau_days for leg in legs]), np.array([leg.wall_sd for leg in legs])


def _carry(job: CarryJob) -> ag.Carried:
    state, classes, class_ix, past, tau, stop, doubt = job
    return ag.carry(state, classes, class_ix, past, tau, stop, wall_sd=doubt)


def _carry_all(jobs: list[CarryJob]) -> list[ag.Carried]:
    work = sum(len(job[2]) * len(job[3].panels.hours) for job in jobs)
    if work < 2_000_000 or len(jobs) < 2:
        return [_carry(job) for job in jobs]
    with ThreadPoolExecutor(os.cpu_count()) as pool:  # the loops let go of the interpreter
        return list(pool.map(_carry, jobs))


def _month_ends(a: float, b: float) -> list[int]:
    out, at = [], next_month_s(a)
    while at <= b:
        out.append(at)
        at = next_month_s(at)
    return out


def _note(
    ledger: Ledger,
    carried: ag.Carried,
    before: ag.AgeState,
    members: list[int],
    leg: tuple[int, float, float],
    borders: list[int],
) -> None:
    node, a, b = leg
    last, month = before.a_probit, month_start_s(a)
    for border, at in zip(borders, carried.stops, strict=True):
        ledger.months.append((members, month, at))
        ledger.legs.append((members, month, node, at.a_probit - last))
        last, month = at.a_probit, border
    if not borders or borders[-1] < b:  # a month under way
        ledger.legs.append((members, month, node, carried.state.a_probit - last))


def _rebuild(session: Session, air: Air, kinds: Kinds, rows: list[PartRecord]) -> None:
    """Bring d_month and d_leg of some parts up to the start of the current month."""
    now_month = month_start_s(air.now_s)
    listed = ", ".join(str(row.part_id) for row in rows) or "0"
    reached = {
        int(found[0]): (int(found[1]), found[2:])
        for found in air.query(
            f"SELECT part_id, month_s, {', '.join(STATE_FIELDS)} FROM d_month WHERE (part_id, month_s) "
            f"IN (SELECT part_id, max(month_s) FROM d_month WHERE part_id IN ({listed}) GROUP BY part_id)"
        )
    }
    states = states_at(rows, {part: state for part, (_, state) in reached.items()})
    starts = [
        next_month_s(reached[row.part_id][0])
        if row.part_id in reached
        else month_start_s(row.start_s)
        for row in rows
    ]
    behind = [i for i, start in enumerate(starts) if start < now_month]
    if behind:
        ledger = Ledger()
        index = np.array(behind)
        advance(
            air,
            kinds,
            [rows[i] for i in behind],
            pick(states, index),
            [starts[i] for i in behind],
            now_month,
            ledger,
        )
        ids = [rows[i].part_id for i in behind]
        kept = [
            row
            for members, month, at in ledger.months
            for row in zip(
                [ids[i] for i in members],
                [month] * len(members),
                *(getattr(at, name).tolist() for name in STATE_FIELDS),
                strict=True,
            )
        ]
        aged: dict[tuple[int, int, int], float] = {}
        for members, month, node, gains in ledger.legs:
            for i, gain in zip(members, gains.tolist(), strict=True):
                key = (ids[i], month, node)
                aged[key] = aged.get(key, 0.0) + gain
        _insert(session, "d_month", ["part_id", "month_s", *STATE_FIELDS], sorted(kept))
        legs = sorted((*key, gain) for key, gain in aged.items())
        _insert(session, "d_leg", ["part_id", "month_s", "node_id", "a_probit"], legs)
    _insert(session, "d_air", ["node_id", "month_s", "erh25"], air.air_at_months())


def _insert(
    session: Session, table: str, names: list[str], rows: Sequence[tuple[object, ...]]
) -> None:
    # hundreds of thousands of rows in a full rebuild: straight to the driver
    raw = session.connection().connection.cursor()
    marks = ", ".join("?" * len(names))
    raw.executemany(f"INSERT OR REPLACE INTO {table} ({', '.join(names)}) VALUES ({marks})", rows)
    raw.close()


def _behind(session: Session, now_month: int, only: str) -> dict[int, tuple[float, int | None]]:
    """Parts to rebuild: the time from which their climate is needed, and where they are marked from."""
    last_whole = month_start_s(now_month - 1)
    rows = session.connection().exec_driver_sql(
        "SELECT p.id, p.from_s, d.from_s, r.reached FROM part p "
        "JOIN (SELECT id, (SELECT max(month_s) FROM d_month m WHERE m.part_id = part.id) AS reached "
        "FROM part) r ON r.id = p.id LEFT JOIN dirty d ON d.part_id = p.id "
        f"WHERE p.deleted_s IS NULL AND (d.from_s IS NOT NULL OR (p.from_s < {now_month} "
        f"AND (p.to_s IS NULL OR p.to_s > {now_month}) AND coalesce(r.reached, 0) < {last_whole}) "
        # the days of its last month, once that is over
        f"OR (p.to_s <= {now_month} AND NOT EXISTS (SELECT 1 FROM d_leg l WHERE l.part_id = p.id "
        "AND l.month_s = CAST(strftime('%s', p.to_s - 1, 'unixepoch', 'start of month') AS INTEGER))))"
        + only
    )
    out: dict[int, tuple[float, int | None]] = {}
    lineage = Lineage(session)
    for part_id, from_s, marked, reached in rows:
        start = float(from_s) if reached is None else float(next_month_s(reached))
        if reached is None and part_id in lineage.parts:
            root = lineage.parts.get(lineage.root(part_id))
            start = float(root.from_s) if root else start
        since = None if marked is None else month_start_s(max(marked, 0))
        start = start if since is None else min(start, float(since))
        out[int(part_id)] = (max(start, float(EPOCH_S)), since)
    return out


def _unseen(session: Session, now_s: int) -> str:
    """How many readings lie ahead of the clock, and so are not seen: none, unless it was set back."""
    # a cross join is gone through in this order: a look at the end of each series, never all readings
    count = session.connection().exec_driver_sql(
        "SELECT count(*) FROM series CROSS JOIN reading ON series_id = series.id AND at_s > ?",
        (now_s + AHEAD_S,),
    )
    return str(count.scalar())


def _follow_clock(larder: Larder) -> None:
    """Months that were bridged to readings the clock has since gone back behind, or that it now
    reaches again, are made anew."""
    now_s = larder.now_s()
    kept = "SELECT value FROM meta WHERE key = 'readings_ahead'"
    with larder.store.read() as session:
        known = session.connection().exec_driver_sql(kept).scalar() or "0"
        if _unseen(session, now_s) == known:
            return
    with larder.store.keep() as session:
        run = session.connection().exec_driver_sql
        found = _unseen(session, now_s)
        if found == (run(kept).scalar() or "0"):
            return
        run(
            "INSERT INTO meta (key, value) VALUES ('readings_ahead', ?) "
            "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
            (found,),
        )
        remark_everything(session)


def bring_up(larder: Larder, lot_ids: Iterable[int] | None) -> None:
    """Rebuild what is marked or not yet reached, of some lots (None: all). Raises CannotWrite."""
    _follow_clock(larder)
    now_s = larder.now_s()
    now_month = month_start_s(now_s)
    only = "" if lot_ids is None else f" AND p.lot_id IN ({', '.join(map(str, lot_ids)) or '0'})"
    with larder.store.read() as session:
        if session.get(Household, 1) is None:
            return
        found = _behind(session, now_month, only)
    if not found:
        return
    mine = f" AND p.id IN ({', '.join(map(str, found))})"
    with larder.store.keep() as session:
        home = session.get(Household, 1)
        assert home is not None, "read a moment ago, never removed"
        # asked again inside the write: another thread may have rebuilt meanwhile
        behind = _behind(session, now_month, mine)
        if not behind:
            return
        listed = ", ".join(map(str, behind))
        run = session.connection().exec_driver_sql
        marks = [(part_id, since) for part_id, (_, since) in behind.items() if since is not None]
        for table in ("d_month", "d_leg") if marks else ():
            run(f"DELETE FROM {table} WHERE part_id = ? AND month_s >= ?", marks)
        run(f"DELETE FROM dirty WHERE part_id IN ({listed})")
        last_test = run("SELECT max(sown_s) FROM trial WHERE deleted_s IS NULL").scalar() or 0
        # the past that tests speak of, or the doubt of a record, is another
        if any(since < max(now_month, last_test) for _, since in marks):
            unsettle(session)
        lots = [int(r[0]) for r in run(f"SELECT lot_id FROM part WHERE id IN ({listed})")]
        air = Air(session, home, now_s, min(start for start, _ in behind.values()))
        air.only_lots(Lineage(session).lots_behind(lots))
        kinds = load_kinds(session)
        # no others of these lots: the window need not reach back to what they would need
        rows = [r for r in load_rows(session, air, kinds, lots) if r.part_id in behind]
        if any(r.start_s >= now_month and behind[r.part_id][1] is not None for r in rows):
            unsettle(session)  # of seed that has no past yet only where it lies is known
        _rebuild(session, air, kinds, rows)
        keep_tracks(session, behind)
