"""Papers: files out, and spreadsheets of packets in."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import PlainTextResponse, Response

from ...services.papers import csv_files, everything, readings_file
from ...services.stock import stock_files
from ..deps import ActDep, Answer, LarderDep, answer, file_name

router = APIRouter(prefix="/api", tags=["papers"])


def _download(text: str, name: str, media: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return PlainTextResponse(text, media_type=media, headers=headers)


@router.get("/papers/lots.csv", response_class=PlainTextResponse)
def get_lots_csv(larder: LarderDep) -> Response:
    """All lots with their forecast."""
    return _download(csv_files.lots_csv(larder), "lots.csv", "text/csv; charset=utf-8")


@router.get("/papers/readings.csv", response_class=PlainTextResponse)
def get_readings_csv(larder: LarderDep) -> Response:
    """All readings."""
    return _download(readings_file.readings_csv(larder), "readings.csv", "text/csv; charset=utf-8")


@router.get("/papers/everything.json", response_class=PlainTextResponse)
def get_everything(larder: LarderDep) -> Response:
    """The whole household as JSON."""
    return _download(everything.everything_json(larder), "larder.json", "application/json")


@router.post("/papers/packets", status_code=201)
def post_packets(
    larder: LarderDep,
    ref: ActDep,
    file: Annotated[UploadFile, File()],
    node_id: int | None = None,
) -> Answer:
    """Bring in a spreadsheet of packets: all or nothing."""
    name, data = file_name(file), file.file.read(stock_files.MOST_BYTES + 1)
    return answer(ref, stock_files.import_packets(larder, ref, name, data, node_id))
