"""One place or container in full: what it is, what lies in it and what it has cost, what happened."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.base.errors import NotFound
from ...core.seed.ageing import points_by_episode
from ..air.look import looking_at
from ..air.supposed import supposed_lots
from ..forecast.current import whole_outlook
from ..forecast.glance_data import Likely
from ..forecast.lines import lot_lines
from ..household.kinds import figures
from ..household.larder import Larder
from ..household.past_acts import HistoryLine, history_of
from ..household.wording import day_words
from .alarms_now import AlarmLine, alarms
from .loggers import DeviceLine, devices
from .shelves import Box, shelves


@dataclass(frozen=True)
class Inside:
    """A lot inside: germination now, and the points (fraction) it lost since it came here (``told``: of seed
    of a kind that somebody knows), or until when about it keeps."""

    lot_id: int
    code: str
    name: str
    kind_name: str
    since_s: int
    now: Likely
    lost_here: float
    lost_all: float
    erh25: float
    told: bool
    kept_until_s: float | None


@dataclass(frozen=True)
class EventLine:
    """Something that happened to the container."""

    at_s: int
    kind: str
    note: str


@dataclass(frozen=True)
class NodePage:
    """A place or container with all that is known of it; ``supposed``: lots that are taken to have lain in it
    since they came, though nobody said so."""

    box: Box
    holds: list[Box]
    lots: list[Inside]
    cost_says: str
    events: list[EventLine]
    alarms: list[AlarmLine]
    devices: list[DeviceLine]
    history: list[HistoryLine]
    out_since_s: int | None
    note: str
    supposed: list[int]


def node_page(larder: Larder, node_id: int) -> NodePage:
    """One place or container. Raises NotFound."""
    # long: what is read, then one field after the other of the page
    boxes = [b for shelf in shelves(larder) for b in [shelf.place, *shelf.boxes]]
    box = next((b for b in boxes if b.node_id == node_id), None)
    if box is None:
        raise NotFound(f"There is no place or container number {node_id} (or it was taken away)")
    look, lines = whole_outlook(larder), {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        supposed = supposed_lots(v.session).get(node_id, [])
        air = v.air
        stays = {
            lot: rows[-1]
            for lot, rows in air.lot_stays.items()
            if rows[-1].to_s is None and rows[-1].parent_node_id == node_id
        }
        codes = air.codes()
        lots = []
        for i, row in enumerate(look.rows):
            stay = stays.get(row.part.lot_id)
            if stay is None or row.part.to_s is not None or row.part.lot_id not in lines:
                continue
            came = float(max(stay.from_s, row.start_s))
            whole = np.array([row.start_s, came, float(air.now_s)])
            g_start, _, g_now = look.quantiles_at(i, whole, (0.5,))[:, 0]
            here = points_by_episode(np.diff(look.a_at(i, whole)), float(g_start), float(g_now))
            lots.append(
                Inside(
                    lot_id=row.part.lot_id,
                    code=codes[row.part.lot_id],
                    name=row.variety.name,
                    kind_name=row.kind.name,
                    since_s=int(came),
                    now=lines[row.part.lot_id].glance.now,
                    lost_here=float(here[1]),
                    lost_all=float(g_start - g_now),
                    erh25=float(look.state.erh25[i]),
                    told=lines[row.part.lot_id].verdict.told,
                    kept_until_s=lines[row.part.lot_id].kept_until_s,
                )
            )
        events = [EventLine(e.at_s, e.kind, e.note) for e in reversed(air.events.get(node_id, []))]
        own = air.node_stays.get(node_id, [])
        out_since = own[-1].from_s if own and own[-1].is_out and own[-1].to_s is None else None
        history = history_of(v.session, f"node:{node_id}")
        note = (
            v.session.connection()
            .exec_driver_sql("SELECT note FROM node WHERE id = ?", (node_id,))
            .scalar()
        )
    lots.sort(key=lambda x: (not x.told, -x.lost_here))
    return NodePage(
        box=box,
        holds=[b for b in boxes if b.parent_id == node_id],
        lots=lots,
        cost_says=_cost([x for x in lots if x.told]),
        events=events[:40],
        alarms=[a for a in alarms(larder) if a.node_id == node_id],
        devices=[d for d in devices(larder) if d.node_id == node_id],
        history=history,
        out_since_s=out_since,
        note=note or "",
        supposed=supposed,
    )


def _cost(lots: list[Inside]) -> str:
    if not lots:
        return ""
    total = 100 * float(np.mean([x.lost_here for x in lots]))
    worst = lots[0]
    since = day_words(min(x.since_s for x in lots))
    if total < 100 * figures().telling.container_cost:
        return f"Since {since} it has cost its packets next to nothing."
    return (
        f"Since {since} it has cost its packets {total:.0f} points on average; most of all "
        f"{worst.code} {worst.name}, {100 * worst.lost_here:.0f} of the {100 * worst.lost_all:.0f} it lost."
    )
