"""Plants that this season's sowings have given or are to give: what is sown is not asked for again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

import numpy as np
from sqlmodel import col

from ...core.cover import Demand
from ...core.units import day_start_s
from ...data.queries import key, live
from ...data.tables import Sowing
from ..air.look import Look
from ..forecast.emergence import counted_sowings, emergence
from ..forecast.outlook import Outlook


def plants_in_ground(v: Look, outlook: Outlook, year: int) -> dict[int, tuple[str, float]]:
    """By lot its kind and the plants of its sowings of a household year: those that were counted when all
    were up, else those expected (or those up already, if more)."""
    home = v.home
    since_s = day_start_s(date(year, home.year_starts_month, 1), home.tz)
    until_s = day_start_s(date(year + 1, home.year_starts_month, 1), home.tz)
    rows = {row.part.lot_id: i for i, row in enumerate(outlook.rows)}
    out: dict[int, tuple[str, float]] = {}
    counted = {s.sowing_id: s.up for s in counted_sowings(v.session, v.now_s)}
    mine = live(Sowing).where(Sowing.at_s >= since_s, Sowing.at_s < until_s)
    for s in v.session.exec(mine.order_by(col(Sowing.id))):
        i, up = rows.get(s.lot_id), float(counted.get(key(s), 0))
        if i is None:
            continue
        kind = outlook.rows[i].kind
        living = float(outlook.g_at(i, np.array([float(s.at_s)]))[0].mean())
        hoped = s.n * living * emergence(kind, s.setting)
        plants = up if s.settled_s is not None else max(up, hoped)
        out[s.lot_id] = (kind.key, out.get(s.lot_id, ("", 0.0))[1] + plants)
    return out


def less_what_is_sown(
    demands: Sequence[Demand], ground: dict[int, tuple[str, float]]
) -> tuple[list[Demand], dict[str, int]]:
    """Demands less the plants in the ground, earlier ones first; and the plants of each that are."""
    left = {lot: plants for lot, (_, plants) in ground.items()}
    out, sown = [], dict[str, int]()
    for d in demands:
        missing = float(d.plants)
        for lot, (crop, _) in ground.items():
            if d.takes(lot, crop) and missing > 0:
                took = min(left[lot], missing)
                left[lot] -= took
                missing -= took
        whole = d.plants - int(np.ceil(missing - 1e-9))
        if whole:
            sown[d.key] = whole
        out.append(replace(d, plants=d.plants - whole))
    return out, sown
