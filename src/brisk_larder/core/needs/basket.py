"""What to order: the cheapest packets that close what is short, within the budget, the important first.

Each gap is closed by seed of one offer or of two, where it must be of three; seeds of a pack that are left
serve other gaps of its kind. Postage counts once a seller. What cannot be paid for is left out from the
least important on. Solved exactly (HiGHS; Huangfu & Hall 2018) over the mixtures that were weighed: all of
them where they are few, else the likeliest (``BasketFigures.most_weighed``), so that a long list is
answered in time; what another offer of its seller beats in every way is left out first.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.optimize import Bounds, milp

from ..base.figures_planning import BasketFigures
from ..base.solving import Rows


@dataclass(frozen=True)
class Offer:
    """Packs of a seller: kind, variety (empty: whatever comes), seeds in one, price, days until it comes,
    packs that are to be had (sold out: 0); ``worth``: plants a seed of it gives, about."""

    key: int
    seller: str
    crop: str
    variety: str
    seeds: int
    price: float
    lead_days: float
    most: int
    worth: float = 1.0


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
    and of it the postage; ``gap``: how far a better set of those weighed could be (share); ``all_weighed``:
    no mixture was left out; ``unpaid``: gaps left open that the packets offered could close."""

    packs: dict[int, int]
    given: dict[str, dict[int, int]]
    open: tuple[str, ...]
    price: float
    postage: float
    gap: float
    all_weighed: bool = True
    unpaid: frozenset[str] = frozenset()


# seeds of an offer that a gap needs beside so many of others (None: no number is enough)
Needs = Callable[[Gap, Offer, Sequence[tuple[Offer, int]]], int | None]
Way = tuple[tuple[int, int], ...]


def suits(gap: Gap, offer: Offer) -> bool:
    """Whether an offer may close a gap at all: its kind, its variety where one is asked for, in time."""
    named = not gap.variety or gap.variety.casefold() == offer.variety.casefold()
    fits = offer.crop in gap.crops and named and offer.key not in gap.but
    return fits and offer.lead_days <= gap.days_left and offer.most > 0


class _Weighing:
    """How many mixtures may still be weighed: each asks how much seed it takes, which costs time."""

    def __init__(self, needs: Needs, most: int) -> None:
        self._needs, self.left, self.all_weighed = needs, most, True

    def __call__(
        self, gap: Gap, offer: Offer, beside: Sequence[tuple[Offer, int]] = ()
    ) -> int | None:
        self.left -= 1
        return self._needs(gap, offer, beside)

    def may(self) -> bool:
        """Whether one more may be weighed; if not, that some were left out."""
        self.all_weighed &= self.left > 0
        return self.left > 0


def unbeaten(offers: Sequence[Offer], plenty: int, by_variety: bool) -> list[Offer]:
    """Offers that no other of the same seller and kind beats: as much seed, as good, for no more money, and
    of which there are ``plenty`` of packs. ``by_variety``: only one of the same variety may."""
    out: list[Offer] = []
    best: dict[tuple[str, str, str], list[Offer]] = {}
    for o in sorted(offers, key=lambda o: (o.price, -o.seeds, -o.worth, -o.most, o.key)):
        rivals = best.setdefault((o.seller, o.crop, o.variety.casefold() * by_variety), [])
        beaten = (r.seeds >= o.seeds and r.worth >= o.worth and r.most >= plenty for r in rivals)
        if not any(beaten):
            rivals.append(o)
            out.append(o)
    return sorted(out, key=lambda o: o.key)


