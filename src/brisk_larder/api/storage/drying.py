"""Storage: dryness found, drying, dew, cans."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ...core.base.errors import InvalidValue
from ...services.storage import drying, sachets
from ..deps import ActDep, Answer, Figure, LarderDep, answer

router = APIRouter(prefix="/api/storage", tags=["storage"])


class DrynessIn(BaseModel):
    """How dry lots were found: a dial shut in with them, or percent of fresh weight by weighing."""

    lot_ids: list[int]
    humidity_pct: float | None = None
    dial: float | None = None
    moisture_pct: float | None = None


@router.post("/dryness", status_code=201)
def post_dryness(larder: LarderDep, ref: ActDep, body: DrynessIn) -> Answer:
    """Note how dry lots were found to be; the forecast follows."""
    done = sachets.note_dryness(
        larder,
        ref,
        body.lot_ids,
        humidity_pct=body.humidity_pct,
        temperature=body.dial,
        moisture_pct=body.moisture_pct,
    )
    return answer(ref, done)


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
