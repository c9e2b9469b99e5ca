"""Today, Growing and Papers."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel

from ..services.growing import sowings
from ..services.growing.sowings import GrowingRoom
from ..services.papers import csv_files, everything
from ..services.saving import kept_lines
from ..services.saving.kept_lines import SavingLine
from ..services.stock import files
from ..services.today import jobs, ribbon, this_years_list
from ..services.today.jobs import Counts, TodayRoom
from ..services.today.ribbon import Ribbon
from ..services.today.this_years_list import YearList
from .deps import ActDep, Answer, LarderDep, answer, file_name

router = APIRouter(prefix="/api", tags=["today, growing, papers"])


class JobIn(BaseModel):
    """What became of a proposed job."""

    origin_key: str
    state: str
    moved_to_s: int | None = None
    person_id: int | None = None


class SowIn(BaseModel):
    """Seed sown for growing."""

    lot_id: int
    n: int
    setting: str = "outdoors"
    cells: int | None = None
    at_s: int | None = None


class UpIn(BaseModel):
    """How many are up."""

    up: int
    settled: bool = False


@router.get("/today")
def get_today(larder: LarderDep) -> TodayRoom:
    """The fortnight's jobs with their reasons."""
    return jobs.today_room(larder)


@router.get("/counts")
def get_counts(larder: LarderDep) -> Counts:
    """What waits in each room."""
    return jobs.counts(larder)


@router.put("/jobs")
def put_job(larder: LarderDep, ref: ActDep, body: JobIn) -> Answer:
    """Say what became of a job."""
    done = jobs.set_job(
        larder, ref, body.origin_key, body.state, moved_to_s=body.moved_to_s,
        person_id=body.person_id,
    )  # fmt: skip
    return answer(ref, done)


@router.get("/year")
def get_year(larder: LarderDep) -> YearList:
    """This year's list: tests, regrowing, shortfalls."""
    return this_years_list.year_of(larder)


@router.get("/ribbon")
def get_ribbon(larder: LarderDep) -> Ribbon:
    """The household's year for the band across the top."""
    return ribbon.ribbon(larder)


@router.get("/growing")
def get_growing(larder: LarderDep) -> GrowingRoom:
    """What was sown and is due, and the regrow proposal by year."""
    return sowings.growing_room(larder)


@router.get("/saving")
def get_saving(larder: LarderDep) -> list[SavingLine]:
    """Kept lines and what the book says of saving them."""
    return kept_lines.saving_room(larder)


@router.post("/sowings")
def post_sowing(larder: LarderDep, ref: ActDep, body: SowIn) -> Answer:
    """Sow seed of a lot."""
    return answer(ref, sowings.sow(larder, ref, **body.model_dump()))


@router.post("/sowings/{sowing_id}/counts")
def post_up(larder: LarderDep, ref: ActDep, sowing_id: int, body: UpIn) -> Answer:
    """Enter how many are up."""
    return answer(ref, sowings.count_sowing(larder, ref, sowing_id, body.up, body.settled))


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
    return _download(csv_files.readings_csv(larder), "readings.csv", "text/csv; charset=utf-8")


@router.get("/papers/everything.json", response_class=PlainTextResponse)
def get_everything(larder: LarderDep) -> Response:
    """The whole household as JSON."""
    return _download(everything.everything_json(larder), "larder.json", "application/json")


@router.post("/papers/packets")
def post_packets(
    larder: LarderDep,
    ref: ActDep,
    file: Annotated[UploadFile, File()],
    node_id: int | None = None,
) -> Answer:
    """Bring in a spreadsheet of packets: all or nothing."""
    name, data = file_name(file), file.file.read(files.MOST_BYTES + 1)
    return answer(ref, files.import_packets(larder, ref, name, data, node_id))
