"""How fast seed ages, and how much it has aged: the viability equation over a real record.

``v(t) = Ki - A(t)``, ``A = integral dt/sigma``,
``log10 sigma(days) = KE - CW log10 m - CH T - CQ T^2`` (Ellis & Roberts 1980; temperature terms
CH = 0.0329, CQ = 0.000478 where a species has none of its own: Dickie et al. 1990).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..base.figures import GrowingFigures, MoistureFigures, PlacesFigures
from ..base.kernels import STATE_COLUMNS, carry_loop
from ..base.units import DAY_S, YEAR_DAYS, YEAR_S
from ..storage import moisture
from ..storage.climate import Climate
from ..storage.moisture import Floats, Isotherms

LN10 = float(np.log(10.0))
T_LOW_C, T_HIGH_C = -20.0, 45.0  # beyond, the equation is not carried; the event is shown
SINE_NODES = np.cos((2 * np.arange(1, 9) - 1) * np.pi / 16)
REFERENCE_T_C, REFERENCE_RH = 18.0, 0.50
CW_MIDDLE, CH_UNIVERSAL, CQ_UNIVERSAL = 4.7, 0.0329, 0.000478
ANCHOR_C = 20.0  # lives are anchored at 20 degC and 50 % RH
REFERENCE_SEED = moisture.SeedKind("reference seed", 0.20)


@dataclass(frozen=True)
class SigmaClasses:
    """Constants of the viability equation per class [C], and the row of its isotherm."""

    ke: Floats
    cw: Floats
    ch: Floats
    cq: Floats
    iso_ix: NDArray[np.intp]
    iso: Isotherms


def rate_per_day(
    classes: SigmaClasses,
    class_ix: NDArray[np.intp],
    erh25: Floats,
    temperature_c: ArrayLike,
    swing_sd_c: ArrayLike = 0.0,
) -> Floats:
    """Ageing rate 1/sigma in probits per day.

    ``class_ix`` [R], ``erh25`` [R] or [R, P], temperature and swing broadcast against it. The swing is
    a sine of that sd around the temperature, no further than its own height (``swing_log_mean``). T is
    held within -20..45 degC.
    """
    shape = class_ix.shape + (1,) * (erh25.ndim - class_ix.ndim)
    ke, cw, ch, cq = (
        np.asarray(values)[class_ix].reshape(shape)
        for values in (classes.ke, classes.cw, classes.ch, classes.cq)
    )
    t = np.clip(np.asarray(temperature_c, dtype=float), T_LOW_C, T_HIGH_C)
    log10_m = moisture.log10_moisture(classes.iso, classes.iso_ix[class_ix], erh25)
    warm = swing_log_mean(ch, cq, t, np.asarray(swing_sd_c, dtype=float))
    return np.asarray(np.exp(LN10 * (cw * log10_m - ke) + warm))


def swing_log_mean(ch: Floats, cq: Floats, t: Floats, swing_sd_c: Floats) -> Floats:
    """ln of the mean of ``10^(CH x + CQ x^2)`` while the temperature swings as a sine of that sd about t.

    Eight Chebyshev nodes of the arcsine law that a sine spends its time by (equal weights), each held
    within -20..45 degC: a day of 8 to 46 degC never ages as if it had been hotter. Broadcasts.
    """
    if not np.any(swing_sd_c):
        return np.asarray(LN10 * (ch * t + cq * t**2))
    height, total = np.sqrt(2.0) * swing_sd_c, 0.0
    for node in SINE_NODES:
        x = np.clip(t + height * node, T_LOW_C, T_HIGH_C)
        total = total + np.exp(LN10 * (ch * x + cq * x**2))
    return np.asarray(np.log(total / len(SINE_NODES)))


def sigma_days(
    classes: SigmaClasses, class_ix: NDArray[np.intp], erh25: Floats, temperature_c: ArrayLike
) -> Floats:
    """Days in which viability falls by one probit in a steady climate; shapes as rate_per_day."""
    return np.asarray(1.0 / rate_per_day(classes, class_ix, erh25, temperature_c))


@dataclass(frozen=True)
class AgeState:
    """Where R parts stand at one moment.

    erh25: moisture state; start_sd: doubt of it when last known; remain: share of that doubt
    still felt; a_probit: ageing so far; var_closed: squared doubt of A from closed gaps;
    gap_open: doubt summed in the gap still open, and gap_key: which gap that is. wall_erh, wall_a: by
    how much the state and A would differ were the wall slower by one sd.
    """

    erh25: Floats
    start_sd: Floats
    remain: Floats
    a_probit: Floats
    var_closed: Floats
    gap_open: Floats
    gap_key: NDArray[np.int64]
    wall_erh: Floats
    wall_a: Floats

    @property
    def sd_log10_a(self) -> Floats:
        """Doubt of A from the climate and the walls, as sd of its log10 [R]."""
        sd = np.sqrt(self.var_closed + self.gap_open**2 + self.wall_a**2)
        return np.where(self.a_probit > 0, sd / np.maximum(self.a_probit, 1e-12), 0.0)


def fresh_state(erh25: Floats, start_sd: Floats, a_probit: Floats | None = None) -> AgeState:
    """State at the start of a record: moisture known as well as ``start_sd``, no ageing yet."""
    zero = np.zeros_like(erh25)
    return AgeState(
        erh25,
        start_sd,
        np.ones_like(erh25),
        zero if a_probit is None else a_probit,
        zero.copy(),
        zero.copy(),
        np.full(erh25.shape, -1, dtype=np.int64),
        zero.copy(),
        zero.copy(),
    )


def doubt_of_moisture(start_sd: float, remain: float, sd_erh: float, by_wall: float = 0.0) -> float:
    """Doubt of a seed's erh25 as it lies: what is still felt of the doubt at first, what it took on
    of the doubt of the air (``sd_erh``), and that of how far it followed behind its wall (``by_wall``). It
    goes along when seed is moved, and fades through the new wall."""
    own = np.hypot(start_sd * remain, sd_erh * (1.0 - remain))
    return float(np.hypot(own, by_wall))


def doubt_of_instrument(
    classes: SigmaClasses, class_ix: NDArray[np.intp], state: AgeState, f: PlacesFigures
) -> Floats:
    """What no number of readings averages out of log10 A, as its sd [R]: the instrument's own error, in the
    slope of each kind's rate by humidity, as far as the seed follows the air, and by warmth."""
    ends = np.clip(
        state.erh25[:, None] + np.array([-0.01, 0.01]), moisture.ERH_LOW, moisture.ERH_HIGH
    )
    log10_m = moisture.log10_moisture(classes.iso, classes.iso_ix[class_ix], ends)
    width = np.maximum(np.diff(ends, axis=1)[:, 0], 1e-9)
    by_erh = np.asarray(classes.cw)[class_ix] * np.diff(log10_m, axis=1)[:, 0] / width
    ch, cq = np.asarray(classes.ch)[class_ix], np.asarray(classes.cq)[class_ix]
    by_c = ch + 2 * cq * REFERENCE_T_C
    follows = (1.0 - state.remain) * f.dial_bias_erh
    return np.asarray(np.hypot(by_erh * follows, by_c * f.dial_bias_c))


