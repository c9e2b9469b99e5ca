"""What the household wants to grow: foods worked back to plants, picks, and kinds it has sown lately."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field, replace

from sqlmodel import Session, col, select

from ...core.base.units import YEAR_S
from ...core.hand.plant_types import Fit, serves_elsewhere, wanted
from ...core.needs.cover import Demand
from ...core.needs.harvests import Season, yield_of_a_plant
from ...core.needs.pantry import Entry
from ...core.needs.seed_needed import (
    Amount,
    Chain,
    FoodTarget,
    Origin,
    between,
    chain,
    on_the_shelf,
)
from ...core.needs.shares import PART, shared, whole_key
from ...data.queries import key, live
from ...data.tables import (
    ChainOverride,
    Cohort,
    FoodShare,
    Harvest,
    Household,
    PantryEntry,
    Part,
    Pick,
    Sowing,
    Variety,
)
from ...data.tables import FoodTarget as FoodRow
from ...reference import Product
from ..household.kind_types import asked_types, fit, listed, types_of_kind
from ..household.kinds import Kinds, figures, reference


def product_of(name: str) -> Product | None:
    """A product of the book by name."""
    return reference().products.get(name)


def entries_by_product(session: Session) -> dict[str, list[Entry]]:
    """The ledger of each product."""
    out: dict[str, list[Entry]] = {}
    query = live(PantryEntry).order_by(col(PantryEntry.at_s), col(PantryEntry.id))
    for e in session.exec(query):
        out.setdefault(e.product, []).append(Entry(e.at_s, e.kind, e.units))
    return out


def pantry_units(session: Session) -> dict[str, float]:
    """What stands on the shelf per product: the last count plus what came and went since."""
    out: dict[str, float] = {}
    for product, entries in entries_by_product(session).items():
        for e in entries:
            out[product] = on_the_shelf(out.get(product, 0.0), e.kind, e.units)
    return out


@dataclass(frozen=True)
class Own:
    """What the household says of its own: links of a food by its numbers and their notes, harvests by kind,
    how many more guests eat (share)."""

    links: dict[int, dict[str, float]] = field(default_factory=dict)
    notes: dict[int, dict[str, str]] = field(default_factory=dict)
    harvests: dict[str, list[Season]] = field(default_factory=dict)
    guests_share: float = 0.0


def own_of(session: Session) -> Own:
    """All of it."""
    out = Own(guests_share=guests_share(session.get(Household, 1)))
    for own in session.exec(live(ChainOverride)):
        out.links.setdefault(own.food_target_id, {})[own.link] = own.value
        out.notes.setdefault(own.food_target_id, {})[own.link] = own.note
    for h in session.exec(live(Harvest).order_by(col(Harvest.year), col(Harvest.id))):
        out.harvests.setdefault(h.crop, []).append(Season(h.year, h.plants, h.mass_kg))
    return out


def guests_share(home: Household | None) -> float:
    """How much more is eaten by guests, as a share of what the household eats in a year."""
    if home is None or not home.people:
        return 0.0
    return home.guest_weeks / (home.people * YEAR_WEEKS)


YEAR_WEEKS = 52.0


def seed_yield(crop: str, kinds: Kinds, types: Collection[str] = ()) -> Amount | None:
    """Kilos of clean seed a plant gives by the book, of what is eaten as seed (None: nobody knows)."""
    kind = kinds.get(crop)
    grams = _of_types(crop, types, "seed_yield_g_per_plant") or kind.crop.seed_yield_g_per_plant
    if grams is None:
        return None
    origin: Origin = "book" if kind.known else "guess"
    low, high = grams[0] / 1000, grams[1] / 1000
    return between(low, high, "kg", origin, "clean seed a plant gives, the book's range")


def _of_types(crop: str, types: Collection[str], column: str) -> tuple[float, float] | None:
    """A range of the table of types, where it has one of its own for each of some types."""
    rows = [reference().type_rows[crop, t] for t in types]
    spans = [getattr(row, column) for row in rows]
    if not spans or None in spans:
        return None
    return min(s[0] for s in spans), max(s[1] for s in spans)


def book_yield(crop: str, kinds: Kinds, types: Collection[str] = ()) -> Amount | None:
    """Kilos a plant gives by the book, or what a piece of it that is set gives (None: nobody knows); of some
    types where the book has figures of their own."""
    piece = reference().pieces.get(crop)
    if piece is not None:
        low, high = piece.food_yield_kg_per_piece
        return between(low, high, "kg", "book", f"yield of a {piece.piece}, the book's range")
    kind = kinds.get(crop)
    yields = _of_types(crop, types, "food_yield_kg_per_plant") or kind.crop.food_yield_kg_per_plant
    if yields is None:
        return None
    origin: Origin = "book" if kind.known else "guess"
    return between(yields[0], yields[1], "kg", origin, "yield per plant, the book's range")


def food_chain(row: FoodRow, own: Own, kinds: Kinds, pantry: float) -> Chain:
    """The chain of one food: own numbers before own harvests, these with the book's, a guess last."""
    if row.eaten_by == "shoots":
        return seed_chain(row)
    product, f = product_of(row.product), figures().needs
    links, notes = own.links.get(key(row), {}), own.notes.get(key(row), {})

    def told(link: str) -> Amount:
        return Amount.exact(links[link], "kg", "set", notes.get(link) or "set by the keeper")

    if "fresh_kg_per_unit" in links:
        per_unit = told("fresh_kg_per_unit")
    elif product is not None and product.eaten == "seed" and product.pack_unit == "kg":
        per_unit = Amount.exact(1.0, "kg", "book", "by weight of clean seed")
    elif product is not None:
        span, jar = product.fresh_kg_per_unit_as_harvested, row.jar_litres
        per_unit = between(span.low * jar, span.high * jar, "kg", "book", product.source)
    else:
        per_unit = between(
            f.unit_kg_low, f.unit_kg_high, "kg", "guess", "no figure known: about a kilo a unit"
        )
    if "yield_kg_per_plant" in links:
        per_plant: Amount | None = told("yield_kg_per_plant")
    else:
        types = listed(row.types) or wanted(row.product, types_of_kind(row.crop))
        if product is not None and product.eaten == "seed":
            per_plant = seed_yield(row.crop, kinds, types)  # harvests were weighed as vegetable
        else:
            book = book_yield(row.crop, kinds, types)
            per_plant = yield_of_a_plant(book, own.harvests.get(row.crop, []), figures().harvest)
    target = target_of(row, own.guests_share)
    set_here = {
        k: v for k, v in links.items() if k in ("wanted", "to_put_up", "fresh_kg", "plants")
    }
    made = chain(target, per_unit, per_plant, pantry, set_here, f.plants_lost_before_harvest)
    said = {
        k: replace(getattr(made, k), note=notes[k])
        for k in set_here
        if notes.get(k) and getattr(made, k) is not None
    }
    return replace(made, **said)


