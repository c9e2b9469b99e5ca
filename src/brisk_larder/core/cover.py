"""Which lots cover which demands: oldest usable first; what is short, what is to spare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from .needs import SEED_CAP, Success, chances_of_plants, plants_pmf, seeds_for
from .reasons import Reason


@dataclass(frozen=True)
class Demand:
    """Plants wanted of a crop. ``lots``: only these, when the keeper chose them (else any)."""

    key: str
    crops: frozenset[str]
    plants: int
    lots: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Supply:
    """A lot in hand: seeds to hand out after its reserve, success per seed, age for the order."""

    lot: int
    crop: str
    seeds: int
    success: Success
    oldest_s: float
    usable: bool


@dataclass(frozen=True)
class Taken:
    """Seeds of one lot for one demand."""

    demand: str
    lot: int
    seeds: int


@dataclass(frozen=True)
class Short:
    """What is missing for one demand.

    plants: the plants that cannot be promised; seeds: bought seed that would cover them (None:
    unknown); chance: P(enough plants) with what is in hand; reason: no_seed, too_few or
    too_unsure (so wide a belief that a test comes first).
    """

    demand: str
    plants: int
    seeds: int | None
    chance: float
    reason: Reason


@dataclass(frozen=True)
class CoverPlan:
    """Result: what is taken, what is short, what is left per lot, chance per demand."""

    taken: tuple[Taken, ...]
    short: tuple[Short, ...]
    left: Mapping[int, int]
    chance: Mapping[str, float]


def _needed_with(
    plants: int, seeds: list[int], lots: list[Success], lot: Supply, confidence: float, most: int
) -> int | None:
    """Fewest seeds of ``lot`` that reach the confidence beside what other lots already give."""
    if not lots:
        return seeds_for(plants, lot.success, confidence, most) if most >= plants else None
    base = plants_pmf(seeds, lots)
    held = np.arange(len(base))

    def chance(n: int) -> float:
        own = chances_of_plants(np.maximum(plants - held, 0), n, lot.success)
        return float(base @ own)

    if chance(most) < confidence:
        return None
    low, high = 0, most
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if chance(middle) >= confidence else (middle, high)
    return high


def cover(
    demands: Sequence[Demand],
    supplies: Sequence[Supply],
    confidence: float,
    bought: Mapping[str, Success],
) -> CoverPlan:
    """Give lots to demands in the order given, oldest usable lot first.

    A lot covers alone where it can; else it gives all it has and the next one fills up. The
    promise is P(at least the plants wanted) >= confidence over all lots together (binomial
    mixtures convolved). ``bought``: success of fresh bought seed per crop, for the missing seeds.
    """
    left = {s.lot: s.seeds for s in supplies}
    order = sorted((s for s in supplies if s.usable), key=lambda s: (s.oldest_s, s.lot))
    taken: list[Taken] = []
    short: list[Short] = []
    chances: dict[str, float] = {}
    for demand in demands:
        seeds: list[int] = []
        used: list[Success] = []
        done = demand.plants <= 0
        for lot in order:
            if done:
                break
            if lot.crop not in demand.crops or left[lot.lot] <= 0:
                continue
            if demand.lots and lot.lot not in demand.lots:
                continue
            most = left[lot.lot]
            need = _needed_with(demand.plants, seeds, used, lot, confidence, min(most, SEED_CAP))
            done = need is not None
            give = need if need is not None else most
            if give > 0:
                taken.append(Taken(demand.key, lot.lot, give))
                left[lot.lot] -= give
                seeds.append(give)
                used.append(lot.success)
        if done:
            chances[demand.key] = confidence
            continue
        short.append(_missing(demand, seeds, used, confidence, bought))
        chances[demand.key] = short[-1].chance
    return CoverPlan(tuple(taken), tuple(short), left, chances)


def _missing(
    demand: Demand,
    seeds: list[int],
    used: list[Success],
    confidence: float,
    bought: Mapping[str, Success],
) -> Short:
    pmf = plants_pmf(seeds, used) if used else np.ones(1)
    at_least = float(pmf[demand.plants :].sum()) if len(pmf) > demand.plants else 0.0
    # the plants that what is in hand promises at that confidence
    reverse = np.cumsum(pmf[::-1])[::-1]
    promised = int(np.flatnonzero(reverse >= confidence - 1e-12).max(initial=0))
    missing = max(demand.plants - promised, 1)
    new = next((bought[c] for c in sorted(demand.crops) if c in bought), None)
    expected = float(pmf @ np.arange(len(pmf)))
    code = "no_seed" if not used else "too_unsure" if expected >= demand.plants else "too_few"
    return Short(
        demand.key,
        missing,
        seeds_for(missing, new, confidence) if new is not None else None,
        at_least,
        Reason(
            f"short_{code}",
            {
                "plants_wanted": demand.plants,
                "plants_promised": promised,
                "plants_expected": expected,
                "chance": at_least,
                "confidence": confidence,
            },
        ),
    )
