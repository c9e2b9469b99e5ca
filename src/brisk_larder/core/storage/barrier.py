"""What stands between seed and the measured air, and how it changes: closing, opening, desiccant.

A container's wall has a range of time constants (storage.csv). It may stand closed, vented or
breathing; an opening takes it away for a while; a sachet of desiccant brings what is inside to one
common dryness by mass balance and from then on soaks up what comes through the wall.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..base.errors import InvalidValue
from ..base.figures import WallsFigures
from .moisture import Floats, wall_tau_days

INF = float("inf")
CLOSINGS = ("airtight", "sealed", "vented", "breathing")
# events after which the air inside is another one
MOVES_AIR = frozenset({*CLOSINGS, "opened", "desiccant", "desiccant_out"})


@dataclass(frozen=True)
class Change:
    """One event at a container: epoch s and kind (CLOSINGS, opened, desiccant, desiccant_out).

    For a desiccant: ``erh25`` the inside comes to, ``slow`` how many times slower the wall works.
    """

    at_s: float
    kind: str
    erh25: float | None = None
    slow: float = 1.0


@dataclass(frozen=True)
class Stretch:
    """A time during which a container's wall stays the same.

    ``wall``: range in days, None: no wall. ``slow``: factor by a desiccant inside. ``dried``: a
    desiccant is at work, so the inside has an air of its own; ``reset``: erh25 at its start.
    """

    start_s: float
    end_s: float
    wall: tuple[float, float] | None
    slow: float
    dried: bool
    reset: float | None

    @property
    def tau_days(self) -> float:
        """Time constant of what is inside, days."""
        return wall_tau_days([self.wall] if self.wall else []) * self.slow


def closed(
    wall: tuple[float, float] | None, how: str, f: WallsFigures
) -> tuple[float, float] | None:
    """The wall of a container as it stands: airtight or sealed as it is, vented, breathing (none)."""
    if wall is None or how == "breathing":
        return None
    if how != "vented":
        return wall
    return wall[0] * f.vented_share_of_wall, wall[1] * f.vented_share_of_wall


def stretches(
    wall: tuple[float, float] | None, changes: Sequence[Change], f: WallsFigures
) -> list[Stretch]:
    """A container's stretches from -inf to inf, from its closed wall and its events in time order."""
    edges: list[tuple[float, str, Change]] = []
    for change in changes:
        edges.append((change.at_s, "change", change))
        if change.kind == "opened":
            edges.append((change.at_s + f.opening_hours_without_lid * 3600.0, "shut", change))
    edges.sort(key=lambda e: e[0])
    out: list[Stretch] = []
    now, how, slow, dried, reset, opened = -INF, "airtight", 1.0, False, None, 0
    for at, what, change in [*edges, (INF, "end", Change(INF, "end"))]:
        if at > now:
            standing = None if opened else closed(wall, how, f)
            out.append(Stretch(now, at, standing, slow, dried, reset))
            now, reset = at, None
        if what == "shut":
            opened -= 1
        elif change.kind == "opened":
            opened += 1
        elif change.kind in CLOSINGS:
            how = change.kind
        elif change.kind == "desiccant":
            slow, dried, reset = change.slow, True, change.erh25
        elif change.kind == "desiccant_out":
            slow, dried = 1.0, False
    return out


def tau_per_panel(parts: Sequence[Stretch], start_s: NDArray[np.int64], hours: Floats) -> Floats:
    """Mean time constant in days of each panel [P], exact for walls that change inside a panel."""
    edges = np.array([p.start_s for p in parts[1:]])
    rates = np.array([1.0 / p.tau_days for p in parts])
    ends = start_s + hours * 3600.0
    if not len(edges):
        return np.full(len(hours), 1.0 / rates[0])
    steps = np.concatenate([[0.0], np.cumsum(np.diff(edges) * rates[1:-1])])

    def passed(t: Floats) -> Floats:  # integral of the rate from the first edge
        k = np.searchsorted(edges, t, side="right")
        left = np.clip(k - 1, 0, len(edges) - 1)
        after: Floats = steps[left] + (t - edges[left]) * rates[k]
        return np.asarray(np.where(k == 0, (t - edges[0]) * rates[0], after), dtype=float)

    tau: Floats = (ends - start_s) / (passed(ends) - passed(start_s.astype(float)))
    return tau


GEL_ISOTHERM = (  # g water per 100 g dry gel at eRH: rules of thumb for silica gel (rules.md 5)
    (0.0, 0.10, 0.20, 0.45, 0.60, 1.0),
    (0.0, 6.0, 11.0, 22.0, 27.0, 33.0),
)
RICE_ISOTHERM = ((0.0, 0.10, 0.30, 0.60, 1.0), (0.0, 2.0, 4.5, 8.0, 14.0))  # oven-dried rice
BEAD_ISOTHERM = ((0.0, 0.05, 0.10, 0.50, 1.0), (0.0, 17.0, 19.0, 21.0, 22.0))  # zeolite beads
DESICCANTS = {
    "silica_gel": GEL_ISOTHERM,
    "zeolite_beads": BEAD_ISOTHERM,
    "dried_rice": RICE_ISOTHERM,
}


