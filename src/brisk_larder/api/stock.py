"""Stock: lots."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..services import lot_page, stock, stock_entry
from ..services.lot_page import LotPage
from ..services.stock import LotLine
from ..services.stock_entry import NewSeeds
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


class PileIn(BaseModel):
    """A pile of packets, added in one act."""

    packets: list[NewSeeds] = Field(min_length=1, max_length=500)


class MoveIn(BaseModel):
    """Where a lot goes."""

    node_id: int
    wrapper_kind: str | None = None
    at_s: int | None = None


class QuantityIn(BaseModel):
    """A count or a booking, as said."""

    kind: str = "counted"
    amount: str


class EventIn(BaseModel):
    """Something that happened."""

    kind: str
    note: str = ""


class LotIn(BaseModel):
    """What is written of a lot."""

    version: int | None = None
    note: str | None = None
    state: str | None = None
    variety: str | None = None
    kept_line: bool | None = None
    kind: str | None = None


@router.get("/lots")
def get_lots(larder: LarderDep) -> list[LotLine]:
    """All lots at a glance."""
    return stock.lot_lines(larder)


@router.post("/lots")
def post_lots(larder: LarderDep, ref: ActDep, body: PileIn) -> Answer:
    """Add a pile of packets."""
    return answer(ref, stock_entry.add_seeds(larder, ref, body.packets))


@router.get("/lots/{lot_id}")
def get_lot(larder: LarderDep, lot_id: int) -> LotPage:
    """One lot in full."""
    return lot_page.lot_page(larder, lot_id)


@router.patch("/lots/{lot_id}")
def patch_lot(larder: LarderDep, ref: ActDep, lot_id: int, body: LotIn) -> Answer:
    """Change what is written of a lot, or let it go."""
    return answer(ref, stock.edit_lot(larder, ref, lot_id, **body.model_dump()))


@router.post("/lots/{lot_id}/move")
def post_move(larder: LarderDep, ref: ActDep, lot_id: int, body: MoveIn) -> Answer:
    """Put a lot somewhere else."""
    done = stock.move_lot(larder, ref, lot_id, body.node_id, body.wrapper_kind, body.at_s)
    return answer(ref, done)


@router.post("/lots/{lot_id}/quantity")
def post_quantity(larder: LarderDep, ref: ActDep, lot_id: int, body: QuantityIn) -> Answer:
    """Count a lot, or book what was given, eaten, lost or found."""
    return answer(ref, stock.book_quantity(larder, ref, lot_id, body.kind, body.amount))


@router.post("/lots/{lot_id}/events")
def post_event(larder: LarderDep, ref: ActDep, lot_id: int, body: EventIn) -> Answer:
    """Note something that happened to a lot."""
    return answer(ref, stock.log_event(larder, ref, lot_id, body.kind, body.note))
