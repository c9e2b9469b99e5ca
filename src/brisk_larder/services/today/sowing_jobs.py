"""Sowings as jobs: what the plan sows, from which packet, when; outdoors moved off frost that is forecast."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from datetime import date
from math import ceil

from sqlmodel import col

from ...core.base.units import DAY_S, day_start_s, local_day
from ...core.growing.windows import Sown
from ...data.queries import live
from ...data.tables import Sowing
from ..air.look import Look, looking_at
from ..forecast.lines import lot_lines
from ..forecast.sowing import last_useful, sowing_in
from ..household.kinds import Kind, figures
from ..household.larder import Larder, season
from ..household.planting_stock import as_set
from ..household.wording import date_words, many
from ..needs.chain_lines import ChainLine, Covered, NeedsRoom
from .nights_ahead import moved_off_frost
from .this_years_list import Proposal

SOW = "sow"


@dataclass(frozen=True)
class _Done:
    """What was sown of a food or pick in a household year: on which days, and of each packet how often and
    how many seeds."""

    times: list[int] = field(default_factory=list)
    of_lot: Counter[int] = field(default_factory=Counter)
    seeds: Counter[int] = field(default_factory=Counter)


def sow_jobs(larder: Larder, needs: NeedsRoom) -> list[Proposal]:
    """What is sown within the next weeks, one job a packet; of a food that is sown one time after the other
    the next of these. What is short is sown all the same, as much as there is: what waits for a test only in
    the last days of its sowing."""
    soon_s = larder.now_s() + figures().growing.sow_soon_days * DAY_S
    out, least = [], figures().needs.missed_share
    forms = {x.lot_id: (x.kind, x.form) for x in lot_lines(larder)}
    with looking_at(larder) as v:
        done = sown_for(v, needs.year)
        for x, as_what in ((line, one) for line in needs.lines for one in _forms(line, forms)):
            here = [c for c in x.covered if c.in_hand and forms[c.lot_id] == as_what]
            kind, before = as_set(v.kinds.get(as_what[0]), as_what[1]), done.get(x.key, _Done())
            when = _when(x, kind, before.times, v, needs.year) if here else None
            if when is None or when.at_s > soon_s:
                continue
            ending = v.today >= when.last_days
            if x.tests_first and not ending:
                continue  # the test comes first
            day, says = local_day(when.at_s, v.home.tz), ""
            if when.setting == "outdoors":
                day, says = moved_off_frost(kind, max(day, v.today), v)
            moved = bool(says)
            if not moved and len(before.times) == 0:
                day = when.first  # said once, and for good
            why = [says, _until(when, ending)]
            due_s = float(day_start_s(day, v.home.tz))
            left = max(1, x.rounds - len(before.times))
            out += [
                _job(
                    x, c, when, due_s, why, f"{needs.year}:{before.of_lot[c.lot_id]}", left, ending
                )
                for c in here
                # the last few seeds of a packet that was sown for it are no sowing of their own
                if x.rounds > 1
                or c.seeds
                > least * (before.seeds[c.lot_id] + c.seeds) * bool(before.seeds[c.lot_id])
            ]
    return out


def _forms(x: ChainLine, forms: dict[int, tuple[str, str]]) -> list[tuple[str, str]]:
    """Of which kinds and in which forms the packets of a need are: each has days of its own."""
    return sorted({forms[c.lot_id] for c in x.covered if c.in_hand})


def sown_for(v: Look, year: int) -> dict[str, _Done]:
    """What was sown in a household year, by the food or pick it was meant for."""
    begins, ends = (day_start_s(d, v.home.tz) for d in season(v.home, year))
    out: dict[str, _Done] = {}
    days: dict[str, dict[date, int]] = {}
    rows = live(Sowing).where(Sowing.at_s >= begins, Sowing.at_s < ends)
    for s in v.session.exec(rows.order_by(col(Sowing.at_s))):
        if s.meant_for:
            one = out.setdefault(s.meant_for, _Done())
            one.of_lot[s.lot_id] += 1
            one.seeds[s.lot_id] += s.n
            days.setdefault(s.meant_for, {})[local_day(s.at_s, v.home.tz)] = s.at_s
    for key, some in days.items():
        out[key].times.extend(sorted(some.values()))
    return out


def _until(when: Sown, ending: bool) -> str:
    """Until when it can be sown, told in its last days; before that the job's own span says it."""
    return (
        f"Last days: its sowing {when.setting} ends on {date_words(when.until)}." if ending else ""
    )


def _when(x: ChainLine, kind: Kind, times: list[int], v: Look, year: int) -> Sown | None:
    """The next sowing: in its next window, or so many days after the one before."""
    first = sowing_in(kind, v.today, v.home, year)
    if not times or x.rounds < 2 or first is None:
        return first
    at_s = max(float(times[-1] + x.round_days * DAY_S), float(v.now_s))
    begun = local_day(times[-1], v.home.tz).year
    until = last_useful(kind, v.home, begun)
    if until is not None and local_day(at_s, v.home.tz) > until:
        return None  # it would no longer ripen
    return first._replace(at_s=at_s)


def _job(
    x: ChainLine,
    packet: Covered,
    when: Sown,
    due_s: float,
    said: list[str],
    turn: str,
    left: int,
    ending: bool,
) -> Proposal:
    what = f"{packet.code} {packet.variety}".strip()
    seeds, verb = ceil(packet.seeds / left), "Sow" if packet.unit == "seed" else "Set"
    nth = f", sowing {x.rounds - left + 1} of {x.rounds}" if x.rounds > 1 else ""
    # how it is laid is told of one packet that is sown at once; of a part of it that would be another number
    laid = x.sow[:1] if x.rounds == 1 and len(x.covered) == 1 else []
    why = [*said, _for(x, packet), *laid]
    return Proposal(
        origin_key=f"sow:{x.key}:{packet.lot_id}:{turn}",
        kind=SOW,
        title=f"{verb} {many(seeds, packet.unit)} of {what} ({x.crop_name}) {when.setting}{nth}",
        why=" ".join(w for w in why if w),
        where="greenhouse" if when.setting == "indoors" else "garden",
        due_s=due_s,
        subject=f"lot:{packet.lot_id}",
        urgent=ending,
        short=f"{what} ({x.crop_name}, {seeds})",
        seeds=seeds,
        setting=when.setting,
        pieces=packet.unit != "seed",
        held_up=said[0],
        until_s=x.sow_until_s if packet.unit == "seed" or x.unit != "seed" else None,
    )


def _for(x: ChainLine, packet: Covered) -> str:
    """What a sowing is for, and its share of it."""
    wanted = f"For {x.name}: {many(x.plants or 0, 'plant')}"
    if x.sown_plants:
        wanted += f" in all, {x.sown_plants} of them sown already"
    others = [c for c in x.covered if c.lot_id != packet.lot_id]
    beside = ", ".join(
        f"{many(c.seeds, c.unit)} of {c.code if c.in_hand else 'an order'}" for c in others
    )
    if beside:
        wanted += f"; beside it {beside}"
    if x.short_plants:
        wanted += f". It is what there is: {many(x.short_plants, 'plant')} cannot be promised"
    return f"{wanted}."
