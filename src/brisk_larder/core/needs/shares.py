"""A need split over varieties, and what of the needs is sown already."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil

from .cover import Demand

PART = "#"  # between a food and one of the varieties it is split over, in the key of a demand


def whole_key(demand: str) -> str:
    """The food or pick that a demand is of."""
    return demand.split(PART)[0]


def shared(plants: int, shares: Mapping[int, float]) -> dict[int, int]:
    """Plants of each variety, whole ones, that make up all of them; largest remainders first."""
    total = sum(shares.values())
    exact = {v: plants * s / total for v, s in shares.items()}
    out = {v: int(x) for v, x in exact.items()}
    rest = plants - sum(out.values())
    for v in sorted(exact, key=lambda v: (out[v] - exact[v], v))[:rest]:
        out[v] += 1
    return out


@dataclass(frozen=True)
class InGround:
    """Plants of a packet that are in the ground or expected, and what they were sown for (empty: not
    said)."""

    lot: int
    crop: str
    meant_for: str
    plants: float


def less_what_is_sown(
    demands: Sequence[Demand],
    ground: Sequence[InGround],
    enough_but: float = 0.0,
    exact: frozenset[str] = frozenset(),
) -> tuple[list[Demand], dict[str, int]]:
    """Demands less the plants in the ground: what was sown for one is its own, the rest goes to the earlier
    ones first; and the plants of each that are. Where no more than a share ``enough_but`` of a need is
    missing beside what is sown for it, nothing more is asked for; not of ``exact`` ones, which are sown one
    time after the other."""
    left = [g.plants for g in ground]
    missing = {d.key: float(d.plants) for d in demands}
    for own in (True, False):
        for d in demands:
            for i, g in enumerate(ground):
                mine = g.meant_for == whole_key(d.key)
                if (mine or not own) and d.takes(g.lot, g.crop) and missing[d.key] > 0:
                    took = min(left[i], missing[d.key])
                    left[i] -= took
                    missing[d.key] -= took
    out, sown = [], dict[str, int]()
    for d in demands:
        whole = d.plants - ceil(missing[d.key] - 1e-9)
        if whole:
            sown[d.key] = whole
        rest = d.plants - whole
        enough = whole > 0 and d.key not in exact and rest <= enough_but * d.plants
        out.append(replace(d, plants=0 if enough else rest))
    return out, sown
