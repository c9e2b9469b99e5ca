"""Sowings as jobs: what the plan sows, from which packet, when; outdoors moved off frost that is forecast."""

from __future__ import annotations

from ...core.units import DAY_S, day_start_s, local_day
from ..air.look import looking_at
from ..forecast.sowing import sowing_of
from ..household.kinds import figures
from ..household.larder import Larder
from ..household.wording import many
from ..needs.lines import ChainLine, NeedsRoom
from .this_years_list import Proposal
from .weather import moved_off_frost

SOW = "sow"


def sow_jobs(larder: Larder, needs: NeedsRoom) -> list[Proposal]:
    """What is covered and sown within the next weeks, one job a packet."""
    soon_s = larder.now_s() + figures().growing.sow_soon_days * DAY_S
    out = []
    with looking_at(larder) as v:
        for x in needs.lines:
            kind = v.kinds.get(x.crop)
            sowing = sowing_of(kind, v.today, v.home) if x.covered and not x.short_plants else None
            if sowing is None or sowing.at_s > soon_s:
                continue
            day, says = local_day(sowing.at_s, v.home.tz), ""
            if sowing.setting == "outdoors":
                day, says = moved_off_frost(kind, max(day, v.today), v)
            due_s = float(day_start_s(max(day, v.today), v.home.tz))
            out += [
                _job(x, i, sowing.setting, due_s, says, needs.year) for i in range(len(x.covered))
            ]
    return out


def _job(x: ChainLine, i: int, setting: str, due_s: float, moved: str, year: int) -> Proposal:
    packet = x.covered[i]
    what = f"{packet.code} {packet.variety}".strip()
    why = [moved, f"For {x.name}: {many(x.plants or 0, 'plant')}.", *x.sow[:2]]
    return Proposal(
        origin_key=f"sow:{x.key}:{packet.lot_id}:{year}",
        kind=SOW,
        title=f"Sow {many(packet.seeds, 'seed')} of {what} ({x.crop_name}) {setting}",
        why=" ".join(w for w in why if w),
        where="greenhouse" if setting == "indoors" else "garden",
        due_s=due_s,
        subject=f"lot:{packet.lot_id}",
        urgent=False,
        short=f"{what} ({x.crop_name}, {packet.seeds})",
        seeds=packet.seeds,
        setting=setting,
        held_up=moved,
    )
