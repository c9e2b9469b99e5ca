"""Best use of the few good places: who gains most from the freezer drawer and the dry tins."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from sqlmodel import col

from ...core.base.errors import InvalidValue
from ...core.base.units import YEAR_S
from ...core.seed import ageing as ag
from ...core.seed import worlds as wo
from ...core.storage.moisture import Floats
from ...core.storage.placement import (
    STAYS,
    Ints,
    best_use,
    counted_seeds,
    good_places,
    unfit,
    worth_of_one,
)
from ...data.queries import key, live
from ...data.tables import Job, Lot, Node
from ..acts.acting import Doing, act
from ..air.air import Air
from ..air.look import Look, looking_at
from ..air.paths import node_path
from ..air.standing import NodeRow
from ..forecast.current import whole_outlook
from ..forecast.elsewhere import Option, Setting, open_rows, setting_of, standing, track_in
from ..forecast.lines import lot_lines
from ..forecast.outlook import Outlook, part_of
from ..household.kinds import figures
from ..household.larder import Larder, remembered
from ..household.lot_quantity import seeds_left
from ..household.possible_values import get_live
from ..household.wording import percent


@dataclass(frozen=True)
class GoodPlace:
    """A good place with limited room: how full, and its ageing speed against a bedroom."""

    node_id: int
    path: str
    capacity_lots: int
    lots: int
    speed: float


@dataclass(frozen=True)
class Move:
    """One proposed move: living seeds of the lot after the horizon if it stays, and if it moves."""

    lot_id: int
    code: str
    name: str
    kind_name: str
    from_path: str
    to_node_id: int
    to_path: str
    living_if_stays: float
    living_if_moved: float
    gain: float
    why: str


@dataclass(frozen=True)
class BestUse:
    """The proposal: moves in order of gain, what they save in all, and lots too damp to be moved."""

    places: list[GoodPlace]
    moves: list[Move]
    saved_seeds: float
    too_damp: list[str]
    horizon_years: float
    note: str


def _speed(classes: ag.SigmaClasses, setting: Setting) -> float:
    return float(
        np.average(ag.relative_speed(classes, setting.air), weights=setting.air.panels.hours)
    )


@dataclass(frozen=True)
class _Boxes:
    """Containers with what becomes of seed in each; ``good``: those with room that are much better than
    the middle one; ``fallback``: the best of the others, for what has to make room."""

    settings: dict[int, Setting]
    speeds: dict[int, float]
    good: list[NodeRow]
    fallback: int | None


def _boxes(v: Look) -> _Boxes:
    classes = ag.reference_classes()
    boxes = [n for n in v.air.nodes.values() if n.deleted_s is None and n.role == "container"]
    settings = {n.id: setting_of(v.session, v.air, Option(node_id=n.id), []) for n in boxes}
    speeds = {i: _speed(classes, s) for i, s in settings.items()}
    fit = good_places(np.array([speeds[n.id] for n in boxes]), figures().placement)
    good = [n for n, ok in zip(boxes, fit, strict=True) if n.capacity_lots and ok]
    ordinary = [i for i in settings if i not in {n.id for n in good}]
    fallback = min(ordinary, key=speeds.__getitem__) if ordinary else None
    return _Boxes(settings, speeds, good, fallback)


@dataclass(frozen=True)
class _Living:
    """Living seeds of each lot [L] at the horizon: where it is, in each good place [L, S] (nan: too damp
    for it), in the fallback; how many of it count, and which lots are too damp for some place."""

    counted: Floats
    here: Floats
    there: Floats
    outside: Floats
    damp: NDArray[np.bool_]


def _living(v: Look, outlook: Outlook, boxes: _Boxes, stands: list[int]) -> _Living:
    f = figures().placement
    lots = [row.part.lot_id for row in outlook.rows]
    seeds = seeds_left(v.session, lots)
    counted = np.array([counted_seeds(seeds[i].mean, seeds[i].known, f) for i in lots])
    use_s = np.array([v.now_s + f.horizon_years * YEAR_S])

    def alive(setting: Setting) -> Floats:
        tracks = track_in(v.air, outlook, setting)
        a = np.array([tracks.a_at(i, use_s) for i in range(len(lots))])
        g = wo.quantiles(outlook.belief, a, (0.5,))[:, 0, 0]
        for i in tracks.blends:
            g[i] = tracks.quantiles_at(i, use_s, (0.5,))[0, 0]
        return np.asarray(g * counted)

    here = _here_alive(v.air, outlook.rows, stands, boxes.settings, alive)
    there = np.stack([alive(boxes.settings[n.id]) for n in boxes.good], axis=1)
    damp = np.zeros(len(lots), dtype=bool)
    for column, node in enumerate(boxes.good):
        setting = boxes.settings[node.id]
        wet = unfit(outlook.state.erh25, setting.cold, setting.sealed, figures())
        damp |= wet
        there[wet, column] = np.nan
    outside = here if boxes.fallback is None else alive(boxes.settings[boxes.fallback])
    good = {n.id for n in boxes.good}
    outside = np.where([n in good for n in stands], outside, here)
    return _Living(counted, here, there, outside, damp)


@remembered
def best_places(larder: Larder) -> BestUse:
    """Propose which lots should lie in the good places; exact for the worth it counts."""
    f = figures().placement
    gains = {x.lot_id for x in lot_lines(larder) if x.verdict.may_move}
    outlook = open_rows(whole_outlook(larder))
    outlook = part_of(
        outlook, [i for i, row in enumerate(outlook.rows) if row.part.lot_id in gains]
    )
    with looking_at(larder) as v:
        boxes = _boxes(v)
        if not boxes.settings or not outlook.rows:
            note = "No containers, or no seed in them yet."
            return BestUse([], [], 0.0, [], f.horizon_years, note)
        if not boxes.good:
            note = (
                "No container here is much better than the others (or none says how many packets "
                "it holds): give the good ones their room first."
            )
            return BestUse([], [], 0.0, [], f.horizon_years, note)
        stands = [v.air.node_of(row.part.lot_id) for row in outlook.rows]
        living = _living(v, outlook, boxes, stands)
        worth = np.array([worth_of_one(bool(r.variety.kept_line), f) for r in outlook.rows])
        columns = {n.id: i for i, n in enumerate(boxes.good)}
        now = np.array([columns.get(n, STAYS) for n in stands], dtype=np.int64)
        room = np.array([n.capacity_lots or 0 for n in boxes.good], dtype=np.int64)
        placed = best_use(
            living.there * worth[:, None], living.outside * worth, now, room, f.effort_seeds
        )
        codes = v.air.codes()
        moves = _moves(v.air, outlook, boxes, living, placed.place, now, stands, codes)
        places = [
            GoodPlace(
                node_id=n.id,
                path=node_path(v.air, n.id),
                capacity_lots=n.capacity_lots or 0,
                lots=len(v.air.lots_in(n.id)),
                speed=round(boxes.speeds[n.id], 3),
            )
            for n in boxes.good
        ]
        too_damp = [codes[outlook.rows[i].part.lot_id] for i in np.flatnonzero(living.damp)]
    freeze = figures().moisture.freeze_at_or_below_erh25
    note = (
        f"Counted: seeds that would still come up in {f.horizon_years:.0f} years, at most "
        f"{f.seeds_cap:.0f} of a packet, kept lines {f.kept_line_worth:g} times; "
        f"a move must save {f.effort_seeds:.0f} (guesses). "
        f"Lots above {percent(freeze)} are not offered the freezer: dry them first."
    )
    saved = round(sum(m.gain for m in moves), 1)
    return BestUse(places, moves, saved, too_damp, f.horizon_years, note)


def _moves(
    air: Air,
    outlook: Outlook,
    boxes: _Boxes,
    living: _Living,
    place: Ints,
    now: Ints,
    stands: list[int],
    codes: dict[int, str],
) -> list[Move]:
    """The moves that a placing asks for, those that gain most first."""
    years, moves = figures().placement.horizon_years, []
    for i, row in enumerate(outlook.rows):
        makes_room = place[i] == STAYS
        target = boxes.fallback if makes_room else boxes.good[place[i]].id
        if place[i] == now[i] or target is None:
            continue
        after = float(living.outside[i] if makes_room else living.there[i, place[i]])
        before = float(living.here[i])
        moves.append(
            Move(
                lot_id=row.part.lot_id,
                code=codes[row.part.lot_id],
                name=row.variety.name,
                kind_name=row.kind.name,
                from_path=node_path(air, stands[i]),
                to_node_id=target,
                to_path=node_path(air, target),
                living_if_stays=round(before, 1),
                living_if_moved=round(after, 1),
                gain=round(after - before, 1),
                why="makes room for packets that gain more there"
                if makes_room
                else f"of {living.counted[i]:.0f} seeds about {after:.0f} rather than {before:.0f} "
                f"would come up in {years:.0f} years",
            )
        )
    return sorted(moves, key=lambda m: -m.gain)


def _here_alive(
    air: Air,
    rows: Sequence[object],
    stands: Sequence[int],
    settings: dict[int, Setting],
    alive: Callable[[Setting], np.ndarray],
) -> np.ndarray:
    """Living seeds of each lot if it stays: one projection per place that holds some."""
    out = np.zeros(len(rows))
    for node in sorted(set(stands)):
        setting = settings.get(node)
        if setting is None:
            setting = standing(air, node)
        values = alive(setting)
        mine = np.array([n == node for n in stands])
        out[mine] = values[mine]
    return out


@dataclass(frozen=True)
class MovesPlanned:
    """The jobs that were put on the list."""

    job_ids: list[int]


@act("plan_moves")
def moves_to_jobs(a: Doing, moves: Sequence[tuple[int, int]]) -> MovesPlanned:
    """Put moves (lot, node) on today's list; ticking one off makes the move.

    Raises InvalidValue for an empty list.
    """
    if not moves:
        raise InvalidValue("moves", "none", "at least one")
    air = Air(a.session, a.home, a.now_s)
    made = []
    for lot_id, node_id in moves:
        lot = get_live(a.session, Lot, lot_id, "lot")
        node = get_live(a.session, Node, node_id, "place or container")
        origin = f"move:{lot_id}:{node_id}:{a.now_s}"
        row = Job(
            origin_key=origin,
            kind="move",
            title=f"Move {lot.code} to {node_path(air, node_id)}",
            place="cold store",
            due_s=a.now_s,
            state="open",
            subject=f"lot:{lot_id}",
            reason=json.dumps(
                {
                    "why": "Seed gains most from the good places there",
                    "lot_id": lot_id,
                    "node_id": node.id,
                }
            ),
        )
        a.session.add(row)
        a.session.flush()
        made.append(key(row))
        a.about(f"lot:{lot_id}")
    a.summary = f"Planned {len(made)} moves for today"
    return MovesPlanned(job_ids=made)


def planned_moves(larder: Larder) -> list[Job]:
    """Moves on the list that are not settled."""
    with looking_at(larder) as v:
        rows = v.session.exec(
            live(Job).where(Job.kind == "move", col(Job.state).not_in(["done", "dropped"]))
        )
        return list(rows)
