"""What readings say: a dial of its day, those of a year of the time ahead (docs/model.md, section 3)."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..base.units import DAY_S, YEAR_DAYS
from .climate import Climate, Readings, holders, own_erh25

FADING_DAYS = 91.0  # at the end of its year a reading of the past fades so long
PEAK_HOUR = 15.0  # the warmest hour of a day by the sun


def as_day_means(base: Climate, readings: Readings, east_h: float) -> Readings:
    """Readings of a dial as what they say of their day: half way between least and most where these were
    read over less than two days, else less what that hour of the day usually adds there.

    The usual day is a sine that peaks at three in the afternoon by the sun, ``east_h`` hours before UTC;
    its height is the place's usual swing. Readings of days that are read by the hour stay as they are.
    """
    if not len(readings.at_s) or not len(base.panels.hours):
        return readings
    holder = holders(base.panels, readings.at_s)
    daily = base.panels.hours[holder] >= 24
    since = np.diff(readings.at_s, prepend=readings.at_s[:1] - DAY_S)
    both = (readings.t_min_c + readings.t_max_c) / 2
    hour = (readings.at_s / 3600.0 + east_h) % 24.0
    usual = np.sqrt(2.0) * base.swing_sd_c[holder] * np.cos((hour - PEAK_HOUR) * np.pi / 12.0)
    known = daily & np.isfinite(both) & (since < 2 * DAY_S) & np.isfinite(readings.temperature_c)
    mean = np.where(
        known, both, np.where(daily, readings.temperature_c - usual, readings.temperature_c)
    )
    return replace(readings, temperature_c=mean)


def offset_ahead(
    base: Climate, readings: Readings, now_s: float, memory_days: float
) -> tuple[float, float, float]:
    """Learned offset (degC, erh25) of a node for the future: shrunk mean departure of the last twelve months.

    Readings closer than the memory count as one (n_eff = span covered / memory); shrunk by
    ``n/(n + 1)`` towards the curve (guess: prior variance of a place equals its departures'). In its last
    quarter of a year a reading fades: none leaves from one day to the next. The third is ``n`` of what was
    read least.
    """
    age_days = (now_s - readings.at_s) / DAY_S
    fading = np.clip((YEAR_DAYS - age_days) / FADING_DAYS, 0.0, 1.0)
    recent = (fading > 0) & (readings.at_s <= now_s)
    if not recent.any() or not len(base.panels.hours):
        return 0.0, 0.0, 0.0
    holder = holders(base.panels, readings.at_s)
    bucket = (readings.at_s // int(memory_days * DAY_S)).astype(np.int64)
    out, times = [], []
    for x in (
        readings.temperature_c - base.temperature_c[holder],
        own_erh25(base, readings, holder) - base.erh25[holder],
    ):
        ok = recent & np.isfinite(x)
        if not ok.any():
            out.append(0.0)
            times.append(0.0)
            continue
        _, which = np.unique(bucket[ok], return_inverse=True)
        total = np.bincount(which, weights=fading[ok])
        mean = np.bincount(which, weights=fading[ok] * x[ok]) / total
        weight = np.zeros(len(total))
        np.maximum.at(weight, which, fading[ok])
        n = float(weight.sum())
        out.append(float((weight * mean).sum()) / n * n / (n + 1.0))
        times.append(n)
    return out[0], out[1], min(times)


def shifted(base: Climate, offset_c: float, offset_erh25: float, times: float = 0.0) -> Climate:
    """A future climate: the usual curve with a learned offset; ``times`` it was read apart: so much better
    is known how the house departs for good."""
    return replace(
        base,
        far=None if base.far is None else np.sqrt(1.0 + (base.far**2 - 1.0) / (times + 1.0)),
        temperature_c=base.temperature_c + offset_c,
        erh25=np.clip(base.erh25 + offset_erh25, 0.02, 0.99),
    )
