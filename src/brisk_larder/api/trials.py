"""Tests: the bench."""

from __future__ import annotations

from fastapi import APIRouter, Response
from pydantic import BaseModel

from ..services.acts import ask_before
from ..services.trials import bench, past, spots, trial_acts, trial_sheets
from ..services.trials.bench import Bench
from ..services.trials.evening_steps import TestSetup, decides, setup
from ..services.trials.looking_back import LookingBack, looking_back
from ..services.trials.trial_acts import CountEntry
from .allowed import Medium
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/tests", tags=["tests"])


class StartIn(BaseModel):
    """A test to start."""

    lot_id: int
    n: int
    medium: Medium = "paper"
    temperature_c: float = 20.0
    sown_s: int | None = None
    on: str = ""
    cold_days: float = 0.0


class CountIn(BaseModel):
    """A cumulative count; what its entry does not name is still waiting."""

    count: CountEntry
    close: bool = False
    at_s: int | None = None
    flaws: str = ""
    on: str = ""
    anyway: bool = False


class PastIn(BaseModel):
    """A test that is over: how many of how many came up, by a day."""

    lot_id: int
    up: int
    n: int
    on: str = ""
    medium: Medium = "paper"
    temperature_c: float = 20.0
    took_seeds: bool = True


class ToldIn(BaseModel):
    """A germination (fraction) that somebody wrote down once, with or without its day."""

    lot_id: int
    germination: float
    on: str = ""


class DropIn(BaseModel):
    """Why a test came to nothing."""

    why: str


@router.get("")
def get_bench(larder: LarderDep) -> Bench:
    """Running tests, what deserves one, what was closed lately."""
    return bench.bench(larder)


@router.get("/looking-back")
def get_looking_back(larder: LarderDep) -> LookingBack:
    """What was forecast when each test began, against what it showed."""
    return looking_back(larder)


@router.get("/setup/{lot_id}")
def get_setup(
    larder: LarderDep, lot_id: int, n: int | None = None, temperature_c: float | None = None
) -> TestSetup:
    """How to set up a test of a lot, and what that number of seeds can tell."""
    return setup(larder, lot_id, n, temperature_c)


@router.put("/spots")
def put_spots(larder: LarderDep, ref: ActDep, body: list[spots.SpotSaid]) -> Answer:
    """Say where tests can stand in this house, all spots at once."""
    return answer(ref, spots.set_spots(larder, ref, body))


@router.get("/evening.pdf", response_class=Response)
def get_evening(larder: LarderDep, day: str = "", page: str = "") -> Response:
    """The sheet of one evening of the plan, with a label for each layer."""
    return Response(trial_sheets.evening_pdf(larder, day, page), media_type="application/pdf")


@router.post("", status_code=201)
def post_test(larder: LarderDep, ref: ActDep, body: StartIn) -> Answer:
    """Start a test."""
    then = decides(larder, body.lot_id, body.n)
    return answer(ref, trial_acts.start_trial(larder, ref, **body.model_dump(), decides=then))


@router.post("/past", status_code=201)
def post_past(larder: LarderDep, ref: ActDep, body: PastIn) -> Answer:
    """Enter a test that is over."""
    return answer(ref, past.past_test(larder, ref, **body.model_dump()))


@router.post("/told", status_code=201)
def post_told(larder: LarderDep, ref: ActDep, body: ToldIn) -> Answer:
    """Keep a germination that was written down before."""
    return answer(ref, past.told_before(larder, ref, body.lot_id, body.germination, body.on))


@router.post("/{trial_id}/counts", status_code=201)
def post_count(larder: LarderDep, ref: ActDep, trial_id: int, body: CountIn) -> Answer:
    """Enter a count, and close the test if asked; ``anyway``: what was asked was read."""
    ask_before.heed(ask_before.closing_test(larder, trial_id, body.close, body.on), body.anyway)
    done = trial_acts.count_trial(
        larder, ref, trial_id, body.count, body.close, body.at_s, body.flaws, body.on
    )
    return answer(ref, done)


@router.post("/{trial_id}/drop")
def post_drop(larder: LarderDep, ref: ActDep, trial_id: int, body: DropIn) -> Answer:
    """Give up a test that came to nothing; its reason is kept."""
    return answer(ref, trial_acts.drop_trial(larder, ref, trial_id, body.why))
