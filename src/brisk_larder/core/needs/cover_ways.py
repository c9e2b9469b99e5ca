"""Ways to meet demands from lots, and the cheapest choice of one way each.

A way is one lot that suffices, or one of which so much is taken and another that fills up, or lots one after
the other. Demands that share lots are chosen together (HiGHS; Huangfu & Hall 2018), all others each by
itself. What a way costs is counted in packets: its seeds, the packets opened, and youth: of two that do,
the older seed goes first.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from math import ceil

import numpy as np
from scipy.optimize import Bounds, milp

from ..base.figures_planning import CoverFigures
from ..base.solving import Rows
from ..base.units import YEAR_S
from ..seed.plants import Emergence, Seed
from ..storage.moisture import Floats

Way = tuple[tuple[int, int], ...]  # lots and seeds of each, the last one filling up
LEVELS = (0.25, 0.5, 0.75)


_same: dict[bytes, bytes] = {}
MOST_KEPT = 16_384
Key = tuple[
    bytes, bytes, Emergence
]  # seeds of a lot in each world, their germination, how they emerge


def once(array: Floats) -> bytes:
    """An array's bytes, kept once however many keys they are part of."""
    if len(_same) > MOST_KEPT:
        _same.clear()
    data = array.tobytes()
    return _same.setdefault(data, data)


@dataclass(frozen=True)
class Supply:
    """A lot in hand: seeds to hand out after its reserve, as thought and as they may be in each world [S];
    what one is worth; age; whether it may be used at all, and whether it may be counted on (``sound``: not
    where it may be dead); seeds in a usual packet of it."""

    lot: int
    crop: str
    seeds: int
    seed: Seed
    oldest_s: float
    usable: bool
    held: Floats
    sound: bool = True
    packet: float = 100.0

    @cached_property
    def key(self) -> Key:
        """What it is worth, by its values."""
        return once(self.held), once(self.seed.g), self.seed.emergence


@dataclass(frozen=True)
class Asked:
    """Plants wanted, and the lots that may be counted on for them, the oldest first."""

    plants: int
    lots: Sequence[Supply]

    @property
    def oldest_s(self) -> float:
        """Age of the oldest that would do."""
        return min((x.oldest_s for x in self.lots), default=0.0)


# fewest seeds of a lot for so many plants beside so many of others, from at most so many: None: not enough
Needed = Callable[[int, Sequence[tuple[Supply, int]], Supply, float, int], int | None]


def way_cost(asked: Asked, way: Way, f: CoverFigures) -> float:
    """What the seeds of a way cost; packets opened are counted once for all."""
    by_lot = {x.lot: x for x in asked.lots}
    total = 0.0
    for lot, seeds in way:
        one = by_lot[lot]
        younger = (one.oldest_s - asked.oldest_s) / YEAR_S
        total += seeds * (1.0 + f.young_cost * younger) / one.packet
    return total


def whole_cost(asked: Sequence[Asked], ways: Sequence[Way | None], f: CoverFigures) -> float:
    """What a choice costs: each way's seeds, each packet opened once, each demand that is not met (earlier
    ones more)."""
    opened = {lot for way in ways for lot, _ in way or ()}
    seeds = sum(way_cost(a, w, f) for a, w in zip(asked, ways, strict=True) if w is not None)
    unmet = sum(short_cost(i, f) for i, w in enumerate(ways) if w is None)
    return seeds + f.open_cost * len(opened) + unmet


def short_cost(i: int, f: CoverFigures) -> float:
    """What it costs to leave the i-th demand unmet."""
    return f.short_cost * (1.0 + f.earlier_share / (1.0 + i))


def single_ways(asked: Asked, confidence: float, needed: Needed) -> list[Way]:
    """Lots that suffice alone."""
    found = ((x.lot, needed(asked.plants, (), x, confidence, x.seeds)) for x in asked.lots)
    return [((lot, n),) for lot, n in found if n is not None]


