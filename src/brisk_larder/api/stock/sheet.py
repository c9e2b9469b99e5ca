"""Stock: the entry sheet and tables pasted or opened."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ...services.acts.new_seeds import NewSeeds
from ...services.stock import sheet, understood
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


class LinesIn(BaseModel):
    """Lines as typed so far."""

    packets: list[NewSeeds] = Field(max_length=500)


class TableIn(BaseModel):
    """A pasted or opened table; ``mapping``: our fields to its columns (from 0); ``mended``: by line, fields
    were put right in the preview; ``day_first``: how figures that could be two days are meant."""

    text: str = Field(max_length=sheet.MOST_BYTES)
    name: str = "the paste"
    mapping: dict[str, int] = {}
    node_id: int | None = None
    skip: list[int] = []
    mended: dict[int, dict[str, str]] = {}
    day_first: bool | None = None


@router.post("/sheet/lines")
def check_lines(larder: LarderDep, body: LinesIn) -> list[understood.Understood]:
    """What typed lines mean; nothing is saved."""
    return understood.check_lines(larder, body.packets)


@router.post("/sheet/look")
def look(larder: LarderDep, body: TableIn) -> sheet.SheetLook:
    """A table's header and how its columns seem to be meant; nothing is saved."""
    return sheet.look_at_sheet(body.text, body.name)


@router.post("/sheet/check")
def check(larder: LarderDep, body: TableIn) -> list[understood.Understood]:
    """The dry run of a table, row by row; nothing is saved."""
    return sheet.check_sheet(
        larder, body.text, body.name, body.mapping, body.node_id, body.mended, body.day_first
    )


@router.post("/sheet", status_code=201)
def post_sheet(larder: LarderDep, ref: ActDep, body: TableIn) -> Answer:
    """Bring a table in: all rows but those to skip, or nothing."""
    done = sheet.take_sheet(
        larder,
        ref,
        body.text,
        body.name,
        body.mapping,
        body.node_id,
        body.skip,
        body.mended,
        body.day_first,
    )
    return answer(ref, done)
