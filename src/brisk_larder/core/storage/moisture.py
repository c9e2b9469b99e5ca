"""How dry a seed is: isotherms, the state erh25, and moisture passing through walls.

Source of the equation: Cromarty, Ellis & Roberts 1982, "The Design of Seed Storage
Facilities for Genetic Conservation" (IBPGR). Observed points: Harrington; Justice & Bass 1978.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..base.errors import InvalidValue
from ..base.kernels import balance_loop, relax_loop

Floats = NDArray[np.float64]

ERH_LOW = 0.10  # below this further drying gains nothing: critical low moisture
ERH_HIGH = 0.85  # above this the seed is wet: the isotherm is not extrapolated
GRID_POINTS = 1025
BARE_SEED_TAU_DAYS = 0.5  # a layer of seed in open air is in balance within days (guess)


def k(temperature_c: ArrayLike) -> Floats:
    """Temperature term of the isotherm, ``1.1 + max(T, 0)/90`` (T in degC), dimensionless.

    Held at 0 degC below zero: without that, warming a deep-frozen lot would seem to
    lengthen its life.
    """
    return np.asarray(1.1 + np.maximum(np.asarray(temperature_c, dtype=float), 0.0) / 90.0)


K25 = float(k(25.0))
WALLS_AT_C = 20.0  # the warmth at which time constants of walls are told
RANGE_SDS = 1.2816  # a range is taken to hold eight in ten: so many sd to either side


def vapour_pace(temperature_c: ArrayLike) -> Floats:
    """How much faster moisture passes a wall at T (degC) than at 20 degC: as the vapour pressure at one
    humidity, by Magnus with the constants of WMO-No. 8 (over ice below 0 degC). Dimensionless."""
    t = np.asarray(temperature_c, dtype=float)
    over = np.where(t < 0, 22.46 * t / (272.62 + t), 17.62 * t / (243.12 + t))
    at = 17.62 * WALLS_AT_C / (243.12 + WALLS_AT_C)
    return np.asarray(np.exp(over - at))


def _shift(erh: ArrayLike, factor: Floats) -> Floats:
    u = np.clip(np.asarray(erh, dtype=float), 0.0, 1.0 - 1e-9)
    return np.asarray(-np.expm1(np.log1p(-u) * factor**2))


def erh25(erh: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """The eRH (fraction) that seed in balance with ``erh`` at T would show at 25 degC.

    From equal moisture content in the Cromarty equation:
    ``sqrt(-ln(1-erh25)) = sqrt(-ln(1-erh)) * k(25)/k(T)``. Arrays broadcast.
    """
    return _shift(erh, K25 / k(temperature_c))


def erh_at(erh25_value: ArrayLike, temperature_c: ArrayLike) -> Floats:
    """The eRH (fraction) that a seed of state ``erh25_value`` shows at T degC; inverse of erh25."""
    return _shift(erh25_value, k(temperature_c) / K25)


def equation_pct_fwb(
    oil_fraction: float, erh: ArrayLike, temperature_c: ArrayLike = 25.0
) -> Floats:
    """Equilibrium moisture, percent of fresh weight, by the Cromarty equation.

    ``m_db = (1 - D_oil) * sqrt(-440 ln(1 - RH)) / (1.1 + T/90)``; the root covers only the
    first factor. ``oil_fraction`` of dry matter 0-1; ``erh`` fraction; T degC.
    """
    u = np.clip(np.asarray(erh, dtype=float), 1e-9, 1.0 - 1e-9)
    m_db = (1.0 - oil_fraction) * np.sqrt(-440.0 * np.log1p(-u)) / k(temperature_c)
    return np.asarray(100.0 * m_db / (100.0 + m_db))


@dataclass(frozen=True)
class HeatOfSorption:
    """By how much less water a kind holds when it is warmer, at one humidity: constants N and C (degC) of the
    modified Henderson equation (ASAE D245) of kinds it is taken from, family by family; ``equation``: the
    Cromarty equation speaks along as one more family. ``own``: they are its own, not its relatives'."""

    families: tuple[tuple[tuple[float, float], ...], ...] = ()
    equation: bool = False
    own: bool = False

    def ratio(self, temperature_c: ArrayLike) -> Floats:
        """Moisture on dry basis at T against that at 25 degC, dimensionless: the geometric middle of what is
        known, ``((25 + C)/(T + C))^(1/N)``. Held at 0 degC below zero, as ``k``."""
        t = np.maximum(np.asarray(temperature_c, dtype=float), 0.0)
        logs = [
            np.mean([np.log((25.0 + c) / (t + c)) / n for n, c in family], axis=0)
            for family in self.families
        ]
        if self.equation or not logs:
            logs.append(np.log(K25 / k(t)))
        return np.asarray(np.exp(np.mean(logs, axis=0)))


