"""Alarms: evidence gathered per place and container, worded, with what to do; never one cause twice."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from sqlmodel import col, select

from ...core.base.units import DAY_S
from ...core.storage import alarms as al
from ...core.storage.moisture import erh25
from ...data.tables import Job
from ..air.air import Air
from ..air.latest import latest
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.standing import EventRow
from ..forecast.contents import inside_erh25
from ..forecast.current import bring_up_to_date
from ..household.kinds import figures, reference
from ..household.larder import Larder, remembered, writing_here
from ..household.wording import day_words, percent, prose, temperature
from .loggers import devices

WEEKS_S = 28 * DAY_S
ENOUGH_TIGHT = ("yes",)


@dataclass(frozen=True)
class AlarmLine:
    """One alarm of a place or container: what is wrong, the evidence, what to do; ``key`` names its
    cause, so that a quiet period or a dropped one holds for that cause only."""

    key: str
    code: str
    node_id: int
    path: str
    title: str
    evidence: str
    todo: str
    urgency: int
    since_s: float
    lots: int


def alarms(larder: Larder) -> list[AlarmLine]:
    """Standing alarms less those in their quiet period or settled by the keeper."""
    now_s = larder.now_s()
    with looking_at(larder) as v:
        quiet = {
            j.origin_key
            for j in v.session.exec(select(Job).where(col(Job.origin_key).like("alarm:%")))
            if j.deleted_s is None
            and (
                j.state in ("done", "dropped")
                or (j.state == "moved" and (j.moved_to_s or 0) > now_s)
            )
        }
    return [a for a in all_alarms(larder) if a.key not in quiet]


@remembered
def all_alarms(larder: Larder) -> list[AlarmLine]:
    """All standing alarms, the most urgent first. Only what holds seed can raise one, but for cans."""
    bring_up_to_date(larder)
    weak = {d.node_id: d.battery_pct for d in devices(larder) if not d.revoked}
    out, inside = [], inside_erh25(larder)
    with looking_at(larder) as v:
        air = v.air
        under: dict[int, int] = {}
        for lot in air.lot_stays:
            for node_id in air.chain(air.node_of(lot)) if air.node_of(lot) else []:
                under[node_id] = under.get(node_id, 0) + 1
        for node in air.nodes.values():
            if node.deleted_s is not None:
                continue
            # a room or freezer speaks for all that stands in it: its logger hangs on the wall
            lots = under.get(node.id, 0)
            can = _can(air.events.get(node.id, []))
            if not lots and can is None:
                continue
            found = _evidence(air, node.id, inside.get(node.id, float("nan")), weak, can)
            for alarm in al.of_node(found, figures()):
                out.append(_line(air, node.id, alarm, lots))
    return sorted(out, key=lambda a: (-a.urgency, -a.lots, a.path))


def _evidence(
    air: Air,
    node: int,
    inside: float,
    weak: dict[int | None, float | None],
    can: dict[str, float] | None,
) -> al.Evidence:
    # long: a table, the evidence of one alarm after the other
    now = air.now_s
    rows, days, logger = [], [], False
    for d in air.deployments.get(node, []):
        span = (d.series_id, max(d.from_s, now - WEEKS_S), min(d.to_s or 2**62, now + 1))
        # a logger's day: its warmest reading, its mean humidity (one damp morning is no alarm)
        kept = air.query(
            "SELECT at_s, t_min, t_max, h_sum / nullif(h_n, 0) FROM d_day "
            "WHERE series_id = ? AND at_s >= ? AND at_s < ?",
            span,
        )
        logger |= bool(kept)
        if kept:
            rows += [(at, high, erh) for at, _, high, erh in kept]
            days += [(at, high - low) for at, low, high, _ in kept if low is not None]
            continue
        for at, t, erh, low, high in air.query(
            "SELECT at_s, temperature_c, erh, t_min_c, t_max_c FROM reading "
            "WHERE series_id = ? AND at_s >= ? AND at_s < ?",
            span,
        ):
            rows.append((at, t if high is None else max(t if t is not None else high, high), erh))
            if low is not None:
                days.append((at, high - low))
    table = np.array(sorted(rows, key=lambda r: r[0]), dtype=float).reshape(-1, 3)
    if not air.lots_in(node):
        table[:, 2] = np.nan  # damp air of a room is no harm to seed that is shut in elsewhere
    ranges = np.array(sorted(days), dtype=float).reshape(-1, 2)
    standing = air.stretch_at(node, now)
    events = air.events.get(node, [])
    sachet = next((e for e in reversed(events) if e.kind == "desiccant"), None)
    told = json.loads(sachet.figures) if sachet and standing.dried else {}
    stays = air.node_stays.get(node, [])
    out_since = stays[-1].from_s if stays and stays[-1].is_out and stays[-1].to_s is None else None
    closings = [e.at_s for e in events if e.kind in ("airtight", "sealed")]
    kind = air.nodes[node].container_kind
    tight = bool(kind) and reference().storage[kind or ""].airtight in ENOUGH_TIGHT
    known = latest(air, node)
    damp = inside
    if known[0] is not None and known[0] > now - WEEKS_S and known[2] is not None:
        # a dial inside knows better than the forecast
        warm = known[1] if known[1] is not None else float(air.past(node).temperature_c[-1])
        damp = float(erh25(known[2], warm))
    return al.Evidence(
        now_s=float(now),
        read_s=table[:, 0],
        read_c=table[:, 1],
        read_erh=table[:, 2],
        day_s=ranges[:, 0],
        day_range_c=ranges[:, 1],
        freezer=air.place_kind(node).startswith("freezer"),
        airtight=tight and standing.wall is not None and not standing.dried,
        inside_erh25=damp,
        closed_s=float(closings[-1] if closings else stays[0].from_s if stays else 0),
        last_read_s=None if known[0] is None else float(known[0]),
        has_logger=logger,
        battery_pct=weak.get(node),
        desiccant_s=float(sachet.at_s) if told and sachet else None,
        desiccant_erh25=told.get("erh25"),
        desiccant_now_erh25=float(air.base(node).erh25[-1]) if told else None,
        out_since_s=None if out_since is None else float(out_since),
        can=can,
    )


def _can(events: list[EventRow]) -> dict[str, float] | None:
    """The sealed can a container is, from its last sealing with food in it."""
    sealed = next(
        (e for e in reversed(events) if e.kind == "sealed" and "food_kg" in json.loads(e.figures)),
        None,
    )
    if sealed is None:
        return None
    told = json.loads(sealed.figures)
    can = {"sealed_s": float(sealed.at_s), "shut_days": float(told.get("shut_days", 60))}
    opened = [e.at_s for e in events if e.kind == "opened" and e.at_s > sealed.at_s]
    if opened:
        can["opened_s"] = float(opened[0])
    return can


def _line(air: Air, node: int, alarm: al.Alarm, lots: int) -> AlarmLine:
    path = node_path(air, node)
    figures = {k: float(str(v)) for k, v in alarm.reason.figures.items()}
    title, evidence, todo = _words(air, alarm, figures)
    return AlarmLine(
        key=f"alarm:{alarm.code}:{node}:{int(alarm.since_s)}",
        code=alarm.code,
        node_id=node,
        path=path,
        title=f"{path}: {title}",
        evidence=evidence,
        todo=todo,
        urgency=alarm.urgency,
        since_s=alarm.since_s,
        lots=lots,
    )


def _words(air: Air, alarm: al.Alarm, f: dict[str, float]) -> tuple[str, str, str]:
    """Title, evidence and what to do of an alarm, in the household's units."""
    # long: a table, the words of one alarm after the other
    home, since = air.home, day_words(alarm.since_s)

    def c(key: str) -> str:
        return temperature(f[key], home)

    match alarm.code:
        case "too_hot":
            return (
                "too hot",
                f"Up to {c('worst_c')} since {since}; from {c('limit_c')} on weeks cost years.",
                prose("Carry it somewhere cooler today; a room below 20 °C is enough for now."),
            )
        case "too_damp":
            return (
                "too damp",
                f"Up to {percent(f['worst_erh'])} since {since}; above {percent(f['cleared'])} mould "
                "can grow.",
                "Open it only in dry air; dry the seed with a sachet, or move it to a drier place.",
            )
        case "swinging":
            return (
                "swings between warm and cold",
                f"{writing_here().warmer(f['worst_range_c'])} between least and most of a day since {since}.",
                "Away from window, stove and roof; a box inside a box steadies it.",
            )
        case "freezer_warming":
            return (
                "the freezer is warming",
                f"Up to {c('worst_c')} since {since}; it should stay below {c('limit_c')}.",
                "Look at door and plug. Leave everything shut: dry seed takes no harm if it stays dry.",
            )
        case "airtight_damp":
            return (
                "shut airtight and damp inside",
                prose(
                    f"{percent(f['erh25'])} (as at 25 °C); above {percent(f['limit'])} seed moulds in there."
                ),
                "Open it, spread the seed to dry in moving air, close it again at 35 %."
                if "rests_until_s" not in f
                else f"It is shut against insects: leave it until {day_words(f['rests_until_s'])}, then "
                "spread the seed to dry.",
            )
        case "drying_stalled":
            return (
                "drying has stalled",
                f"{percent(f['read_erh'])} after {f['days']:.0f} days, not {percent(f['expected_erh'])}.",
                "Is the lid tight, was the gel dried before, is there more seed than was written?",
            )
        case "desiccant_spent":
            return (
                "the desiccant is spent",
                f"Inside it has come up to {percent(f['erh25'])} in {f['days']:.0f} days.",
                prose("Dry the gel at 110 to 130 °C as its maker says, and put it back."),
            )
        case "not_read":
            return (
                "nobody has read it for a while",
                f"Last read {since}, {f['days']:.0f} days ago.",
                "Read the dial; without it the forecast leans on the usual curve.",
            )
        case "logger_silent":
            return (
                "its logger is silent",
                f"Last heard of {since}, {f['days']:.1f} days ago.",
                "Is it in reach, has it power? Or bring in its file.",
            )
        case "battery_low":
            return ("its logger's battery is low", f"{f['battery_pct']:.0f} % left.", "Change it.")
        case "left_out":
            return (
                "still out of store",
                f"Taken out {since}, {f['hours']:.0f} hours ago.",
                "Put it back this evening; the hours outside count.",
            )
        case "can_opened_early":
            return (
                "a can was opened early",
                f"It was shut for {f['days_shut']:.0f} days only.",
                "Weevils may live: close it again, and count two months anew.",
            )
        case "can_due":
            return (
                "a can may be opened",
                f"Shut for {f['days_shut']:.0f} days.",
                "Eat from it; once open, use it up within weeks.",
            )
        case _:
            return (
                "a can has stood long",
                f"Shut for {f['days_shut']:.0f} days.",
                "Open it and look; for seed, test some.",
            )
