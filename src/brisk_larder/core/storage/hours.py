"""Readings drawn together by hour and day: count, sum, least and most of each."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def drawn_together(
    at_s: Ints, temperature_c: Floats, erh: Floats, width_s: int
) -> list[tuple[int | float | None, ...]]:
    """One row for each bucket of ``width_s`` with a reading: its start, how many readings, then count,
    sum, least and most of the temperatures (degC) and of the humidities (fractions; nan: unread).

    ``at_s`` [N] in time order. Sums are rounded, so that another order leaves no other bit.
    """
    bucket = at_s // width_s * width_s
    starts = np.flatnonzero(np.diff(bucket, prepend=bucket[0] - 1))
    count = np.diff(np.append(starts, len(bucket)))
    columns = [_summed(values, starts) for values in (temperature_c, erh)]
    return list(zip(bucket[starts].tolist(), count.tolist(), *columns[0], *columns[1], strict=True))


def _summed(values: Floats, starts: Ints) -> list[list[float | None]]:
    """Count, sum, least and most of each bucket; None where nothing was read."""
    read = np.isfinite(values)
    n = np.add.reduceat(read.astype(np.int64), starts)
    total = np.round(np.add.reduceat(np.where(read, values, 0.0), starts), 6)
    low = np.minimum.reduceat(np.where(read, values, np.inf), starts)
    high = np.maximum.reduceat(np.where(read, values, -np.inf), starts)
    sides = [[v if k else None for v, k in zip(x.tolist(), n, strict=True)] for x in (low, high)]
    return [n.tolist(), total.tolist(), *sides]