def seed_chain(row: FoodRow) -> Chain:
    """Of a food that is the seed itself (shoots): grams wanted, no plants."""
    wanted = Amount.exact(target_of(row, 0.0).in_a_year, row.unit, "set", "per week x weeks")
    nothing = Amount.exact(0.0, row.unit, "own", "no shoots are kept")
    seed = Amount.exact(wanted.mid / 1000, "kg", "sum", "the seed itself")
    return Chain(wanted, nothing, replace(wanted, origin="sum"), seed, None)


def target_of(row: FoodRow, guests: float) -> FoodTarget:
    """What a food asks for, with what guests eat."""
    return FoodTarget(
        row.per_week, row.weeks, row.unit, row.gifts, row.reserve_share,
        guests if row.eaten_by == "table" else 0.0, row.every_years, row.sure,
    )  # fmt: skip


@dataclass(frozen=True)
class Wishes:
    """What is wanted in a year, by name: picks first, then foods in the household's order; ``shares``: of a
    food that is split over varieties the plants of each, ``split`` the parts it is split into; ``notes``: on
    links the keeper set; ``types``: names of the types that a food asks for, ``pinch``: lots of its kind that
    would serve at a pinch, ``useless``: that never would; and the kinds that were sown lately (None: nothing
    was ever sown, so that every kind may be wanted)."""

    demands: list[Demand] = field(default_factory=list)
    chains: dict[str, Chain] = field(default_factory=dict)
    foods: dict[str, FoodRow] = field(default_factory=dict)
    picks: dict[str, Pick] = field(default_factory=dict)
    shares: dict[str, dict[int, int]] = field(default_factory=dict)
    split: dict[str, dict[int, float]] = field(default_factory=dict)
    notes: dict[str, dict[str, str]] = field(default_factory=dict)
    types: dict[str, list[str]] = field(default_factory=dict)
    pinch: dict[str, list[int]] = field(default_factory=dict)
    useless: dict[str, frozenset[int]] = field(default_factory=dict)
    sown: frozenset[str] | None = None

    def of_its_type(self, key: str, crop: str, types: str) -> bool:
        """Whether seed of some types is what a need asks for."""
        food = self.foods.get(whole_key(key))
        return food is None or fits(food, crop, types) == "well"

    @property
    def crops(self) -> set[str]:
        """Kinds that are asked for."""
        return {c for d in self.demands for c in d.crops} - {""}

    def wants(self, lot_id: int, crop: str, kept_line: bool) -> bool:
        """Whether a lot has a use in sight: a food, a pick, a line to keep, or a kind that is sown."""
        return (
            kept_line
            or self.sown is None
            or crop in self.sown
            or any(
                crop in made_of(food) and lot_id not in self.useless.get(name, ())
                for name, food in self.foods.items()
            )
            or any(pick.lot_id == lot_id for pick in self.picks.values())
        )

    def by_name(self, lot_id: int, crop: str, kept_line: bool) -> list[str]:
        """What asks for a lot by name: foods of the year, a pick, a line that is kept."""
        out = [
            food.name
            for name, food in self.foods.items()
            if crop in made_of(food) and lot_id not in self.useless.get(name, ())
        ]
        out += ["a pick of this year"] * any(pick.lot_id == lot_id for pick in self.picks.values())
        return out + ["a line you keep"] * kept_line

    def plants_of_key(self, name: str) -> int:
        """Plants that one food or pick asks for."""
        return sum(d.plants for d in self.demands if whole_key(d.key) == name)

    def plants_of(self, crop: str, lot_id: int | None = None) -> int:
        """Plants of a kind that foods and picks ask for; of those that a lot could serve."""
        return sum(
            d.plants
            for d in self.demands
            if crop in d.crops and lot_id not in self.useless.get(whole_key(d.key), ())
        )


