"""What one does in Needs: foods, own numbers in a chain, the pantry shelf, picks."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...core.errors import InvalidValue
from ...data.acts import ActRef, act, expect_version
from ...data.tables import ChainOverride, Cohort, Lot, PantryEntry, Part, Pick, Variety
from ...data.tables import FoodTarget as FoodRow
from ...reference import Product
from ..forecast.stale import touch
from ..household.kinds import load_kinds, reference
from ..household.larder import Larder
from ..household.told import get_live, whole
from .chains import LINKS, METHOD_WORDS, PURPOSES, pantry_units, product_of, target_year


def touch_wanted(session: Session, crop: str | None, lot_id: int | None = None) -> None:
    """What is wanted decides what deserves a test: drop the glances of the lots concerned.

    While little is wanted yet the first food or pick changes it for all lots.
    """
    session.flush()
    wants = [*session.exec(select(FoodRow.id)).all(), *session.exec(select(Pick.id)).all()]
    if len(wants) <= 2:
        touch(session)
        return
    query = (
        select(Part.lot_id)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
    )
    query = query.where(Variety.crop == crop if crop else Part.lot_id == lot_id)
    touch(session, session.exec(query).all())


def set_target(
    larder: Larder, ref: ActRef, *, product: str, per_week: float, weeks: float, name: str = "",
    crop: str | None = None, unit: str = "", gifts: float = 0.0, reserve_share: float = 0.0,
    target_id: int | None = None, version: int | None = None, year: int | None = None,
) -> dict[str, object]:  # fmt: skip
    """Add a food, or change one. ``product``: a name of the book, or the household's own word.

    Raises InvalidValue for negatives, more than 53 weeks, or an own product without a crop.
    """
    book = product_of(product)
    key = book.crop if book else (crop or "")
    if not product.strip():
        raise InvalidValue("food", product, "a product of the book, or your own word for it")
    if book is None and not key:
        raise InvalidValue("crop", crop, "the kind of plant this food is made of")
    for field, value, low, high in (
        ("per week", per_week, 0.0, 1000.0), ("weeks", weeks, 0.01, 53.0),
        ("gifts", gifts, 0.0, 10_000.0), ("reserve", reserve_share, 0.0, 2.0),
    ):  # fmt: skip
        if not low <= value <= high:
            raise InvalidValue(field, value, f"{low:g} to {high:g}")
    planning = year if year is not None else target_year(larder)
    with act(larder.store, larder.clock, ref, "food_target") as a:
        if a.replayed:
            return a.result
        kinds = load_kinds(a.session)
        if key not in kinds.by_key and key not in reference().pieces:
            raise InvalidValue("crop", key, "a kind of the table or one of your own")
        fallback = unit_of(book) if book else "kg"
        if target_id is None:
            row = FoodRow(
                year=planning, product=product, crop=key, name=name or product,
                unit=unit or fallback, per_week=per_week, weeks=weeks,
            )  # fmt: skip
        else:
            row = get_live(a.session, FoodRow, target_id, "food")
            expect_version(row, version, row.name)
        row.per_week, row.weeks, row.gifts, row.reserve_share = (
            per_week,
            weeks,
            gifts,
            reserve_share,
        )
        if name:
            row.name = name
        a.session.add(row)
        a.session.flush()
        touch_wanted(a.session, row.crop)
        a.about(f"food:{row.id}")
        a.result = {"target_id": row.id}
        a.summary = f"Wants {per_week:g} {row.unit} of {row.name} a week for {weeks:g} weeks"
        return a.result


def remove_target(larder: Larder, ref: ActRef, target_id: int) -> dict[str, object]:
    """Take a food off the list."""
    with act(larder.store, larder.clock, ref, "remove_food") as a:
        if a.replayed:
            return a.result
        row = get_live(a.session, FoodRow, target_id, "food")
        row.deleted_s = a.now_s
        touch_wanted(a.session, row.crop)
        a.about(f"food:{target_id}")
        a.summary = f"Took {row.name} off the list"
        return a.result


def override_link(
    larder: Larder, ref: ActRef, target_id: int, link: str, value: float | None, note: str = ""
) -> dict[str, object]:
    """Overrule a link of a chain by the keeper's own number; None takes it back to the book."""
    if link not in LINKS:
        raise InvalidValue("link", link, ", ".join(LINKS))
    if value is not None and not 0 <= value <= 1e6:
        raise InvalidValue(link.replace("_", " "), value, "zero or more")
    if link == "yield_kg_per_plant" and value == 0:
        raise InvalidValue("yield per plant", value, "more than zero")
    with act(larder.store, larder.clock, ref, "override") as a:
        if a.replayed:
            return a.result
        food = get_live(a.session, FoodRow, target_id, "food")
        row = a.session.exec(
            select(ChainOverride).where(
                ChainOverride.food_target_id == target_id,
                ChainOverride.link == link,
                col(ChainOverride.deleted_s).is_(None),
            )
        ).first()
        if value is None:
            if row is not None:
                row.deleted_s = a.now_s
        elif row is None:
            a.session.add(
                ChainOverride(food_target_id=target_id, link=link, value=value, note=note)
            )
        else:
            row.value, row.note = value, note
        a.about(f"food:{target_id}")
        words = link.replace("_", " ")
        a.summary = f"{food.name}: {words} " + (
            "back to the book" if value is None else f"set to {value:g}"
        )
        return a.result


