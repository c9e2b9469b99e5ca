"""What one does about buying seed: sellers and their lists, wishes, orders, and what came."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import day_start_s
from ...data.acts import ActRef, expect_version
from ...data.queries import key, live
from ...data.tables import SeedOffer, SeedOrder, Seller, WantedSeed
from ...formats.offers_json import OfferList, Told, read_offers
from ..acts.acting import Doing, Done, act, step
from ..acts.entry import add_seeds
from ..acts.new_seeds import NewSeeds, resolve_kind
from ..household.kind_types import types_typed
from ..household.larder import Larder, today
from ..household.planting_stock import form_of
from ..household.possible_values import get_live, whole
from ..household.settings import read_setting
from ..household.wording import many


@dataclass(frozen=True)
class OfferSaid:
    """A packet that somebody saw offered; ``form``: seed, or what is set (empty: by its words)."""

    seller: str
    kind: str
    pack_seeds: int
    price: float
    variety: str = ""
    stated_germination: float | None = None
    hybrid: bool = False
    packs_left: int | None = None
    postage: float | None = None
    lead_days: float | None = None
    form: str = ""


@dataclass(frozen=True)
class ListTaken:
    """How many packets of a list are new, changed, no longer there, or of a kind that nobody here knows."""

    new: int
    changed: int
    gone: int
    unknown: list[str]


def _seller(a: Doing, name: str, postage: float | None, lead_days: float | None) -> Seller:
    if not 1 <= len(name.strip()) <= 80:
        raise InvalidValue("seller", name, "a name of 1 to 80 letters")
    if postage is not None and not 0 <= postage <= 10_000:
        raise InvalidValue("postage", postage, "zero or more")
    if lead_days is not None and not 0 <= lead_days <= 365:
        raise InvalidValue("days until it comes", lead_days, "0 to 365")
    row = a.session.exec(live(Seller).where(Seller.name == name.strip())).first()
    row = row or Seller(name=name.strip())
    if postage is not None:
        row.postage = postage
    if lead_days is not None:
        row.lead_days = lead_days
    a.session.add(row)
    a.session.flush()
    return row


def _kind(a: Doing, word: str) -> str:
    found = resolve_kind(word, a.kinds)
    if found is None:
        raise InvalidValue("kind", word, "a kind of the table or one of your own")
    return found


@act("offer")
def say_offer(
    a: Doing, said: OfferSaid, offer_id: int | None = None, version: int | None = None
) -> Done:
    """Type in a packet that is offered, or change one. Raises InvalidValue."""
    seller = _seller(a, said.seller, said.postage, said.lead_days)
    whole("seeds in the packet", said.pack_seeds, 1, 1_000_000)
    if not 0 <= said.price <= 100_000:
        raise InvalidValue("price", said.price, "zero or more")
    if said.packs_left is not None:
        whole("packs left", said.packs_left, 0, 1_000_000)
    if said.stated_germination is not None and not 0 < said.stated_germination <= 1:
        raise InvalidValue("stated germination", said.stated_germination, "1 to 100 %")
    if offer_id is None:
        row = SeedOffer(seller_id=key(seller), crop="", pack_seeds=1, price=0.0)
    else:
        row = get_live(a.session, SeedOffer, offer_id, "offer")
        expect_version(row, version, row.variety)
    row.seller_id, row.crop, row.variety = key(seller), _kind(a, said.kind), said.variety.strip()
    row.form = form_of(a.kinds.get(row.crop), said.form, said.kind, name=said.variety)
    row.types = types_typed(row.crop, said.kind, said.variety)
    row.pack_seeds, row.price, row.hybrid = said.pack_seeds, said.price, int(said.hybrid)
    row.stated_germination, row.packs_left = said.stated_germination, said.packs_left
    a.session.add(row)
    a.summary = f"{seller.name} offers {row.variety or a.kinds.get(row.crop).name}"
    return Done()


@act("drop_offer")
def drop_offer(a: Doing, offer_id: int) -> Done:
    """Take an offer off."""
    row = get_live(a.session, SeedOffer, offer_id, "offer")
    row.deleted_s = a.now_s
    a.summary = f"Took an offer off: {row.variety or a.kinds.get(row.crop).name}"
    return Done()


@act("offer_list")
def take_list(a: Doing, told: OfferList) -> ListTaken:
    """Take in a seller's list: what it no longer has goes, kinds that nobody here knows are named."""
    seller = _seller(a, told.seller, told.postage, told.lead_days)
    known = {
        o.feed_ref: o
        for o in a.session.exec(live(SeedOffer).where(SeedOffer.seller_id == key(seller)))
        if o.feed_ref
    }
    new = changed = 0
    unknown: list[str] = []
    taken: dict[str, SeedOffer] = {}
    for x in told.offers:
        crop = resolve_kind(x.kind, a.kinds)
        if crop is None:
            unknown.append(x.kind)
            continue
        row = known.pop(x.ref, None) or taken.get(x.ref) if x.ref else None
        if row is None:
            new += 1
            row = SeedOffer(
                seller_id=key(seller), crop=crop, pack_seeds=1, price=0.0, feed_ref=x.ref
            )
        elif _differs(row, x, a.home.tz):
            changed += 1
        _fill(row, crop, x, a.home.tz)
        row.form = form_of(a.kinds.get(crop), "", x.kind, name=x.variety)
        row.types = types_typed(crop, x.kind, x.variety)
        a.session.add(row)
        if x.ref:  # told again further down it is the same packet
            taken[x.ref] = row
    for gone in known.values():
        gone.deleted_s = a.now_s
    a.summary = (
        f"List of {seller.name}: {many(new, 'new packet')}, {changed} changed, {len(known)} gone"
    )
    return ListTaken(new, changed, len(known), sorted(set(unknown)))


