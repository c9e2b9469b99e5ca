"""The basket: what is short or wished for, what is offered, and the cheapest set that closes it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from sqlmodel import col

from ...core.base.units import DAY_S, YEAR_S
from ...core.needs import basket as ba
from ...core.needs.cover import seeds_to_buy
from ...core.seed.plants import Seed, Sown
from ...data.queries import key, live
from ...data.tables import SeedOffer, Seller, WantedSeed
from ..air.look import Look, looking_at
from ..forecast.lines import LotLine, lot_lines
from ..forecast.on_order import OrderLine, orders_of, records, seed_of_offer
from ..forecast.sowing import sowing_of
from ..household.kind_types import fit, type_names, types_typed
from ..household.kinds import Kind, figures
from ..household.larder import Larder, remembered
from ..household.planting_stock import unit_of
from ..household.wording import day_words, many, percent
from .chain_lines import ORDERABLE, ChainLine
from .chains import needs_room


@dataclass(frozen=True)
class OfferLine:
    """One packet that is offered. ``germinates``: what is believed of its seed; ``per_living``: what a living
    seed costs; ``chosen``: packs in the proposed order; ``says``: why not, or what speaks for it."""

    offer_id: int
    version: int
    seller: str
    crop: str
    kind_name: str
    variety: str
    hybrid: bool
    pack_seeds: int
    price: float
    stated_germination: float | None
    germinates: float
    per_living: float
    packs_left: int | None
    sale_ends_s: int | None
    lead_days: float
    unit: str
    chosen: int
    says: str


@dataclass(frozen=True)
class GapLine:
    """One thing that seed is bought for. ``closed_by``: offers in words; ``order_by_s``: the last day to
    order what closes it; ``owned``: what is in hand already, a warning; ``asked``: of a wish, its life cycle,
    season, place and note."""

    key: str
    name: str
    crop: str
    wish_id: int | None
    priority: int
    plants: int
    closed_by: list[str]
    order_by_s: float | None
    says: str
    owned: str
    asked: str


@dataclass(frozen=True)
class SellerLine:
    """Who sells, with what its seed was found to be against what it states (None: never tested)."""

    seller_id: int
    name: str
    postage: float
    lead_days: float | None
    record: str


@dataclass(frozen=True)
class BasketRoom:
    """Gaps, the most important first, offers, the proposed order and what it costs, orders under way."""

    gaps: list[GapLine]
    offers: list[OfferLine]
    sellers: list[SellerLine]
    orders: list[OrderLine]
    price: float
    postage: float
    budget: float | None
    spent: float
    currency: str
    saved: float
    says: str


@dataclass(frozen=True)
class _Gap:
    gap: ba.Gap
    line: ChainLine | None
    wish: WantedSeed | None
    at_s: float
    owned: list[LotLine]

    def name(self, kind: Kind) -> str:
        """What it is called."""
        if self.line is not None:
            return self.line.name
        return f"{self.wish.variety if self.wish else ''} {kind.name}".strip()


@remembered
def basket_room(larder: Larder) -> BasketRoom:
    """All of it; the set is chosen anew whenever something it hangs on changes."""
    # long: what is read, the set, then one list after the other
    needs, stock = needs_room(larder), lot_lines(larder)
    with looking_at(larder) as v:
        f = figures().basket
        sellers = {key(s): s for s in v.session.exec(live(Seller))}
        rows = [
            o
            for o in v.session.exec(live(SeedOffer).order_by(col(SeedOffer.id)))
            if o.sale_ends_s is None or o.sale_ends_s > v.now_s
        ]
        found = records(v.session, stock)
        offers = [_offer(o, sellers[o.seller_id], f.unsaid_lead_days, f.most_packs) for o in rows]
        seeds = {
            o.key: seed_of_offer(v, r, found.get(o.seller, 0.0))
            for o, r in zip(offers, rows, strict=True)
        }
        offers = [replace(o, worth=seeds[o.key].mean) for o in offers]
        by_key = {o.key: o for o in offers}
        types = {key(r): r.types or types_typed(r.crop, r.variety) for r in rows}
        gaps = [_of_type(g, offers, types) for g in _gaps(v, needs.lines, stock)]
        confidence = v.home.confidence

        def needed(gap: ba.Gap, o: ba.Offer, beside: Sequence[tuple[ba.Offer, int]]) -> int | None:
            others = [Sown(float(n), seeds[other.key]) for other, n in beside]
            return seeds_to_buy(gap.plants, seeds[o.key], confidence, others)

        postage = {s.name: s.postage for s in sellers.values()}
        orders = orders_of(v)
        since = v.now_s - YEAR_S
        spent = sum(o.price for o in orders if o.state != "never_came" and o.ordered_s > since)
        budget = v.home.seed_budget
        left = None if budget is None else max(0.0, budget - spent)
        best = ba.cheapest([g.gap for g in gaps if not g.owned], offers, postage, left, needed, f)
        units = {key(r): unit_of(v.kinds.get(r.crop), r.form, 1) for r in rows}
        told = [_gap(g, best, by_key, units, v) for g in gaps]
        lines = [
            _line(v, r, o, seeds[o.key], best.packs.get(o.key, 0), [g.gap for g in gaps])
            for r, o in zip(rows, offers, strict=True)
        ]
        saved = sum(_cheapest_for(g, offers) for g in gaps if g.owned)
        currency = v.home.currency
    lines.sort(key=lambda x: (-x.chosen, x.kind_name, x.per_living))
    return BasketRoom(
        told,
        lines,
        [_seller(s, found) for s in sellers.values()],
        orders,
        round(best.price, 2),
        round(best.postage, 2),
        budget,
        round(spent, 2),
        currency,
        round(saved, 2),
        _says(best, told, bool(rows)),
    )


def _says(best: ba.Bought, gaps: list[GapLine], offered: bool) -> str:
    if not gaps:
        return "Nothing is short and nothing is wished for."
    if not offered:
        return "Nothing is offered yet: bring in a seller's list, or type what you saw."
    open_ = [g for g in gaps if g.key in best.open]
    if open_:
        return f"{many(len(open_), 'gap')} left open: {', '.join(g.name for g in open_[:4])}."
    if not best.all_weighed:
        return (
            "A cheap set that closes all; of the many mixtures offered not every one was weighed."
        )
    how = "" if best.gap == 0 else f" (at most {percent(best.gap)} from the cheapest)"
    return f"The cheapest set that closes all{how}."


def _offer(row: SeedOffer, seller: Seller, unsaid_days: float, most: int) -> ba.Offer:
    days = seller.lead_days if seller.lead_days is not None else unsaid_days
    packs = most if row.packs_left is None else min(most, row.packs_left)
    return ba.Offer(
        key(row), seller.name, row.crop, row.variety, row.pack_seeds, row.price, days, packs
    )


def _gaps(v: Look, lines: list[ChainLine], stock: list[LotLine]) -> list[_Gap]:
    """What is short for the year, then what is wished for, each with what is in hand already."""
    out = []
    for line in lines:
        if line.order not in ORDERABLE:
            continue  # nothing is short, or no order would come in time
        late = line.order == "late"
        at_s = (line.sow_last_s if late else line.sow_from_s) or float(v.now_s)
        f = figures().basket
        weight = f.food_weight if line.kind == "food" else f.pick_weight
        gap = ba.Gap(
            line.key,
            frozenset([line.crop, *line.also]),
            "",
            (at_s - v.now_s) / DAY_S,
            weight,
            line.short_plants,
        )
        out.append(_Gap(gap, line, None, at_s, []))
    for wish in v.session.exec(live(WantedSeed).order_by(col(WantedSeed.id))):
        at_s = _sown_at(v, v.kinds.get(wish.crop))
        days = (at_s - v.now_s) / DAY_S
        gap = ba.Gap(
            f"wish:{wish.id}",
            frozenset([wish.crop]),
            wish.variety,
            days,
            float(wish.priority),
            wish.plants,
        )
        out.append(_Gap(gap, None, wish, at_s, _owned(wish, stock)))
    return sorted(out, key=lambda g: (-g.gap.weight, g.gap.key))


def _of_type(g: _Gap, offers: Sequence[ba.Offer], types: dict[int, str]) -> _Gap:
    """A gap without the offers that are not of the type its food asks for."""
    if g.line is None or not g.line.types:
        return g
    line = g.line
    chosen = line.chosen_types
    but = {
        o.key
        for o in offers
        if o.crop == line.crop and fit(types[o.key], o.crop, line.product, chosen) != "well"
    }
    return replace(g, gap=replace(g.gap, but=frozenset(but)))


def _sown_at(v: Look, kind: Kind) -> float:
    sowing = sowing_of(kind, v.today, v.home)
    return sowing.at_s if sowing else v.now_s + 365 * DAY_S


def _owned(wish: WantedSeed, stock: list[LotLine]) -> list[LotLine]:
    """Living packets in hand of just what is wished for."""
    return [
        x
        for x in stock
        if x.kind == wish.crop
        and (not wish.variety or x.variety.casefold() == wish.variety.casefold())
        and x.verdict.standing in ("good", "pieces")
        and x.verdict.may_sow
        and (x.seeds or 0) >= wish.plants
    ]


def _gap(
    g: _Gap, best: ba.Bought, offers: dict[int, ba.Offer], units: dict[int, str], v: Look
) -> GapLine:
    crop = next(iter(g.gap.crops))
    kind = v.kinds.get(crop)
    given = best.given.get(g.gap.key, {})
    name = g.name(kind)
    by = [
        f"{many(n, units[o])} of {_called(offers[o], kind, g.line, name)} from {offers[o].seller}"
        for o, n in given.items()
    ]
    # the household's own days between ordering and sowing, as Needs has them; a seller may want more
    usual = float(v.home.order_lead_days)
    days = max((max(offers[o].lead_days, usual) for o in given), default=None)
    last = None if days is None else g.at_s - days * DAY_S
    if g.owned:
        says = "in hand already"
    elif given:
        says = "closed"
    else:
        says = _why_open(g.gap, list(offers.values()), best, bool(v.home.seed_budget is not None))
    wish = g.wish
    owned = "; ".join(
        f"{x.code} {x.variety}: {many(round(x.seeds or 0), x.unit)}, {x.next_act}"
        for x in g.owned[:2]
    )
    asked = ""
    if wish is not None:
        told = (kind.crop.life_cycle if kind.known else "", wish.season, wish.place, wish.note)
        asked = ", ".join(x for x in told if x)
    return GapLine(
        g.gap.key, name, crop, wish.id if wish else None, round(g.gap.weight), g.gap.plants, by,
        last, says, owned, asked,
    )  # fmt: skip


def _called(o: ba.Offer, kind: Kind, line: ChainLine | None, name: str) -> str:
    """What is offered, and that it is another variety where one was picked."""
    said = o.variety or kind.name
    return f"{said} instead" if line and line.kind == "pick" and o.variety != name else said


def _why_open(gap: ba.Gap, offers: list[ba.Offer], best: ba.Bought, limited: bool) -> str:
    of_kind = [o for o in offers if o.crop in gap.crops and o.most > 0]
    if not of_kind:
        return "nobody offers it"
    if all(o.lead_days > gap.days_left for o in of_kind):
        return "what is offered would come too late"
    if not any(ba.suits(gap, o) for o in of_kind):
        return "another variety is offered"
    if gap.key not in best.unpaid:
        return "too few packets are offered"
    return "too little money is left" if limited else "the packets are taken by what matters more"


def _cheapest_for(g: _Gap, offers: list[ba.Offer]) -> float:
    """What the cheapest offer for it would have cost."""
    return min((o.price for o in offers if ba.suits(g.gap, o)), default=0.0)


def _line(
    v: Look, row: SeedOffer, o: ba.Offer, seed: Seed, chosen: int, gaps: list[ba.Gap]
) -> OfferLine:
    kind, types = v.kinds.get(row.crop), row.types or types_typed(row.crop, row.variety)
    called = ", ".join([kind.name, *type_names(types, row.crop)])
    g = float(np.median(seed.g))
    says = ""
    wanted = [x for x in gaps if o.crop in x.crops]
    if o.most == 0:
        says = "sold out"
    elif not wanted:
        says = "nothing is short of it"
    elif all(o.lead_days > x.days_left for x in wanted):
        says = "would come too late"
    elif row.hybrid:
        says = "hybrid: not for a line"
    return OfferLine(
        o.key, row.version, o.seller, row.crop, called, row.variety, bool(row.hybrid), row.pack_seeds,
        row.price, row.stated_germination, round(g, 3),
        round(row.price / max(row.pack_seeds * g, 0.1), 4), row.packs_left, row.sale_ends_s, o.lead_days,
        unit_of(kind, row.form, 1), chosen, says,
    )  # fmt: skip


def _seller(s: Seller, records: dict[str, float]) -> SellerLine:
    found = records.get(s.name)
    if found is None:
        words = "none of its seed was tested here"
    elif abs(found) < 0.01:
        words = "its seed was as stated"
    else:
        words = f"its seed was {abs(100 * found):.0f} points {'better' if found > 0 else 'worse'} than stated"
    return SellerLine(key(s), s.name, s.postage, s.lead_days, words)


def last_offers(v: Look) -> dict[str, int]:
    """By kind the day (epoch s) after which none of its offers is to be had any more; not of a kind that
    somebody sells without an end."""
    ends: dict[str, list[int | None]] = {}
    for o in v.session.exec(live(SeedOffer)):
        if o.sale_ends_s is None or o.sale_ends_s > v.now_s:
            ends.setdefault(v.kinds.get(o.crop).key, []).append(o.sale_ends_s)
    return {k: max(e for e in x if e is not None) for k, x in ends.items() if None not in x}


def order_words(room: BasketRoom) -> str:
    """The proposed order as plain text, seller by seller, to be sent or written out."""
    out: list[str] = []
    for seller in sorted({o.seller for o in room.offers if o.chosen}):
        out.append(seller)
        for o in room.offers:
            if o.seller == seller and o.chosen:
                what = f"{o.variety} {o.kind_name}".strip()
                held = many(o.pack_seeds, o.unit)
                out.append(f"  {o.chosen} x {what}, {held}, {o.price:.2f} {room.currency}")
    by = min((g.order_by_s for g in room.gaps if g.order_by_s is not None), default=None)
    if by is not None:
        out.append(f"To be ordered by {day_words(int(by))}.")
    return "\n".join(out)
