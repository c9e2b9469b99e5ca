"""What a keeper would want to be woken for, from plain figures. Limits: ``figures.AlarmsFigures``.

A cause raises one alarm, however many readings show it: it stands until the latest figures fall
below the lower limit of its pair, so a value wavering about a limit does not ring twice.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..base.figures import AlarmsFigures, Figures
from ..base.reasons import Reason
from ..base.units import DAY_S
from .handling import can_state
from .moisture import Floats


@dataclass(frozen=True)
class Alarm:
    """One alarm: code, since when (epoch s: the start of its cause), how urgent (1-3), its figures."""

    code: str
    since_s: float
    urgency: int
    reason: Reason


def _alarm(code: str, since_s: float, urgency: int, **figures: float) -> Alarm:
    return Alarm(code, since_s, urgency, Reason(f"alarm_{code}", figures))


def spell(at_s: Floats, values: Floats, limit: float, cleared: float) -> tuple[float, float] | None:
    """The spell over a limit that still lasts: (start, worst); None when the latest is at or below
    ``cleared``, or none was over ``limit`` since it last was. nan is skipped."""
    ok = np.isfinite(values)
    at, v = at_s[ok], values[ok]
    if not len(v) or v[-1] <= cleared:
        return None
    calm = np.flatnonzero(v <= cleared)
    first = int(calm[-1]) + 1 if len(calm) else 0
    over = np.flatnonzero(v[first:] > limit)
    if not len(over):
        return None
    start = first + int(over[0])
    return float(at[start]), float(v[start:].max())


@dataclass(frozen=True)
class Evidence:
    """What is known of one place or container with seed in it.

    ``read_s``, ``read_c``, ``read_erh`` [N]: the readings of the last weeks; ``day_s``, ``day_range_c``
    [D]: least to most of each logged day; ``inside_erh25``: dryness of the seed inside (nan: none);
    ``closed_s``: when the container was last closed or came to stand.
    """

    now_s: float
    read_s: Floats
    read_c: Floats
    read_erh: Floats
    day_s: Floats
    day_range_c: Floats
    freezer: bool
    airtight: bool
    inside_erh25: float
    closed_s: float
    last_read_s: float | None
    has_logger: bool
    battery_pct: float | None = None
    desiccant_s: float | None = None
    desiccant_erh25: float | None = None
    desiccant_now_erh25: float | None = None
    out_since_s: float | None = None
    can: Mapping[str, float] | None = None


def of_node(e: Evidence, figures: Figures) -> list[Alarm]:
    """All alarms of a place or container."""
    f = figures.alarms
    out: list[Alarm] = []
    if e.freezer:
        warm = spell(e.read_s, e.read_c, f.freezer_c, f.freezer_cleared_c)
        if warm:
            out.append(_alarm("freezer_warming", warm[0], 3, worst_c=warm[1], limit_c=f.freezer_c))
    else:
        hot = spell(e.read_s, e.read_c, f.hot_c, f.hot_cleared_c)
        if hot:
            out.append(_alarm("too_hot", hot[0], 3, worst_c=hot[1], limit_c=f.hot_c))
        wide = spell(e.day_s, e.day_range_c, f.swing_c, f.swing_cleared_c)
        if wide:
            out.append(_alarm("swinging", wide[0], 1, worst_range_c=wide[1], limit_c=f.swing_c))
    damp = spell(e.read_s, e.read_erh, f.damp_erh, f.damp_cleared_erh)
    shut_damp = e.airtight and e.inside_erh25 > f.airtight_damp_erh25
    if shut_damp:
        told = {"erh25": e.inside_erh25, "limit": f.airtight_damp_erh25}
        rests = _rests(e, figures)
        if rests is not None:
            told["rests_until_s"] = rests
        out.append(_alarm("airtight_damp", e.closed_s, 3, **told))
    elif damp and not e.freezer:
        out.append(_alarm("too_damp", damp[0], 2, worst_erh=damp[1], cleared=f.damp_cleared_erh))
    out += _desiccant(e, figures)
    out += _silence(e, f)
    if e.out_since_s is not None and e.now_s - e.out_since_s > f.out_hours * 3600:
        hours = (e.now_s - e.out_since_s) / 3600
        out.append(_alarm("left_out", e.out_since_s, 2, hours=hours))
    if e.can:
        out += _can(e, figures)
    return out


def _rests(e: Evidence, figures: Figures) -> float | None:
    """Until when a can stays shut against insects (epoch s); None where it may be opened."""
    if not e.can:
        return None
    can = can_state(
        e.can["sealed_s"], e.now_s, e.can.get("opened_s"), figures.handling, e.can.get("shut_days")
    )
    return e.now_s + can.days_to_go * DAY_S if can.state == "resting" else None


def _desiccant(e: Evidence, figures: Figures) -> list[Alarm]:
    f, spent = figures.alarms, figures.walls.desiccant_spent_above_erh25
    if e.desiccant_s is None or e.desiccant_erh25 is None:
        return []
    days = (e.now_s - e.desiccant_s) / DAY_S
    read = e.read_erh[(e.read_s > e.desiccant_s + f.stalled_days * DAY_S) & np.isfinite(e.read_erh)]
    if len(read) and read[-1] > e.desiccant_erh25 + f.stalled_above_erh:
        return [
            _alarm(
                "drying_stalled",
                e.desiccant_s,
                2,
                read_erh=float(read[-1]),
                expected_erh=e.desiccant_erh25,
                days=days,
            )
        ]
    if e.desiccant_now_erh25 is not None and e.desiccant_now_erh25 > spent:
        return [
            _alarm(
                "desiccant_spent",
                e.desiccant_s,
                2,
                erh25=e.desiccant_now_erh25,
                limit=spent,
                days=days,
            )
        ]
    return []


def _silence(e: Evidence, f: AlarmsFigures) -> list[Alarm]:
    out = []
    if e.last_read_s is not None:
        days = (e.now_s - e.last_read_s) / DAY_S
        if days > (f.silent_logger_days if e.has_logger else f.silent_dial_days):
            code = "logger_silent" if e.has_logger else "not_read"
            out.append(_alarm(code, e.last_read_s, 1, days=days))
    if e.battery_pct is not None and e.battery_pct < f.battery_pct:
        again_s = f.battery_again_days * DAY_S  # said again until it is changed
        since = e.now_s // again_s * again_s
        out.append(_alarm("battery_low", since, 1, battery_pct=e.battery_pct))
    return out


def _can(e: Evidence, figures: Figures) -> list[Alarm]:
    assert e.can is not None, "asked before"
    state = can_state(
        e.can["sealed_s"], e.now_s, e.can.get("opened_s"), figures.handling, e.can.get("shut_days")
    )
    urgency = {"opened_early": 2, "due": 1, "overdue": 2}.get(state.state)
    if urgency is None:
        return []
    since = e.can.get("opened_s") or e.can["sealed_s"]
    return [
        _alarm(
            f"can_{state.state}",
            since,
            urgency,
            days_shut=state.days_shut,
            days_to_go=state.days_to_go,
        )
    ]
