"""What the air around a container was, is and will be.

Between readings the place's usual curve is bridged to its two neighbouring readings (an
Ornstein-Uhlenbeck bridge): exact at a reading, falling back to the curve in a long gap, with
growing doubt. A learned offset goes into the future only (docs/model.md, section 3).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..base.units import DAY_S, YEAR_DAYS
from . import moisture

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

LOGGED, BRIDGED, USUAL = 0, 1, 2
SOURCES = ("logged", "bridged", "usual")
HOURLY_ROWS_A_DAY = 6
SINE_RANGE_PER_SD = 2.8  # range of a sine is 2.83 times its sd


@dataclass(frozen=True)
class PlaceCurve:
    """Seasonal curve of a place: degC, humidity fraction, days of the year, sd of departures."""

    mean_c: float
    amplitude_c: float
    peak_day: float
    swing_sd_c: float
    erh_mean: float
    erh_amplitude: float
    erh_peak_day: float
    anomaly_sd_c: float
    anomaly_sd_erh: float
    memory_days: float

    def temperature_c(self, at_s: Floats) -> Floats:
        """Temperature in degC at epoch seconds [P] (a cosine over the year)."""
        return self.mean_c + self.amplitude_c * _season(at_s, self.peak_day)

    def erh(self, at_s: Floats) -> Floats:
        """Relative humidity, fraction, at epoch seconds [P]."""
        return np.clip(
            self.erh_mean + self.erh_amplitude * _season(at_s, self.erh_peak_day), 0.02, 0.99
        )


def _season(at_s: Floats, peak_day: float) -> Floats:
    # day 1 of 1970 is the origin: a year of 365.25 days drifts by under a day in a century
    days = np.asarray(at_s, dtype=float) / DAY_S + 1.0
    return np.cos(2 * np.pi * (days - peak_day) / YEAR_DAYS)


@dataclass(frozen=True)
class Readings:
    """Readings of one node in time order: epoch seconds, degC, fractions; nan where unread."""

    at_s: Ints
    temperature_c: Floats
    erh: Floats
    t_min_c: Floats
    t_max_c: Floats

    @staticmethod
    def none() -> Readings:
        """No reading at all."""
        empty = np.empty(0)
        return Readings(np.empty(0, dtype=np.int64), empty, empty, empty, empty)


@dataclass(frozen=True)
class Panels:
    """Intervals over which the climate is held: start (epoch s) and length (h), both [P]."""

    start_s: Ints
    hours: Floats

    @cached_property
    def middle_s(self) -> Floats:
        """Epoch seconds at the middle of each panel."""
        return self.start_s + self.hours * 1800.0

    @cached_property
    def end_s(self) -> Floats:
        """Epoch seconds at the end of each panel."""
        return self.start_s + self.hours * 3600.0


@dataclass(frozen=True)
class Climate:
    """Climate of one node per panel: degC, erh25 of the air, sd of the swing inside a panel,
    doubt of each (sd), the source code (SOURCES), the gap a panel lies in, named by the time of the
    reading before it (0: none), and how many times as doubtful the whole of a gap is as its days are: how a
    house departs from the book for good is known less well (``far``; None: once)."""

    panels: Panels
    temperature_c: Floats
    erh25: Floats
    swing_sd_c: Floats
    sd_c: Floats
    sd_erh: Floats
    source: NDArray[np.int8]
    gap: Ints
    far: Floats | None = None

    @property
    def times(self) -> Floats:
        """``far``, or ones [P]."""
        return np.ones(len(self.sd_c)) if self.far is None else self.far

    def slice(self, first: int, last: int) -> Climate:
        """Panels first..last-1 as a climate of their own."""
        cut = slice(first, last)
        return Climate(
            panels=Panels(self.panels.start_s[cut], self.panels.hours[cut]),
            temperature_c=self.temperature_c[cut],
            erh25=self.erh25[cut],
            swing_sd_c=self.swing_sd_c[cut],
            sd_c=self.sd_c[cut],
            sd_erh=self.sd_erh[cut],
            source=self.source[cut],
            gap=self.gap[cut],
            far=None if self.far is None else self.far[cut],
        )


def hourly_days(at_s: Ints) -> set[int]:
    """UTC days (epoch day numbers) that hold at least six readings."""
    days, counts = np.unique(np.asarray(at_s) // DAY_S, return_counts=True)
    return {int(day) for day in days[counts >= HOURLY_ROWS_A_DAY]}


def panels(start_s: float, end_s: float, hourly: set[int]) -> Panels:
    """Panels on the global UTC grid from the day of ``start_s`` to the end of the day of ``end_s``.

    24 hour-panels on a UTC day in ``hourly``, else one day panel: the kind depends on that day
    only, so an increment equals a recomputation.
    """
    first, last = int(start_s // DAY_S), int(np.ceil(end_s / DAY_S))
    days = np.arange(first, max(last, first + 1), dtype=np.int64)
    is_hourly = np.isin(days, np.fromiter(hourly, dtype=np.int64, count=len(hourly)))
    repeats = np.where(is_hourly, 24, 1)
    start = np.repeat(days * DAY_S, repeats)
    hours = np.repeat(np.where(is_hourly, 1.0, 24.0), repeats)
    within = np.arange(len(start)) - np.repeat(np.cumsum(repeats) - repeats, repeats)
    return Panels(start + within * np.where(hours < 24, 3600, 0), hours)


def future_panels(start_s: float, years: float, step_days: float = 10.0) -> Panels:
    """Even panels from ``start_s`` on for ``years`` years, about ``step_days`` long each."""
    count = int(np.ceil(years * YEAR_DAYS / step_days))
    start = start_s + np.arange(count) * step_days * DAY_S
    return Panels(start.astype(np.int64), np.full(count, step_days * 24.0))


def usual(curve: PlaceCurve, at: Panels, house_departs_times: float = 1.0) -> Climate:
    """The curve of a place on panels, with its usual departures as doubt; one single gap.
    ``house_departs_times``: so many times as far may a house that was never read depart for good."""
    temperature = curve.temperature_c(at.middle_s)
    count = len(at.hours)
    within = np.where(at.hours >= 24, curve.swing_sd_c, 0.5 * curve.swing_sd_c)
    return Climate(
        panels=at,
        temperature_c=temperature,
        erh25=moisture.erh25(curve.erh(at.middle_s), temperature),
        swing_sd_c=within,
        sd_c=np.full(count, curve.anomaly_sd_c),
        sd_erh=np.full(count, curve.anomaly_sd_erh),
        source=np.full(count, USUAL, dtype=np.int8),
        gap=np.zeros(count, dtype=np.int64),
        far=np.full(count, house_departs_times),
    )


def resample(base: Climate, at: Panels) -> Climate:
    """A base climate looked up on other panels (the panel that holds each middle)."""
    index = np.searchsorted(base.panels.start_s, at.middle_s, side="right") - 1
    index = np.clip(index, 0, len(base.panels.start_s) - 1)
    return Climate(
        panels=at,
        temperature_c=base.temperature_c[index],
        erh25=base.erh25[index],
        swing_sd_c=np.where(at.hours < base.panels.hours[index], 0.5, 1.0) * base.swing_sd_c[index],
        sd_c=base.sd_c[index],
        sd_erh=base.sd_erh[index],
        source=base.source[index],
        gap=base.gap[index],
        far=None if base.far is None else base.far[index],
    )


def lagged(
    base: Climate, tau_days: float | Floats, start: float | None = None
) -> tuple[Climate, Floats]:
    """The air inside a container, and its erh25 at each panel's end [P].

    The outer temperature, the outer humidity through the wall (``tau_days``, or [P] where the wall
    changes). Starts at ``start`` (erh25), or in balance with the first year's mean outside; the
    doubt of the humidity shrinks by the damping of fast departures, ``sqrt(m / (m + tau))`` with
    m = 30 days (guess: mean memory). The wall is as slow as is told at 20 degC, else slower or faster as
    the vapour pressure is.
    """
    if not len(base.erh25):
        return base, np.empty(0)
    pace = moisture.vapour_pace(base.temperature_c)
    tau = np.broadcast_to(np.asarray(tau_days, dtype=float), base.erh25.shape) / pace
    if start is None:
        first = base.panels.start_s < base.panels.start_s[0] + YEAR_DAYS * DAY_S
        start = float(np.average(base.erh25[first], weights=base.panels.hours[first]))
    inner = moisture.relax(np.array([start]), base.erh25, base.panels.hours, tau[None, :])
    damped = replace(base, erh25=inner.mean[0], sd_erh=base.sd_erh * np.sqrt(30.0 / (30.0 + tau)))
    return damped, inner.end[0]


def _bridge(
    at_s: Floats,
    read_s: Ints,
    x: Floats,
    sd: Floats,
    memory_days: float | Floats,
    error: float = 0.0,
    lasting: tuple[float, float] | None = None,
) -> tuple[Floats, Floats, Ints]:
    """Mean and sd of a departure at times, given departures x at read_s; and the time of the
    reading before each (0: none), which names the gap whatever window of the record is looked at.

    Between readings i, j, where departures at t and ti go together by a, at t and tj by b, at ti and tj by c:
    mean = ((a - bc)xi + (b - ac)xj)/(1-c^2), var = s^2 (1 - (a^2 + b^2 - 2abc)/(1-c^2)) (simple kriging).
    They go together by exp(-t/m), and a share of their variance, ``lasting`` = (share, days), so much longer.
    The ``error`` of a reading comes to it by the same weights.
    """

    def go_together(apart_s: Floats, m: float | Floats) -> Floats:
        fast = np.exp(-apart_s / (m * DAY_S))
        if lasting is None:
            return np.asarray(fast)
        share, days = lasting
        slow = np.exp(-apart_s / (np.maximum(days, m) * DAY_S))
        return np.asarray(share * slow + (1 - share) * fast)

    m = memory_days
    right = np.searchsorted(read_s, at_s, side="right")
    has_left, has_right = right > 0, right < len(read_s)
    left = np.maximum(right - 1, 0)
    ahead = np.minimum(right, len(read_s) - 1)
    a = np.where(has_left, go_together(np.abs(at_s - read_s[left]), m), 0.0)
    b = np.where(has_right, go_together(np.abs(read_s[ahead] - at_s), m), 0.0)
    c = np.where(has_left & has_right, go_together(np.abs(read_s[ahead] - read_s[left]), m), 0.0)
    whole = np.maximum(1.0 - c**2, 1e-12)
    by_left, by_right = (a - b * c) / whole, (b - a * c) / whole
    mean = by_left * x[left] + by_right * x[ahead]
    var = sd**2 * (1 - a * by_left - b * by_right) + error**2 * (by_left**2 + by_right**2)
    return mean, np.sqrt(np.maximum(var, 0.0)), np.where(has_left, read_s[left], 0)


def holders(at: Panels, times_s: Ints) -> NDArray[np.intp]:
    """The panel that holds each time, the first or last one beyond the ends."""
    found = np.searchsorted(at.start_s, times_s, side="right") - 1
    return np.clip(found, 0, len(at.start_s) - 1)


def _swing(base: Climate, readings: Readings, at: Panels) -> Floats:
    """Sd of temperature inside a panel, widened or narrowed by min/max readings around it.

    A min/max window under two days: range/2.8. Longer: the curve's own change and three sd of
    departures are taken off first. Kept within 0.5-2 times the usual swing.
    """
    swing = base.swing_sd_c.copy()
    known = np.flatnonzero(np.isfinite(readings.t_min_c) & np.isfinite(readings.t_max_c))
    for i in known:
        end = readings.at_s[i]
        start = readings.at_s[i - 1] if i else end - DAY_S
        inside = (at.end_s > start) & (at.start_s < end) & (at.hours >= 24)
        if not inside.any():
            continue
        spread = readings.t_max_c[i] - readings.t_min_c[i]
        if end - start > 2 * DAY_S:
            own = np.ptp(base.temperature_c[inside])
            spread = spread - own - 3 * float(base.sd_c[inside].mean())
        usual_sd = base.swing_sd_c[inside]
        swing[inside] = np.clip(spread / SINE_RANGE_PER_SD, 0.5 * usual_sd, 2.0 * usual_sd)
    return swing


def fill(
    base: Climate,
    readings: Readings,
    memory_days: float | Floats,
    memory_erh_days: float | Floats | None = None,
    error: tuple[float, float] = (0.0, 0.0),
    lasting: tuple[float, float] | None = None,
) -> Climate:
    """The past of one node: its base (curve, or outer climate lagged) bridged to its readings.

    Hour panels that hold readings take their mean as read; all else is bridged between the two
    neighbours only, so a new reading changes nothing before the one before it. ``memory_erh_days``:
    how long humidity keeps its departure, where a wall makes that longer (None: as the temperature).
    ``error``: of one reading of a dial, sd in degC and in fractions of humidity; ``lasting``: share
    of the variance by which the house departs for good, and for how many days a reading tells that (None:
    none does).
    """
    # long: one walk along the readings, its steps share all they know of the gap
    at = base.panels
    if not len(readings.at_s) or not len(at.hours):
        return base
    mids = at.middle_s
    damp_days = memory_days if memory_erh_days is None else memory_erh_days
    holder = holders(at, readings.at_s)
    temperature, sd_c = base.temperature_c.copy(), base.sd_c.copy()
    air, sd_erh = base.erh25.copy(), base.sd_erh.copy()
    gap = np.zeros(len(mids), dtype=np.int64)
    for name in ("temperature_c", "erh"):
        values = getattr(readings, name)
        ok = np.isfinite(values)
        if not ok.any():
            continue
        read_s = readings.at_s[ok]
        if name == "temperature_c":
            x = values[ok] - base.temperature_c[holder[ok]]
            mean, sd, left = _bridge(mids, read_s, x, base.sd_c, memory_days, error[0], lasting)
            temperature, sd_c = base.temperature_c + mean, sd
        else:
            # humidity is bridged as the state it drives (erh25), read at the temperature shown
            shown = np.where(ok, readings.temperature_c, np.nan)
            warm = np.where(np.isfinite(shown), shown, base.temperature_c[holder])[ok]
            x = moisture.erh25(values[ok], warm) - base.erh25[holder[ok]]
            mean, sd, left = _bridge(mids, read_s, x, base.sd_erh, damp_days, error[1], lasting)
            air, sd_erh = np.clip(base.erh25 + mean, 0.02, 0.99), sd
        gap = np.maximum(gap, left)
    source = _sources(mids, readings.at_s, memory_days)
    hourly = at.hours < 24
    hour_has = np.zeros(len(mids), dtype=bool)
    hour_has[holder] = True
    logged = hourly & hour_has
    for target, values in (
        (temperature, readings.temperature_c),
        (air, own_erh25(base, readings, holder)),
    ):
        ok = np.isfinite(values) & logged[holder]
        total = np.bincount(holder[ok], weights=values[ok], minlength=len(mids))
        count = np.bincount(holder[ok], minlength=len(mids))
        has = count > 0
        target[has] = total[has] / count[has]
    source[logged] = LOGGED
    swing = _swing(base, readings, at)
    swing[hourly] = np.minimum(swing[hourly], 0.3)  # an hour's mean is read: little swing is left
    far = base.far
    if far is not None and lasting is not None:
        # of a thermometer alone the house's damp is not known
        both = readings.at_s[np.isfinite(readings.temperature_c) & np.isfinite(readings.erh)]
        unread = np.ones(len(mids))
        if len(both):
            _, unread, _ = _bridge(mids, both, np.zeros(len(both)), unread, lasting[1])
        far = np.sqrt(1.0 + (far**2 - 1.0) * unread**2)
    return Climate(
        panels=at,
        temperature_c=temperature,
        erh25=air,
        swing_sd_c=swing,
        sd_c=sd_c,
        sd_erh=sd_erh,
        source=source,
        gap=gap,
        far=far,
    )


def own_erh25(base: Climate, readings: Readings, holder: NDArray[np.intp]) -> Floats:
    """Humidity of readings as erh25, at the warmth shown beside it or else that of their panels."""
    warm = np.where(
        np.isfinite(readings.temperature_c), readings.temperature_c, base.temperature_c[holder]
    )
    return np.where(
        np.isfinite(readings.erh), moisture.erh25(np.nan_to_num(readings.erh), warm), np.nan
    )


def _sources(mids: Floats, read_s: Ints, memory_days: float | Floats) -> NDArray[np.int8]:
    right = np.searchsorted(read_s, mids, side="right")
    left_gap = np.where(right > 0, mids - read_s[np.maximum(right - 1, 0)], np.inf)
    right_gap = np.where(
        right < len(read_s), read_s[np.minimum(right, len(read_s) - 1)] - mids, np.inf
    )
    near = np.minimum(left_gap, right_gap) <= memory_days * DAY_S
    return np.where(near, BRIDGED, USUAL).astype(np.int8)


def clip(climate: Climate, start_s: float, end_s: float) -> Climate:
    """The part of a climate inside [start_s, end_s); end panels are cut, the rest untouched."""
    start = climate.panels.start_s
    first = max(0, int(np.searchsorted(start, start_s, side="right")) - 1)
    if first < len(start) and climate.panels.end_s[first] <= start_s:
        first += 1
    last = int(np.searchsorted(start, end_s, side="left"))
    cut = climate.slice(first, max(last, first))
    if not len(cut.panels.hours):
        return cut
    starts = np.maximum(cut.panels.start_s, int(start_s))
    ends = np.minimum(cut.panels.end_s, end_s)
    return replace(cut, panels=Panels(starts, (ends - starts) / 3600.0))