def loading_pct(kind: str, erh: Floats | float) -> Floats:
    """Water held by a desiccant, g per 100 g dry, at an eRH. Raises InvalidValue for its kind."""
    if kind not in DESICCANTS:
        raise InvalidValue("desiccant", kind, ", ".join(DESICCANTS))
    at, held = DESICCANTS[kind]
    return np.asarray(np.interp(erh, at, held))


@dataclass(frozen=True)
class Balance:
    """Seed and desiccant shut in together: the common erh25, and how much slower the wall works."""

    erh25: float
    slow: float


def settle(
    seed_mass_g: float,
    seed_dry_basis: Floats,
    seed_erh25: float,
    kind: str,
    mass_g: float,
    loaded_pct: float = 0.0,
) -> Balance:
    """The dryness to which seed and desiccant come by mass balance.

    ``seed_dry_basis`` [G]: the kind's moisture, percent dry basis, over an even erh25 grid from 0 to
    1; masses in grams; ``loaded_pct``: water already in the desiccant. What the air itself holds is
    left out (10 mg a litre). ``slow``: the buffer of both against that of the seed alone.
    Raises InvalidValue for masses that are not positive.
    """
    for name, value in (("mass of the desiccant", mass_g), ("mass of the seed", seed_mass_g)):
        if not value > 0:
            raise InvalidValue(name, value, "above 0 g")
    grid = np.linspace(0.0, 1.0, len(seed_dry_basis))
    dry_seed_g = seed_mass_g / (1 + float(np.interp(seed_erh25, grid, seed_dry_basis)) / 100)
    seed_water = dry_seed_g * seed_dry_basis / 100
    gel_water = mass_g * loading_pct(kind, grid) / 100
    had = float(np.interp(seed_erh25, grid, seed_water)) + mass_g * loaded_pct / 100
    together = seed_water + gel_water
    erh25 = float(np.interp(had, together, grid))
    inside = (grid > max(erh25 - 0.05, 0.0)) & (grid < erh25 + 0.20)
    seed_rise, all_rise = np.ptp(seed_water[inside]), np.ptp(together[inside])
    return Balance(erh25, float(all_rise / max(seed_rise, 1e-9)))


def desiccant_needed_g(
    seed_mass_g: float, seed_dry_basis: Floats, from_erh25: float, to_erh25: float, kind: str
) -> float:
    """Grams of freshly dried desiccant that bring seed from one dryness to another (both erh25).

    Mass balance: water given up by the seed = water the desiccant holds at the end. Zero when the
    seed is dry enough already; inf when that desiccant holds nothing there.
    """
    grid = np.linspace(0.0, 1.0, len(seed_dry_basis))
    start, end = (float(np.interp(u, grid, seed_dry_basis)) for u in (from_erh25, to_erh25))
    water_g = seed_mass_g / (1 + start / 100) * (start - end) / 100
    held = float(loading_pct(kind, to_erh25)) / 100
    if water_g <= 0:
        return 0.0
    return water_g / held if held > 0 else INF


def days_to_dry(tau_days: float, from_erh25: float, air_erh25: float, to_erh25: float) -> float:
    """Days until seed behind ``tau_days`` falls from one dryness to another in steady drier air.

    ``tau ln((u0 - air)/(u1 - air))``; zero when dry enough, inf when that air never gets it there.
    """
    if from_erh25 <= to_erh25:
        return 0.0
    if air_erh25 >= to_erh25:
        return INF
    return tau_days * float(np.log((from_erh25 - air_erh25) / (to_erh25 - air_erh25)))


def days_until_spent(tau_days: float, erh25: float, outside_erh25: float, f: WallsFigures) -> float:
    """Days until what is shut in with a desiccant has drifted up to where it is spent."""
    spent = f.desiccant_spent_above_erh25
    if erh25 >= spent:
        return 0.0
    if outside_erh25 <= spent:
        return INF
    return tau_days * float(np.log((outside_erh25 - erh25) / (outside_erh25 - spent)))


@dataclass(frozen=True)
class Sachet:
    """Desiccant for a job: grams freshly dried (None: never gets it so dry), days until done (inf:
    never)."""

    grams: float | None
    days: float


def sachet_for(
    seed_mass_g: float,
    seed_dry_basis: Floats,
    from_erh25: float,
    to_erh25: float,
    kind: str,
    tau_days: float,
    f: WallsFigures,
) -> Sachet:
    """How much of a desiccant to shut in with seed, and for how long; 0 g where it is dry enough.

    Half as much again as would just do: its air stays below the target, so that the end is reached.
    """
    if from_erh25 <= to_erh25:
        return Sachet(0.0, 0.0)
    grams = desiccant_needed_g(seed_mass_g, seed_dry_basis, from_erh25, to_erh25, kind)
    if not np.isfinite(grams):
        return Sachet(None, INF)
    ample = f.ample_desiccant_times * grams
    air = settle(seed_mass_g, seed_dry_basis, from_erh25, kind, ample).erh25
    return Sachet(ample, days_to_dry(tau_days, from_erh25, air, to_erh25))


def shuts_in(walls: Sequence[tuple[float, float]], f: WallsFigures) -> bool:
    """Whether walls let so little moisture through that what is in them is sealed."""
    return bool(walls) and wall_tau_days(walls) > f.sealed_tau_days


def keeps_its_dryness(stretch: Stretch, f: WallsFigures) -> bool:
    """Whether what is in a container keeps its own dryness for long, whatever the air outside."""
    return stretch.wall is not None and stretch.tau_days >= f.tight_tau_days
