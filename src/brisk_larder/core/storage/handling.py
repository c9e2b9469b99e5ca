"""Handling by hand: dew on a cold container, cans of beans and grain sealed against insects.

Dew point: Magnus formula with the constants of Sonntag 1990 (over water, -45..60 degC). Warming up:
Newton's law. Sealed store: reference rules, section 6.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..base.errors import InvalidValue
from ..base.figures import HandlingFigures
from ..base.units import DAY_S

MAGNUS_A, MAGNUS_B_C = 17.62, 243.12


def dew_point_c(temperature_c: float, rh: float) -> float:
    """Dew point of air in degC; rh fraction above 0. Raises InvalidValue for rh outside 0-1."""
    if not 0 < rh <= 1:
        raise InvalidValue("humidity", rh, "above 0, at most 1")
    gamma = np.log(rh) + MAGNUS_A * temperature_c / (MAGNUS_B_C + temperature_c)
    return float(MAGNUS_B_C * gamma / (MAGNUS_A - gamma))


@dataclass(frozen=True)
class Dew:
    """Advice on a container fetched into a warmer room: degC and hours to leave it shut (0: none)."""

    dew_point_c: float
    container_c: float
    room_c: float
    wait_hours: float


def dew_advice(
    container_c: float, room_c: float, room_rh: float, mass_kg: float, f: HandlingFigures
) -> Dew:
    """How long a cold container stays shut until dew no longer falls on what is inside.

    Until it is a degree above the room's dew point: ``tau ln((room - cold)/(room - target))``, tau
    growing with the cube root of the mass (heat held by volume, taken up through the surface).
    """
    dew = dew_point_c(room_c, room_rh)
    target = min(dew + f.dew_margin_c, room_c - 0.5)
    if container_c >= dew or container_c >= target:
        return Dew(dew, container_c, room_c, 0.0)
    tau = f.warm_hours_at_1kg * max(mass_kg, 0.1) ** (1 / 3)
    hours = tau * np.log((room_c - container_c) / (room_c - target))
    return Dew(dew, container_c, room_c, float(hours))


@dataclass(frozen=True)
class Can:
    """Where a sealed can stands: state is resting, opened_early, due or overdue; days to go."""

    state: str
    days_shut: float
    days_to_go: float


def can_state(
    sealed_s: float,
    now_s: float,
    opened_s: float | None,
    f: HandlingFigures,
    shut_days: float | None = None,
) -> Can:
    """A sealed can now. Opening before ``shut_days`` were over starts the count again.

    Raises InvalidValue for so short a time that weevils live.
    """
    shut_days = f.can_shut_days if shut_days is None else shut_days
    if shut_days < f.can_least_shut_days:
        raise InvalidValue("days shut", shut_days, f"at least {f.can_least_shut_days:g}")
    if opened_s is not None and opened_s > sealed_s:
        shut = (opened_s - sealed_s) / DAY_S
        if shut < shut_days:
            return Can("opened_early", shut, shut_days)
        return Can("open", shut, 0.0)
    shut = (now_s - sealed_s) / DAY_S
    if shut < shut_days:
        return Can("resting", shut, shut_days - shut)
    if shut > f.can_shelf_days:
        return Can("overdue", shut, 0.0)
    return Can("due", shut, 0.0)


@dataclass(frozen=True)
class Filling:
    """Cans that are filled to the brim: (litres, how many), kilos that fit, kilos left over."""

    cans: list[tuple[float, int]]
    filled_kg: float
    left_kg: float


def fill_cans(amount_kg: float, kg_per_l: float, sizes_l: Sequence[float]) -> Filling:
    """Which cans fill to the brim with an amount, leaving as little as can be over; then the fewest.

    Exact by dynamic programming over tenths of a litre. Raises InvalidValue for what is not positive.
    """
    if not amount_kg > 0 or not kg_per_l > 0 or not sizes_l or min(sizes_l) <= 0:
        raise InvalidValue("filling", (amount_kg, kg_per_l, list(sizes_l)), "all above zero")
    if amount_kg / kg_per_l > 2000:
        raise InvalidValue("amount", amount_kg, "at most two thousand litres at a time")
    room = int(np.floor(10 * amount_kg / kg_per_l + 1e-9))
    sizes = sorted({max(1, round(10 * s)) for s in sizes_l}, reverse=True)
    fewest = np.full(room + 1, np.iinfo(np.int64).max // 2, dtype=np.int64)
    last = np.zeros(room + 1, dtype=np.int64)
    fewest[0] = 0
    for litres in range(1, room + 1):
        for size in sizes:
            if size <= litres and fewest[litres - size] + 1 < fewest[litres]:
                fewest[litres], last[litres] = fewest[litres - size] + 1, size
    full = int(np.flatnonzero(fewest < np.iinfo(np.int64).max // 2)[-1])
    used: dict[int, int] = {}
    at = full
    while at > 0:
        used[int(last[at])] = used.get(int(last[at]), 0) + 1
        at -= int(last[at])
    filled = full / 10 * kg_per_l
    cans = [(size / 10, used[size]) for size in sizes if size in used]
    return Filling(cans, round(filled, 3), round(amount_kg - filled, 3))


def can_size_l(
    kg_a_week: float, kg_per_l: float, sizes_l: Sequence[float], f: HandlingFigures
) -> float:
    """The largest can that is eaten up before it turns; the smallest when none is."""
    fits = [s for s in sizes_l if s * kg_per_l <= f.can_open_weeks * kg_a_week]
    return max(fits) if fits else min(sizes_l)
