"""Which lots cover which demands: oldest usable first; what is short, what is to spare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from .moisture import Floats
from .plants import (
    SEED_CAP,
    Emergence,
    Seed,
    Sown,
    chance,
    expected,
    promised,
    seeds_beside,
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
    """A lot in hand: seeds to hand out after its reserve, as thought and as they may be in each world [S];
    what one is worth; age for the order."""

    lot: int
    crop: str
    seeds: int
    seed: Seed
    oldest_s: float
    usable: bool
    held: Floats


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


_Key = tuple[bytes, bytes, Emergence]


def _key(one: Sown) -> _Key:
    seeds = np.broadcast_to(np.asarray(one.seeds, dtype=float), one.seed.g.shape)
    return seeds.tobytes(), one.seed.g.tobytes(), one.seed.emergence


def _sown(key: _Key) -> Sown:
    return Sown(np.frombuffer(key[0]), Seed(np.frombuffer(key[1]), key[2]))


@lru_cache(maxsize=1024)
def _needed(
    plants: int, others: tuple[_Key, ...], one: _Key, confidence: float, most: int
) -> int | None:
    """``seeds_beside`` by its values: nearly all lots are what they were at the last act."""
    lot = _sown(one)
    return seeds_beside(plants, [_sown(x) for x in others], lot.seed, lot.seeds, confidence, most)


def cover(
    demands: Sequence[Demand],
    supplies: Sequence[Supply],
    confidence: float,
    bought: Mapping[str, Seed],
    uncounted_lots: Mapping[int, str] = MappingProxyType({}),
) -> CoverPlan:
    """Give lots to demands in the order given, oldest usable lot first.

    A lot covers alone where it can; else it gives all it has and the next one fills up. The
    promise is P(at least the plants wanted) >= confidence over all lots together, in worlds that hold what
    is believed of each lot and of how much is in it. ``bought``: fresh bought seed per crop, for the
    missing seeds; ``uncounted_lots``: crop of each lot that nobody ever counted.
    """
    left = {s.lot: s.seeds for s in supplies}
    there = {s.lot: s.held for s in supplies}
    order = sorted((s for s in supplies if s.usable), key=lambda s: (s.oldest_s, s.lot))
    taken: list[Taken] = []
    short: list[Short] = []
    chances: dict[str, float] = {}
    for demand in demands:
        given: list[Sown] = []
        thought: list[Sown] = []  # as much as is thought to be there
        done = demand.plants <= 0
        for lot in order:
            if done:
                break
            if lot.crop not in demand.crops or left[lot.lot] <= 0:
                continue
            if demand.lots and lot.lot not in demand.lots:
                continue
            most, held = min(left[lot.lot], SEED_CAP), there[lot.lot]
            others = tuple(_key(x) for x in given)
            need = _needed(demand.plants, others, _key(Sown(held, lot.seed)), confidence, most)
            done = need is not None
            give = need if need is not None else most
            if give > 0:
                taken.append(Taken(demand.key, lot.lot, give))
                left[lot.lot] -= give
                there[lot.lot] = np.maximum(held - give, 0.0)
                given.append(Sown(np.minimum(held, give), lot.seed))
                thought.append(Sown(float(give), lot.seed))
        if done:
            chances[demand.key] = confidence
            continue
        uncounted = any(
            c in demand.crops and (not demand.lots or i in demand.lots)
            for i, c in uncounted_lots.items()
        )
        short.append(_missing(demand, given, thought, confidence, bought, uncounted))
        chances[demand.key] = short[-1].chance
    return CoverPlan(tuple(taken), tuple(short), left, chances)


def _missing(
    demand: Demand,
    given: Sequence[Sown],
    thought: Sequence[Sown],
    confidence: float,
    bought: Mapping[str, Seed],
    uncounted: bool,
) -> Short:
    at_least, hoped = chance(demand.plants, given), expected(given)
    sure = promised(given, confidence, demand.plants)
    missing = max(demand.plants - sure, 1)
    new = next((bought[c] for c in sorted(demand.crops) if c in bought), None)
    if uncounted:
        code = "uncounted"
    elif not given:
        code = "no_seed"
    elif chance(demand.plants, thought) >= confidence:
        code = "amount_unsure"  # with as much as is thought to be there it would do
    else:
        code = "too_unsure" if hoped >= demand.plants else "too_few"
    return Short(
        demand.key,
        missing,
        seeds_for(missing, new, confidence) if new is not None else None,
        at_least,
        Reason(
            f"short_{code}",
            {
                "plants_wanted": demand.plants,
                "plants_promised": sure,
                "plants_expected": hoped,
                "chance": at_least,
                "confidence": confidence,
            },
        ),
    )
