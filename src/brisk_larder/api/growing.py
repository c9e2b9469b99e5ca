"""Growing: what was sown, and which line to regrow when."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.growing import sowings
from ..services.growing.sowings import GrowingRoom
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api", tags=["growing"])


class SowIn(BaseModel):
    """Seed sown for growing."""

    lot_id: int
    n: int
    setting: str = "outdoors"
    cells: int | None = None
    at_s: int | None = None
    on: str = ""


class UpIn(BaseModel):
    """How many are up."""

    up: int
    settled: bool = False
    on: str = ""


@router.get("/growing")
def get_growing(larder: LarderDep) -> GrowingRoom:
    """What was sown and is due, and the regrow proposal by year."""
    return sowings.growing_room(larder)


@router.post("/sowings")
def post_sowing(larder: LarderDep, ref: ActDep, body: SowIn) -> Answer:
    """Sow seed of a lot."""
    return answer(ref, sowings.sow(larder, ref, **body.model_dump()))


@router.post("/sowings/{sowing_id}/counts")
def post_up(larder: LarderDep, ref: ActDep, sowing_id: int, body: UpIn) -> Answer:
    """Enter how many are up."""
    return answer(ref, sowings.count_sowing(larder, ref, sowing_id, body.up, body.settled, body.on))
