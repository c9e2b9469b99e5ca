"""A container's chart: what was read, drawn together without losing a spike; and the air in between
with the ageing speed, on the same time axis. Column arrays throughout."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import orjson

from ...core.base.errors import InvalidValue, NotFound
from ...core.base.units import DAY_S
from ...core.seed import ageing as ag
from ...core.storage import climate as cl
from ...core.storage.moisture import erh_at
from ...data.tables import Node
from ..air.air import Air
from ..air.look import looking_at
from ..air.standing import DeploymentRow
from ..household.kinds import figures
from ..household.larder import Larder
from ..household.possible_values import get_live

MOST_POINTS = 1900  # sent for all series together
MOST_SCANNED = 20_000  # rows read for one series; beyond, the next coarser table
AIR_POINTS = 900
RAW = (
    "SELECT {b}, count(*), avg(temperature_c), min(coalesce(t_min_c, temperature_c)), "
    "max(coalesce(t_max_c, temperature_c)), avg(erh), min(erh), max(erh) FROM reading "
)
SUMMED = (
    "SELECT {b}, sum(n), sum(t_sum) / nullif(sum(t_n), 0), min(t_min), max(t_max), "
    "sum(h_sum) / nullif(sum(h_n), 0), min(h_min), max(h_max) FROM {table} "
)
SPAN = "WHERE series_id = ? AND at_s >= ? AND at_s < ? GROUP BY 1 ORDER BY 1"
COLUMNS = ("at_s", "n", "t_mean_c", "t_min_c", "t_max_c", "erh_mean", "erh_min", "erh_max")


Run = Callable[[str, tuple[object, ...]], list[tuple[Any, ...]]]


def plan(
    run: Run, d: DeploymentRow, origin: str, start_s: int, end_s: int, points: int
) -> tuple[str, tuple[int, int, int], str]:
    """The query that draws a series over a span in fewer than ``points`` points: sql, values, table.

    The finest table that costs no more than MOST_SCANNED rows; buckets keep least and most.
    """
    first, last = max(d.from_s, start_s), min(d.to_s or end_s, end_s)
    values = (d.series_id, first, last)
    span = max(last - first, 1)
    width = _width(span, points)
    if origin == "dial" or span < 400 * DAY_S:
        where = "series_id = ? AND at_s >= ? AND at_s < ?"
        if origin == "dial":
            count = run(f"SELECT count(*) FROM reading WHERE {where}", values)[0][0]
        else:
            count = run(f"SELECT sum(n) FROM d_day WHERE {where}", values)[0][0] or 0
        if count < points:
            return RAW.format(b="at_s") + SPAN, values, "reading"
        if count <= MOST_SCANNED or origin == "dial":
            return RAW.format(b=f"at_s / {width} * {width}") + SPAN, values, "reading"
    table, unit = ("d_hour", 3600) if span / 3600 <= MOST_SCANNED else ("d_day", DAY_S)
    width = max(unit, -(-width // unit) * unit)
    bucket = "at_s" if width == unit else f"at_s / {width} * {width}"
    return SUMMED.format(b=bucket, table=table) + SPAN, values, table


def _width(span_s: int, points: int) -> int:
    for width in (300, 600, 900, 1800, 3600, 7200, 10_800, 21_600, 43_200, DAY_S):
        if span_s / width < points - 2:
            return width
    return -(-span_s // ((points - 2) * DAY_S)) * DAY_S


def readings_json(larder: Larder, node_id: int, from_s: float | None, to_s: float | None) -> bytes:
    """What was read in a node over a span (default: the last 12 months), as JSON column arrays.

    Keys: name, from_s, to_s, series (name, origin, table and the COLUMNS; a single reading has equal
    least and most), past (readings set aside), events. Raises InvalidValue for a span that ends
    before it starts.
    """
    now_s = larder.now_s()
    start = int(from_s if from_s is not None else now_s - 365 * DAY_S)
    end = int(min(to_s, now_s + 1) if to_s is not None else now_s + 1)
    if end <= start:
        raise InvalidValue("span", "its end", "after its start")
    with looking_at(larder) as v:
        raw = v.session.connection().connection.cursor()  # a chart costs little more than its query

        def run(sql: str, values: tuple[object, ...]) -> list[tuple[Any, ...]]:
            raw.execute(sql, values)
            return list(raw.fetchall())

        named = run("SELECT name FROM node WHERE id = ? AND deleted_s IS NULL", (node_id,))
        if not named:
            raise NotFound(f"There is no place or container number {node_id}")
        deployed = run(
            "SELECT d.series_id, d.node_id, d.from_s, d.to_s, s.name, s.origin FROM deployment d "
            "JOIN series s ON s.id = d.series_id WHERE d.node_id = ? AND d.deleted_s IS NULL",
            (node_id,),
        )
        share = MOST_POINTS // max(len(deployed), 1)
        series: list[dict[str, Any]] = []
        for row in deployed:
            sql, values, table = plan(run, DeploymentRow(*row[:4]), row[5], start, end, share)
            found = run(sql, values)
            columns = zip(*found, strict=True) if found else [()] * len(COLUMNS)
            series.append(
                {"series_id": row[0], "name": row[4], "origin": row[5], "table": table}
                | dict(zip(COLUMNS, columns, strict=True))
            )
        past = run(
            "SELECT p.at_s, p.temperature_c, p.erh, p.why FROM reading_past p JOIN deployment d "
            "ON d.series_id = p.series_id WHERE d.node_id = ? AND d.deleted_s IS NULL "
            "AND p.batch_id IS NULL AND p.at_s >= ? AND p.at_s < ? ORDER BY p.at_s LIMIT 200",
            (node_id, start, end),
        )
        events = run(
            "SELECT at_s, kind, note FROM node_event WHERE node_id = ? AND deleted_s IS NULL "
            "AND at_s >= ? AND at_s < ? "
            "UNION ALL SELECT s.from_s, CASE s.is_out WHEN 1 THEN 'taken out' ELSE 'moved' END, n.name "
            "FROM stay s JOIN node n ON n.id = s.parent_node_id WHERE s.node_id = ? "
            "AND s.deleted_s IS NULL AND s.from_s >= ? AND s.from_s < ? ORDER BY 1 LIMIT 300",
            (node_id, start, end, node_id, start, end),
        )
        raw.close()
    body = {
        "name": named[0][0], "from_s": start, "to_s": end, "series": series,
        "past": [dict(zip(("at_s", "temperature_c", "erh", "why"), p, strict=True)) for p in past],
        "events": [dict(zip(("at_s", "kind", "note"), m, strict=True)) for m in events],
    }  # fmt: skip
    return orjson.dumps(body)


@dataclass(frozen=True)
class AirOverTime:
    """The air in a node, read or not, and the ageing speed in it, over one time axis.

    ``source`` per point: logged, bridged or usual; ``speed`` against a room at 18 degC and 50 %.
    """

    name: str
    at_s: list[float]
    temperature_c: list[float]
    low_c: list[float]
    high_c: list[float]
    erh: list[float]
    source: list[str]
    speed: list[float]
    said: str


def air(larder: Larder, node_id: int, from_s: float | None, to_s: float | None) -> AirOverTime:
    """The air in a node over a span (default: the last 12 months), in fewer than 1,000 points.

    Panels are drawn together by equal counts: mean temperature and humidity, least and most of the
    temperature (two sd of the swing inside a panel), and the mean speed, so that its area stays true.
    """
    with looking_at(larder) as v:
        home = v.home
        node = get_live(v.session, Node, node_id, "place or container")
        now_s = larder.now_s()
        start = from_s if from_s is not None else now_s - 365 * DAY_S
        end = to_s if to_s is not None else float(now_s)
        if end <= start:
            raise InvalidValue("span", "its end", "after its start")
        air = Air(v.session, home, now_s, start)
        span = cl.clip(air.past(node_id), start, min(end, now_s))
        speed = ag.relative_speed(ag.reference_classes(), span)
        erh = erh_at(span.erh25, span.temperature_c)
        step = max(1, int(np.ceil(len(speed) / AIR_POINTS)))
        weight = span.panels.hours
        # a span that begins now has no hours behind it, and so nothing to draw
        edges = np.arange(0, len(speed), step) if weight.sum() > 0 else np.arange(0)

        def mean(values: np.ndarray, digits: int = 2) -> list[float]:
            if not len(edges):
                return []
            held = np.add.reduceat(weight, edges)
            drawn: list[float] = np.round(
                np.add.reduceat(values * weight, edges) / held, digits
            ).tolist()
            return drawn

        def reach(sign: float) -> list[float]:
            if not len(edges):
                return []
            swung = span.temperature_c + sign * np.sqrt(2) * span.swing_sd_c
            most = np.maximum.reduceat(sign * swung, edges)
            return [round(sign * float(v), 2) for v in most]

        return AirOverTime(
            name=node.name,
            at_s=span.panels.middle_s[edges].tolist() if len(edges) else [],
            temperature_c=mean(span.temperature_c),
            low_c=reach(-1.0),
            high_c=reach(1.0),
            erh=mean(erh, 4),
            source=[cl.SOURCES[int(i)] for i in span.source[edges]],
            speed=mean(speed, 3),
            said=_said(speed, span),
        )


def _said(speed: np.ndarray, span: cl.Climate) -> str:
    """The worst stretch of the span in a sentence: how few days did how much of the ageing."""
    f = figures().telling
    if not len(speed) or not span.panels.hours.sum():
        return "No record in this span."
    cost = speed * span.panels.hours
    order = np.argsort(-speed)
    running = np.cumsum(cost[order]) / cost.sum()
    hours = np.cumsum(span.panels.hours[order])
    third = int(np.searchsorted(running, 1 / 3))
    days = hours[min(third, len(hours) - 1)] / 24
    whole_days = span.panels.hours.sum() / 24
    share = days / whole_days
    if share < f.hard_days_share:
        when = span.panels.middle_s[order[: third + 1]].mean()
        month = np.datetime64(int(when), "s").astype(object).strftime("%B")
        return f"The {days:.0f} hardest days, around {month}, did a third of this span's ageing."
    unread = float(np.mean(span.source == cl.USUAL))
    if unread > f.unread_share:
        return "Mostly not read: the curve is the usual one of such a place, a guess."
    return "No single spell stands out: ageing was spread over the span."
