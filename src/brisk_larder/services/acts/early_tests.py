"""Tests that were made before: written into the file with their count, over on a day."""

from __future__ import annotations

from sqlmodel import Session, select

from ...core.base.units import DAY_S
from ...core.hand.told_tests import Tested
from ...data.queries import key
from ...data.tables import Trial, TrialCount
from ..forecast.counts import SIZE_UNKNOWN
from ..household.kinds import Kind, figures

DAY_UNKNOWN = "when nobody wrote"


def next_trial_code(session: Session) -> str:
    """The next free number on the bench."""
    codes = {t.code for t in session.exec(select(Trial))}
    return f"T-{next(i for i in range(1, 100_000) if f'T-{i}' not in codes)}"


def closed_trial(
    session: Session,
    lot_id: int,
    sown_s: int,
    closed_s: int,
    n: int,
    up: int,
    medium: str = "paper",
    temperature_c: float = 20.0,
) -> Trial:
    """A test with its one count, over on a day."""
    trial = Trial(
        code=next_trial_code(session),
        lot_id=lot_id,
        sown_s=sown_s,
        n=n,
        medium=medium,
        temperature_c=temperature_c,
        closed_s=closed_s,
    )
    session.add(trial)
    session.flush()
    session.add(TrialCount(trial_id=key(trial), at_s=closed_s, normal=up))
    return trial


def note_told(
    session: Session,
    lot_id: int,
    said: Tested,
    when_s: int | None,
    from_s: int,
    now_s: int,
    kind: Kind,
) -> Trial:
    """Write down a test that somebody told of. Without a day it is taken half way between the start of the
    record and now, and counts less; without a number of seeds as a usual one of unknown size."""
    f = figures()
    closed = when_s if when_s is not None else (from_s + now_s) // 2
    n = said.n if said.n is not None else int(f.trials.unknown_size_seeds)
    days = kind.crop.final_count_days if said.n is not None and when_s is not None else 0.0
    sown = max(closed - int(days * DAY_S), min(from_s, closed))
    trial = closed_trial(session, lot_id, sown, closed, n, round(said.share * n))
    flaws = [SIZE_UNKNOWN] * (said.n is None) + [DAY_UNKNOWN] * (when_s is None)
    trial.flaws = ", ".join(flaws)
    trial.weight = f.belief.early_test_weight if when_s is None else 1.0
    session.add(trial)
    return trial
