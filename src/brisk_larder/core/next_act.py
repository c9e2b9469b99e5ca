"""What the keeper would do next with a lot: decided once, here; every list shows it."""

from __future__ import annotations

from dataclasses import dataclass

from .figures import GrowingFigures
from .units import DAY_S


@dataclass(frozen=True)
class LotNow:
    """What the next act hangs on. Dates epoch s; ``year``: this calendar year; ``good_until_s`` None
    with ``beyond``: longer than is told."""

    test_running: bool
    seeds_known: bool
    seeds: float
    regrow_asked: bool
    last_safe_year: int | None
    test_due_s: float | None
    advice: str
    good_until_s: float | None
    beyond: bool


@dataclass(frozen=True)
class NextAct:
    """Code for words, code for the list, urgency from 0 (calm) to 3."""

    code: str
    group: str
    urgency: int


def next_act(lot: LotNow, now_s: float, year: int, f: GrowingFigures) -> NextAct:
    """A running test first, then nothing left, a line that runs out, a test that is due, poor seed;
    else until when it is good."""
    if lot.test_running:
        return NextAct("running", "running", 2)
    if lot.seeds_known and lot.seeds < 1:
        return NextAct("empty", "empty", 0)
    if lot.regrow_asked and lot.last_safe_year is None:
        return NextAct("regrow_unsafe", "regrow", 3)
    if lot.regrow_asked and (lot.last_safe_year or 0) <= year + f.regrow_soon_years:
        return NextAct("regrow", "regrow", 3)
    if lot.test_due_s is not None:
        soon = lot.test_due_s < now_s + f.test_soon_days * DAY_S
        return NextAct("test", "test", 2 if soon else 1)
    if lot.advice == "certainly_poor":
        return NextAct("poor", "poor", 2)
    if lot.beyond:
        return NextAct("good_beyond", "good", 0)
    if lot.good_until_s is None:
        return NextAct("none", "none", 0)
    if lot.good_until_s < now_s:
        return NextAct("below", "poor", 2)
    return NextAct("good", "good", 0)