def bring_list(larder: Larder, ref: ActRef, data: bytes) -> ListTaken:
    """Take in a seller's list as it was sent (JSON). Raises BadFile."""
    return take_list(larder, ref, read_offers(data))


def _ends(x: Told, tz: str) -> int | None:
    return None if x.sale_ends is None else day_start_s(x.sale_ends, tz) + 86_400


def _differs(row: SeedOffer, x: Told, tz: str) -> bool:
    mine = (
        row.variety,
        row.pack_seeds,
        row.price,
        row.stated_germination,
        row.packs_left,
        row.sale_ends_s,
    )
    return mine != (
        x.variety,
        x.pack_seeds,
        x.price,
        x.stated_germination,
        x.packs_left,
        _ends(x, tz),
    )


def _fill(row: SeedOffer, crop: str, x: Told, tz: str) -> None:
    row.crop, row.variety, row.pack_seeds, row.price = crop, x.variety, x.pack_seeds, x.price
    row.stated_germination, row.hybrid = x.stated_germination, int(x.hybrid)
    row.packs_left, row.sale_ends_s = x.packs_left, _ends(x, tz)


@act("wish")
def wish(
    a: Doing, kind: str, variety: str = "", plants: int = 20, priority: int = 3, season: str = "",
    place: str = "", note: str = "", wish_id: int | None = None, version: int | None = None,
) -> Done:  # fmt: skip
    """Wish for seed, or change a wish. Raises InvalidValue."""
    whole("plants", plants, 1, 100_000)
    whole("how much it matters", priority, 1, 5)
    if wish_id is None:
        row = WantedSeed(crop="")
    else:
        row = get_live(a.session, WantedSeed, wish_id, "wish")
        expect_version(row, version, row.variety)
    row.crop, row.variety, row.plants, row.priority = (
        _kind(a, kind),
        variety.strip(),
        plants,
        priority,
    )
    row.season, row.place, row.note = season.strip(), place.strip(), note.strip()
    a.session.add(row)
    a.summary = f"Wishes for {row.variety} {a.kinds.get(row.crop).name}".replace("  ", " ")
    return Done()