def _likeliest(gap: Gap, some: Sequence[Offer], most: int) -> list[Offer]:
    """Of many offers those that close a gap most cheaply by themselves, and those that cost the least by the
    living seed."""
    if len(some) <= most:
        return list(some)

    def alone(o: Offer) -> float:
        packs = -(-gap.plants // max(1, int(o.seeds * o.worth)))
        return o.price * packs + (0.0 if packs <= o.most else 1e6)

    cheap = sorted(some, key=lambda o: (alone(o), o.key))[: most - most // 3]
    dense = sorted(some, key=lambda o: (o.price / max(o.seeds * o.worth, 1e-6), o.key))
    chosen = {o.key for o in cheap}
    chosen |= {o.key for o in [o for o in dense if o.key not in chosen][: most // 3]}
    return [o for o in some if o.key in chosen]


def ways_of(
    gap: Gap, offers: Sequence[Offer], needs: _Weighing, most_offers: int, pairs: int
) -> list[Way]:
    """Seeds of one offer; some packs of one and the rest of another; where no two are enough all packs of
    two and the rest of a third. At most so many ``pairs`` are weighed, those of few packs first."""
    suited = [o for o in offers if suits(gap, o)]
    some = _likeliest(gap, suited, most_offers)
    needs.all_weighed &= len(some) == len(suited)
    alone = {o.key: needs(gap, o) for o in some}
    out: list[Way] = []
    mixed: list[tuple[int, Offer, Offer]] = []
    for o in some:
        n = alone[o.key]
        if n is not None and n <= o.most * o.seeds:
            out.append(((o.key, n),))
        most = o.most if n is None else min(o.most, (n - 1) // o.seeds)
        mixed += [
            (packs, o, other)
            for other in some
            if other.key != o.key and other.crop == o.crop
            for packs in range(1, most + 1)
        ]
    mixed.sort(key=lambda x: (x[0] * x[1].price + x[2].price, x[0], x[1].key, x[2].key))
    for tried, (packs, o, other) in enumerate(mixed):
        if tried >= pairs or not needs.may():
            needs.all_weighed = False
            break
        rest = needs(gap, other, ((o, packs * o.seeds),))
        if rest is not None and 0 < rest <= other.most * other.seeds:
            out.append(((o.key, packs * o.seeds), (other.key, rest)))
    return out or _of_three(gap, some, needs)


def _of_three(gap: Gap, some: Sequence[Offer], needs: _Weighing) -> list[Way]:
    out: list[Way] = []
    for a, b in combinations(some, 2):
        both = ((a, a.most * a.seeds), (b, b.most * b.seeds))
        for c in some:
            if c.key in (a.key, b.key):
                continue
            if not needs.may():
                return out
            rest = needs(gap, c, both)
            if rest is not None and 0 < rest <= c.most * c.seeds:
                out.append((*((o.key, n) for o, n in both), (c.key, rest)))
    return out


def _listed(
    gaps: Sequence[Gap], offers: Sequence[Offer], needs: Needs, f: BasketFigures
) -> tuple[list[tuple[int, Way]], bool]:
    """Ways to close each gap, and whether all were weighed: the more gaps, the fewer of each."""
    weighing = _Weighing(needs, f.most_weighed)
    share = max(1, f.most_weighed // max(1, len(gaps)))
    most_offers = max(f.least_offers, round((share / f.most_packs) ** 0.5))
    named = any(g.variety for g in gaps)
    fit = unbeaten(offers, f.most_packs, named)
    listed = [
        (i, way)
        for i, g in enumerate(gaps)
        for way in ways_of(g, fit, weighing, most_offers, share)
        or ways_of(g, offers, weighing, most_offers, share)
    ]
    return listed, weighing.all_weighed


def cheapest(
    gaps: Sequence[Gap], offers: Sequence[Offer], postage: Mapping[str, float], budget: float | None,
    needs: Needs, f: BasketFigures,
) -> Bought:  # fmt: skip
    """The cheapest set of packs; of what cannot be paid for the least important is left out.

    ``postage``: of each seller; ``budget``: None for no limit. The same input gives the same set.
    """
    listed, all_weighed = _listed(gaps, offers, needs, f)
    taken = {key for _, way in listed for key, _ in way}
    offers = [o for o in offers if o.key in taken]
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
        return Bought({}, {}, tuple(g.key for g in gaps), 0.0, 0.0, 1.0, False)
    x = np.round(found.x).astype(int)
    packs = {o.key: int(x[pack + a]) for a, o in enumerate(offers) if x[pack + a]}
    given = {gaps[i].key: dict(w) for j, (i, w) in enumerate(listed) if x[j]}
    by_key = {o.key: o for o in offers}
    of = {by_key[key].seller for key in packs}
    sent = sum(postage.get(x, 0.0) for x in of)
    price = sum(by_key[key].price * count for key, count in packs.items()) + sent
    gap = max(0.0, float(found.fun) - float(found.mip_dual_bound)) / max(float(found.fun), 1e-9)
    open_ = tuple(g.key for i, g in enumerate(gaps) if x[unmet + i])
    closable = {gaps[i].key for i, _ in listed}
    return Bought(
        packs, given, open_, price, sent, 0.0 if gap < 1e-5 else gap, all_weighed,
        frozenset(open_) & closable,
    )  # fmt: skip


def seller_record(stated: Sequence[float], found: Sequence[float], f: BasketFigures) -> float:
    """How much better (or, below zero, worse) seed of a seller is than stated: the mean difference of the
    household's own tests, drawn towards none where there are few."""
    if not stated:
        return 0.0
    differences = np.asarray(found, dtype=float) - np.asarray(stated, dtype=float)
    return float(differences.sum() / (len(differences) + f.record_weight))
