"""What to order: the cheapest packets that close what is short, within the budget, the important first.

Each gap is closed by seed of one offer or of two, where it must be of three; seeds of a pack that are left
serve other gaps of its kind. Postage counts once a seller. What cannot be paid for is left out from the
least important on. Solved exactly (HiGHS; Huangfu & Hall 2018).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.optimize import Bounds, milp

from .figures_planning import BasketFigures
from .solving import Rows


@dataclass(frozen=True)
class Offer:
    """Packs of a seller: kind, variety (empty: whatever comes), seeds in one, price, days until it comes,
    packs that are to be had (sold out: 0)."""

    key: int
    seller: str
    crop: str
    variety: str
    seeds: int
    price: float
    lead_days: float
    most: int


@dataclass(frozen=True)
class Gap:
    """What is short: which kinds would do, the variety asked for (empty: any), days that are left to order,
    how much it matters (1: little), and plants; ``but``: offers that are not of the type it asks for."""

    key: str
    crops: frozenset[str]
    variety: str
    days_left: float
    weight: float
    plants: int
    but: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Bought:
    """Packs by offer, the seeds that each gap is given of each offer, gaps left open, what it costs in all
    and of it the postage; ``gap``: how far a better set could be (share)."""

    packs: dict[int, int]
    given: dict[str, dict[int, int]]
    open: tuple[str, ...]
    price: float
    postage: float
    gap: float


# seeds of an offer that a gap needs beside so many of others (None: no number is enough)
Needs = Callable[[Gap, Offer, Sequence[tuple[Offer, int]]], int | None]
Way = tuple[tuple[int, int], ...]


def suits(gap: Gap, offer: Offer) -> bool:
    """Whether an offer may close a gap at all: its kind, its variety where one is asked for, in time."""
    named = not gap.variety or gap.variety.casefold() == offer.variety.casefold()
    fits = offer.crop in gap.crops and named and offer.key not in gap.but
    return fits and offer.lead_days <= gap.days_left and offer.most > 0


def ways_of(gap: Gap, offers: Sequence[Offer], needs: Needs) -> list[Way]:
    """Seeds of one offer; some packs of one and the rest of another; where no two are enough all packs of
    two and the rest of a third."""
    some = [o for o in offers if suits(gap, o)]
    alone = {o.key: needs(gap, o, ()) for o in some}
    out: list[Way] = []
    for o in some:
        n = alone[o.key]
        if n is not None and n <= o.most * o.seeds:
            out.append(((o.key, n),))
        most = o.most if n is None else min(o.most, (n - 1) // o.seeds)
        for other in some:
            if other.key == o.key or other.crop != o.crop:
                continue
            for packs in range(1, most + 1):
                rest = needs(gap, other, ((o, packs * o.seeds),))
                if rest is not None and 0 < rest <= other.most * other.seeds:
                    out.append(((o.key, packs * o.seeds), (other.key, rest)))
    return out or _of_three(gap, some, needs)


def _of_three(gap: Gap, some: Sequence[Offer], needs: Needs) -> list[Way]:
    out: list[Way] = []
    for a, b in combinations(some, 2):
        both = ((a, a.most * a.seeds), (b, b.most * b.seeds))
        for c in some:
            if c.key in (a.key, b.key):
                continue
            rest = needs(gap, c, both)
            if rest is not None and 0 < rest <= c.most * c.seeds:
                out.append((*((o.key, n) for o, n in both), (c.key, rest)))
    return out


def cheapest(
    gaps: Sequence[Gap], offers: Sequence[Offer], postage: Mapping[str, float], budget: float | None,
    needs: Needs, f: BasketFigures,
) -> Bought:  # fmt: skip
    """The cheapest set of packs; of what cannot be paid for the least important is left out.

    ``postage``: of each seller; ``budget``: None for no limit. The same input gives the same set.
    """
    listed = [(i, w) for i, g in enumerate(gaps) for w in ways_of(g, offers, needs)]
    sellers = sorted({o.seller for o in offers})
    n, k, m, s = len(listed), len(offers), len(gaps), len(sellers)
    pack, ship, unmet = n, n + k, n + k + s
    dearest = sum(o.price for o in offers) + sum(postage.values()) + 1.0
    cost = [f.tie * sum(seeds for _, seeds in w) for _, w in listed]
    cost += [o.price for o in offers]
    cost += [postage.get(x, 0.0) for x in sellers]
    cost += [dearest * f.open_times * (f.weight_base + g.weight) for g in gaps]
    rows = Rows()
    for i in range(m):
        mine = [(j, 1.0) for j, (who, _) in enumerate(listed) if who == i]
        rows.add([*mine, (unmet + i, 1.0)], 1.0, 1.0)
    for a, o in enumerate(offers):
        used = [(j, float(dict(w)[o.key])) for j, (_, w) in enumerate(listed) if o.key in dict(w)]
        if used:
            rows.add([*used, (pack + a, -float(o.seeds))], 0.0)
        # a pack brings its seller's postage
        rows.add([(pack + a, 1.0), (ship + sellers.index(o.seller), -float(max(o.most, 1)))], 0.0)
    if budget is not None:
        paid = [(pack + a, o.price) for a, o in enumerate(offers)]
        paid += [(ship + b, postage.get(x, 0.0)) for b, x in enumerate(sellers)]
        rows.add(paid, budget)
    upper = np.ones(len(cost))
    upper[pack:ship] = [o.most for o in offers]
    if not cost:
        return Bought({}, {}, (), 0.0, 0.0, 0.0)
    found = milp(
        np.array(cost),
        integrality=np.ones(len(cost)),
        bounds=Bounds(0, upper),
        constraints=rows.constraint(len(cost)),
        options={"time_limit": f.time_limit_s, "mip_rel_gap": 1e-6},
    )
    if found.x is None:
        return Bought({}, {}, tuple(g.key for g in gaps), 0.0, 0.0, 1.0)
    x = np.round(found.x).astype(int)
    packs = {o.key: int(x[pack + a]) for a, o in enumerate(offers) if x[pack + a]}
    given = {gaps[i].key: dict(w) for j, (i, w) in enumerate(listed) if x[j]}
    by_key = {o.key: o for o in offers}
    of = {by_key[key].seller for key in packs}
    sent = sum(postage.get(x, 0.0) for x in of)
    price = sum(by_key[key].price * count for key, count in packs.items()) + sent
    gap = max(0.0, float(found.fun) - float(found.mip_dual_bound)) / max(float(found.fun), 1e-9)
    open_ = tuple(g.key for i, g in enumerate(gaps) if x[unmet + i])
    return Bought(packs, given, open_, price, sent, 0.0 if gap < 1e-5 else gap)


def seller_record(stated: Sequence[float], found: Sequence[float], f: BasketFigures) -> float:
    """How much better (or, below zero, worse) seed of a seller is than stated: the mean difference of the
    household's own tests, drawn towards none where there are few."""
    if not stated:
        return 0.0
    differences = np.asarray(found, dtype=float) - np.asarray(stated, dtype=float)
    return float(differences.sum() / (len(differences) + f.record_weight))
