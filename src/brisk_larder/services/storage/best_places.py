"""Best use of the few good places: who gains most from the freezer drawer and the dry tins."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from sqlmodel import col

from ...core import ageing as ag
from ...core import belief as be
from ...core.errors import InvalidValue
from ...core.placement import STAYS, best_use, counted_seeds, good_places, unfit, worth_of_one
from ...core.units import YEAR_S
from ...data.queries import key, live
from ...data.tables import Job, Lot, Node
from ..acts.acting import Doing, act
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..forecast.elsewhere import Option, Setting, open_rows, setting_of, standing, track_in
from ..forecast.outlook import whole_outlook
from ..household.kinds import figures
from ..household.larder import Larder, remembered
from ..household.quantity import seeds_left
from ..household.told import get_live
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


@remembered
def best_places(larder: Larder) -> BestUse:
    """Propose which lots should lie in the good places; exact for the worth it counts."""
    look, f = open_rows(whole_outlook(larder)), figures().placement
    with looking_at(larder) as v:
        now_s = larder.now_s()
        air = v.air
        classes = ag.reference_classes()
        boxes = [n for n in air.nodes.values() if n.deleted_s is None and n.role == "container"]
        settings = {n.id: setting_of(v.session, air, Option(node_id=n.id), []) for n in boxes}
        speeds = {i: _speed(classes, s) for i, s in settings.items()}
        if not speeds or not look.rows:
            return BestUse(
                [], [], 0.0, [], f.horizon_years, "No containers, or no seed in them yet."
            )
        fit = good_places(np.array([speeds[n.id] for n in boxes]), f)
        good = [n for n, ok in zip(boxes, fit, strict=True) if n.capacity_lots and ok]
        places = [
            GoodPlace(
                n.id,
                node_path(air, n.id),
                n.capacity_lots or 0,
                len(air.lots_in(n.id)),
                round(speeds[n.id], 3),
            )
            for n in good
        ]
        if not good:
            note = (
                "No container here is much better than the others (or none says how many packets "
                "it holds): give the good ones their room first."
            )
            return BestUse([], [], 0.0, [], f.horizon_years, note)
        lot_ids = [row.part.lot_id for row in look.rows]
        seeds = seeds_left(v.session, lot_ids)
        counted = np.array([counted_seeds(seeds[i].mean, seeds[i].known, f) for i in lot_ids])
        worth_one = np.array([worth_of_one(bool(r.variety.kept_line), f) for r in look.rows])
        use_s = np.array([now_s + f.horizon_years * YEAR_S])
        stands = [air.node_of(lot) for lot in lot_ids]
        columns = {n.id: i for i, n in enumerate(good)}

        def alive(setting: Setting) -> np.ndarray:
            tracks = track_in(air, look, setting)
            a = np.array([tracks.a_at(i, use_s) for i in range(len(look.rows))])
            g = be.quantiles(look.belief, a, (0.5,))[:, 0, 0]
            for i in tracks.blends:
                g[i] = tracks.quantiles_at(i, use_s, (0.5,))[0, 0]
            return np.asarray(g * counted)

        now_here = _here_alive(air, look.rows, stands, settings, alive)
        living = np.stack([alive(settings[n.id]) for n in good], axis=1)
        freeze = figures().moisture.freeze_at_or_below_erh25
        damp = np.zeros(len(lot_ids), dtype=bool)
        for n, column in columns.items():
            wet = unfit(look.state.erh25, settings[n].cold, settings[n].sealed, figures())
            damp |= wet
            living[wet, column] = np.nan
        ordinary = [i for i in settings if i not in columns]
        fallback = min(ordinary, key=speeds.__getitem__) if ordinary else None
        outside = now_here if fallback is None else alive(settings[fallback])
        now = np.array([columns.get(n, STAYS) for n in stands], dtype=np.int64)
        outside = np.where(now >= 0, outside, now_here)
        placed = best_use(
            living * worth_one[:, None],
            outside * worth_one,
            now,
            np.array([n.capacity_lots or 0 for n in good], dtype=np.int64),
            f.effort_seeds,
        )
        codes = air.codes()
        moves = []
        for i, row in enumerate(look.rows):
            if placed.place[i] == now[i]:
                continue
            target = good[placed.place[i]].id if placed.place[i] >= 0 else fallback
            if target is None:
                continue
            after = float(living[i, placed.place[i]] if placed.place[i] >= 0 else outside[i])
            before = float(now_here[i])
            makes_room = placed.place[i] == STAYS
            moves.append(
                Move(
                    lot_ids[i],
                    codes[lot_ids[i]],
                    row.variety.name,
                    row.kind.name,
                    node_path(air, stands[i]),
                    target,
                    node_path(air, target),
                    round(before, 1),
                    round(after, 1),
                    round(after - before, 1),
                    "makes room for lots that gain more there"
                    if makes_room
                    else f"of {counted[i]:.0f} seeds about {after:.0f} rather than {before:.0f} "
                    f"would come up in {f.horizon_years:.0f} years",
                )
            )
        moves.sort(key=lambda m: -m.gain)
        too_damp = [codes[lot_ids[i]] for i in np.flatnonzero(damp)]
        note = (
            f"Counted: seeds that would still come up in {f.horizon_years:.0f} years, at most "
            f"{f.seeds_cap:.0f} of a lot, kept lines twice; a move must save {f.effort_seeds:.0f} (guesses). "
            f"Lots above {percent(freeze)} are not offered the freezer: dry them first."
        )
        return BestUse(
            places, moves, round(sum(m.gain for m in moves), 1), too_damp, f.horizon_years, note
        )


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