def _joint_ways(
    asked: Asked, levels: dict[int, set[int]], confidence: float, needed: Needed, f: CoverFigures
) -> list[Way]:
    """Two lots together, the first by some levels; and lots one after the other until they suffice, the
    fullest first."""
    out: list[Way] = []
    some = list(asked.lots[: f.most_lots])
    for one in some:
        for other in some:
            if one.lot == other.lot:
                continue
            shares = {round(s * one.seeds) for s in LEVELS}
            for level in sorted({one.seeds, *shares, *levels.get(one.lot, ())}):
                if not 0 < level <= one.seeds:
                    continue
                rest = needed(asked.plants, ((one, level),), other, confidence, other.seeds)
                if rest:
                    out.append(((one.lot, level), (other.lot, rest)))
    by_fullness = sorted(asked.lots, key=lambda x: (-x.seeds * x.seed.mean, x.lot))
    return [*out, *_one_after_another(asked, by_fullness, confidence, needed)]


def _plain_ways(
    asked: Asked, confidence: float, needed: Needed, f: CoverFigures
) -> tuple[list[Way], list[Way]]:
    """Lots that suffice alone; and lots one after the other from one of the oldest on, each used up before
    the next is opened."""
    alone = single_ways(asked, confidence, needed)
    enough = {way[0][0] for way in alone}
    chains: list[Way] = []
    for i, lot in enumerate(asked.lots[: f.most_lots]):
        if lot.lot not in enough:
            chains += _one_after_another(asked, asked.lots[i:], confidence, needed)
    return alone, chains


def _one_after_another(
    asked: Asked, chain: Sequence[Supply], confidence: float, needed: Needed
) -> Iterable[Way]:
    given: list[tuple[Supply, int]] = []
    for lot in chain:
        rest = needed(asked.plants, tuple(given), lot, confidence, lot.seeds)
        if rest is not None:
            yield (*((x.lot, n) for x, n in given), (lot.lot, rest))
            return
        given.append((lot, lot.seeds))


def chosen_ways(
    asked: Sequence[Asked],
    confidence: float,
    needed: Needed,
    f: CoverFigures,
    told: Sequence[Way | None] = (),
) -> list[Way | None]:
    """One way for each demand (None: it cannot be met beside the others), the cheapest in all. ``told``: the
    way that was told for each the last time (None: none): of demands that share lots it stands as long as it
    still does, and nothing is clearly cheaper."""
    out: list[Way | None] = [None] * len(asked)
    for index in _sharing(asked):
        some = [asked[i] for i in index]
        found = _of_some(some, index, confidence, needed, f)
        if told:
            last = [_still(asked[i], told[i], confidence, needed, f) for i in index]
            if _stands(some, last, found, f):
                found = last
        for i, way in zip(index, found, strict=True):
            out[i] = way
    return out


def _still(
    asked: Asked, way: Way | None, confidence: float, needed: Needed, f: CoverFigures
) -> Way | None:
    """A way that was told, as it would do today: its number of seeds stays while it is enough and not far too
    many. None: it does no more."""
    by_lot = {x.lot: x for x in asked.lots}
    if not way or any(lot not in by_lot for lot, _ in way):
        return None
    *first, (last, n) = way
    if any(seeds > by_lot[lot].seeds for lot, seeds in first):
        return None
    most = by_lot[last].seeds
    least = needed(asked.plants, [(by_lot[i], s) for i, s in first], by_lot[last], confidence, most)
    if not least:
        return None
    if least > n * (1 + f.retold_within):
        n = min(most, ceil(least * (1 + f.retold_share)))
    elif n > 1 + least * (1 + 3 * f.retold_share):
        n = least
    return (*first, (last, min(n, most)))


def _stands(
    asked: Sequence[Asked], last: Sequence[Way | None], found: Sequence[Way | None], f: CoverFigures
) -> bool:
    """Whether the ways that were told meet all that can be met, with what there is, at nearly least cost."""
    if any((a is None) != (b is None) for a, b in zip(last, found, strict=True)):
        return False
    have = {x.lot: x.seeds for a in asked for x in a.lots}
    used: dict[int, int] = {}
    for way in last:
        for lot, n in way or ():
            used[lot] = used.get(lot, 0) + n
    if any(n > have[lot] for lot, n in used.items()):
        return False
    margin = f.retold_cost * sum(a != b for a, b in zip(last, found, strict=True))
    return whole_cost(asked, last, f) <= whole_cost(asked, found, f) + margin