def book_pantry(
    larder: Larder, ref: ActRef, product: str, kind: str, units: float
) -> dict[str, object]:
    """Count the shelf, or book what was put up, opened or given."""
    if kind not in ("counted", "put_up", "opened", "given"):
        raise InvalidValue("kind", kind, "counted, put_up, opened or given")
    if not 0 <= units <= 100_000:
        raise InvalidValue("units", units, "zero or more")
    with act(larder.store, larder.clock, ref, "pantry") as a:
        if a.replayed:
            return a.result
        if kind in ("opened", "given"):
            have = pantry_units(a.session).get(product, 0.0)
            if units > have:
                raise InvalidValue("units", units, f"at most the {have:g} on the shelf")
        a.session.add(PantryEntry(product=product, at_s=a.now_s, kind=kind, units=units))
        a.about(f"pantry:{product}")
        a.summary = f"{kind.replace('_', ' ').capitalize()} {units:g} of {product}"
        return a.result


def set_pick(
    larder: Larder, ref: ActRef, lot_id: int, plants: int, purpose: str = "joy", note: str = ""
) -> dict[str, object]:
    """Mark a lot "grow this year", so many plants; again for the same lot changes the number."""
    whole("plants", plants, 1, 100_000)
    if purpose not in PURPOSES:
        raise InvalidValue("purpose", purpose, ", ".join(PURPOSES))
    year = target_year(larder)
    with act(larder.store, larder.clock, ref, "pick") as a:
        if a.replayed:
            return a.result
        lot = get_live(a.session, Lot, lot_id, "lot")
        row = a.session.exec(
            select(Pick).where(
                Pick.year == year, Pick.lot_id == lot_id, col(Pick.deleted_s).is_(None)
            )
        ).first() or Pick(year=year, lot_id=lot_id, plants=plants)
        row.plants, row.purpose, row.note = plants, purpose, note
        a.session.add(row)
        a.session.flush()
        a.about(f"lot:{lot_id}")
        touch_wanted(a.session, None, lot_id)
        a.result = {"pick_id": row.id}
        a.summary = f"Grow {plants} of {lot.code} this year ({purpose})"
        return a.result


def remove_pick(larder: Larder, ref: ActRef, pick_id: int) -> dict[str, object]:
    """Take a pick back."""
    with act(larder.store, larder.clock, ref, "remove_pick") as a:
        if a.replayed:
            return a.result
        row = get_live(a.session, Pick, pick_id, "pick")
        row.deleted_s = a.now_s
        a.about(f"lot:{row.lot_id}")
        touch_wanted(a.session, None, row.lot_id)
        a.summary = "Took a pick back"
        return a.result


def unit_of(product: Product) -> str:
    """What a product is counted in: kilos, jars, or litres where it is frozen or in a crock."""
    if product.pack_unit == "kg":
        return "kg"
    return "jars" if product.method in ("water_bath_can", "pressure_can") else "litres"


@dataclass(frozen=True)
class ProductChoice:
    """A product of the book as a choice in a list."""

    name: str
    crop: str
    how: str
    unit: str


def products() -> list[ProductChoice]:
    """All products of the book, by name."""
    return sorted(
        (
            ProductChoice(
                p.product, p.crop, METHOD_WORDS[p.method],
                unit_of(p),
            )
            for p in reference().products.values()
        ),
        key=lambda p: p.name.lower(),
    )  # fmt: skip
