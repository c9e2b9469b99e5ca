"""Tests as evidence: the latest cumulative count of each test, and how much it can say yet."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from sqlmodel import Session, col

from ...core.base.units import DAY_S
from ...core.trials.setting_up import before, reads_low
from ...core.trials.when_to_test import WHOLE, Ceiling, Tally, as_at_its_best, ceiling, rho_of
from ...data.queries import key, live
from ...data.tables import Trial, TrialCount
from ..household.kinds import Kind, figures

SIZE_UNKNOWN = "of how many nobody wrote"  # a test of which only a germination was written down


def days_in_warmth(trial: Trial, at_s: float) -> float:
    """Days of a test at a time, from when it was put into its warmth."""
    return max(0.0, (at_s - trial.sown_s) / DAY_S - trial.cold_days)


@dataclass(frozen=True)
class TestSoFar:
    """A test with its latest count (None: nothing counted yet)."""

    trial: Trial
    count: TrialCount | None

    @property
    def viable(self) -> int:
        """What counts as alive."""
        return self.tally.viable

    @property
    def tally(self) -> Tally:
        """The latest count."""
        c = self.count
        if c is None:
            return Tally()
        return Tally(c.normal, c.abnormal, c.mouldy, c.hard, c.fresh, c.empty, c.gone)

    @property
    def n(self) -> int:
        """Seeds that can still tell something: sown less those that went missing."""
        return self.trial.n - self.tally.gone

    @property
    def waiting(self) -> int:
        """Seeds of which nothing is said yet."""
        c = self.tally
        told = c.normal + c.abnormal + c.mouldy + c.hard + c.fresh + c.empty + c.gone
        return max(0, self.trial.n - told)

    def rho(self, kind: Kind) -> float:
        """Overdispersion of such a test."""
        f, crop, medium = figures(), kind.crop, self.trial.medium
        low = reads_low(medium, crop.light, before(crop.pretreatment, f.bench))
        return rho_of(self.trial.flaws, medium, low, f.belief)

    def day(self) -> float:
        """Days in its warmth up to the latest count: those in the cold first do not count."""
        return 0.0 if self.count is None else days_in_warmth(self.trial, self.count.at_s)

    def ceiling(self, kind: Kind) -> Ceiling:
        """Share of the living seed that could be counted by then; the whole once its last count day has
        passed and it was closed. Of a test that was only written down nobody knows the days."""
        crop, f = kind.crop, figures().trials
        if self.trial.flaws.startswith(SIZE_UNKNOWN) or not self.waiting:
            return WHOLE
        day = as_at_its_best(
            self.day(),
            self.trial.temperature_c,
            crop.germ_temp_min_c,
            crop.germ_temp_opt_c.low,
            f,
        )
        closed = self.trial.closed_s is not None
        return ceiling(closed, day, crop.first_count_days, crop.final_count_days, f)


def trial_counts(
    session: Session, lot_ids: Iterable[int], now_s: int
) -> dict[int, list[TestSoFar]]:
    """All counted tests of some lots up to now, by lot, in order of sowing."""
    out: dict[int, list[TestSoFar]] = {}
    for test in all_tests(session, lot_ids, now_s):
        if test.count is not None:
            out.setdefault(test.trial.lot_id, []).append(test)
    return out


def all_tests(session: Session, lot_ids: Iterable[int], now_s: int) -> list[TestSoFar]:
    """All tests of some lots, counted or not, in order of sowing."""
    trials = session.exec(
        live(Trial)
        .where(col(Trial.lot_id).in_(list(lot_ids)), Trial.sown_s <= now_s)
        .order_by(col(Trial.sown_s), col(Trial.id))
    ).all()
    latest: dict[int, TrialCount] = {}
    query = (
        live(TrialCount)
        .where(col(TrialCount.trial_id).in_([t.id for t in trials]))
        .order_by(col(TrialCount.at_s), col(TrialCount.id))
    )
    for count in session.exec(query):
        latest[count.trial_id] = count
    return [TestSoFar(t, latest.get(key(t))) for t in trials]
