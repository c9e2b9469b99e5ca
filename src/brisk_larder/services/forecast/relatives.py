"""What tests of relatives say of each part: reckoned over the whole stock once a day and after each change of
evidence, kept as one small row a part (d_kin), which every forecast reads."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray
from sqlmodel import Session

from ...core.base.units import month_start_s
from ...core.seed import belief as be
from ...core.seed import pooling as po
from ...core.seed.worlds import Ranks
from ...core.storage.moisture import Floats
from ...data.store import Store
from ..household.kinds import figures
from .parts import PartRecord
from .stale import SETTLED, settled_for

STEP = 0.002  # d is kept so fine: half a point of germination at most, so that nothing jumps for its sake
STEP_SHARED = 0.01
LEAST_SD = 0.02


@dataclass(frozen=True)
class Near:
    """What relatives say of parts [L]: mean and sd of d before their own cohort's tests, the share of its
    doubt that each shares, the sd of its record that is in it, and its forecast's sources as sums of
    d: of the household, the kind, the places and the mother line [L, 4]."""

    d_mean: Floats
    d_sd: Floats
    shared: Floats
    record_sd: Floats
    because: Floats


def _round(values: Floats, step: float) -> Floats:
    return np.round(np.round(values / step) * step, 6)


def lines_of(rows: Sequence[PartRecord], mothers: dict[int, int]) -> list[int]:
    """The first known ancestor of each row's cohort: seed of one mother line shares it."""
    out = []
    for row in rows:
        at, seen = row.cohort.id, set[int]()
        while at in mothers and at not in seen:
            seen.add(at)
            at = mothers[at]
        out.append(at)
    return out


def _aged_in(
    session: Session, rows: Sequence[PartRecord], now_s: float
) -> dict[int, dict[int, float]]:
    """Ageing of each part by node, whole months only; none that lie ahead of a clock that was set back."""
    listed = ", ".join(str(r.part_id) for r in rows) or "0"
    out: dict[int, dict[int, float]] = {}
    for part, node, a in session.connection().exec_driver_sql(
        "SELECT part_id, node_id, sum(a_probit) FROM d_leg "
        f"WHERE part_id IN ({listed}) AND month_s < {month_start_s(now_s)} GROUP BY part_id, node_id"
    ):
        out.setdefault(int(part), {})[int(node)] = float(a)
    return out


def kin_of(session: Session, rows: Sequence[PartRecord], record_sd: Floats, now_s: float) -> po.Kin:
    """Whose relative each row is; ``record_sd`` [L]: the doubt of log10 sigma by its record."""
    mothers = {
        int(r[0]): int(r[1])
        for r in session.connection().exec_driver_sql(
            "SELECT id, mother_cohort_id FROM cohort "
            "WHERE mother_cohort_id IS NOT NULL AND deleted_s IS NULL"
        )
    }
    lines = lines_of(rows, mothers)
    # a line of one cohort shares nothing with anyone: its variance is its own
    named = sorted(
        {
            line
            for row, line in zip(rows, lines, strict=True)
            if row.cohort.id in mothers or line != row.cohort.id or line in set(mothers.values())
        }
    )
    crops = sorted({row.kind.key for row in rows})
    aged = _aged_in(session, rows, now_s)
    spent: list[dict[int, float]] = []
    for row in rows:
        # what is new stands for where it lies; a packet just moved has its past where it was
        spent.append(aged.get(row.part_id) or {row.legs[-1].node: 1.0})
    nodes = sorted({node for mine in spent for node in mine})
    column = {node: j for j, node in enumerate(nodes)}
    share = np.zeros((len(rows), len(nodes)))
    for i, mine in enumerate(spent):
        for node, a in mine.items():
            share[i, column[node]] = a
    share /= np.maximum(share.sum(axis=1, keepdims=True), 1e-12)
    line_ix, crop_ix = {x: j for j, x in enumerate(named)}, {x: j for j, x in enumerate(crops)}
    return po.Kin(
        crop=np.array([crop_ix[row.kind.key] for row in rows], dtype=np.intp),
        mother=np.array([line_ix.get(line, -1) for line in lines], dtype=np.intp),
        node_share=share,
        book_sd=np.array([row.kind.sd_log10_sigma for row in rows], dtype=float),
        record_sd=record_sd,
        crops=[f"crop:{x}" for x in crops],
        nodes=[f"node:{x}" for x in nodes],
        mothers=[f"line:{x}" for x in named],
    )


@lru_cache(maxsize=20_000)
def _like(prior: tuple[float, ...], counts: tuple[bytes, ...]) -> Floats:
    """What one cohort's tests say of its d, by their values: after a test only one cohort's are new."""
    a, n, k, ceiling, rho, weight, lost = (np.frombuffer(c) for c in counts)
    row = np.zeros(len(a), dtype=np.intp)
    told = be.Counts(row, a, n, k, ceiling.reshape(-1, 3), rho, weight, lost)
    return np.asarray(be.sites(be.Prior(*(np.array([x]) for x in prior)), told).like[0])


