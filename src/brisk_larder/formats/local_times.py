"""Local wall-clock times of a whole column to epoch seconds, the hours of a clock change included."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from ..core.base.units import zone

Ints = NDArray[np.int64]
DAY_S = 86_400


def _offset(at_s: int, tz: str) -> int:
    shift = datetime.fromtimestamp(at_s, UTC).astimezone(zone(tz)).utcoffset()
    assert shift is not None, "an aware time has an offset"
    return int(shift.total_seconds())


def _changes(first_s: int, last_s: int, tz: str) -> list[tuple[int, int, int]]:
    """Clock changes in a span: (epoch s, offset before, offset after)."""
    out, at = [], first_s
    before = _offset(at, tz)
    while at < last_s:
        step = min(at + 20 * DAY_S, last_s)
        after = _offset(step, tz)
        if after != before:
            low, high = at, step
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (middle, high) if _offset(middle, tz) == before else (low, middle)
            out.append((high, before, after))
        at, before = step, after
    return out


def _usual_step_s(local_s: Ints) -> float:
    """The step between rows that comes most often, seconds (0: none does)."""
    steps = np.diff(local_s)
    steps = steps[steps > 0]
    if not len(steps):
        return 0.0
    values, counts = np.unique(steps, return_counts=True)
    return float(values[counts.argmax()])


def _second_pass(
    values: Ints, before_s: float, after_s: float, step_s: float, set_back_s: int
) -> int:
    """How many of the times of an hour that comes twice belong to its first pass.

    The split is where the steps of the file, to the rows around it and across it, come nearest to the
    usual one; nowhere does time go backwards. ``before_s``, ``after_s``: the rows around on the clock
    before the change (nan: none).
    """
    n = len(values)
    best, chosen = np.inf, n
    around = np.concatenate([[before_s], values.astype(float), [after_s]])
    for k in range(n + 1):
        real = around.copy()
        real[k + 1 : n + 1] += set_back_s
        steps = np.diff(real)
        steps = steps[np.isfinite(steps)]
        cost = float(np.abs(steps - step_s).sum() + 1e7 * (steps < 0).sum())
        # without any step to go by all of it is the first pass
        if cost < best or (cost == best and k > chosen):
            best, chosen = cost, k
    return chosen


MOST_TWICE = 2_000  # rows within one hour: beyond, only a step back tells the passes apart


def utc_of_local(local_s: Ints, tz: str) -> tuple[Ints, int]:
    """Epoch seconds [N] of wall-clock times [N] in file order (seconds as if they were UTC).

    The file may run forwards or backwards (newest first). An hour (or half) that comes twice is told
    apart by what follows what: each row is an usual step after the one before. Without any row to go
    by all of it is the first pass. An hour that never was (spring) is taken as an hour later. Also
    returns how many times were ambiguous.
    """
    if not len(local_s):
        return local_s, 0
    if (np.diff(local_s) < 0).sum() > (np.diff(local_s) > 0).sum():
        out, ambiguous = utc_of_local(local_s[::-1], tz)
        return out[::-1], ambiguous
    first, last = int(local_s.min()) - 2 * DAY_S, int(local_s.max()) + 2 * DAY_S
    out = local_s - _offset(first, tz)
    ambiguous = 0
    step_s = _usual_step_s(local_s)
    for at, before, after in _changes(first, last, tz):
        second = local_s >= at + max(before, after)
        if before > after:
            twice = (local_s >= at + after) & (local_s < at + before)
            index = np.flatnonzero(twice)
            ambiguous += len(index)
            if len(index) and np.all(np.diff(index) == 1) and len(index) <= MOST_TWICE:
                low, high = int(index[0]), int(index[-1])
                previous = float(local_s[low - 1]) if low else np.nan
                # what follows is on the clock after the change
                following = (
                    float(local_s[high + 1]) + before - after if high + 1 < len(local_s) else np.nan
                )
                k = _second_pass(local_s[index], previous, following, step_s, before - after)
                second[index[k:]] = True
            elif len(index):
                # the second pass begins where the clock was set back, within or just before the hour
                back = np.flatnonzero((np.diff(local_s[index]) <= 0) & (np.diff(index) == 1))
                if len(back):
                    second[index[back[0] + 1 :]] = True
        out = np.where(second, local_s - after, out)
    return out, ambiguous