def _sharing(asked: Sequence[Asked]) -> list[list[int]]:
    """Demands that share lots, directly or through others."""
    groups: list[tuple[set[int], list[int]]] = []
    for i, one in enumerate(asked):
        lots, index = {x.lot for x in one.lots}, [i]
        apart = []
        for group in groups:
            if group[0] & lots:
                lots |= group[0]
                index = [*group[1], *index]
            else:
                apart.append(group)
        groups = [*apart, (lots, index)]
    return [sorted(index) for _, index in groups]


def _of_some(
    asked: Sequence[Asked], rank: Sequence[int], confidence: float, needed: Needed, f: CoverFigures
) -> list[Way | None]:
    plain = [_plain_ways(a, confidence, needed, f) for a in asked]
    alone = [a for a, _ in plain]
    have = {x.lot: x.seeds for a in asked for x in a.lots}
    if _roomy(asked, alone, have) and all(a or c for a, c in plain):
        return _solve(asked, rank, [[*a, *c] for a, c in plain], have, f)
    # what one demand leaves of a lot may be just what another needs
    levels: dict[int, set[int]] = {}
    for mine in alone:
        for ((lot, n),) in mine:
            levels.setdefault(lot, set()).update((n, have[lot] - n))
    more = [
        list(dict.fromkeys((*a, *c, *_joint_ways(one, levels, confidence, needed, f))))
        for one, (a, c) in zip(asked, plain, strict=True)
    ]
    return _solve(asked, rank, more, have, f)


def _roomy(asked: Sequence[Asked], ways: Sequence[Sequence[Way]], have: dict[int, int]) -> bool:
    """Whether each lot has enough for all that could be met by it alone: then no two are needed for one."""
    wanted: dict[int, int] = {}
    for mine in ways:
        for ((lot, n),) in mine:
            wanted[lot] = wanted.get(lot, 0) + n
    return all(n <= have[lot] for lot, n in wanted.items())


def _solve(
    asked: Sequence[Asked], rank: Sequence[int], ways: Sequence[Sequence[Way]], have: dict[int, int],
    f: CoverFigures,
) -> list[Way | None]:  # fmt: skip
    """The cheapest choice of one way each, no lot giving more than it has."""
    if len(asked) == 1:  # nobody else wants of its lots
        one = asked[0]
        return [
            min(ways[0], key=lambda w: way_cost(one, w, f) + f.open_cost * len(w), default=None)
        ]
    listed = tuple((i, w) for i, mine in enumerate(ways) for w in mine)
    cost = tuple(way_cost(asked[i], w, f) for i, w in listed)
    unmet = tuple(short_cost(r, f) for r in rank)
    chosen = _cheapest(listed, cost, tuple(sorted(have.items())), unmet, f)
    out: list[Way | None] = [None] * len(asked)
    for j in chosen:
        out[listed[j][0]] = listed[j][1]
    return out


@lru_cache(maxsize=256)
def _cheapest(
    listed: tuple[tuple[int, Way], ...], way_costs: tuple[float, ...], have: tuple[tuple[int, int], ...],
    unmet: tuple[float, ...], f: CoverFigures,
) -> tuple[int, ...]:  # fmt: skip
    """Numbers of the ways chosen, by their values: after an act nearly all demands are what they were."""
    n, k, m = len(listed), len(have), len(unmet)
    opened = {lot: n + j for j, (lot, _) in enumerate(have)}
    cost = [*way_costs, *([f.open_cost] * k), *unmet]
    rows = Rows()
    for i in range(m):
        rows.add(
            [*((j, 1.0) for j, (who, _) in enumerate(listed) if who == i), (n + k + i, 1.0)], 1, 1
        )
    for lot, there in have:
        using = [(j, dict(w)[lot]) for j, (_, w) in enumerate(listed) if lot in dict(w)]
        if not using:
            continue
        rows.add([(j, float(seeds)) for j, seeds in using], float(there))
        for i in {listed[j][0] for j, _ in using}:  # tighter than all at once
            mine = [(j, 1.0) for j, _ in using if listed[j][0] == i]
            rows.add([*mine, (opened[lot], -1.0)], 0.0)
    found = milp(
        np.array(cost),
        integrality=np.ones(len(cost)),
        bounds=Bounds(0, 1),
        constraints=rows.constraint(len(cost)),
        options={"time_limit": f.time_limit_s, "mip_rel_gap": f.gap},
    )
    return () if found.x is None else tuple(np.flatnonzero(found.x[:n] > 0.5).tolist())