CROMARTY = HeatOfSorption(equation=True)


@dataclass(frozen=True)
class SeedKind:
    """What an isotherm needs: key, oil fraction of dry matter, observed points at 25 degC, and how warmth
    changes it.

    ``rh`` are fractions, ``mc_pct_fwb`` percent of fresh weight; both empty where only the
    equation is known.
    """

    key: str
    oil_fraction: float
    rh: tuple[float, ...] = ()
    mc_pct_fwb: tuple[float, ...] = ()
    warmth: HeatOfSorption = CROMARTY


@dataclass(frozen=True)
class Isotherms:
    """Isotherms of C kinds at 25 degC over an even erh25 grid.

    log10_mc_fwb: log10 of percent fresh weight, clamped to erh25 0.10-0.85 [C, 1025];
    dry_basis: percent dry basis, not clamped [C, 1025]; inverse: erh25 over an even grid of dry
    basis from 0 to dry_basis[:, -1] [C, 1025]; warmth: how each changes with temperature.
    """

    keys: tuple[str, ...]
    log10_mc_fwb: Floats
    dry_basis: Floats
    inverse: Floats
    warmth: tuple[HeatOfSorption, ...]

    def index(self, key: str) -> int:
        """Row of a crop. Raises InvalidValue for an unknown key."""
        try:
            return self.keys.index(key)
        except ValueError as error:
            raise InvalidValue(
                "crop", key, "a crop of the reference table or an own kind"
            ) from error


def _curve(seed: SeedKind, grid: Floats) -> Floats:
    """Moisture on dry basis over the grid: observed points, the equation beyond their ends."""
    fwb = equation_pct_fwb(seed.oil_fraction, grid)
    m_db = 100.0 * fwb / (100.0 - fwb)
    if not seed.rh:
        return np.asarray(m_db)
    rh = np.asarray(seed.rh)
    points = np.asarray(seed.mc_pct_fwb)
    observed = 100.0 * points / (100.0 - points)
    from scipy.interpolate import PchipInterpolator  # a second to load, used once

    inner = PchipInterpolator(rh, observed)(np.clip(grid, rh[0], rh[-1]))
    at = np.interp(rh[[0, -1]], grid, m_db)
    low = m_db * observed[0] / at[0]
    high = m_db * observed[-1] / at[1]
    return np.asarray(np.where(grid < rh[0], low, np.where(grid > rh[-1], high, inner)))


def build_isotherms(seeds: Sequence[SeedKind]) -> Isotherms:
    """Isotherm table of all kinds.

    Observed points are interpolated on dry basis by a monotone cubic (PCHIP); beyond their
    ends the equation is scaled to meet them. Raises InvalidValue for points that do not rise.
    """
    grid = np.linspace(0.0, 1.0, GRID_POINTS)
    held = np.clip(grid, ERH_LOW, ERH_HIGH)
    logs, dry, inverse = [], [], []
    for seed in seeds:
        if np.any(np.diff(seed.rh) <= 0) or np.any(np.diff(seed.mc_pct_fwb) <= 0):
            raise InvalidValue("isotherm", seed.key, "humidity and moisture must both rise")
        m_db = _curve(seed, np.minimum(grid, 0.999))
        clamped = np.interp(held, grid, m_db)
        logs.append(np.log10(100.0 * clamped / (100.0 + clamped)))
        dry.append(m_db)
        inverse.append(np.interp(np.linspace(0.0, m_db[-1], GRID_POINTS), m_db, grid))
    return Isotherms(
        tuple(s.key for s in seeds),
        np.asarray(logs),
        np.asarray(dry),
        np.asarray(inverse),
        tuple(s.warmth for s in seeds),
    )


def _gather(table: Floats, row: NDArray[np.intp], position: Floats) -> Floats:
    left = np.minimum(position.astype(np.intp), GRID_POINTS - 2)
    low = table[row, left]
    return np.asarray(low + (position - left) * (table[row, left + 1] - low))


