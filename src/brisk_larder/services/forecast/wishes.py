"""What the household wants to grow: foods worked back to plants, picks, and kinds it has sown lately."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from sqlmodel import Session, col, select

from ...core.cover import Demand
from ...core.needs import Amount, Chain, FoodTarget, Origin, between, chain, on_the_shelf
from ...core.units import YEAR_S
from ...data.queries import key, live
from ...data.tables import ChainOverride, Cohort, PantryEntry, Part, Pick, Sowing, Variety
from ...data.tables import FoodTarget as FoodRow
from ...reference import Product
from ..household.kinds import Kinds, figures, reference


def product_of(name: str) -> Product | None:
    """A product of the book by name."""
    return reference().products.get(name)


def pantry_units(session: Session) -> dict[str, float]:
    """What stands on the shelf per product: the last count plus what came and went since."""
    out: dict[str, float] = {}
    query = live(PantryEntry).order_by(col(PantryEntry.at_s), col(PantryEntry.id))
    for e in session.exec(query):
        out[e.product] = on_the_shelf(out.get(e.product, 0.0), e.kind, e.units)
    return out


def food_chain(row: FoodRow, own: Mapping[str, float], kinds: Kinds, pantry: float) -> Chain:
    """The chain of one food: own numbers before the book's, the book's before a guess."""
    product, f = product_of(row.product), figures().needs
    kind = kinds.get(row.crop)
    if "fresh_kg_per_unit" in own:
        per_unit = Amount.exact(own["fresh_kg_per_unit"], "kg", "set", "set by the keeper")
    elif product is not None:
        span = product.fresh_kg_per_unit_as_harvested
        per_unit = between(span.low, span.high, "kg", "book", product.source)
    else:
        per_unit = between(
            f.unit_kg_low, f.unit_kg_high, "kg", "guess", "no figure known: about a kilo a unit"
        )
    yields = kind.crop.food_yield_kg_per_plant
    if "yield_kg_per_plant" in own:
        value = own["yield_kg_per_plant"]
        per_plant: Amount | None = Amount.exact(value, "kg", "set", "set by the keeper")
    elif yields is not None:
        origin: Origin = "book" if kind.known else "guess"
        per_plant = between(
            yields.low, yields.high, "kg", origin, "yield per plant, the book's range"
        )
    else:
        per_plant = None
    target = FoodTarget(row.per_week, row.weeks, row.unit, row.gifts, row.reserve_share)
    links = {k: v for k, v in own.items() if k in ("wanted", "to_put_up", "fresh_kg", "plants")}
    return chain(target, per_unit, per_plant, pantry, links, f.plants_lost_before_harvest)


@dataclass(frozen=True)
class Wishes:
    """What is wanted in a year, by name: picks first, then foods in the household's order; and the kinds
    that were sown lately (None: nothing was ever sown, so that every kind may be wanted)."""

    demands: list[Demand] = field(default_factory=list)
    chains: dict[str, Chain] = field(default_factory=dict)
    foods: dict[str, FoodRow] = field(default_factory=dict)
    picks: dict[str, Pick] = field(default_factory=dict)
    sown: frozenset[str] | None = None

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
            or any(food.crop == crop for food in self.foods.values())
            or any(pick.lot_id == lot_id for pick in self.picks.values())
        )

    def plants_of(self, crop: str) -> int:
        """Plants of a kind that foods and picks ask for."""
        return sum(d.plants for d in self.demands if crop in d.crops)


def wishes(session: Session, kinds: Kinds, year: int, now_s: float) -> Wishes:
    """Foods and picks of a planning year, and what was sown in the last years."""
    pantry = pantry_units(session)
    overrides: dict[int, dict[str, float]] = {}
    for own in session.exec(live(ChainOverride)):
        overrides.setdefault(own.food_target_id, {})[own.link] = own.value
    lately = now_s - figures().verdict.sown_lately_years * YEAR_S
    out = Wishes(sown=_sown_since(session, kinds, lately))
    picks = sorted(session.exec(live(Pick).where(Pick.year == year)), key=key)
    crop_of = _crops_of(session, kinds, [p.lot_id for p in picks])
    for pick in picks:
        name, crop = f"pick:{pick.id}", crop_of.get(pick.lot_id, "")
        out.demands.append(Demand(name, frozenset([crop]), pick.plants, frozenset([pick.lot_id])))
        out.picks[name] = pick
    foods = session.exec(live(FoodRow).where(FoodRow.year == year))
    for food in sorted(foods, key=lambda x: (x.priority, key(x))):
        name = f"food:{food.id}"
        own_links, stock = overrides.get(key(food), {}), pantry.get(food.product, 0.0)
        made = food_chain(food, own_links, kinds, stock)
        out.chains[name], out.foods[name] = made, food
        if made.plants is not None:
            out.demands.append(Demand(name, frozenset([food.crop]), int(made.plants.mid)))
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
