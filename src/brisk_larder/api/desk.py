"""Stock: the entry sheet, views and filing, stocktake, triage."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..services.acts.entry import NewSeeds
from ..services.stock import filing as stock_filing
from ..services.stock import sheet, stocktakes, triage
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])
NodeIds = Annotated[list[int], Query(max_length=60)]


class LinesIn(BaseModel):
    """Lines as typed so far."""

    packets: list[NewSeeds] = Field(max_length=500)


class TableIn(BaseModel):
    """A pasted or opened table; ``mapping``: our fields to its columns (from 0)."""

    text: str = Field(max_length=sheet.MOST_BYTES)
    name: str = "the paste"
    mapping: dict[str, int] = {}
    node_id: int | None = None
    skip: list[int] = []


class ViewIn(BaseModel):
    """A view to keep."""

    name: str
    group: str
    words: str = ""
    filing: bool = False


class MarkIn(BaseModel):
    """What was found of one lot."""

    lot_id: int
    result: str
    condition: str = ""
    amount: str = ""


class CodeIn(BaseModel):
    """The code of an unexpected packet."""

    code: str


class FinishIn(BaseModel):
    """What of the lots not looked at."""

    rest: str = ""


class DecisionIn(BaseModel):
    """What follows for a lot."""

    lot_id: int
    decision: str


class SchoolIn(BaseModel):
    """How the household decides on seed."""

    school: str


@router.post("/sheet/lines")
def check_lines(larder: LarderDep, body: LinesIn) -> list[sheet.Understood]:
    """What typed lines mean; nothing is saved."""
    return sheet.check_lines(larder, body.packets)


@router.post("/sheet/look")
def look(larder: LarderDep, body: TableIn) -> sheet.SheetLook:
    """A table's header and how its columns seem to be meant; nothing is saved."""
    return sheet.look_at_sheet(body.text, body.name)


@router.post("/sheet/check")
def check(larder: LarderDep, body: TableIn) -> list[sheet.Understood]:
    """The dry run of a table, row by row; nothing is saved."""
    return sheet.check_sheet(larder, body.text, body.name, body.mapping, body.node_id)


@router.post("/sheet")
def post_sheet(larder: LarderDep, ref: ActDep, body: TableIn) -> Answer:
    """Bring a table in: all rows but those to skip, or nothing."""
    done = sheet.take_sheet(
        larder, ref, body.text, body.name, body.mapping, body.node_id, body.skip
    )
    return answer(ref, done)


@router.get("/views")
def get_views(larder: LarderDep) -> list[stock_filing.View]:
    """Saved views."""
    return stock_filing.views(larder)


@router.post("/views")
def post_view(larder: LarderDep, ref: ActDep, body: ViewIn) -> Answer:
    """Keep a view under a name."""
    return answer(
        ref, stock_filing.save_view(larder, ref, body.name, body.group, body.words, body.filing)
    )


@router.delete("/views/{view_id}")
def delete_view(larder: LarderDep, ref: ActDep, view_id: int) -> Answer:
    """Take a view away."""
    return answer(ref, stock_filing.drop_view(larder, ref, view_id))


@router.get("/gaps")
def get_gaps(larder: LarderDep) -> stock_filing.Gaps:
    """What can be sown month by month from what is in hand."""
    return stock_filing.gaps(larder)


@router.get("/division")
def get_division(
    larder: LarderDep, node_ids: NodeIds, group: str = "season"
) -> stock_filing.Division:
    """How packets would divide among containers in an order."""
    return stock_filing.division(larder, group, node_ids)


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


@router.get("/triage")
def get_triage(larder: LarderDep) -> triage.TriageRoom:
    """Three opinions of every lot, what follows, and what each school costs."""
    return triage.triage_room(larder)


@router.post("/triage")
def post_triage(larder: LarderDep, ref: ActDep, body: DecisionIn) -> Answer:
    """Decide on a lot: a job for the season, or a done act."""
    return answer(ref, triage.decide(larder, ref, body.lot_id, body.decision))


@router.post("/school")
def post_school(larder: LarderDep, ref: ActDep, body: SchoolIn) -> Answer:
    """Choose how the household decides."""
    return answer(ref, triage.choose_school(larder, ref, body.school))