def balance(
    iso: Isotherms, class_ix: NDArray[np.intp], air_erh25: Floats, temperature_c: Floats
) -> Floats:
    """The state erh25 [R, P] towards which seed of kinds ``class_ix`` [R] moves in given air [P].

    The air's humidity at T gives the kind's dry-basis moisture at 25 degC, scaled to T by its own
    ``warmth``, and read back as erh25.
    """
    shown = np.clip(erh_at(air_erh25, temperature_c), 0.0, 1.0)
    t = np.broadcast_to(temperature_c, shown.shape)
    of_warmth: dict[HeatOfSorption, Floats] = {}  # most kinds share one of a few
    for w in {iso.warmth[i] for i in class_ix.tolist()}:
        of_warmth[w] = w.ratio(t)
    scale = np.stack([of_warmth[iso.warmth[i]] for i in class_ix.tolist()])
    out = np.empty((len(class_ix), len(shown)))
    balance_loop(iso.dry_basis[class_ix], iso.inverse[class_ix], shown, scale, out)
    return out


def log10_moisture(iso: Isotherms, class_ix: NDArray[np.intp], erh25_value: Floats) -> Floats:
    """log10 of moisture content (percent fresh weight) for rows ``class_ix`` [R] and states [R, ...]."""
    position = np.clip(erh25_value, 0.0, 1.0) * (GRID_POINTS - 1)
    row = class_ix.reshape(class_ix.shape + (1,) * (erh25_value.ndim - class_ix.ndim))
    return _gather(iso.log10_mc_fwb, row, position)


def moisture_pct_fwb(iso: Isotherms, class_ix: NDArray[np.intp], erh25_value: Floats) -> Floats:
    """Moisture content, percent of fresh weight; same shapes as log10_moisture."""
    return np.asarray(10.0 ** log10_moisture(iso, class_ix, erh25_value))


def erh25_from_moisture(iso: Isotherms, class_ix: int, mc_pct_fwb: ArrayLike) -> Floats:
    """State erh25 (fraction, 0.10-0.85) of one kind at a moisture content in percent fresh weight."""
    grid = np.linspace(0.0, 1.0, GRID_POINTS)
    inside = (grid >= ERH_LOW) & (grid <= ERH_HIGH)
    known = iso.log10_mc_fwb[class_ix, inside]
    return np.asarray(np.interp(np.log10(np.asarray(mc_pct_fwb, dtype=float)), known, grid[inside]))


@dataclass(frozen=True)
class Relaxed:
    """Result of relax: mean and end of erh25 per panel, same shape as the air."""

    mean: Floats
    end: Floats


def relax(erh25_0: ArrayLike, air_erh25: Floats, hours: Floats, tau_days: ArrayLike) -> Relaxed:
    """Seed following the air through walls, exactly, panel by panel.

    Solves ``du/dt = (air - u)/tau`` with the air held inside each panel:
    ``end = air + (u0 - air) q``, ``mean = air + (u0 - air)(1 - q) tau/h``, ``q = exp(-h/tau)``.
    ``erh25_0`` [R], ``air_erh25`` [P] or [R, P], ``hours`` [P]; ``tau_days`` [R], or [R, P] where
    walls change -> F[R, P]. Raises InvalidValue for a time constant that is not positive.
    """
    start = np.atleast_1d(np.asarray(erh25_0, dtype=float))
    tau = np.atleast_1d(np.asarray(tau_days, dtype=float))
    if np.any(tau <= 0):
        raise InvalidValue("tau_days", tau.min(), "a time constant is above zero days")
    tau = tau if tau.ndim == 2 else tau[:, None]
    x = np.ascontiguousarray((hours / 24.0)[None, :] / tau)
    air = np.ascontiguousarray(np.atleast_2d(air_erh25), dtype=float)
    mean, end = np.empty_like(x), np.empty_like(x)
    relax_loop(np.broadcast_to(start, len(x)).copy(), air, x, mean, end)
    return Relaxed(mean, end)


def wall_tau_days(ranges: Sequence[tuple[float, float]]) -> float:
    """Time constant in days of walls one inside the other, from their ranges in days.

    The geometric middle of each range, summed. Bare seed in open air: ``BARE_SEED_TAU_DAYS``.
    Raises InvalidValue for a bad range.
    """
    total = BARE_SEED_TAU_DAYS
    for low, high in ranges:
        if not 0 < low <= high:
            raise InvalidValue("time constant", (low, high), "0 < low <= high, in days")
        total += float(np.sqrt(low * high))
    return total


def wall_sd(ranges: Sequence[tuple[float, float]]) -> float:
    """Doubt of that time constant: sd of its natural log, each range holding eight in ten, each wall for
    itself."""
    widths = [np.sqrt(low * high) * np.log(high / low) / (2 * RANGE_SDS) for low, high in ranges]
    return float(np.sqrt(np.square(widths).sum()) / wall_tau_days(ranges))
