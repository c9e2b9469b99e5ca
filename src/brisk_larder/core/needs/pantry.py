"""What stands on the shelf: a ledger of one product, how fast it goes, how old the oldest of it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..base.figures_planning import PantryFigures
from ..base.units import DAY_S
from .seed_needed import on_the_shelf

GONE = ("opened", "given", "spoiled")
WEEK_S = 7 * DAY_S


@dataclass(frozen=True)
class Entry:
    """One entry: when, kind (counted, put_up, opened, given, spoiled), units."""

    at_s: float
    kind: str
    units: float


@dataclass(frozen=True)
class Shelf:
    """What is on the shelf, units put up and gone since a moment, the pace (units a week, None: too little is
    known), when it ends at this pace, and when the oldest of it was put up (None: not said)."""

    units: float
    put_up: float
    gone: float
    spoiled: float
    pace: float | None
    ends_s: float | None
    oldest_s: float | None


def shelf(entries: Sequence[Entry], since_s: float, now_s: float, f: PantryFigures) -> Shelf:
    """Read a ledger in order of time. A count lower than what should be there tells of units that nobody
    wrote down: they are gone too. Of what is taken the oldest goes first.

    ``since_s``: for the sums. The pace is over the last weeks (``pace_weeks``), and needs ``least_weeks`` of
    them.
    """
    units, batches = 0.0, list[tuple[float, float]]()
    gone_at: list[tuple[float, float]] = []
    put_up = gone = spoiled = 0.0
    for e in sorted(entries, key=lambda e: e.at_s):
        after = on_the_shelf(units, e.kind, e.units)
        if e.kind == "put_up":
            batches.append((e.at_s, e.units))
            put_up += e.units if e.at_s >= since_s else 0.0
        elif after < units:
            took = units - after
            batches = _taken(batches, took)
            gone_at.append((e.at_s, took))
            gone += took if e.at_s >= since_s else 0.0
            spoiled += took if e.kind == "spoiled" and e.at_s >= since_s else 0.0
        units = after
    first = min((e.at_s for e in entries), default=now_s)
    begin = max(first, now_s - f.pace_weeks * WEEK_S)
    weeks = (now_s - begin) / WEEK_S
    lately = sum(n for at, n in gone_at if at > begin)
    pace = lately / weeks if weeks >= f.least_weeks and lately > 0 else None
    ends = now_s + units / pace * WEEK_S if pace and units > 0 else None
    known = sum(n for _, n in batches)
    # what was there before anybody wrote is older than all that was put up since
    oldest = batches[0][0] if batches and known >= units - 1e-9 else None
    return Shelf(units, put_up, gone, spoiled, pace, ends, oldest)


def next_year(per_week: float, on_shelf: Shelf, f: PantryFigures) -> tuple[str, float]:
    """What to want a week next year, after so much was wanted this year, and why: ran_out (somewhat more),
    pace (drawn towards the pace at which it went), unknown (as it was)."""
    if on_shelf.units <= 0 and on_shelf.gone > 0:
        return "ran_out", round(per_week * f.ran_out_times, 2)
    if on_shelf.pace is None:
        return "unknown", per_week
    return "pace", round(per_week + f.pace_share * (on_shelf.pace - per_week), 2)


def _taken(batches: Sequence[tuple[float, float]], units: float) -> list[tuple[float, float]]:
    """Batches (when, units) after so many were taken, the oldest first."""
    out = []
    for at, n in batches:
        took = min(n, units)
        units -= took
        if n - took > 1e-9:
            out.append((at, n - took))
    return out
