"""Storage: places and containers with their latest dial, dryness and ageing speed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from sqlmodel import Session

from ..core import ageing as ag
from ..core import climate as cl
from ..core.errors import InvalidValue
from ..core.moisture import erh_at
from ..core.units import DAY_S
from ..data.tables import Node
from .checks import get_live
from .crops import reference
from .larder import Larder, household, remembered
from .stock import node_path
from .wording import dryness
from .world import NodeRow, World

HURTING_SPEED = (
    2.0  # a place that ages seed twice as fast as a steady bedroom costs too much (guess)
)
HURTING_NOW = 6.0  # the same for a single day (guess)
WET_ERH = 0.85


@dataclass(frozen=True)
class Box:
    """A place or container on the shelf. Temperatures degC, humidity fractions.

    ``speed``: ageing over the last 12 months against a room at 18 degC and 50 %; ``speed_now``:
    today's; ``dial_*``: the latest reading (None: never read).
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


@dataclass(frozen=True)
class Shelf:
    """One place with what stands in it."""

    place: Box
    boxes: list[Box]


def _year_past(world: World, node: int) -> cl.Climate:
    past = world.past(node)
    return cl.clip(past, world.now_s - 365 * DAY_S, past.panels.end_s[-1])


@remembered
def shelves(larder: Larder) -> list[Shelf]:
    """All places with their containers, the worst first."""
    with larder.store.read() as session:
        home = household(session)
        world = World(session, home, larder.now_s())
        classes = ag.reference_classes()
        counts: dict[int, int] = {}
        for stays in world.lot_stays.values():
            if stays[-1].to_s is None:
                counts[stays[-1].parent_node_id] = counts.get(stays[-1].parent_node_id, 0) + 1
        boxes = [
            _box(world, classes, node, counts)
            for node in world.nodes.values()
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


def _box(world: World, classes: ag.SigmaClasses, node: NodeRow, counts: dict[int, int]) -> Box:
    past = world.past(node.id)
    year = _year_past(world, node.id)
    steady = ag.steady_climate(classes, year)
    speeds = ag.relative_speed(
        classes, past.slice(len(past.panels.hours) - 1, len(past.panels.hours))
    )
    readings = world.readings(node.id)
    last = len(readings.at_s) - 1
    now_c = float(past.temperature_c[-1])
    now_erh = float(erh_at(past.erh25[-1], now_c))
    lots = counts.get(node.id, 0)
    kind = node.place_kind or node.container_kind or ""
    store = reference().storage.get(kind)
    speed_now = float(speeds[0])
    hurting = lots > 0 and (
        steady.speed > HURTING_SPEED or speed_now > HURTING_NOW or now_erh >= WET_ERH
    )
    return Box(
        node_id=node.id,
        code=node.code,
        name=node.name,
        role=node.role,
        kind=kind,
        kind_words=kind.replace("_", " "),
        parent_id=world.parent_now(node.id),
        place_id=world.root(node.id),
        path=node_path(world, node.id),
        lots=lots,
        capacity_lots=node.capacity_lots,
        dial_at_s=int(readings.at_s[last]) if last >= 0 else None,
        dial_temperature_c=_or_none(readings.temperature_c[last]) if last >= 0 else None,
        dial_erh=_or_none(readings.erh[last]) if last >= 0 else None,
        now_temperature_c=now_c,
        now_erh=now_erh,
        dryness=dryness(now_erh),
        source=world.source_now(node.id),
        speed=steady.speed,
        speed_now=speed_now,
        steady_temperature_c=steady.temperature_c,
        steady_erh=float(erh_at(steady.erh25, steady.temperature_c)),
        airtight=store.airtight if store else "",
        hurting=hurting,
        says=speed_words(steady.speed, speed_now),
        former_use=node.former_use,
        version=node.version,
        walk_order=node.walk_order,
    )


def _or_none(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def speed_words(speed: float, speed_now: float = 0.0) -> str:
    """Ageing speed in words, against a steady bedroom at 18 degC and 50 %; today's if it is bad."""
    if speed_now > HURTING_NOW and speed_now > 2 * speed:
        return f"today a day here costs as much as {speed_now:.0f} in a steady bedroom"
    if speed >= 1.25:
        return f"a year here costs as much as {speed:.1f} in a steady bedroom"
    if speed >= 0.8:
        return "a year here costs about what it does in a steady bedroom"
    return f"{1 / max(speed, 0.01):.1f} years here cost as much as one in a steady bedroom"


@dataclass(frozen=True)
class ReadingRow:
    """One reading as a table row; ``past`` says why when it was replaced or voided."""

    series_id: int
    at_s: int
    temperature_c: float | None
    erh: float | None


@dataclass(frozen=True)
class Chart:
    """A node's climate as column arrays: shown air, readings, and ageing speed on one time axis."""

    name: str
    at_s: list[float]
    temperature_c: list[float]
    erh: list[float]
    source: list[str]
    speed: list[float]
    read: list[ReadingRow]
    said: str


MAX_POINTS = 1500


def chart(larder: Larder, node_id: int, from_s: float | None, to_s: float | None) -> Chart:
    """Climate of a node over a span (default: the last 12 months), under 1,500 points.

    Panels are drawn together by equal counts; a bucket shows the mean temperature and humidity and
    the mean speed, so that the area under the speed stays true.
    """
    with larder.store.read() as session:
        home = household(session)
        node = get_live(session, Node, node_id, "place or container")
        now_s = larder.now_s()
        start = from_s if from_s is not None else now_s - 365 * DAY_S
        world = World(session, home, now_s, start)
        end = to_s if to_s is not None else float(now_s)
        if end <= start:
            raise InvalidValue("span", "its end", "after its start")
        span = cl.clip(world.past(node_id), start, min(end, now_s))
        speed = ag.relative_speed(ag.reference_classes(), span)
        erh = erh_at(span.erh25, span.temperature_c)
        step = max(1, int(np.ceil(len(speed) / MAX_POINTS)))
        edges = np.arange(0, len(speed), step)
        weight = span.panels.hours
        held = np.add.reduceat(weight, edges) if len(edges) else np.empty(0)

        def mean(values: np.ndarray) -> list[float]:
            if not len(edges):
                return []
            return [round(float(v), 4) for v in np.add.reduceat(values * weight, edges) / held]

        readings = world.readings(node_id)
        inside = (readings.at_s >= start) & (readings.at_s <= end)
        few = np.flatnonzero(inside)
        every = max(1, len(few) // 400)
        series = world.deployments.get(node_id, [])
        return Chart(
            name=node.name,
            at_s=[float(v) for v in span.panels.middle_s[edges]] if len(edges) else [],
            temperature_c=mean(span.temperature_c),
            erh=mean(erh),
            source=[cl.SOURCES[int(i)] for i in span.source[edges]],
            speed=mean(speed),
            read=[
                ReadingRow(
                    series[0].series_id if series else 0,
                    int(readings.at_s[i]),
                    _or_none(readings.temperature_c[i]),
                    _or_none(readings.erh[i]),
                )
                for i in few[::every]
            ],
            said=_said(session, world, node_id, speed, span),
        )


def _said(session: Session, world: World, node_id: int, speed: np.ndarray, span: cl.Climate) -> str:
    """The worst stretch of the span in a sentence: how few days did how much of the ageing."""
    if not len(speed):
        return "No record in this span."
    cost = speed * span.panels.hours
    order = np.argsort(-speed)
    running = np.cumsum(cost[order]) / cost.sum()
    hours = np.cumsum(span.panels.hours[order])
    third = int(np.searchsorted(running, 1 / 3))
    days = hours[min(third, len(hours) - 1)] / 24
    whole_days = span.panels.hours.sum() / 24
    share = days / whole_days
    if share < 0.2:
        when = span.panels.middle_s[order[: third + 1]].mean()
        month = np.datetime64(int(when), "s").astype(object).strftime("%B")
        return f"The {days:.0f} hardest days, around {month}, did a third of this span's ageing."
    unread = float(np.mean(span.source == cl.USUAL))
    if unread > 0.5:
        return "Mostly not read: the curve is the usual one of such a place, a guess."
    return "No single spell stands out: ageing was spread over the span."
