"""What teaches the belief of a part: tests, counted sowings, stated germination, damage."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from sqlmodel import Session

from ...core.seed import belief as be
from ...core.seed.mixture import BagTest
from ...core.seed.shocks import Shock, shock_of
from ...core.storage.moisture import Floats
from ...core.trials.when_to_test import weight_of
from ..household.kinds import Kind, figures
from .counts import TestSoFar, trial_counts
from .emergence import SowingSoFar, counted_sowings
from .parts import PartRecord

Nodes = tuple[float, float, float]


class Tracks(Protocol):
    """What evidence needs of an outlook: its rows and their ageing."""

    @property
    def rows(self) -> list[PartRecord]:
        """One per part."""
        ...

    def a_at(self, i: int, dates_s: Floats) -> Floats:
        """A of row i at dates."""
        ...


@dataclass(frozen=True)
class MixedTest:
    """A test of a bag of several parts."""

    lot_id: int
    at_s: float
    told: BagTest


@dataclass(frozen=True)
class Evidence:
    """What is told of some rows: counts with when each was sown (-inf: stated), tests of bags, damage by
    row."""

    counts: be.Counts
    when_s: Floats
    mixed: list[MixedTest]
    shocks: dict[int, list[Shock]]


def shocks_of(session: Session, rows: list[PartRecord]) -> dict[int, list[Shock]]:
    """Shocks of each row by the events of the lots it lay in, in time order."""
    lots = {step.lot_id for row in rows for step in row.steps}
    listed = ", ".join(str(lot) for lot in lots) or "0"
    found = session.connection().exec_driver_sql(
        "SELECT lot_id, at_s, kind FROM lot_event WHERE deleted_s IS NULL "
        f"AND lot_id IN ({listed}) ORDER BY at_s, id"
    )
    by_lot: dict[int, list[Shock]] = {}
    for lot, at, kind in found:
        shock = shock_of(kind, float(at), figures().belief)
        if shock is not None:
            by_lot.setdefault(lot, []).append(shock)
    out: dict[int, list[Shock]] = {}
    for i, row in enumerate(rows) if by_lot else ():
        mine = [
            shock
            for step in row.steps
            for shock in by_lot.get(step.lot_id, [])
            if (shock.at_s >= step.from_s and (step.to_s is None or shock.at_s < step.to_s))
            or (step is row.steps[0] and shock.at_s < step.from_s)
        ]
        if mine:
            out[i] = sorted(mine, key=lambda s: s.at_s)
    return out


def _seed_at(rows: list[PartRecord]) -> Callable[[int, float], list[int]]:
    """Which rows' seed lay in a lot at a time (their own lot, or one in their past)."""
    places: dict[int, list[tuple[float, float, int]]] = {}
    for i, row in enumerate(rows):
        for step in row.steps:
            begin = -np.inf if step is row.steps[0] else float(step.from_s)
            end = np.inf if step.to_s is None else float(step.to_s)
            places.setdefault(step.lot_id, []).append((begin, end, i))

    def lying(lot: int, at_s: float) -> list[int]:
        return [i for begin, end, i in places.get(lot, []) if begin <= at_s < end]

    return lying


@dataclass(frozen=True)
class _Said:
    """A test or a counted sowing: when it was sown, n, k, nodes of what could be up and overdispersion by
    kind, how much it says, and its own reckoning of ageing (None: that of its seed)."""

    at_s: float
    n: float
    k: float
    nodes: Callable[[Kind], tuple[float, float, float]]
    rho: Callable[[Kind], float]
    weight: float
    lost: float
    a_probit: float | None


def _said(session: Session, lots: set[int], now_s: int) -> list[tuple[int, _Said]]:
    """All tests and counted sowings of some lots."""
    out = list[tuple[int, _Said]]()
    for lot, tests in trial_counts(session, lots, now_s).items():
        for test in tests:
            out.append((lot, _by_test(test)))
    for sowing in counted_sowings(session, now_s, lots):
        out.append((sowing.lot_id, _by_sowing(sowing)))
    return out


def _by_test(test: TestSoFar) -> _Said:
    return _Said(
        float(test.trial.sown_s),
        test.n,
        test.viable,
        lambda kind: test.ceiling(kind).nodes,
        test.rho,
        test.trial.weight,
        0.0,
        test.trial.a_probit,
    )


def _by_sowing(sowing: SowingSoFar) -> _Said:
    f = figures().emerging
    return _Said(
        sowing.at_s,
        sowing.n,
        sowing.up,
        sowing.nodes,
        lambda kind: f.sowing_rho,
        1.0,
        f.lost,
        None,
    )


def evidence(
    session: Session, look: Tracks, shocks: dict[int, list[Shock]], now_s: int
) -> Evidence:
    """Tests and counted sowings as evidence.

    A test teaches every row of the same cohort, at the ageing of the seed that was tested: rows
    that lay in that lot then by their own record, their relatives by that of the tested one,
    unless it had been damaged first. So does a sowing, with all that its emergence may have been.
    """
    f, rows = figures().belief, look.rows
    lots = {step.lot_id for row in rows for step in row.steps}
    lying = _seed_at(rows)
    same: dict[int, list[int]] = {}
    for i, row in enumerate(rows):
        same.setdefault(row.part.cohort_id, []).append(i)
    entries: list[tuple[int, float, float, float, Nodes, float, float, float]] = []
    when: list[float] = []
    mixed: list[MixedTest] = []
    for lot, told in _said(session, lots, now_s):
        there = lying(lot, told.at_s)
        cohorts = {rows[i].part.cohort_id for i in there}
        if len(cohorts) > 1:
            mixed.append(_mixed(lot, told, rows[there[0]]))
            continue
        for cohort in cohorts:
            damaged = any(s.at_s <= told.at_s for i in there for s in shocks.get(i, []))
            learners = there if damaged else same[cohort]
            a_there = _a(look, there[0], told)
            for i in learners:
                a = _a(look, i, told) if i in there else a_there
                early = told.a_probit is None and told.at_s < rows[i].start_s
                weight = weight_of(told.weight, early, f)
                kind = rows[i].kind
                entries.append(
                    (
                        i,
                        a,
                        told.n,
                        told.k,
                        told.nodes(kind),
                        told.rho(kind),
                        weight,
                        told.lost,
                    )
                )
                when.append(told.at_s)
    if not entries:
        return Evidence(be.Counts.none(), np.empty(0), mixed, shocks)
    whose, *columns = zip(*entries, strict=True)
    counts = be.Counts(np.array(whose, dtype=np.intp), *(np.array(x, dtype=float) for x in columns))
    return Evidence(counts, np.array(when), mixed, shocks)


def _a(look: Tracks, i: int, told: _Said) -> float:
    if told.a_probit is not None:  # made before it came here, with its own reckoning
        return told.a_probit
    before = told.at_s < look.rows[i].start_s
    return 0.0 if before else float(look.a_at(i, np.array([told.at_s]))[0])


def _mixed(lot: int, told: _Said, row: PartRecord) -> MixedTest:
    nodes = told.nodes(row.kind)
    bag = BagTest(float(told.n), float(told.k), nodes, told.rho(row.kind), told.weight, told.lost)
    return MixedTest(lot, told.at_s, bag)
