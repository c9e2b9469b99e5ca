"""Which lots cover which demands, over the whole year at once; what is short, what is to spare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import ceil
from types import MappingProxyType

import numpy as np

from ..base.figures_planning import CoverFigures
from ..base.reasons import Reason
from ..seed.plants import (
    SEED_CAP,
    Seed,
    Sown,
    chance,
    expected,
    holes_for,
    promised,
    seeds_beside,
)
from ..storage.moisture import Floats
from .cover_ways import MOST_KEPT, Asked, Key, Supply, Way, chosen_ways, once


@dataclass(frozen=True)
class Demand:
    """Plants wanted of a crop. ``lots``: only these, when the keeper chose them (else any); ``among``: only
    these, as far as they may be counted on (None: any)."""

    key: str
    crops: frozenset[str]
    plants: int
    lots: frozenset[int] = frozenset()
    among: frozenset[int] | None = None

    def takes(self, lot: int, crop: str) -> bool:
        """Whether a lot is one of those it may be met from."""
        asked = not self.lots or lot in self.lots
        return crop in self.crops and asked and (self.among is None or lot in self.among)


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
    """Result: what is taken, what is short, what is left per lot, chance per demand; ``beside``: doubtful
    lots that may be used up beside what is counted on."""

    taken: tuple[Taken, ...]
    short: tuple[Short, ...]
    left: Mapping[int, int]
    chance: Mapping[str, float]
    beside: tuple[Taken, ...] = ()


def _key(one: Sown) -> Key:
    seeds = np.broadcast_to(np.asarray(one.seeds, dtype=float), one.seed.g.shape)
    return once(seeds), once(one.seed.g), one.seed.emergence


def _sown(key: Key, most: float = np.inf) -> Sown:
    seed = Seed(np.frombuffer(key[1]), key[2])
    return Sown(np.minimum(np.frombuffer(key[0]), most), seed)


@lru_cache(maxsize=MOST_KEPT)
def _needed(
    plants: int, others: tuple[tuple[Key, float], ...], one: Key, confidence: float, most: int
) -> int | None:
    """``seeds_beside`` by its values (of each other lot at most so many seeds): nearly all lots are what they
    were at the last act."""
    lot = _sown(one)
    beside = [_sown(key, n) for key, n in others]
    return seeds_beside(plants, beside, lot.seed, lot.seeds, confidence, most)


@lru_cache(maxsize=MOST_KEPT)
def _holes(plants: int, one: Key, each: int, confidence: float) -> int | None:
    return holes_for(plants, _sown(one).seed, each, confidence)


def holes(plants: int, lot: Supply, each: int, confidence: float) -> int | None:
    """``holes_for`` seed of a lot, reckoned once."""
    return _holes(plants, lot.key, each, confidence)


def seeds_to_buy(
    plants: int, seed: Seed, confidence: float, beside: Sequence[Sown] = ()
) -> int | None:
    """Fewest seeds of a bought packet for so many plants ``beside`` others; None: no number is enough."""
    others = tuple((_key(x), np.inf) for x in beside)
    return _needed(plants, others, _key(Sown(np.inf, seed)), confidence, max(SEED_CAP, plants))


def cover(
    demands: Sequence[Demand],
    supplies: Sequence[Supply],
    confidence: float,
    bought: Mapping[str, Seed],
    f: CoverFigures,
    uncounted_lots: Mapping[int, str] = MappingProxyType({}),
    told: Mapping[str, Way] = MappingProxyType({}),
) -> CoverPlan:
    """Give lots to all demands of the year at once, as a person would sow.

    A demand is met where P(at least the plants wanted) >= confidence over its lots together, in worlds that
    hold what is believed of each lot and of how much is in it. Of all that meet most demands, earlier ones
    first, the cheapest is taken (``ways``): few seeds, few packets opened, older seed before younger.
    Doubtful lots are never counted on but where the keeper chose them; what is left goes to what is short.
    ``bought``: fresh bought seed per crop, for the missing seeds; ``uncounted_lots``: crop of each lot
    that nobody ever counted; ``told``: what was told to be taken for each demand the last time, and under
    ``TRY`` before its name of which doubtful lots so many seeds were to be tried.
    """
    order = sorted(supplies, key=lambda s: (s.oldest_s, s.lot))
    hand = _Hand({s.lot: s.seeds for s in order}, {s.lot: s.held for s in order}, [])
    asked = [d for d in demands if d.plants > 0]
    met = chosen_ways(
        [Asked(d.plants, _eligible(d, order)) for d in asked], confidence, _needed_beside, f,
        [told.get(d.key) for d in asked] if told else (),
    )  # fmt: skip
    chances: dict[str, float] = dict.fromkeys((d.key for d in demands), confidence)
    open_: list[tuple[Demand, list[Sown], list[Sown]]] = []
    by_lot = {s.lot: s for s in order}
    for demand, way in zip(asked, met, strict=True):
        within = f.retold_within if told.get(demand.key) else 0.0
        given, thought, sure = _give(demand, way or (), by_lot, hand, confidence, within)
        if not sure:
            open_.append((demand, given, thought))
    short: list[Short] = []
    for demand, given, thought in open_:
        tried = dict(told.get(TRY + demand.key, ()))
        sound = _pour(demand, given, thought, order, hand, confidence, f, tried)
        if chance(demand.plants, sound) >= confidence:
            continue
        uncounted = any(demand.takes(i, c) for i, c in uncounted_lots.items())
        short.append(_missing(demand, given, sound, thought, confidence, bought, uncounted))
        chances[demand.key] = short[-1].chance
    return CoverPlan(
        _together(hand.taken),
        tuple(short),
        hand.left,
        chances,
        _beside(asked, short, order, hand, f, told),
    )


TRY = "try:"  # before the demand for which so many seeds of doubtful lots were told to be tried


def _to_try(plants: float, lot: Supply, told: int | None, f: CoverFigures) -> int:
    """Seeds of a doubtful lot to try for so many plants: the number that was told while it is about right."""
    seeds = ceil(plants / max(lot.seed.mean, 1e-3))
    if told is None or abs(told - seeds) > 1 + f.retold_share * seeds:
        return seeds
    return told


def _together(taken: Sequence[Taken]) -> tuple[Taken, ...]:
    """What one demand took of one lot, said once."""
    sums: dict[tuple[str, int], int] = {}
    for t in taken:
        sums[t.demand, t.lot] = sums.get((t.demand, t.lot), 0) + t.seeds
    return tuple(Taken(*key, seeds) for key, seeds in sums.items())


def _pour(
    demand: Demand, given: list[Sown], thought: list[Sown], order: Sequence[Supply], hand: _Hand,
    confidence: float, f: CoverFigures, tried: Mapping[int, int],
) -> list[Sown]:  # fmt: skip
    """Give what is left to a demand that is short (to ``given`` and ``thought``); of it what can be counted
    on. ``tried``: so many seeds of doubtful lots were told for it."""
    sound = list(given)
    for lot in (*_eligible(demand, order), *_doubtful(demand, order)):
        counted_on = lot.sound or lot.lot in demand.lots
        give = min(hand.left[lot.lot], SEED_CAP)
        if not counted_on:  # of what may be dead no more than is worth a row: others want some too
            plants = f.doubtful_times * demand.plants
            give = min(give, _to_try(plants, lot, tried.get(lot.lot), f))
        if give <= 0 or chance(demand.plants, given) >= confidence:
            continue
        one, plain = hand.take(demand.key, lot, give)
        given.append(one)
        thought.append(plain)
        if counted_on:
            sound.append(one)
    return sound


def _beside(
    asked: Sequence[Demand], short: Sequence[Short], order: Sequence[Supply], hand: _Hand, f: CoverFigures,
    told: Mapping[str, Way],
) -> tuple[Taken, ...]:  # fmt: skip
    """Doubtful lots to be used up beside what is counted on."""
    missing = {s.demand for s in short}
    out = []
    for d in asked:
        if d.key in missing or d.lots:
            continue
        tried = dict(told.get(TRY + d.key, ()))
        for lot in _doubtful(d, order)[:EXTRAS]:
            if hand.left[lot.lot] > 0:
                seeds = _to_try(d.plants, lot, tried.get(lot.lot), f)
                out.append(Taken(d.key, lot.lot, min(hand.left[lot.lot], seeds)))
    return tuple(out)


EXTRAS = 2  # doubtful packets named beside a sound one


@dataclass(frozen=True)
class _Hand:
    """What is left of each lot, as thought and in each world, and what was taken."""

    left: dict[int, int]
    there: dict[int, Floats]
    taken: list[Taken]

    def take(self, demand: str, lot: Supply, seeds: int) -> tuple[Sown, Sown]:
        """Take seeds of a lot: as they may be, and as thought."""
        held = self.there[lot.lot]
        self.taken.append(Taken(demand, lot.lot, seeds))
        self.left[lot.lot] -= seeds
        self.there[lot.lot] = np.maximum(held - seeds, 0.0)
        return Sown(np.minimum(held, seeds), lot.seed), Sown(float(seeds), lot.seed)


def _mine(demand: Demand, order: Sequence[Supply]) -> list[Supply]:
    return [s for s in order if s.seeds > 0 and demand.takes(s.lot, s.crop)]


def _eligible(demand: Demand, order: Sequence[Supply]) -> list[Supply]:
    """Lots that may be counted on for a demand, the oldest first; what the keeper chose is sown as it is."""
    return [s for s in _mine(demand, order) if s.lot in demand.lots or (s.usable and s.sound)]


def _doubtful(demand: Demand, order: Sequence[Supply]) -> list[Supply]:
    """Those that may not, though they may still come up."""
    return [
        s for s in _mine(demand, order) if s.usable and not s.sound and s.lot not in demand.lots
    ]


def _needed_beside(
    plants: int, others: Sequence[tuple[Supply, int]], lot: Supply, confidence: float, most: int
) -> int | None:
    """Fewest seeds of a lot that do beside so many of others; None: not even ``most``."""
    keys = tuple((x.key, float(n)) for x, n in others)
    return _needed(plants, keys, lot.key, confidence, min(most, SEED_CAP))


def _give(
    demand: Demand,
    way: Sequence[tuple[int, int]],
    by_lot: Mapping[int, Supply],
    hand: _Hand,
    confidence: float,
    within: float,
) -> tuple[list[Sown], list[Sown], bool]:
    """Take a way's seeds, as many as they are while no more than ``within`` (share) is missing; where an
    amount is doubtful and another demand went before, some more of the last lot. Whether it is promised."""
    given: list[Sown] = []
    thought: list[Sown] = []
    sure = False
    for i, (lot, seeds) in enumerate(way):
        one, held, most = by_lot[lot], hand.there[lot], min(hand.left[lot], SEED_CAP)
        if i == len(way) - 1:
            others = tuple((_key(x), np.inf) for x in given)
            again = _needed(demand.plants, others, _key(Sown(held, one.seed)), confidence, most)
            sure = again is not None
            if again is None or again > seeds * (1 + within):
                seeds = most if again is None else again
        if seeds > 0:
            as_it_may, as_thought = hand.take(demand.key, one, min(seeds, most))
            given.append(as_it_may)
            thought.append(as_thought)
    return given, thought, sure


def _missing(
    demand: Demand,
    given: Sequence[Sown],
    sound: Sequence[Sown],
    thought: Sequence[Sown],
    confidence: float,
    bought: Mapping[str, Seed],
    uncounted: bool,
) -> Short:
    at_least, hoped = chance(demand.plants, given), expected(given)
    sure = promised(sound, confidence, demand.plants)
    missing = max(demand.plants - sure, 1)
    new = next((bought[c] for c in sorted(demand.crops) if c in bought), None)
    if uncounted:
        code = "uncounted"
    elif not given:
        code = "no_seed"
    elif len(sound) == len(given) and chance(demand.plants, thought) >= confidence:
        code = "amount_unsure"  # with as much as is thought to be there it would do
    else:
        code = "too_unsure" if hoped >= demand.plants else "too_few"
    return Short(
        demand.key,
        missing,
        seeds_to_buy(missing, new, confidence) if new is not None else None,
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
