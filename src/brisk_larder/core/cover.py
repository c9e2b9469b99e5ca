"""Which lots cover which demands: oldest usable first; what is short, what is to spare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from .moisture import Floats
from .needs import (
    SEED_CAP,
    Ints,
    Success,
    at_hand,
    chance_beside,
    plants_of_doubtful,
    plants_pmf,
    seeds_for,
)
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
    """A lot in hand: seeds to hand out after its reserve with their doubt, success per seed, age for the
    order."""

    lot: int
    crop: str
    seeds: int
    success: Success
    oldest_s: float
    usable: bool
    seeds_sd: float = 0.0


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
    unknown); chance: P(enough plants) with what is in hand; reason: no_seed, too_few, too_unsure (so wide
    a belief that a test comes first), uncounted (a lot that nobody ever counted may hold it) or
    amount_unsure (it would do if as much is there as is thought: count first).
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


@dataclass
class _Given:
    """What has been given to a demand: seeds, what may really be there, success of each lot."""

    seeds: list[int]
    held: list[Ints]
    lots: list[Success]

    def plants(self) -> Floats:
        """Distribution of the plants of all of it together."""
        total = np.ones(1)
        for n, held, one in zip(self.seeds, self.held, self.lots, strict=True):
            total = np.convolve(total, plants_of_doubtful(n, held, one))
        return total


@lru_cache(maxsize=2048)
def _needed(
    plants: int, base: bytes, p: bytes, weight: bytes, held: bytes, confidence: float, most: int
) -> int | None:
    """``_needed_with`` by its values: nearly all lots are what they were at the last act, and each search is
    a dozen sums over all that may be in the packet."""
    others, one = np.frombuffer(base), Success(np.frombuffer(p), np.frombuffer(weight))
    there = np.frombuffer(held, dtype=np.int64)
    wanting = np.maximum(plants - np.arange(len(others)), 0)

    def chance(n: int) -> float:
        return chance_beside(others, wanting, n, there, one)

    if chance(most) < confidence:
        return None
    low, high = 0, most
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if chance(middle) >= confidence else (middle, high)
    return high


def _needed_with(
    plants: int, given: _Given, one: Success, held: Ints, confidence: float, most: int
) -> int | None:
    """Fewest seeds of a lot that reach the confidence beside what other lots already give."""
    base, p, weight = (
        np.asarray(x, dtype=float).tobytes() for x in (given.plants(), one.p, one.weight)
    )
    return _needed(plants, base, p, weight, held.tobytes(), confidence, most)


def cover(
    demands: Sequence[Demand],
    supplies: Sequence[Supply],
    confidence: float,
    bought: Mapping[str, Success],
    uncounted_lots: Mapping[int, str] = MappingProxyType({}),
) -> CoverPlan:
    """Give lots to demands in the order given, oldest usable lot first.

    A lot covers alone where it can; else it gives all it has and the next one fills up. The
    promise is P(at least the plants wanted) >= confidence over all lots together, over what is believed
    of each lot and of how much is in it. ``bought``: success of fresh bought seed per crop, for the
    missing seeds; ``uncounted_lots``: crop of each lot that nobody ever counted.
    """
    left = {s.lot: s.seeds for s in supplies}
    there = {s.lot: at_hand(s.seeds, s.seeds_sd) for s in supplies}
    order = sorted((s for s in supplies if s.usable), key=lambda s: (s.oldest_s, s.lot))
    taken: list[Taken] = []
    short: list[Short] = []
    chances: dict[str, float] = {}
    for demand in demands:
        given = _Given([], [], [])
        done = demand.plants <= 0
        for lot in order:
            if done:
                break
            if lot.crop not in demand.crops or left[lot.lot] <= 0:
                continue
            if demand.lots and lot.lot not in demand.lots:
                continue
            most, held = left[lot.lot], there[lot.lot]
            need = _needed_with(
                demand.plants, given, lot.success, held, confidence, min(most, SEED_CAP)
            )
            done = need is not None
            give = need if need is not None else min(most, SEED_CAP)
            if give > 0:
                taken.append(Taken(demand.key, lot.lot, give))
                left[lot.lot] -= give
                there[lot.lot] = np.maximum(held - give, 0)
                given.seeds.append(give)
                given.held.append(held)
                given.lots.append(lot.success)
        if done:
            chances[demand.key] = confidence
            continue
        uncounted = any(
            c in demand.crops and (not demand.lots or i in demand.lots)
            for i, c in uncounted_lots.items()
        )
        short.append(_missing(demand, given, confidence, bought, uncounted))
        chances[demand.key] = short[-1].chance
    return CoverPlan(tuple(taken), tuple(short), left, chances)


def _missing(
    demand: Demand,
    given: _Given,
    confidence: float,
    bought: Mapping[str, Success],
    uncounted: bool,
) -> Short:
    pmf = given.plants()
    at_least = float(pmf[demand.plants :].sum()) if len(pmf) > demand.plants else 0.0
    # the plants that what is in hand promises at that confidence
    reverse = np.cumsum(pmf[::-1])[::-1]
    promised = int(np.flatnonzero(reverse >= confidence - 1e-12).max(initial=0))
    missing = max(demand.plants - promised, 1)
    new = next((bought[c] for c in sorted(demand.crops) if c in bought), None)
    expected = float(pmf @ np.arange(len(pmf)))
    certain = plants_pmf(given.seeds, given.lots) if given.lots else np.ones(1)
    if uncounted:
        code = "uncounted"
    elif not given.lots:
        code = "no_seed"
    elif float(certain[demand.plants :].sum()) >= confidence:
        code = "amount_unsure"  # with as much as is thought to be there it would do
    else:
        code = "too_unsure" if expected >= demand.plants else "too_few"
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
