"""Stock: views, gaps in the season, dividing among containers."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ...services.stock import filing_page as stock_filing
from ..allowed import Grouping
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


NodeIds = Annotated[list[int], Query(max_length=60)]


class ViewIn(BaseModel):
    """A view to keep."""

    name: str
    group: Grouping
    words: str = ""
    filing: bool = False


@router.get("/views")
def get_views(larder: LarderDep) -> list[stock_filing.View]:
    """Saved views."""
    return stock_filing.views(larder)


@router.post("/views", status_code=201)
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
    larder: LarderDep, node_ids: NodeIds, group: str = "season", loose: bool = False
) -> stock_filing.Division:
    """How packets (``loose``: and those that stand nowhere) would divide among containers in an order."""
    return stock_filing.division(larder, group, node_ids, loose)


@router.get("/lots/{lot_id}/files-at")
def get_files_at(larder: LarderDep, lot_id: int) -> stock_filing.FilesAt | None:
    """Between which two packets one files; nothing when it is gone."""
    return stock_filing.files_at(larder, lot_id)