def doubt_of_isotherm(
    classes: SigmaClasses,
    class_ix: NDArray[np.intp],
    state: AgeState,
    temperature_c: Floats,
    f: MoistureFigures,
) -> Floats:
    """What is not known of how much less water a kind holds when it is warmer, as sd of log10 A [R]: none at
    the 20 degC at which lives are anchored, more the further seed that follows its air lies from there
    (``temperature_c`` [R])."""
    own = np.array([classes.iso.warmth[i].own for i in classes.iso_ix[class_ix]])
    sd = np.where(own, f.warmth_sd_own, f.warmth_sd)
    apart = np.abs(np.maximum(temperature_c, 0.0) - ANCHOR_C) / 20.0
    cw = np.asarray(classes.cw)[class_ix]
    return np.asarray(cw * sd / LN10 * apart * (1.0 - state.remain))


@dataclass(frozen=True)
class AgePath:
    """Ageing along one leg: A at each panel's end [R, P], mean erh25 [R, P], and the last state."""

    end_s: Floats
    a_probit: Floats
    erh25: Floats
    state: AgeState


def _prepared(
    classes: SigmaClasses, kinds: NDArray[np.intp], climate: Climate
) -> tuple[Floats, Floats, Floats]:
    """Per kind and panel [K, P]: the state it moves to, log of the rate but for moisture, and its
    relative doubt by temperature."""
    air = moisture.balance(classes.iso, classes.iso_ix[kinds], climate.erh25, climate.temperature_c)
    terms = np.stack([np.asarray(classes.ch)[kinds], np.asarray(classes.cq)[kinds]], axis=1)
    pairs, which = np.unique(terms, axis=0, return_inverse=True)  # most kinds share these two
    t = np.clip(climate.temperature_c, T_LOW_C, T_HIGH_C)[None, :]
    ch, cq = pairs[:, :1], pairs[:, 1:]
    warm = swing_log_mean(ch, cq, t, climate.swing_sd_c[None, :])
    # a departure of which only the size is known costs more when it is warm than it saves when cold
    s2 = np.square(climate.sd_c)[None, :]
    a, c = LN10 * (ch + 2 * cq * t), LN10 * cq
    room = 1.0 - 2.0 * c * s2
    warm = warm + a**2 * s2 / (2.0 * room) - 0.5 * np.log(room)
    doubt = (ch + 2 * cq * climate.temperature_c) * climate.sd_c
    which = which.reshape(-1)
    return air, warm[which] - LN10 * np.asarray(classes.ke)[kinds][:, None], doubt[which]


