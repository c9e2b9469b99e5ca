"""What one does in Needs: foods, own numbers in a chain, the pantry shelf, picks."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.base.errors import InvalidValue
from ...core.needs.pantry import GONE
from ...data.queries import key, live
from ...data.tables import ChainOverride, Lot, PantryEntry, Pick
from ...data.tables import FoodTarget as FoodRow
from ..acts.acting import Doing, Done, act
from ..forecast.wishes import pantry_units
from ..household.possible_values import get_live, whole
from .chain_lines import LINKS, PURPOSES
from .chains import target_year


@dataclass(frozen=True)
class PickMade:
    """The pick of the year."""

    pick_id: int


@act("remove_food")
def remove_target(a: Doing, target_id: int) -> Done:
    """Take a food off the list."""
    row = get_live(a.session, FoodRow, target_id, "food")
    row.deleted_s = a.now_s
    a.about(f"food:{target_id}")
    a.summary = f"Took {row.name} off the list"
    return Done()


@act("override")
def override_link(a: Doing, target_id: int, link: str, value: float | None, note: str = "") -> Done:
    """Overrule a link of a chain by the keeper's own number; None takes it back to the book."""
    if link not in LINKS:
        raise InvalidValue("link", link, ", ".join(LINKS))
    if value is not None and not 0 <= value <= 1e6:
        raise InvalidValue(link.replace("_", " "), value, "zero or more")
    if link == "yield_kg_per_plant" and value == 0:
        raise InvalidValue("yield per plant", value, "more than zero")
    food = get_live(a.session, FoodRow, target_id, "food")
    row = a.session.exec(
        live(ChainOverride).where(
            ChainOverride.food_target_id == target_id, ChainOverride.link == link
        )
    ).first()
    if value is None:
        if row is not None:
            row.deleted_s = a.now_s
    elif row is None:
        a.session.add(ChainOverride(food_target_id=target_id, link=link, value=value, note=note))
    else:
        row.value, row.note = value, note
    a.about(f"food:{target_id}")
    words = link.replace("_", " ")
    a.summary = f"{food.name}: {words} " + (
        "back to the book" if value is None else f"set to {value:g}"
    )
    return Done()


@act("pantry")
def book_pantry(a: Doing, product: str, kind: str, units: float) -> Done:
    """Count the shelf, or book what was put up, opened, given or spoiled."""
    if kind not in ("counted", "put_up", *GONE):
        raise InvalidValue("kind", kind, "counted, put_up, opened, given or spoiled")
    if not 0 <= units <= 100_000:
        raise InvalidValue("units", units, "zero or more")
    product = product.strip()
    if not product:
        raise InvalidValue("food", product, "what stands on the shelf")
    if kind in GONE:
        have = pantry_units(a.session).get(product, 0.0)
        if units > have:
            raise InvalidValue("units", units, f"at most the {have:g} on the shelf")
    a.session.add(PantryEntry(product=product, at_s=a.now_s, kind=kind, units=units))
    a.about(f"pantry:{product}")
    a.summary = f"{kind.replace('_', ' ').capitalize()} {units:g} of {product}"
    return Done()


@act("pick")
def set_pick(a: Doing, lot_id: int, plants: int, purpose: str = "joy", note: str = "") -> PickMade:
    """Mark a lot "grow this year", so many plants; again for the same lot changes the number."""
    whole("plants", plants, 1, 100_000)
    if purpose not in PURPOSES:
        raise InvalidValue("purpose", purpose, ", ".join(PURPOSES))
    year = target_year(a.of)
    lot = get_live(a.session, Lot, lot_id, "lot")
    row = a.session.exec(
        live(Pick).where(Pick.year == year, Pick.lot_id == lot_id)
    ).first() or Pick(year=year, lot_id=lot_id, plants=plants)
    row.plants, row.purpose, row.note = plants, purpose, note
    a.session.add(row)
    a.session.flush()
    a.about(f"lot:{lot_id}")
    a.summary = f"Grow {plants} of {lot.code} this year ({purpose})"
    return PickMade(key(row))


@act("remove_pick")
def remove_pick(a: Doing, pick_id: int) -> Done:
    """Take a pick back."""
    row = get_live(a.session, Pick, pick_id, "pick")
    row.deleted_s = a.now_s
    a.about(f"lot:{row.lot_id}")
    a.summary = "Took a pick back"
    return Done()