@act("drop_wish")
def drop_wish(a: Doing, wish_id: int) -> Done:
    """Take a wish off the list."""
    row = get_live(a.session, WantedSeed, wish_id, "wish")
    row.deleted_s = a.now_s
    a.summary = f"No longer wished for: {row.variety or a.kinds.get(row.crop).name}"
    return Done()


@act("seed_budget")
def set_budget(a: Doing, money: float | None) -> Done:
    """What may be spent on seed in a year; None: no limit."""
    a.home.seed_budget = cast("float | None", read_setting("seed_budget", money))
    a.session.add(a.home)
    a.summary = "No limit for seed" if money is None else f"At most {money:g} for seed"
    return Done()


@dataclass(frozen=True)
class Ordered:
    """The orders that were noted."""

    order_ids: list[int]


@act("order_seed")
def order(a: Doing, packs: dict[int, int]) -> Ordered:
    """Note what was ordered: packs by offer. Raises InvalidValue, NotFound."""
    if not packs:
        raise InvalidValue("packs", 0, "at least one")
    made = []
    for offer_id, count in packs.items():
        whole("packs", count, 1, 1000)
        row = get_live(a.session, SeedOffer, offer_id, "offer")
        if row.packs_left is not None and count > row.packs_left:
            raise InvalidValue("packs", count, f"at most the {row.packs_left} that are left")
        if row.packs_left is not None:
            row.packs_left -= count
            a.session.add(row)
        made.append(
            SeedOrder(offer_id=offer_id, packs=count, price=count * row.price, ordered_s=a.now_s)
        )
        a.session.add(made[-1])
    a.session.flush()
    a.summary = f"Ordered {many(sum(packs.values()), 'packet')}"
    return Ordered([key(o) for o in made])


@act("never_came")
def never_came(a: Doing, order_id: int) -> Done:
    """Note that an order never came. Raises NotFound, Conflict."""
    row = _waiting(a, order_id)
    row.state = "never_came"
    a.session.add(row)
    a.summary = "An order never came"
    return Done()


@act("order_came")
def came(a: Doing, order_ids: list[int], node_id: int | None = None) -> Ordered:
    """What was ordered has come: a packet of each, in one act. Raises InvalidValue, NotFound, Conflict."""
    if not order_ids:
        raise InvalidValue("orders", 0, "at least one")
    year, items, rows = today(a.of, a.home).year, [], []
    order_ids = list(dict.fromkeys(order_ids))
    for order_id in order_ids:
        row = _waiting(a, order_id)
        offer = a.session.get(SeedOffer, row.offer_id)
        assert offer is not None, "an order points at its offer"
        seller = a.session.get(Seller, offer.seller_id)
        rows.append(row)
        items.append(
            NewSeeds(
                kind=offer.crop,
                variety=offer.variety,
                form=offer.form or "seed",
                types=offer.types,
                year=year,
                quantity=str(row.packs * offer.pack_seeds),
                sure="about",
                node_id=node_id,
                hybrid=bool(offer.hybrid),
                stated_germination=offer.stated_germination,
                seller=seller.name if seller else "",
                price=round(row.price / row.packs, 2),
                packet_count=offer.pack_seeds,
            )
        )
    added = step(add_seeds, items)(a)
    for row, lot_id in zip(rows, added.lot_ids, strict=True):
        row.state, row.lot_id = "arrived", lot_id
        a.session.add(row)
    a.summary = f"{many(len(rows), 'order')} came"
    return Ordered(order_ids)


def _waiting(a: Doing, order_id: int) -> SeedOrder:
    row = get_live(a.session, SeedOrder, order_id, "order")
    if row.state != "ordered":
        raise Conflict("This order is settled already")
    return row