@dataclass(frozen=True)
class Carried:
    """What carry gives back: the last state, and the states at the panels that were marked."""

    state: AgeState
    stops: list[AgeState]
    path: AgePath | None


def carry(
    state: AgeState,
    classes: SigmaClasses,
    class_ix: NDArray[np.intp],
    climate: Climate,
    tau_days: Floats,
    stop: NDArray[np.bool_] | None = None,
    draw: bool = False,
    wall_sd: Floats | None = None,
) -> Carried:
    """Carry R parts through one climate behind walls of ``tau_days`` [R] at 20 degC, panel by panel.

    Moisture follows the air exactly (as moisture.relax); the rate is taken at the panel's mean
    moisture. Doubt: within one gap errors go together, gaps are independent
    (``sd = sqrt(sum_gap (sum A_p s_p)^2)``). ``wall_sd`` [R]: doubt of the wall (sd of ln tau; None: none),
    which is the same all along. ``stop`` [P] marks panels after which the state is noted; ``draw`` asks for
    the path. A span cut at panel borders gives the same bits as the whole.
    """
    # long: one call of a loop that is handed all it needs
    rows, count = len(class_ix), len(climate.panels.hours)
    kinds, kind = np.unique(class_ix, return_inverse=True)
    stop = np.zeros(count, dtype=np.bool_) if stop is None else stop
    marks = int(stop.sum())
    values = np.stack(
        [
            state.erh25, state.remain, state.a_probit, state.var_closed, state.gap_open,
            state.wall_erh, state.wall_a,
        ],
        axis=1,
    )  # fmt: skip
    key = state.gap_key.copy()
    stops, keys = np.empty((rows, marks, STATE_COLUMNS)), np.empty((rows, marks), dtype=np.int64)
    path, wet = (np.empty((rows, count if draw else 0)) for _ in range(2))
    if count:
        air, thermal, by_temperature = _prepared(classes, kinds, climate)
        no_doubt = np.zeros(rows)
        carry_loop(
            kind.astype(np.int64),
            np.asarray(tau_days, dtype=float),
            no_doubt if wall_sd is None else wall_sd,
            moisture.vapour_pace(climate.temperature_c),
            climate.times,
            state.start_sd,
            air,
            thermal,
            by_temperature,
            classes.iso.log10_mc_fwb[classes.iso_ix[kinds]],
            np.asarray(classes.cw)[kinds],
            np.ascontiguousarray(climate.panels.hours),
            np.ascontiguousarray(climate.sd_erh),
            np.ascontiguousarray(climate.gap),
            stop,
            values,
            key,
            stops,
            keys,
            path,
            wet,
        )
    end = _state(values, state.start_sd, key)
    return Carried(
        end,
        [_state(stops[:, s], state.start_sd, keys[:, s]) for s in range(marks)],
        AgePath(climate.panels.end_s, path, wet, end) if draw else None,
    )


def _state(values: Floats, start_sd: Floats, key: NDArray[np.int64]) -> AgeState:
    erh25, remain, a, closed, opened, *by_wall = (values[:, c].copy() for c in range(STATE_COLUMNS))
    return AgeState(erh25, start_sd.copy(), remain, a, closed, opened, key.copy(), *by_wall)


def integrate(
    state: AgeState,
    classes: SigmaClasses,
    class_ix: NDArray[np.intp],
    climate: Climate,
    tau_days: Floats,
    wall_sd: Floats | None = None,
) -> AgePath:
    """The path of R parts through one climate (see carry)."""
    path = carry(state, classes, class_ix, climate, tau_days, draw=True, wall_sd=wall_sd).path
    assert path is not None, "asked for"
    return path


def last_rate(end_s: Floats, a_probit: Floats) -> float:
    """Rate of a track over its last year, probits per second: at that it goes on beyond."""
    year_s = YEAR_DAYS * DAY_S
    return float(a_probit[-1] - np.interp(end_s[-1] - year_s, end_s, a_probit)) / year_s


def along(end_s: Floats, a_probit: Floats, rate: float, dates_s: Floats) -> Floats:
    """A at dates [T] along a track; as at its start before it, at ``rate`` beyond its end."""
    inside = np.interp(dates_s, end_s, a_probit)
    if dates_s.max(initial=0.0) <= end_s[-1]:
        return inside
    return np.asarray(inside + rate * np.maximum(dates_s - end_s[-1], 0.0))


