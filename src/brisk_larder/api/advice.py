"""Advice on storing: what if, the good places, drying, dew, cans."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..core.errors import InvalidValue
from ..services.forecast import elsewhere
from ..services.storage import best_places, drying, sachets, what_if
from .deps import ActDep, Answer, Figure, LarderDep, answer

router = APIRouter(prefix="/api/storage", tags=["advice"])


class OptionIn(BaseModel):
    """Somewhere to put seed; see the what-if page for what may be combined."""

    label: str = ""
    node_id: int | None = None
    place_kind: str | None = None
    container_kind: str | None = None
    closing: str = "airtight"
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


class DrynessIn(BaseModel):
    """How dry lots were found: a dial shut in with them, or percent of fresh weight by weighing."""

    lot_ids: list[int]
    humidity_pct: float | None = None
    dial: float | None = None
    moisture_pct: float | None = None


@router.post("/dryness")
def post_dryness(larder: LarderDep, ref: ActDep, body: DrynessIn) -> Answer:
    """Note how dry lots were found to be; the forecast follows."""
    done = sachets.note_dryness(
        larder, ref, body.lot_ids, humidity_pct=body.humidity_pct, temperature=body.dial,
        moisture_pct=body.moisture_pct,
    )  # fmt: skip
    return answer(ref, done)


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


@router.post("/best-use/jobs")
def post_moves(larder: LarderDep, ref: ActDep, body: MovesIn) -> Answer:
    """Put moves on today's list."""
    return answer(
        ref, best_places.moves_to_jobs(larder, ref, [(m.lot_id, m.node_id) for m in body.moves])
    )


@router.get("/nodes/{node_id}/drying")
def get_drying(larder: LarderDep, node_id: int, target_pct: Figure = None) -> drying.Drying:
    """Drying advice for what lies in a container."""
    return drying.drying(larder, node_id, None if target_pct is None else target_pct / 100)


@router.get("/nodes/{node_id}/dew")
def get_dew(
    larder: LarderDep, node_id: int, room_c: Figure = None, room_pct: Figure = None
) -> drying.DewAdvice:
    """How long to leave a cold container shut."""
    if room_pct is not None and not 1 <= room_pct <= 100:
        raise InvalidValue("humidity", f"{room_pct:g} %", "1 to 100 %")
    return drying.dew(larder, node_id, room_c, room_pct)


@router.get("/cans")
def get_cans(
    amount_kg: Annotated[float, Query(ge=0, le=1e6, allow_inf_nan=False)],
    kg_a_week: Figure = None,
) -> drying.CanPlan:
    """Which cans fill to the brim with dry beans or grain."""
    return drying.can_plan(amount_kg, kg_a_week)