def made_of(food: FoodRow) -> frozenset[str]:
    """The kinds that a food may be made of."""
    return frozenset([food.crop, *listed(food.also)])


def fits(food: FoodRow, crop: str, types: str) -> Fit:
    """How seed of a kind and some types (as kept) serves a food (``core.types``)."""
    if crop == food.crop:
        return fit(types, crop, food.product, listed(food.types))
    book, known = product_of(food.product), {t.key: t for t in types_of_kind(crop)}
    if book is None:
        return "well"
    mine = [known[t] for t in listed(types) if t in known]
    eaten = {name: p.eaten for name, p in reference().products.items()}
    return serves_elsewhere(mine, eaten, book.eaten)


def wishes(session: Session, kinds: Kinds, year: int, now_s: float) -> Wishes:
    """Foods and picks of a planning year, and what was sown in the last years."""
    pantry = pantry_units(session)
    own = own_of(session)
    split: dict[int, dict[int, float]] = {}
    for share in session.exec(live(FoodShare).order_by(col(FoodShare.variety_id))):
        split.setdefault(share.food_target_id, {})[share.variety_id] = share.share
    lots_of = _lots_of(session, {v for some in split.values() for v in some})
    lately = now_s - figures().verdict.sown_lately_years * YEAR_S
    out = Wishes(sown=_sown_since(session, kinds, lately))
    picks = sorted(session.exec(live(Pick).where(Pick.year == year)), key=key)
    crop_of = _crops_of(session, kinds, [p.lot_id for p in picks])
    for pick in picks:
        name, crop = f"pick:{pick.id}", crop_of.get(pick.lot_id, "")
        out.demands.append(Demand(name, frozenset([crop]), pick.plants, frozenset([pick.lot_id])))
        out.picks[name] = pick
    foods = list(session.exec(live(FoodRow).where(FoodRow.year == year)))
    typed = _types_of_lots(session, {c for x in foods for c in made_of(x) if types_of_kind(c)})
    for food in sorted(foods, key=lambda x: (x.priority, key(x))):
        name = f"food:{food.id}"
        made = food_chain(food, own, kinds, pantry.get(food.product, 0.0))
        out.chains[name], out.foods[name] = made, food
        out.notes[name] = own.notes.get(key(food), {})
        if made.planned is None or food.crop not in kinds.by_key or food.eaten_by == "shoots":
            continue  # set as pieces, or eaten as seed: nothing is sown
        crops, some = made_of(food), split.get(key(food), {})
        out.types[name] = asked_types(food.crop, food.product, food.types)
        if not some:
            found = {
                lot: fits(food, crop, types)
                for crop in sorted(crops)
                for lot, types in typed.get(crop, {}).items()
            }
            out.useless[name] = frozenset(lot for lot, one in found.items() if one == "never")
            out.pinch[name] = [lot for lot, one in found.items() if one == "pinch"]
            well = frozenset(lot for lot, one in found.items() if one == "well")
            among = (
                well if (out.types[name] and len(crops) == 1) or len(well) < len(found) else None
            )
            out.demands.append(Demand(name, crops, made.planned, among=among))
            continue
        out.split[name], out.shares[name] = some, shared(made.planned, some)
        out.demands.extend(
            Demand(f"{name}{PART}{v}", crops, plants, among=frozenset(lots_of.get(v, ())))
            for v, plants in out.shares[name].items()
        )
    return out


