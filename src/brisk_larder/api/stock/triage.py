"""Stock: what is to be done with each lot, and by which school."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ...services.stock import triage_page
from ..allowed import Decision, School
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


class DecisionIn(BaseModel):
    """What follows for a lot."""

    lot_id: int
    decision: Decision


class SchoolIn(BaseModel):
    """How the household decides on seed."""

    school: School


@router.get("/triage")
def get_triage(larder: LarderDep) -> triage_page.TriageRoom:
    """Three opinions of every lot, what follows, and what each school costs."""
    return triage_page.triage_room(larder)


@router.post("/triage")
def post_triage(larder: LarderDep, ref: ActDep, body: DecisionIn) -> Answer:
    """Decide on a lot: a job for the season, or a done act."""
    return answer(ref, triage_page.decide(larder, ref, body.lot_id, body.decision))


@router.post("/school")
def post_school(larder: LarderDep, ref: ActDep, body: SchoolIn) -> Answer:
    """Choose how the household decides."""
    return answer(ref, triage_page.choose_school(larder, ref, body.school))
