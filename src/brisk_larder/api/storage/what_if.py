"""Storage: what if, and the best use of the good places."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ...services.forecast import elsewhere
from ...services.storage import best_places, what_if
from ..allowed import Closing
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/storage", tags=["storage"])


class OptionIn(BaseModel):
    """Somewhere to put seed; see the what-if page for what may be combined."""

    label: str = ""
    node_id: int | None = None
    place_kind: str | None = None
    container_kind: str | None = None
    closing: Closing = "airtight"
    desiccant: str | None = None
    desiccant_g: float = 0.0


class WhatIfIn(BaseModel):
    """Lots, and the options to compare them under."""

    lot_ids: list[int]
    options: list[OptionIn]


class MoveIn(BaseModel):
    """One move of the proposal."""

    lot_id: int
    node_id: int


class MovesIn(BaseModel):
    """Moves for today's list."""

    moves: list[MoveIn]


@router.post("/what-if")
def post_what_if(larder: LarderDep, body: WhatIfIn) -> what_if.WhatIf:
    """Lots side by side: as they are, and under each option. Changes nothing."""
    options = [elsewhere.Option(**o.model_dump()) for o in body.options]
    return what_if.what_if(larder, body.lot_ids, options)


@router.get("/schools")
def get_schools(larder: LarderDep, lot_ids: Annotated[list[int], Query()]) -> what_if.WhatIf:
    """The ways people store, side by side for some lots."""
    return what_if.schools(larder, lot_ids)


@router.get("/best-use")
def get_best_use(larder: LarderDep) -> best_places.BestUse:
    """Which lots should lie in the few good places."""
    return best_places.best_places(larder)


@router.post("/best-use/jobs", status_code=201)
def post_moves(larder: LarderDep, ref: ActDep, body: MovesIn) -> Answer:
    """Put moves on today's list."""
    return answer(
        ref, best_places.moves_to_jobs(larder, ref, [(m.lot_id, m.node_id) for m in body.moves])
    )