def _types_of_lots(session: Session, crops: set[str]) -> dict[str, dict[int, str]]:
    """Types, as kept, of the lots of some kinds, by kind; of a mixture of its largest part."""
    rows = session.exec(
        select(Variety.crop, Part.lot_id, Variety.types)
        .join(Cohort, col(Cohort.variety_id) == Variety.id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .where(col(Variety.crop).in_(crops), col(Part.to_s).is_(None))
        .where(col(Part.deleted_s).is_(None))
        .order_by(col(Part.share_mean), col(Part.id).desc())
    )
    out: dict[str, dict[int, str]] = {}
    for crop, lot, types in rows:
        out.setdefault(crop or "", {})[lot] = types
    return out


def _lots_of(session: Session, varieties: set[int]) -> dict[int, list[int]]:
    """Lots of some varieties."""
    rows = session.exec(
        select(Cohort.variety_id, Part.lot_id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .where(col(Cohort.variety_id).in_(varieties), col(Part.to_s).is_(None))
        .where(col(Part.deleted_s).is_(None))
    )
    out: dict[int, list[int]] = {}
    for variety, lot in rows:
        out.setdefault(variety, []).append(lot)
    return out


def _crops_of(session: Session, kinds: Kinds, lot_ids: list[int]) -> dict[int, str]:
    """The kind of the largest part of some lots."""
    rows = session.exec(
        select(Part.lot_id, Variety.crop)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(col(Part.lot_id).in_(lot_ids), col(Part.to_s).is_(None))
        .where(col(Part.deleted_s).is_(None))
        .order_by(col(Part.share_mean), col(Part.id).desc())
    )
    return {lot: kinds.get(crop).key for lot, crop in rows}


def _sown_since(session: Session, kinds: Kinds, since_s: float) -> frozenset[str] | None:
    rows = session.exec(
        select(Variety.crop)
        .join(Cohort, col(Cohort.variety_id) == Variety.id)
        .join(Part, col(Part.cohort_id) == Cohort.id)
        .join(Sowing, col(Sowing.lot_id) == Part.lot_id)
        .where(Sowing.at_s >= since_s, col(Sowing.deleted_s).is_(None))
        .distinct()
    ).all()
    return frozenset(kinds.get(crop).key for crop in rows) if rows else None
