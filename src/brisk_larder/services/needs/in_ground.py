"""Plants that this season's sowings have given or are to give: what is sown is not asked for again."""

from __future__ import annotations

from datetime import date

import numpy as np
from sqlmodel import col

from ...core.base.units import day_start_s
from ...core.needs.shares import InGround
from ...data.queries import key, live
from ...data.tables import Sowing
from ..air.look import Look
from ..forecast.emergence import counted_sowings, emergence
from ..forecast.kept_pieces import lots_of_pieces
from ..forecast.line_sowings import LINE
from ..forecast.outlook import Outlook
from ..household.planting_stock import piece_worth


def plants_in_ground(v: Look, outlook: Outlook, year: int) -> list[InGround]:
    """Sowings of a household year: those that came up when all were counted, else those expected (or those up
    already, if more)."""
    home = v.home
    since_s = day_start_s(date(year, home.year_starts_month, 1), home.tz)
    until_s = day_start_s(date(year + 1, home.year_starts_month, 1), home.tz)
    rows = {row.part.lot_id: i for i, row in enumerate(outlook.rows)}
    out = []
    pieces = lots_of_pieces(v.session)
    counted = {s.sowing_id: s.up for s in counted_sowings(v.session, v.now_s, pieces=True)}
    mine = live(Sowing).where(Sowing.at_s >= since_s, Sowing.at_s < until_s)
    for s in v.session.exec(mine.order_by(col(Sowing.id))):
        i, up = rows.get(s.lot_id), float(counted.get(key(s), 0))
        if i is None or s.meant_for.startswith(LINE):
            continue  # what grows for its seed is not for the table
        kind = outlook.rows[i].kind
        if s.lot_id in pieces:
            hoped = s.n * piece_worth().mean
        else:
            living = float(outlook.g_at(i, np.array([float(s.at_s)]))[0].mean())
            hoped = s.n * living * emergence(kind, s.setting)
        plants = up if s.settled_s is not None else max(up, hoped)
        out.append(InGround(s.lot_id, kind.key, s.meant_for, plants))
    return out
