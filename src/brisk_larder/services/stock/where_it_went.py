"""Where a lot's life went, stay by stay, and the dearest of them in a sentence."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.base.units import DAY_S, month_start_s, next_month_s
from ...core.seed.ageing import points_by_episode
from ..air.air import Air
from ..air.standing import UNPLACED
from ..forecast.lines import LotLine
from ..forecast.outlook import Outlook
from ..household.kinds import called, figures
from ..household.wording import day_words


@dataclass(frozen=True)
class Spell:
    """Where a lot was for a while, and the points (fraction) it lost there; ``known``: told, or supposed as
    nobody said so."""

    from_s: float
    to_s: float
    place: str
    days: float
    points: float
    known: bool = True


def spells(air: Air, look: Outlook, line: LotLine) -> list[Spell]:
    """Where a lot's life went, stay by stay (moves of its container cut too); points add up to its fall."""
    row, now = look.rows[0], float(air.now_s)
    start = row.start_s
    cuts: list[tuple[float, int]] = []
    supposed = set[float]()
    for step in row.steps:  # also in the lots it was split from
        until = now if step.to_s is None else float(step.to_s)
        for i, stay in enumerate(air.lot_stays.get(step.lot_id, [])):
            back = i == 0 and stay.reaches_back
            begin = max(start, step.from_s if back else float(stay.from_s), step.from_s)
            end = min(float(stay.to_s or now), until)
            if begin >= end:
                continue
            if not cuts and begin > start:
                cuts.append((start, UNPLACED))
                supposed.add(start)
            cuts.append((begin, stay.parent_node_id))
            if back and stay.since == "supposed":
                supposed.add(begin)
            for since, _, _ in air.parents(stay.parent_node_id)[1:]:
                if begin < since < end:
                    cuts.append((since, stay.parent_node_id))
    if not cuts:
        return []
    cuts.sort()
    ends = [at for at, _ in cuts[1:]] + [now]
    aged = [_aged(air, look, at, end) for (at, _), end in zip(cuts, ends, strict=True)]
    lost = points_by_episode(np.array(aged), line.glance.start, line.glance.now.mid)
    out = []
    for (at, node), end, points in zip(cuts, ends, lost, strict=True):
        parent = next((p for s, e, p in air.parents(node) if s <= at < e), None)
        names = [
            air.nodes[n].name
            if n != UNPLACED
            else f"the usual place, {called(air.home.unplaced_kind)}"
            for n in (parent, node)
            if n is not None
        ]
        where = " · ".join(names)
        out.append(Spell(at, end, where, (end - at) / DAY_S, float(points), at not in supposed))
    return out


def _aged(air: Air, look: Outlook, start_s: float, end_s: float) -> float:
    """Ageing (probits) of the first row in a span, by the months and airs it was reckoned in."""
    row, now = look.rows[0], float(air.now_s)
    kept = {
        (month, node): a
        for month, node, a in air.query(
            "SELECT month_s, node_id, a_probit FROM d_leg WHERE part_id = ?", (row.part_id,)
        )
    }
    this = float(month_start_s(now))
    at = look.a_at(0, np.array([max(this, row.start_s), now]))
    inside: dict[tuple[float, int], float] = {}
    whole: dict[tuple[float, int], float] = {}
    for leg in row.legs:
        month = float(month_start_s(leg.start_s))
        while month < min(leg.end_s, now):
            after = float(next_month_s(month))
            first, last = max(leg.start_s, month), min(leg.end_s, after, now)
            key = (month, leg.node if month < this else -1)
            whole[key] = whole.get(key, 0.0) + last - first
            part = max(0.0, min(last, end_s) - max(first, start_s))
            inside[key] = inside.get(key, 0.0) + part
            month = after
    total = 0.0
    for key, part in inside.items():
        gain = float(at[1] - at[0]) if key[1] == -1 else kept.get((int(key[0]), key[1]), 0.0)
        total += gain * part / max(whole[key], 1.0)
    return total


def spell_words(gone: list[Spell]) -> str:
    """The dearest stay in a sentence: 11 of 18 points since 2024 were lost in the nine days there.

    Of those that took no small share, the one that took most a day.
    """
    f = figures().telling
    total = sum(s.points for s in gone)
    if total < f.lost_points or len(gone) < 2:
        return ""
    heavy = [s for s in gone if s.points >= f.heavy_stay_share * total]
    worst = max(heavy, key=lambda s: s.points / max(s.days, 0.1))
    long = f"{worst.days:.0f} days" if worst.days < 90 else f"{worst.days / 365.25:.1f} years"
    return (
        f"{100 * worst.points:.0f} of {100 * total:.0f} points since {day_words(gone[0].from_s)[-4:]} "
        f"were lost in the {long} in {worst.place}."
    )
