"""Labels, lists and cards; parcels; the stock out and in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, Request, UploadFile
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel, Field

from ...services.papers import giving, parcels, received
from ...services.stock import labels, stock_table
from ..deps import ActDep, Answer, LarderDep, answer, file_name

router = APIRouter(prefix="/api/papers", tags=["papers"])
LotIds = Annotated[list[int], Query(max_length=2000)]
NodeIds = Annotated[list[int], Query(max_length=200)]


class PromiseIn(BaseModel):
    """Amounts of lots for somebody, by lot."""

    person: str = ""
    lots: dict[int, str] = Field(max_length=200)
    note: str = ""
    parcel_id: int | None = None


class PackIn(BaseModel):
    """Pack it; ``anyway``: the warnings were read."""

    anyway: bool = False


def _pdf(data: bytes, name: str) -> Response:
    headers = {"Content-Disposition": f'inline; filename="{name}"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/sheets")
def get_sheets() -> list[labels.SheetChoice]:
    """Label sheets by their sizes."""
    return labels.sheets()


@router.get("/labels.pdf", response_class=Response)
def get_labels(
    larder: LarderDep,
    request: Request,
    lot_ids: LotIds,
    sheet: str = "a4-3x8",
    start: int = 1,
    copies: int = 1,
) -> Response:
    """Labels of some lots on a sheet, beginning at any place of a part-used one."""
    address = str(request.base_url)
    return _pdf(labels.label_sheet(larder, lot_ids, sheet, start, copies, address), "labels.pdf")


@router.get("/containers.pdf", response_class=Response)
def get_container_papers(
    larder: LarderDep, request: Request, node_ids: NodeIds, kind: str = "lists", page: str = "A4"
) -> Response:
    """Container lists or drawer cards in the household's order."""
    data = labels.container_papers(larder, node_ids, kind, page, str(request.base_url))
    return _pdf(data, f"{kind}.pdf")


@router.get("/stock.csv", response_class=PlainTextResponse)
def get_stock_csv(larder: LarderDep) -> Response:
    """The stock from which it can be brought in again, nothing lost."""
    headers = {"Content-Disposition": 'attachment; filename="stock.csv"'}
    return PlainTextResponse(
        stock_table.stock_csv(larder), media_type="text/csv; charset=utf-8", headers=headers
    )


@router.get("/parcels")
def get_parcels(larder: LarderDep) -> giving.GivingRoom:
    """Parcels, what stands with each person, what the stock is worth."""
    return giving.giving_room(larder)


@router.post("/parcels", status_code=201)
def post_parcel(larder: LarderDep, ref: ActDep, body: PromiseIn) -> Answer:
    """Promise amounts of lots to somebody."""
    done = parcels.promise(larder, ref, body.person, body.lots, body.note, body.parcel_id)
    return answer(ref, done)


@router.post("/parcels/receive", status_code=201)
def post_receive(
    larder: LarderDep, ref: ActDep, file: Annotated[UploadFile, File()], node_id: int | None = None
) -> Answer:
    """Take in a parcel from another household."""
    name, data = file_name(file), file.file.read(3_000_000)
    return answer(ref, received.receive(larder, ref, name, data, node_id))


@router.post("/parcels/{parcel_id}/pack")
def post_pack(larder: LarderDep, ref: ActDep, parcel_id: int, body: PackIn) -> Answer:
    """Take the amounts out of their lots."""
    return answer(ref, parcels.pack(larder, ref, parcel_id, body.anyway))


@router.post("/parcels/{parcel_id}/send")
def post_send(larder: LarderDep, ref: ActDep, parcel_id: int) -> Answer:
    """It is on its way."""
    return answer(ref, parcels.send(larder, ref, parcel_id))


@router.delete("/parcels/{parcel_id}")
def delete_parcel(larder: LarderDep, ref: ActDep, parcel_id: int) -> Answer:
    """Take a promise back."""
    return answer(ref, parcels.drop_parcel(larder, ref, parcel_id))


@router.get("/parcels/{parcel_id}/parcel.json", response_class=PlainTextResponse)
def get_parcel_file(larder: LarderDep, parcel_id: int) -> Response:
    """The parcel with its lots' history, for another household's larder."""
    name, text = parcels.parcel_file(larder, parcel_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return PlainTextResponse(text, media_type="application/json", headers=headers)


@router.get("/parcels/{parcel_id}/slip.pdf", response_class=Response)
def get_slip(larder: LarderDep, parcel_id: int, page: str = "A4") -> Response:
    """A printed slip, for people without the tool."""
    return _pdf(giving.slip_pdf(larder, parcel_id, page), "slip.pdf")