def when_aged(end_s: Floats, a_probit: Floats, rate: float, a: float) -> float:
    """Epoch seconds at which a track reaches A; inf when it does not within a century."""
    if a <= a_probit[-1]:
        return float(np.interp(a, a_probit, end_s))
    years = (a - a_probit[-1]) / max(rate, 1e-15) / (YEAR_DAYS * DAY_S)
    return float(end_s[-1] + years * YEAR_DAYS * DAY_S) if years < 100 else float("inf")


def reference_classes() -> SigmaClasses:
    """The seed by which places are compared: CW 4.7, universal CH and CQ, 20 % oil, equation."""
    iso = moisture.build_isotherms([REFERENCE_SEED])
    one = np.ones(1)
    # KE cancels in every ratio; 8.8 is the middle of viability.csv and keeps sigma readable
    return SigmaClasses(
        8.8 * one, CW_MIDDLE * one, CH_UNIVERSAL * one, CQ_UNIVERSAL * one, np.zeros(1, int), iso
    )


def relative_speed(classes: SigmaClasses, climate: Climate) -> Floats:
    """Ageing speed per panel [P] of the reference seed in balance with the air, as a multiple of
    a room at 18 degC and 50 % RH."""
    zero = np.zeros(1, dtype=np.intp)
    reference = rate_per_day(
        classes, zero, moisture.erh25(np.array([REFERENCE_RH]), REFERENCE_T_C), REFERENCE_T_C
    )
    rate = rate_per_day(
        classes, zero, climate.erh25[None, :], climate.temperature_c, climate.swing_sd_c
    )
    return np.asarray(rate[0] / reference[0])


@dataclass(frozen=True)
class SteadyClimate:
    """One steady climate that ages as the real one did: degC, erh25, and its relative speed."""

    temperature_c: float
    erh25: float
    speed: float


def steady_climate(classes: SigmaClasses, climate: Climate) -> SteadyClimate:
    """Equivalent steady climate: hold the time-weighted mean erh25, solve for the temperature."""
    hours = climate.panels.hours
    erh25 = float(np.average(climate.erh25, weights=hours))
    speed = float(np.average(relative_speed(classes, climate), weights=hours))
    zero = np.zeros(1, dtype=np.intp)
    grid = np.linspace(T_LOW_C, T_HIGH_C, 1301)
    state = np.full((1, len(grid)), erh25)
    rates = rate_per_day(classes, zero, state, grid[None, :])[0]
    reference = rate_per_day(
        classes, zero, moisture.erh25(np.array([REFERENCE_RH]), REFERENCE_T_C), REFERENCE_T_C
    )[0]
    temperature = float(np.interp(np.log(speed * reference), np.log(rates), grid))
    return SteadyClimate(temperature, erh25, speed)


def points_by_episode(a_parts: Floats, g_start: float, g_now: float) -> Floats:
    """Germination points lost per episode: its share of A times the whole fall, so they add up.

    ``a_parts`` [E] ageing per episode in probits; fractions in, fractions out [E].
    """
    total = float(a_parts.sum())
    if total <= 0:
        return np.zeros_like(a_parts)
    return np.asarray(a_parts / total * (g_start - g_now))


def hard_months(
    gains: Floats, start: float, fall: float, f: GrowingFigures
) -> list[tuple[int, float]]:
    """Spells of a record: (month, points lost as a fraction) of each whole month that aged much faster
    than the usual one and lost what is worth telling.

    ``gains`` [M]: probits aged in each month, the last one under way; ``start``: germination at the
    record's start, ``fall``: what it lost since. A record of under five months has none.
    """
    if len(gains) < 5 or fall < f.memorable_points:
        return []
    middle = (len(gains) - 1) // 2
    usual = float(np.partition(gains[:-1], middle)[middle])
    if gains[:-1].max() <= f.spell_times * usual:
        return []
    lost = points_by_episode(gains, start, start - fall)
    hard = np.nonzero((gains > f.spell_times * usual) & (lost >= f.memorable_points))[0]
    return [(int(j), float(lost[j])) for j in hard if j < len(gains) - 1]


def beyond_telling(until_s: float, now_s: float, frozen: bool, f: PlacesFigures) -> bool:
    """Whether a date is so far off that it is not told: fewer years in a room than frozen."""
    return until_s > now_s + longest_shown_years(frozen, f) * YEAR_S


def longest_shown_years(frozen: bool, f: PlacesFigures) -> float:
    """How many years ahead a date is told."""
    return f.longest_shown_years_frozen if frozen else f.longest_shown_years_room


def falls_to(median: Callable[[float], float], from_s: float, to_s: float, level: float) -> float:
    """When a falling median comes below a level between two times, to the day; inf when it does not."""
    low, high = from_s, to_s
    if median(high) >= level:
        return float("inf")
    while high - low > DAY_S:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if median(middle) >= level else (low, middle)
    return high
