"""Bringing derived values up to date, and the outlook of the whole stock that rooms share."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress

import numpy as np
from sqlmodel import Session

from ...core.base.errors import CannotWrite
from ...core.base.units import month_start_s
from ...core.seed.pooling import Kin, Sites, relatives
from ...data.tables import Household
from ..air.look import Look, looking_at
from ..household.larder import Larder, remembered
from ..household.lineage import kin as of_one_seed
from .emergence import counted_sowings
from .from_soil import differs, keep_emergence, learnt_of
from .outlook import Outlook, always_doubted, ground, outlook
from .parts import PartRecord, load_rows
from .rebuild import bring_up, states_at
from .relatives import by_part, cohorts_of, keep, kin_of, reckon, sites_of
from .stale import settled_for
from .tracks import tracks


def bring_up_to_date(larder: Larder, lot_ids: Iterable[int] | None = None) -> None:
    """Rebuild what is marked or not yet reached; every reader of derived values calls it first.

    ``lot_ids``: only the ageing of these lots (None: all). Where the file cannot be written, the marks stay
    and readers carry on from the last good month themselves (``outlook.states_now``), with what relatives
    said last.
    """
    with suppress(CannotWrite):  # the store keeps the reason, and the page shows it
        bring_up(larder, lot_ids)
        _settle(larder)


def _last_act(session: Session) -> int:
    return int(session.connection().exec_driver_sql("SELECT max(rowid) FROM act").scalar() or 0)


def _settle(larder: Larder) -> None:
    """What relatives say, once for each day and after each change of evidence."""
    with looking_at(larder) as v:
        if v.session.get(Household, 1) is None or settled_for(v.session) == v.today.isoformat():
            return
    bring_up(larder, None)
    _settle_emergence(larder)
    with looking_at(larder) as v:
        seen, day = _last_act(v.session), v.today.isoformat()
        rows, kin, sites = _kin(v)
        new = by_part(rows, reckon(larder.store, kin, sites, rows))
    with larder.store.keep() as session:
        if _last_act(session) == seen:  # else an act brought news: the next reader sees to it
            keep(session, new, day)


def _settle_emergence(larder: Larder) -> None:
    """What counted sowings say of emergence, before they are read as news of their seed."""
    with looking_at(larder) as v:
        seen, sowings = _last_act(v.session), counted_sowings(v.session, v.now_s)
        rows: list[PartRecord] = []
        if sowings:
            lots = of_one_seed(v.session, {s.lot_id for s in sowings})
            rows = load_rows(v.session, v.air, v.kinds, lots)
        learnt = learnt_of(v.kinds, sowings, ground(v.session, v.air, v.kinds, rows))
        if not differs(v.session, learnt):
            return
    with larder.store.keep() as session:
        if _last_act(session) == seen:
            keep_emergence(session, learnt)


def _kin(v: Look) -> tuple[list[PartRecord], Kin, Sites]:
    """All parts, whose relatives they are, and what their tests say."""
    rows = load_rows(v.session, v.air, v.kinds)
    found = tracks(v.session, (r.part_id for r in rows), month_start_s(v.now_s))
    state = states_at(rows, {part: track.state for part, track in found.items()})
    record = np.hypot(state.sd_log10_a, always_doubted(v.air, v.kinds, rows, state))
    return rows, kin_of(v.session, rows, record, v.now_s), _sites(v, rows)


@remembered
def what_relatives_say(larder: Larder) -> dict[str, tuple[float, float]]:
    """log10 of how much longer than by the book each tested kind keeps in this house: mean and sd."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        rows, kin, sites = _kin(v)
    if not len(sites.row):
        return {}
    found = relatives(kin, sites, cohorts_of(rows))
    tested = sorted({int(kin.crop[i]) for i in sites.row})
    return {
        kin.crops[c].removeprefix("crop:"): (float(found.crop_mean[c]), float(found.crop_sd[c]))
        for c in tested
    }


def _sites(v: Look, rows: list[PartRecord]) -> Sites:
    """What the tests of each cohort say; only of those that were tested the present is reckoned."""
    run = v.session.connection().exec_driver_sql
    tested = {
        int(r[0])
        for r in run(
            "SELECT part.cohort_id FROM part JOIN trial ON trial.lot_id = part.lot_id "
            "WHERE trial.deleted_s IS NULL UNION "
            "SELECT part.cohort_id FROM part JOIN sowing ON sowing.lot_id = part.lot_id JOIN "
            "sowing_count ON sowing_count.sowing_id = sowing.id "
            "WHERE sowing.deleted_s IS NULL AND sowing_count.deleted_s IS NULL"
        )
    }
    index = [i for i, row in enumerate(rows) if row.part.cohort_id in tested]
    some = [rows[i] for i in index]
    stand = ground(v.session, v.air, v.kinds, some)
    told = stand.told
    # what was damaged tells of its damage more than of its kind
    first = np.array([
        told.shocks[int(i)][0].at_s if int(i) in told.shocks else np.inf for i in told.counts.row
    ])  # fmt: skip
    found = sites_of(stand.prior, told.counts.of(told.when_s < first), some)
    return Sites(np.array([index[i] for i in found.row], dtype=np.intp), found.d, found.like)


@remembered
def whole_outlook(larder: Larder) -> Outlook:
    """The outlook of all lots, made once until the file changes."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        return outlook(v.session, v.air, v.kinds)
