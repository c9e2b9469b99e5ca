"""What counted sowings teach of emergence, kept for all readers (d_emergence, d_sowing)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session

from ...core.seed import worlds as wo
from ...core.seed.emerging import CountedSowings, Pairs, learn
from ...core.seed.shocks import shaken
from ...core.storage.moisture import Floats
from ..household.kinds import Kinds, figures
from .emergence import SowingSoFar, emergence_by_the_book
from .outlook import Ground
from .stale import settled_for

SETTINGS = ("indoors", "outdoors")
SLICES = 16
STEP_MEAN, STEP_WEIGHT = 0.01, 1.0  # so fine emergence is kept: less makes no list anew


def _germination(stand: Ground, told: Sequence[tuple[int, float]]) -> Floats:
    """Germination of rows at times [J, K] by tests and storage alone."""
    tests = stand.told.counts.lost == 0
    belief = shaken(
        stand.prior, stand.told.counts.of(tests), stand.told.when_s[tests], stand.told.shocks
    )
    a = np.array([stand.a_at(i, np.array([at_s]))[0] for i, at_s in told])
    rows = np.array([i for i, _ in told], dtype=np.intp)
    return wo.even(belief.rows(rows), a, SLICES)


@dataclass(frozen=True)
class Learnt:
    """As it is kept: mean, weight and number of sowings by kind and setting; of each sowing what the others
    let expect, and whether it failed."""

    pairs: dict[tuple[str, str], tuple[float, float, int]]
    sowings: dict[int, tuple[float, ...]]


def learnt_of(kinds: Kinds, sowings: Sequence[SowingSoFar], stand: Ground) -> Learnt:
    """What counted sowings say of emergence. ``stand``: the parts sown from."""
    if not sowings:
        return Learnt({}, {})
    at: dict[int, int] = {}
    for i, row in enumerate(stand.rows):
        for step in row.steps:
            at.setdefault(step.lot_id, i)
    known = [s for s in sowings if s.lot_id in at]
    keys = [(k, setting) for k in sorted(kinds.by_key) for setting in SETTINGS]
    number = {pair: i for i, pair in enumerate(keys)}
    book = np.array([emergence_by_the_book(kinds.get(k), setting) for k, setting in keys])
    f = figures()
    book = np.clip(book, 0.01, 0.99)
    pairs = Pairs(
        book,
        np.array([SETTINGS.index(setting) for _, setting in keys], dtype=np.intp),
        f.needs.emergence_beta_weight,
    )
    of = [stand.rows[at[s.lot_id]].kind for s in known]
    told = CountedSowings(
        np.array([number[k.key, s.setting] for k, s in zip(of, known, strict=True)], dtype=np.intp),
        np.array([float(s.n) for s in known]),
        np.array([float(s.up) for s in known]),
        _germination(stand, [(at[s.lot_id], s.at_s) for s in known]),
        np.array([s.could(k).nodes for k, s in zip(of, known, strict=True)]).reshape(-1, 3),
    )
    learnt = learn(pairs, told, f.emerging)
    counts = np.bincount(told.pair, minlength=len(keys))
    new = {}
    for i, pair in enumerate(keys):
        mean = round(round(learnt.pairs[i].mean / STEP_MEAN) * STEP_MEAN, 4)
        weight = round(learnt.pairs[i].weight / STEP_WEIGHT) * STEP_WEIGHT
        if counts[i] or abs(mean - book[i]) > STEP_MEAN:
            new[pair] = (mean, float(max(weight, 1.0)), int(counts[i]))
    found = {
        s.sowing_id: tuple(
            round(float(x[j]), 4) for x in (learnt.x_mean, learnt.x_sd, learnt.failed)
        )
        for j, s in enumerate(known)
    }
    return Learnt(new, found)


def _kept(session: Session) -> Learnt:
    run = session.connection().exec_driver_sql
    pairs = run("SELECT crop, setting, mean, weight, sowings FROM d_emergence")
    sowings = run("SELECT sowing_id, x_mean, x_sd, failed FROM d_sowing")
    return Learnt(
        {(str(r[0]), str(r[1])): (float(r[2]), float(r[3]), int(r[4])) for r in pairs},
        {int(r[0]): tuple(float(x) for x in r[1:]) for r in sowings},
    )


def differs(session: Session, new: Learnt) -> bool:
    """Whether it is other than what is kept."""
    return _kept(session) != new


def keep_emergence(session: Session, new: Learnt) -> None:
    """Keep what was learnt, and drop what lists show of kinds of which it says something else now, if that is
    by news; where only a day went by they are made anew anyhow."""
    by_news = not settled_for(session)
    run, before = session.connection().exec_driver_sql, _kept(session).pairs
    changed = {
        pair[0]
        for pair in before.keys() | new.pairs.keys()
        if before.get(pair) != new.pairs.get(pair)
    }
    if changed and by_news:
        run(
            "DELETE FROM d_glance WHERE lot_id IN (SELECT p.lot_id FROM part p JOIN cohort c "
            "ON c.id = p.cohort_id JOIN variety v ON v.id = c.variety_id WHERE v.crop IN "
            f"({', '.join('?' * len(changed))}))",
            tuple(sorted(changed)),
        )
    raw = session.connection().connection.cursor()
    raw.execute("DELETE FROM d_emergence")
    raw.execute("DELETE FROM d_sowing")
    raw.executemany(
        "INSERT INTO d_emergence (crop, setting, mean, weight, sowings) VALUES (?, ?, ?, ?, ?)",
        [(*pair, *values) for pair, values in new.pairs.items()],
    )
    raw.executemany(
        "INSERT INTO d_sowing (sowing_id, x_mean, x_sd, failed) VALUES (?, ?, ?, ?)",
        [(sowing, *values) for sowing, values in new.sowings.items()],
    )
    raw.close()
