"""Seed that is offered or on its way: what one seed of it is worth, when it comes, how much of it counts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, col, select

from ...core.base.units import DAY_S
from ...core.needs import basket as ba
from ...core.seed import belief as be
from ...core.seed.plants import Seed
from ...core.seed.worlds import germination, ranks
from ...data.queries import key, live
from ...data.tables import Cohort, Part, SeedOffer, SeedOrder, Seller
from ..air.look import Look
from ..household.kind_types import types_typed
from ..household.kinds import Kind, figures
from ..household.planting_stock import piece_worth, unit_of
from .emergence import emergence_of
from .lines import LotLine
from .sowing import sowing_of


@dataclass(frozen=True)
class OrderLine:
    """Packs on their way, or come. ``late_days``: since they were to be here, while they are not; ``counts``:
    they are still reckoned with."""

    order_id: int
    seller: str
    name: str
    packs: int
    seeds: int
    price: float
    ordered_s: int
    expected_s: float
    state: str
    lot_id: int | None
    crop: str
    variety: str
    late_days: int
    counts: bool
    form: str
    unit: str
    types: str


def seed_of_offer(v: Look, row: SeedOffer, record: float) -> Seed:
    """What one seed of an offered packet is worth: as bought seed, by what is stated of it and by
    what the household found of the seller's seed."""
    kind, f = v.kinds.get(row.crop), figures().belief
    if row.form:
        return piece_worth()
    (mean, sd), lives = be.quality("bought", None, None, f), kind.living
    how = ""
    if row.stated_germination is not None:
        how = be.stated_as(row.stated_germination, kind.crop.min_commercial_germination_pct)
        said = min(max(row.stated_germination + record, 0.01), 1.0)
        lives = be.living_of(lives, said, how, f)
        mean, sd = be.stated_quality((mean, sd), said, how, lives, f)
    prior = be.prior_of_new((mean, sd), lives, f, tested=how == "tested")
    new = be.fit(prior, be.Counts.none(), ranks([f"offer:{row.id}"]))
    sowing = sowing_of(kind, v.today, v.home)
    return Seed(
        germination(new, np.zeros(1))[0], emergence_of(kind, sowing.setting if sowing else None)
    )


def records(session: Session, stock: Sequence[LotLine]) -> dict[str, float]:
    """Of each seller, how much better its seed was than stated (``core.basket.seller_record``)."""
    tested = {x.lot_id: x.glance.tests[0].share for x in stock if x.glance.tests}
    stated: dict[str, list[float]] = {}
    found: dict[str, list[float]] = {}
    rows = session.exec(
        select(Part.lot_id, Cohort.seller, Cohort.stated_germination)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .where(Cohort.seller != "", col(Cohort.stated_germination).is_not(None))
        .where(col(Part.deleted_s).is_(None))
    )
    for lot, seller, share in rows:
        up = tested.get(lot)
        if up is not None and share is not None:
            stated.setdefault(seller, []).append(share)
            found.setdefault(seller, []).append(up)
    return {s: ba.seller_record(stated[s], found[s], figures().basket) for s in stated}


def orders_of(v: Look) -> list[OrderLine]:
    """All orders, the latest first."""
    sellers = {key(s): s for s in v.session.exec(live(Seller))}
    return [_order(o, offer, sellers, v) for o, offer in _orders(v.session)]


def _orders(session: Session) -> list[tuple[SeedOrder, SeedOffer]]:
    """All orders with what was ordered, the latest first; of an offer that is no more too."""
    offers = {o.id: o for o in session.exec(select(SeedOffer))}
    rows = session.exec(
        live(SeedOrder).order_by(col(SeedOrder.ordered_s).desc(), col(SeedOrder.id))
    )
    return [(o, offers[o.offer_id]) for o in rows]


def _order(o: SeedOrder, offer: SeedOffer, sellers: dict[int, Seller], v: Look) -> OrderLine:
    seller = sellers.get(offer.seller_id)
    unsaid = figures().basket.unsaid_lead_days
    days = seller.lead_days if seller and seller.lead_days is not None else unsaid
    kind = v.kinds.get(offer.crop)
    waits = o.state == "ordered"
    late = max(0, int((v.now_s - o.ordered_s) / DAY_S - days)) if waits else 0
    return OrderLine(
        key(o), seller.name if seller else "", _called(offer, kind), o.packs,
        o.packs * offer.pack_seeds, round(o.price, 2), o.ordered_s, o.ordered_s + days * DAY_S, o.state,
        o.lot_id, kind.key, offer.variety, late, late <= figures().basket.order_given_up_days, offer.form,
        unit_of(kind, offer.form, 1), offer.types or types_typed(kind.key, offer.variety),
    )  # fmt: skip


def _called(offer: SeedOffer, kind: Kind) -> str:
    form = f" ({unit_of(kind, offer.form)})" if offer.form else ""
    return f"{offer.variety} {kind.name}{form}".strip()


@dataclass(frozen=True)
class Coming:
    """An order that is reckoned with: its line, and what a seed of it is worth."""

    line: OrderLine
    seed: Seed

    @property
    def lot(self) -> int:
        """Stands for it among lots: less than none, so that it is no packet in hand."""
        return -self.line.order_id


def coming(v: Look, stock: Sequence[LotLine]) -> list[Coming]:
    """Orders that are on their way, the first to come first; one that is long overdue is no longer reckoned
    with."""
    offers = {key(o): offer for o, offer in _orders(v.session)}
    out, told = [], records(v.session, stock)
    for line in orders_of(v):
        if line.state == "ordered" and line.counts:
            seed = seed_of_offer(v, offers[line.order_id], told.get(line.seller, 0.0))
            out.append(Coming(line, seed))
    return sorted(out, key=lambda c: (c.line.expected_s, c.line.order_id))
