"""How far back a change of the air reaches: what is bridged between readings begins at the one before.

A departure is bridged between two readings of one kind, so a new one changes all from the reading of
its kind before it on. Where the air around a container changes, the departures of its own readings
from it change too, and with them what lies between those and the reading before.
"""

from __future__ import annotations

from collections.abc import Iterable
from math import inf

from ...core.base.units import utc_day_start_s
from .air import Air

BOTH = ("temperature_c", "erh")
KINDS = {
    (True, True): BOTH, (True, False): ("temperature_c",), (False, True): ("erh",),
    (False, False): (),
}  # fmt: skip


def kinds_read(temperature: bool, humidity: bool) -> tuple[str, ...]:
    """Names of what a reading holds."""
    return KINDS[bool(temperature), bool(humidity)]


def _found(air: Air, node_id: int, kind: str, where: str, end: str, at_s: int) -> int | None:
    """First or last (``end``: min, max) time of a reading of a kind in a node, before or from a time."""
    times = [
        air.query(
            f"SELECT {end}(at_s) FROM reading WHERE series_id = ? AND {kind} IS NOT NULL "
            f"AND at_s {where} ? AND at_s >= ? AND at_s < ?",
            (d.series_id, at_s, d.from_s, d.to_s or 2**62),
        )[0][0]
        for d in air.deployments.get(node_id, [])
    ]
    known = [int(t) for t in times if t is not None]
    return (max(known) if end == "max" else min(known)) if known else None


def previous_s(air: Air, node_id: int, at_s: float, kinds: Iterable[str] = BOTH) -> float:
    """Time from which readings at ``at_s`` change the air of a node: the reading before, of the kind
    read before longest ago (0: one was never read before).

    A logger's hour counts as one reading, so its whole hour is left out of the search.
    """
    hour = int(at_s) // 3600 * 3600
    before = [_found(air, node_id, kind, "<", "max", hour) or 0 for kind in kinds]
    return float(min(before, default=hour))


def bridged_from(air: Air, node_id: int, since_s: float) -> float:
    """From when the air of a node changes when the air around it does from ``since_s`` on."""
    if since_s <= 0 or not air.deployments.get(node_id):
        return since_s
    day = utc_day_start_s(since_s)  # a panel is a day: a reading is compared with all of it
    out = since_s
    for kind in BOTH:
        if _found(air, node_id, kind, ">=", "min", day) is not None:
            out = min(out, float(_found(air, node_id, kind, "<", "max", day) or 0))
    return out


def reach(
    air: Air, node_ids: Iterable[int], from_s: float, *, read: bool = False
) -> dict[int, float]:
    """Nodes whose air changes, with the time from which: these and all that ever stood in them.

    ``read``: their own readings changed, and ``from_s`` is the time of the one before.
    """
    since: dict[int, float] = {}
    todo = [(node, from_s if read else bridged_from(air, node, from_s)) for node in node_ids]
    while todo:
        node, at = todo.pop()
        if at >= since.get(node, inf):
            continue
        since[node] = at
        todo += [(inner, bridged_from(air, inner, at)) for inner in air.ever_in(node)]
    return since
