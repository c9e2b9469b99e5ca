"""Sowings as jobs: what the plan sows, from which packet, when; outdoors moved off frost that is forecast."""

from __future__ import annotations

from datetime import date
from math import ceil

from sqlmodel import col

from ...core.units import DAY_S, day_start_s, local_day
from ...core.windows import Sown
from ...data.queries import live
from ...data.tables import Sowing
from ..air.look import Look, looking_at
from ..forecast.sowing import sowing_of
from ..household.kinds import Kind, figures
from ..household.larder import Larder
from ..household.wording import many
from ..needs.lines import ChainLine, Covered, NeedsRoom
from ..needs.takes import last_useful
from .this_years_list import Proposal
from .weather import moved_off_frost

SOW = "sow"


def sow_jobs(larder: Larder, needs: NeedsRoom) -> list[Proposal]:
    """What is covered and sown within the next weeks, one job a packet; of a food that is sown one time after
    the other the next of these."""
    soon_s = larder.now_s() + figures().growing.sow_soon_days * DAY_S
    out = []
    with looking_at(larder) as v:
        done = _sown_for(v, needs.year)
        for x in needs.lines:
            kind, times = v.kinds.get(x.crop), done.get(x.key, [])
            when = _when(x, kind, times, v) if x.covered and not x.short_plants else None
            if when is None or when.at_s > soon_s:
                continue
            day, says = local_day(when.at_s, v.home.tz), ""
            if when.setting == "outdoors":
                day, says = moved_off_frost(kind, max(day, v.today), v)
            due_s = float(day_start_s(max(day, v.today), v.home.tz))
            left = max(1, x.rounds - len(times))
            out += [
                _job(x, c, when.setting, due_s, says, f"{needs.year}:{len(times)}", left)
                for c in x.covered
            ]
    return out


def _sown_for(v: Look, year: int) -> dict[str, list[int]]:
    """When what was sown in a household year was sown, by the food or pick it was meant for."""
    begins = day_start_s(date(year, v.home.year_starts_month, 1), v.home.tz)
    out: dict[str, list[int]] = {}
    for s in v.session.exec(live(Sowing).where(Sowing.at_s >= begins).order_by(col(Sowing.at_s))):
        if s.meant_for:
            out.setdefault(s.meant_for, []).append(s.at_s)
    return {
        k: sorted({local_day(t, v.home.tz).toordinal(): t for t in x}.values())
        for k, x in out.items()
    }


def _when(x: ChainLine, kind: Kind, times: list[int], v: Look) -> Sown | None:
    """The next sowing: in its next window, or so many days after the one before."""
    first = sowing_of(kind, v.today, v.home)
    if not times or x.rounds < 2 or first is None:
        return first
    at_s = max(float(times[-1] + x.round_days * DAY_S), float(v.now_s))
    begun = local_day(times[-1], v.home.tz).year
    until = last_useful(kind, v.home, begun)
    if until is not None and local_day(at_s, v.home.tz) > until:
        return None  # it would no longer ripen
    return first._replace(at_s=at_s)


def _job(
    x: ChainLine, packet: Covered, setting: str, due_s: float, moved: str, turn: str, left: int
) -> Proposal:
    what = f"{packet.code} {packet.variety}".strip()
    seeds = ceil(packet.seeds / left)
    nth = f", sowing {x.rounds - left + 1} of {x.rounds}" if x.rounds > 1 else ""
    why = [moved, f"For {x.name}: {many(x.plants or 0, 'plant')}.", *x.sow[:2]]
    return Proposal(
        origin_key=f"sow:{x.key}:{packet.lot_id}:{turn}",
        kind=SOW,
        title=f"Sow {many(seeds, 'seed')} of {what} ({x.crop_name}) {setting}{nth}",
        why=" ".join(w for w in why if w),
        where="greenhouse" if setting == "indoors" else "garden",
        due_s=due_s,
        subject=f"lot:{packet.lot_id}",
        urgent=False,
        short=f"{what} ({x.crop_name}, {seeds})",
        seeds=seeds,
        setting=setting,
        held_up=moved,
    )
