"""Local wall-clock times of a whole column to epoch seconds, the hours of a clock change included."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from ..core.units import zone

I = NDArray[np.int64]  # noqa: E741
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


def utc_of_local(local_s: I, tz: str) -> tuple[I, int]:
    """Epoch seconds [N] of wall-clock times [N] in file order (seconds as if they were UTC).

    An hour that comes twice (autumn) is told apart by the order of the file: what follows a step
    back is its second pass; without a step back all of it is the first. An hour that never was
    (spring) is taken as an hour later. Also returns how many times were ambiguous.
    """
    if not len(local_s):
        return local_s, 0
    first, last = int(local_s.min()) - 2 * DAY_S, int(local_s.max()) + 2 * DAY_S
    out = local_s - _offset(first, tz)
    ambiguous = 0
    for at, before, after in _changes(first, last, tz):
        second = local_s >= at + max(before, after)
        if before > after:
            twice = (local_s >= at + after) & (local_s < at + before)
            ambiguous += int(twice.sum())
            index = np.flatnonzero(twice)
            if len(index):
                # the second pass begins where the clock was set back, within or just before the hour
                values = local_s[index]
                neighbours = np.diff(index) == 1
                back = np.flatnonzero((np.diff(values) <= 0) & neighbours)
                if len(back):
                    second[index[back[0] + 1 :]] = True
        out = np.where(second, local_s - after, out)
    return out, ambiguous
