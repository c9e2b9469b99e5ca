"""Stock: going through containers packet by packet."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ...services.stock import stocktakes
from ..allowed import Condition, Rest, Result
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


class MarkIn(BaseModel):
    """What was found of one lot."""

    lot_id: int
    result: Result
    condition: Condition = ""
    amount: str = ""


class CodeIn(BaseModel):
    """The code of an unexpected packet."""

    code: str


class FinishIn(BaseModel):
    """What of the lots not looked at."""

    rest: Rest = ""


@router.get("/stocktakes")
def get_stocktakes(larder: LarderDep) -> list[stocktakes.ToGoThrough]:
    """Containers to go through, those begun first, then the longest untouched."""
    return stocktakes.containers(larder)


@router.post("/stocktakes/nodes/{node_id}")
def post_stocktake(larder: LarderDep, ref: ActDep, node_id: int) -> Answer:
    """Begin a container, or go on with it."""
    return answer(ref, stocktakes.begin(larder, ref, node_id))


@router.get("/stocktakes/{stocktake_id}")
def get_stocktake(larder: LarderDep, stocktake_id: int) -> stocktakes.Take:
    """A stocktake with its list, and its report once it is done."""
    return stocktakes.stocktake(larder, stocktake_id)


@router.post("/stocktakes/{stocktake_id}/lots")
def post_mark(larder: LarderDep, ref: ActDep, stocktake_id: int, body: MarkIn) -> Answer:
    """Tick a lot, count it, or say that it is not here."""
    done = stocktakes.mark_lot_found(
        larder, ref, stocktake_id, body.lot_id, body.result, body.condition, body.amount
    )
    return answer(ref, done)


@router.post("/stocktakes/{stocktake_id}/code")
def post_code(larder: LarderDep, ref: ActDep, stocktake_id: int, body: CodeIn) -> Answer:
    """Take an unexpected packet in by its code."""
    return answer(ref, stocktakes.take_in(larder, ref, stocktake_id, body.code))


@router.post("/stocktakes/{stocktake_id}/pause")
def post_pause(larder: LarderDep, ref: ActDep, stocktake_id: int) -> Answer:
    """Leave it for now."""
    return answer(ref, stocktakes.pause(larder, ref, stocktake_id))


@router.post("/stocktakes/{stocktake_id}/finish")
def post_finish(larder: LarderDep, ref: ActDep, stocktake_id: int, body: FinishIn) -> Answer:
    """End it: the container was gone through."""
    return answer(ref, stocktakes.finish(larder, ref, stocktake_id, body.rest))
