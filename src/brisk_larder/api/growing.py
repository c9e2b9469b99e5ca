"""Growing: what was sown, and which line to regrow when."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from ..services.growing import calendar_page, own_days, settling, sowings
from ..services.growing.calendar_page import CalendarPage
from ..services.growing.settling import NextDoor
from ..services.growing.sowings import GrowingRoom
from .allowed import Purity, Setting
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api", tags=["growing"])


class SowIn(BaseModel):
    """Seed sown for growing."""

    lot_id: int
    n: int
    setting: Setting = "outdoors"
    cells: int | None = None
    at_s: int | None = None
    on: str = ""


class UpIn(BaseModel):
    """How many are up."""

    up: int
    settled: bool = False
    on: str = ""


class YearIn(BaseModel):
    """A year for growing a line anew; ``from_year``: moved from there; ``apart``: kept apart while it
    flowers; ``anyway``: although its seed may not give enough mothers by then."""

    variety_id: int
    year: int
    from_year: int | None = None
    apart: bool = False
    anyway: bool = False


class CellIn(BaseModel):
    """One line in one year."""

    variety_id: int
    year: int


class WholeYearIn(BaseModel):
    """All that the plan has for a year."""

    year: int


class PurityIn(BaseModel):
    """How true a line is to come: strict, mostly, any."""

    purity: Purity
    version: int | None = None


class NextDoorIn(BaseModel):
    """What flowers next door, and how far off (m)."""

    crossing_group: str
    distance_m: float


class OwnDaysIn(BaseModel):
    """First and last day to sow (month-day, such as 05-20), and why."""

    first: str
    last: str
    note: str = ""


class LimitsIn(BaseModel):
    """What a year bears: bed for growing seed (m2), lines grown anew, roots in the winter store (null:
    nobody says), what flowers next door."""

    seed_bed_m2: float | None = None
    seed_lines: int | None = None
    winter_roots: int | None = None
    next_door: list[NextDoorIn] = []


@router.get("/growing")
def get_growing(larder: LarderDep) -> GrowingRoom:
    """What was sown and is due, and the regrow proposal by year."""
    return sowings.growing_room(larder)


@router.post("/sowings", status_code=201)
def post_sowing(larder: LarderDep, ref: ActDep, body: SowIn) -> Answer:
    """Sow seed of a lot."""
    return answer(ref, sowings.sow(larder, ref, **body.model_dump()))


@router.post("/sowings/{sowing_id}/counts", status_code=201)
def post_up(larder: LarderDep, ref: ActDep, sowing_id: int, body: UpIn) -> Answer:
    """Enter how many are up."""
    return answer(ref, sowings.count_sowing(larder, ref, sowing_id, body.up, body.settled, body.on))


@router.post("/growing/years")
def post_year(larder: LarderDep, ref: ActDep, body: YearIn) -> Answer:
    """Settle on a year for growing a line anew; refused where it would cross."""
    done = settling.settle(
        larder, ref, body.variety_id, body.year, body.from_year, body.apart, body.anyway
    )
    return answer(ref, done)


@router.post("/growing/years/bar")
def post_bar(larder: LarderDep, ref: ActDep, body: CellIn) -> Answer:
    """Rule a year out for a line."""
    return answer(ref, settling.bar_year(larder, ref, body.variety_id, body.year))


@router.post("/growing/years/free")
def post_free(larder: LarderDep, ref: ActDep, body: CellIn) -> Answer:
    """Leave a year to the plan again."""
    return answer(ref, settling.free_year(larder, ref, body.variety_id, body.year))


@router.post("/growing/years/all")
def post_all(larder: LarderDep, ref: ActDep, body: WholeYearIn) -> Answer:
    """Settle on all that the plan has for a year."""
    return answer(ref, settling.settle_whole(larder, ref, body.year))


@router.put("/growing/lines/{variety_id}")
def put_purity(larder: LarderDep, ref: ActDep, variety_id: int, body: PurityIn) -> Answer:
    """How true a line is to come."""
    done = settling.set_purity(larder, ref, variety_id, body.purity, body.version)
    return answer(ref, done)


@router.get("/growing/calendar")
def get_calendar_page(larder: LarderDep) -> CalendarPage:
    """The year of each kind that is wanted or kept: sowing, harvest, frost."""
    return calendar_page.calendar_page(larder)


@router.put("/growing/calendar/{crop}/{setting}")
def put_own_days(
    larder: LarderDep, ref: ActDep, crop: str, setting: Setting, body: OwnDaysIn
) -> Answer:
    """Say from when to when a kind is sown here."""
    done = own_days.set_days(larder, ref, crop, setting, body.first, body.last, body.note)
    return answer(ref, done)


@router.delete("/growing/calendar/{crop}/{setting}")
def delete_own_days(larder: LarderDep, ref: ActDep, crop: str, setting: Setting) -> Answer:
    """Sow a kind by the book's days again."""
    return answer(ref, own_days.back_to_the_book(larder, ref, crop, setting))


@router.get("/growing/next-door")
def get_next_door(larder: LarderDep) -> list[NextDoor]:
    """What flowers next door."""
    return settling.next_door(larder)


@router.get("/growing/crossing")
def get_crossing() -> dict[str, str]:
    """Kinds that cross with one another, by group."""
    return settling.group_names()


@router.put("/growing/limits")
def put_limits(larder: LarderDep, ref: ActDep, body: LimitsIn) -> Answer:
    """Say what a year bears, and all that flowers next door."""
    plots = [(p.crossing_group, p.distance_m) for p in body.next_door]
    done = settling.set_limits(
        larder, ref, body.seed_bed_m2, body.seed_lines, plots, body.winter_roots
    )
    return answer(ref, done)
