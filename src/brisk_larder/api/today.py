"""Today: the fortnight's jobs, this year's list, the band across the top."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel, Field

from ..services.today import calendar, jobs, nights_ahead, own_jobs, ribbon, this_years_list
from ..services.today.calendar import CalendarAddress
from ..services.today.jobs import Counts, TodayRoom
from ..services.today.own_jobs import JobSaid
from ..services.today.ribbon import Ribbon
from ..services.today.this_years_list import YearList
from .allowed import JobState
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api", tags=["today"])


class JobIn(BaseModel):
    """What became of a proposed job, or of several at once."""

    origin_key: str = ""
    origin_keys: list[str] = Field(default_factory=list, max_length=200)
    state: JobState
    moved_to_s: int | None = None
    person_id: int | None = None


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
    """Say what became of a job, or of several."""
    done = jobs.set_jobs(
        larder,
        ref,
        body.origin_keys or [body.origin_key],
        body.state,
        moved_to_s=body.moved_to_s,
        person_id=body.person_id,
    )
    return answer(ref, done)


@router.post("/jobs/own", status_code=201)
def post_own_job(larder: LarderDep, ref: ActDep, body: JobSaid) -> Answer:
    """Write down a job of one's own."""
    return answer(ref, own_jobs.add_own_job(larder, ref, body))


@router.patch("/jobs/own/{job_id}")
def patch_own_job(larder: LarderDep, ref: ActDep, job_id: int, body: JobSaid) -> Answer:
    """Put a job of one's own right."""
    return answer(ref, own_jobs.change_own_job(larder, ref, job_id, body))


@router.get("/year")
def get_year(larder: LarderDep) -> YearList:
    """This year's list: tests, regrowing, shortfalls."""
    return this_years_list.year_of(larder)


@router.get("/ribbon")
def get_ribbon(larder: LarderDep) -> Ribbon:
    """The household's year for the band across the top."""
    return ribbon.ribbon(larder)


@router.post("/weather")
def post_weather(larder: LarderDep, ref: ActDep, file: Annotated[UploadFile, File()]) -> Answer:
    """Bring in a forecast of nights (JSON)."""
    return answer(ref, nights_ahead.bring_forecast(larder, ref, file.file.read()))


ICS = "text/calendar; charset=utf-8"


@router.get("/calendar.ics", response_class=Response)
def get_calendar(larder: LarderDep) -> Response:
    """All jobs that have a day, as an iCalendar file."""
    headers = {"Content-Disposition": 'attachment; filename="brisk-larder.ics"'}
    return Response(calendar.calendar(larder), media_type=ICS, headers=headers)


@router.get("/calendar")
def get_address(larder: LarderDep) -> CalendarAddress:
    """The private address of the calendar, if one was made."""
    return calendar.address(larder)


@router.post("/calendar", status_code=201)
def post_address(larder: LarderDep, ref: ActDep) -> Answer:
    """Make a private address; an earlier one is worth nothing from now on."""
    return answer(ref, calendar.new_address(larder, ref))


@router.delete("/calendar")
def delete_address(larder: LarderDep, ref: ActDep) -> Answer:
    """Close the private address."""
    return answer(ref, calendar.close_address(larder, ref))


@router.get("/calendar/{token}.ics", response_class=Response)
def get_by_token(larder: LarderDep, token: str) -> Response:
    """The calendar for whoever knows its address."""
    return Response(calendar.by_token(larder, token), media_type=ICS)
