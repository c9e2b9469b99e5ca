"""Storage: places and containers with their latest dial, dryness and ageing speed."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ...core.base.units import DAY_S
from ...core.seed import ageing as ag
from ...core.storage import climate as cl
from ...core.storage.barrier import CLOSINGS, keeps_its_dryness
from ...core.storage.moisture import erh_at
from ...core.storage.places import hurting, speed_code
from ..air.air import Air
from ..air.latest import latest
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.standing import NodeRow
from ..forecast.contents import inside_erh25
from ..forecast.current import bring_up_to_date
from ..household.kinds import called, figures, reference
from ..household.larder import Larder, remembered
from ..household.wording import dryness


@dataclass(frozen=True)
class Box:
    """A place or container on the shelf. Temperatures degC, humidity fractions.

    ``speed``: ageing over the last 12 months against a room at 18 degC and 50 %; ``speed_now``:
    today's; ``dial_*``: the latest reading (None: never read); ``deep``: containers around it.
    """

    node_id: int
    code: str
    name: str
    role: str
    kind: str
    kind_words: str
    parent_id: int | None
    place_id: int
    path: str
    lots: int
    capacity_lots: int | None
    dial_at_s: int | None
    dial_temperature_c: float | None
    dial_erh: float | None
    now_temperature_c: float
    now_erh: float
    seed_erh: float
    dryness: str
    source: str
    speed: float
    speed_now: float
    steady_temperature_c: float
    steady_erh: float
    airtight: str
    hurting: bool
    says: str
    former_use: str | None
    version: int
    walk_order: int
    closing: str
    is_out: bool
    deep: int


@dataclass(frozen=True)
class Shelf:
    """One place with what stands in it."""

    place: Box
    boxes: list[Box]


def _year_past(air: Air, node: int) -> cl.Climate:
    past = air.past(node)
    return cl.clip(past, air.now_s - 365 * DAY_S, past.panels.end_s[-1])


@remembered
def shelves(larder: Larder) -> list[Shelf]:
    """All places with their containers, the worst first."""
    bring_up_to_date(larder)
    inside_now = inside_erh25(larder)
    with looking_at(larder) as v:
        air = v.air
        classes = ag.reference_classes()
        counts: dict[int, int] = {}
        for stays in air.lot_stays.values():
            if stays[-1].to_s is None:
                counts[stays[-1].parent_node_id] = counts.get(stays[-1].parent_node_id, 0) + 1
        boxes = [
            _box(air, classes, node, counts, inside_now)
            for node in air.nodes.values()
            if node.deleted_s is None
        ]
    inside: dict[int, list[Box]] = {}
    for box in boxes:
        if box.role == "container":
            inside.setdefault(box.place_id, []).append(box)
    out = [
        Shelf(b, sorted(inside.get(b.node_id, []), key=lambda x: (-x.hurting, -x.speed)))
        for b in boxes
        if b.role == "place"
    ]
    return sorted(
        out,
        key=lambda s: (
            -sum(b.lots for b in [s.place, *s.boxes] if b.hurting),
            -max(b.speed for b in [s.place, *s.boxes]),
        ),
    )


def _box(
    air: Air,
    classes: ag.SigmaClasses,
    node: NodeRow,
    counts: dict[int, int],
    inside: dict[int, float],
) -> Box:
    past, year = _as_seed_feels(air, node, inside)
    steady = ag.steady_climate(classes, year)
    at = air.now_panel(node.id)
    speeds = ag.relative_speed(classes, past.slice(at, at + 1))
    read_s, read_c, read_erh = latest(air, node.id)
    now_c = float(past.temperature_c[at])
    now_erh = float(erh_at(past.erh25[at], now_c))
    told_at_c = figures().moisture.told_at_c
    seed_erh = float(erh_at(inside.get(node.id, float(past.erh25[at])), told_at_c))
    lots = counts.get(node.id, 0)
    kind = node.place_kind or node.container_kind or ""
    store = reference().storage.get(kind)
    speed_now = float(speeds[0])
    stays = air.node_stays.get(node.id, [])
    return Box(
        node_id=node.id,
        code=node.code,
        name=node.name,
        role=node.role,
        kind=kind,
        kind_words=called(kind),
        parent_id=air.parent_now(node.id),
        place_id=air.root(node.id),
        path=node_path(air, node.id),
        lots=lots,
        capacity_lots=node.capacity_lots,
        dial_at_s=read_s,
        dial_temperature_c=read_c,
        dial_erh=read_erh,
        now_temperature_c=now_c,
        now_erh=now_erh,
        seed_erh=seed_erh,
        dryness=dryness(seed_erh),
        source=air.source_now(node.id),
        speed=steady.speed,
        speed_now=speed_now,
        steady_temperature_c=steady.temperature_c,
        steady_erh=float(erh_at(steady.erh25, steady.temperature_c)),
        airtight=store.airtight if store else "",
        hurting=hurting(lots, steady.speed, speed_now, now_erh, figures()),
        says=speed_words(steady.speed, speed_now),
        former_use=node.former_use,
        version=node.version,
        walk_order=node.walk_order,
        closing=closing_now(air, node.id),
        is_out=bool(stays and stays[-1].is_out and stays[-1].to_s is None),
        deep=len(air.chain(node.id)) - 1,
    )


def _as_seed_feels(
    air: Air, node: NodeRow, inside: dict[int, float]
) -> tuple[cl.Climate, cl.Climate]:
    """The air of a node and its last year; in a tight container nobody reads, as dry as its seed.

    What is shut in keeps its own dryness for years: the long lag of the outer air says nothing of it.
    """
    past, year = air.past(node.id), _year_past(air, node.id)
    standing = air.stretch_at(node.id, air.now_s)
    own = inside.get(node.id)
    tight = keeps_its_dryness(standing, figures().walls)
    if own is None or air.measured(node.id) or not tight:
        return past, year
    return (
        replace(past, erh25=np.full_like(past.erh25, own)),
        replace(year, erh25=np.full_like(year.erh25, own)),
    )


def closing_now(air: Air, node: int) -> str:
    """How a container stands: airtight (as its kind is), vented, breathing, or with a desiccant."""
    standing = air.stretch_at(node, air.now_s)
    if standing.dried:
        return "desiccant"
    closings = [e.kind for e in air.events.get(node, []) if e.kind in CLOSINGS]
    return closings[-1] if closings else ""


def speed_words(speed: float, speed_now: float = 0.0) -> str:
    """Ageing speed in words, against a steady bedroom at 18 degC and 50 %; today's if it is bad."""
    match speed_code(speed, speed_now, figures().places):
        case "today":
            return f"today a day here costs as much as {speed_now:.0f} in a steady bedroom"
        case "faster":
            return f"a year here costs as much as {speed:.1f} in a steady bedroom"
        case "alike":
            return "a year here costs about what it does in a steady bedroom"
        case _:
            return f"{1 / max(speed, 0.01):.1f} years here cost as much as one in a steady bedroom"