def sites_of(prior: be.Prior, counts: be.Counts, rows: Sequence[PartRecord]) -> po.Sites:
    """What the tests of each cohort say, once for each cohort, by its first part that they teach."""
    first: dict[int, int] = {}
    for i in np.unique(counts.row):
        first.setdefault(rows[int(i)].part.cohort_id, int(i))
    leads = np.array(sorted(first.values()), dtype=np.intp)
    like = []
    for i in leads:
        mine = counts.of(counts.row == i)
        one = prior.rows(np.array([i]))
        # the prior of d has no part in what the tests say of it
        lives = (one.living[0], one.living_sd[0], one.dud[0])
        values = (one.ki_mean[0], one.ki_sd[0], 0.0, 1.0, *lives)
        columns = (mine.a, mine.n, mine.k, mine.ceiling, mine.rho, mine.weight, mine.lost)
        packed = tuple(np.ascontiguousarray(c, dtype=float).tobytes() for c in columns)
        like.append(_like(tuple(float(v) for v in values), packed))
    empty = np.empty((0, len(be.D_GRID)))
    steepest = figures().belief.loudest_per_log10
    said = po.held_back(np.array(like), be.D_GRID, steepest) if like else empty
    return po.Sites(leads, be.D_GRID, said)


def cohorts_of(rows: Sequence[PartRecord]) -> NDArray[np.intp]:
    """The cohort of each row."""
    return np.array([row.part.cohort_id for row in rows], dtype=np.intp)


# where the last fit of each open file ended, for the next to set out from: only a matter of time, so it is
# not kept in the file
_LAST: WeakKeyDictionary[Store, po.Fitted] = WeakKeyDictionary()


def reckon(store: Store, kin: po.Kin, sites: po.Sites, rows: Sequence[PartRecord]) -> Near:
    """What relatives say of each row, as it is kept."""
    found = po.relatives(kin, sites, cohorts_of(rows), last=_LAST.get(store))
    _LAST[store] = found.fitted
    return Near(
        _round(found.d_mean, STEP),
        np.maximum(_round(found.d_sd, STEP), LEAST_SD),
        _round(found.shared, STEP_SHARED),
        np.round(kin.record_sd, 6),
        _round(found.because, STEP),
    )


_COLUMNS = "d_mean, d_sd, shared, record_sd, by_house, by_kind, by_place, by_line"  # as in ``Near``


def by_part(rows: Sequence[PartRecord], near: Near) -> dict[int, tuple[float, ...]]:
    """As it is kept: the columns of ``Near`` by part."""
    return {
        row.part_id: (
            *(float(x[i]) for x in (near.d_mean, near.d_sd, near.shared, near.record_sd)),
            *(float(x) for x in near.because[i]),
        )
        for i, row in enumerate(rows)
    }


def keep(session: Session, new: dict[int, tuple[float, ...]], day: str) -> None:
    """Write what relatives say (as ``by_part``), and drop what lists show of the lots of which they say
    something else now. Where nothing was found out and only a day went by it is made anew anyhow, and what
    was told before is not forgotten."""
    by_news = not settled_for(session)
    run = session.connection().exec_driver_sql
    known = {int(r[0]): tuple(r[1:]) for r in run(f"SELECT part_id, {_COLUMNS} FROM d_kin")}
    changed = [p for p, values in new.items() if known.get(p) != values]
    gone = [p for p in known if p not in new]
    if changed and by_news:
        listed = ", ".join(map(str, changed))
        # bags, and packets of a line that is kept, are of one piece with these
        run(
            "DELETE FROM d_glance WHERE lot_id IN (SELECT p.lot_id FROM part p JOIN cohort c "
            "ON c.id = p.cohort_id WHERE c.variety_id IN (SELECT c2.variety_id FROM cohort c2 "
            f"JOIN part p2 ON p2.cohort_id = c2.id WHERE p2.id IN ({listed})))"
        )
    raw = session.connection().connection.cursor()
    raw.executemany("DELETE FROM d_kin WHERE part_id = ?", [(p,) for p in (*gone, *changed)])
    raw.executemany(
        f"INSERT INTO d_kin (part_id, {_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [(p, *new[p]) for p in changed],
    )
    raw.execute(
        "INSERT INTO meta (key, value) VALUES (?, ?) "
        "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (SETTLED, day),
    )
    raw.close()


def near(session: Session, part_ids: Iterable[int]) -> dict[int, tuple[float, ...]]:
    """What is kept of some parts: the columns of ``Near`` by part."""
    listed = ", ".join(map(str, part_ids)) or "0"
    return {
        int(r[0]): tuple(float(x) for x in r[1:])
        for r in session.connection().exec_driver_sql(
            f"SELECT part_id, {_COLUMNS} FROM d_kin WHERE part_id IN ({listed})"
        )
    }


def told_by_kin(
    session: Session,
    rows: Sequence[PartRecord],
    prior: be.Prior,
    record_sd: Floats,
    now_s: float,
) -> tuple[be.Prior, Ranks, Floats]:
    """The prior of parts with what their relatives say of d, the order of their worlds, and what holds of new
    seed of their kinds in this house: how much longer it keeps than by the book (log10) [L].

    ``record_sd`` [L]: the doubt of each record now; of a part of which nothing is kept the book speaks.
    """
    kept = near(session, [row.part_id for row in rows])
    mean, sd = prior.d_mean.copy(), prior.d_sd.copy()
    shared, of_kind = np.full(len(rows), np.nan), np.zeros(len(rows))
    for i, row in enumerate(rows):
        if row.part_id in kept:
            d_mean, d_sd, part, record = kept[row.part_id][:4]
            mean[i], shared[i] = d_mean, part
            of_kind[i] = sum(kept[row.part_id][4:6])
            sd[i] = np.sqrt(max(d_sd**2 - record**2 + record_sd[i] ** 2, LEAST_SD**2))
    kin = kin_of(session, rows, record_sd, now_s)
    cohorts = [f"cohort:{row.part.cohort_id}" for row in rows]
    order = po.together(kin, np.nan_to_num(shared), cohorts)
    told = replace(prior, d_mean=mean, d_sd=sd)
    return told, order, of_kind
