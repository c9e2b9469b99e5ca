"""Needs: foods, picks, pantry."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.acts import heed
from ..services.needs import acts, chains
from ..services.needs.acts import ProductChoice
from ..services.needs.chains import NeedsRoom
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/needs", tags=["needs"])


class TargetIn(BaseModel):
    """A food to want, or to change."""

    product: str
    per_week: float
    weeks: float
    name: str = ""
    crop: str | None = None
    unit: str = ""
    gifts: float = 0.0
    reserve_share: float = 0.0
    target_id: int | None = None
    version: int | None = None


class OverrideIn(BaseModel):
    """The keeper's own number for a link; null: back to the book."""

    link: str
    value: float | None
    note: str = ""


class PantryIn(BaseModel):
    """What stands on the shelf."""

    product: str
    kind: str = "counted"
    units: float


class PickIn(BaseModel):
    """Grow this lot this year."""

    lot_id: int
    plants: int
    purpose: str = "joy"
    note: str = ""
    anyway: bool = False


@router.get("")
def get_needs(larder: LarderDep) -> NeedsRoom:
    """All chains, shortfalls first."""
    return chains.needs_room(larder)


@router.get("/products")
def get_products() -> list[ProductChoice]:
    """Products of the book."""
    return acts.products()


@router.post("/foods")
def post_food(larder: LarderDep, ref: ActDep, body: TargetIn) -> Answer:
    """Add a food, or change one."""
    return answer(ref, acts.set_target(larder, ref, **body.model_dump()))


@router.delete("/foods/{target_id}")
def delete_food(larder: LarderDep, ref: ActDep, target_id: int) -> Answer:
    """Take a food off the list."""
    return answer(ref, acts.remove_target(larder, ref, target_id))


@router.put("/foods/{target_id}/links")
def put_link(larder: LarderDep, ref: ActDep, target_id: int, body: OverrideIn) -> Answer:
    """Overrule a link of a chain."""
    done = acts.override_link(larder, ref, target_id, body.link, body.value, body.note)
    return answer(ref, done)


@router.post("/pantry")
def post_pantry(larder: LarderDep, ref: ActDep, body: PantryIn) -> Answer:
    """Count the shelf, or book what was put up, opened or given."""
    return answer(ref, acts.book_pantry(larder, ref, body.product, body.kind, body.units))


@router.post("/picks")
def post_pick(larder: LarderDep, ref: ActDep, body: PickIn) -> Answer:
    """Mark a lot "grow this year"."""
    heed.heed(heed.picking(larder, [body.lot_id]), body.anyway)
    done = acts.set_pick(larder, ref, body.lot_id, body.plants, body.purpose, body.note)
    return answer(ref, done)


@router.delete("/picks/{pick_id}")
def delete_pick(larder: LarderDep, ref: ActDep, pick_id: int) -> Answer:
    """Take a pick back."""
    return answer(ref, acts.remove_pick(larder, ref, pick_id))
