"""Readings: by eye, from files, from loggers over HTTP."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Form, Header, Request, UploadFile
from pydantic import BaseModel, Field

from ...services.storage import imports, loggers, readings
from ...services.storage.brought_files import BroughtFiles, ImportState
from ..deps import ActDep, Answer, LarderDep, answer, file_name

router = APIRouter(prefix="/api/storage", tags=["readings"])
ingest_router = APIRouter(prefix="/api/ingest", tags=["loggers"])


class ReadingIn(BaseModel):
    """A dial as read: the household's temperature unit, per cent."""

    temperature: float | None = None
    humidity_pct: float | None = None
    t_min: float | None = None
    t_max: float | None = None
    at_s: int | None = None
    opened: bool = False
    note: str = ""


class StopIn(ReadingIn):
    """One dial of a round."""

    node_id: int


class RoundIn(BaseModel):
    """A round of dials: all or nothing."""

    stops: list[StopIn]


class TakeIn(BaseModel):
    """How a file is to be read (answers: time, temperature, humidity, date: columns from 0, -1 none;
    unit, tz, month_first, device), and whether good rows are taken when others are bad."""

    answers: dict[str, Any] = Field(default_factory=dict)
    partial: bool = False


class DeviceIn(BaseModel):
    """A logger that will send over HTTP."""

    name: str
    node_id: int


class DeviceMoveIn(BaseModel):
    """Where a logger stands from now on."""

    node_id: int


class RevokeIn(BaseModel):
    """The version seen."""

    version: int | None = None


class SentReading(BaseModel):
    """One reading of a logger: epoch s, degC, per cent."""

    at_s: int
    temperature_c: float | None = None
    humidity_pct: float | None = None


class BatchIn(BaseModel):
    """What a logger sends: its clock now (epoch s), its battery, its readings."""

    sent_s: float
    battery_pct: float | None = None
    readings: list[SentReading]


class BatchOut(BaseModel):
    """What became of a batch; ``server_s``: the right time."""

    taken: int
    known: int
    conflicts: int
    refused: list[dict[str, Any]]
    refused_count: int
    server_s: int


def get_brought(request: Request) -> BroughtFiles:
    """The files that are being brought in."""
    brought = request.app.state.brought
    assert isinstance(brought, BroughtFiles), "made with the app"
    return brought


BroughtDep = Annotated[BroughtFiles, Depends(get_brought)]


@router.post("/nodes/{node_id}/readings", status_code=201)
def post_reading(larder: LarderDep, ref: ActDep, node_id: int, body: ReadingIn) -> Answer:
    """Log a dial."""
    dial = readings.DialReading(**body.model_dump())
    return answer(ref, readings.log_reading(larder, ref, node_id, dial))


@router.post("/round", status_code=201)
def post_round(larder: LarderDep, ref: ActDep, body: RoundIn) -> Answer:
    """Log a whole round as one act."""
    dials = [
        (s.node_id, readings.DialReading(**s.model_dump(exclude={"node_id"}))) for s in body.stops
    ]
    return answer(ref, readings.log_round(larder, ref, dials))


@router.patch("/readings/{series_id}/{at_s}")
def patch_reading(
    larder: LarderDep, ref: ActDep, series_id: int, at_s: int, body: ReadingIn
) -> Answer:
    """Correct a reading; the old values stay among the past ones."""
    dial = readings.DialReading(**body.model_dump(exclude={"at_s", "opened", "note"}))
    return answer(ref, readings.correct_reading(larder, ref, series_id, at_s, dial))


@router.delete("/readings/{series_id}/{at_s}")
def delete_reading(larder: LarderDep, ref: ActDep, series_id: int, at_s: int) -> Answer:
    """Take one reading out of account; it stays among the past ones."""
    return answer(ref, readings.void_reading(larder, ref, series_id, at_s))


@router.post("/nodes/{node_id}/readings/file", status_code=201)
def post_readings_file(
    larder: LarderDep,
    brought: BroughtDep,
    ref: ActDep,
    node_id: int,
    file: Annotated[UploadFile, File()],
    tz: Annotated[str | None, Form()] = None,
) -> Answer:
    """Take in a logger's CSV at once, as its header says: all rows or none."""
    name = file_name(file)
    with brought.copied(name, file.file) as path:
        answers = {} if tz is None else {"tz": tz}
        done = imports.import_file(larder, ref, node_id, path, name, answers=answers)
    return answer(ref, done)


@router.post("/nodes/{node_id}/imports", status_code=201)
def post_import(
    brought: BroughtDep, node_id: int, file: Annotated[UploadFile, File()]
) -> ImportState:
    """Bring a logger's file: it is looked at, nothing is taken in yet."""
    return brought.bring(node_id, file_name(file), file.file)


@router.post("/imports/{token}/take")
def post_take(brought: BroughtDep, ref: ActDep, token: str, body: TakeIn) -> ImportState:
    """Begin to take a file in; ask for its state until it is done."""
    return brought.take(token, ref, body.answers, body.partial)


@router.get("/imports/{token}")
def get_import(brought: BroughtDep, token: str) -> ImportState:
    """Where a file stands."""
    return brought.state(token)


@router.delete("/imports/{token}")
def delete_import(brought: BroughtDep, token: str) -> ImportState:
    """Stop an import, or clear a waiting file away; nothing is left behind."""
    return brought.stop(token)


@router.get("/devices")
def get_devices(larder: LarderDep) -> list[loggers.DeviceLine]:
    """Loggers that send over HTTP."""
    return loggers.devices(larder)


@router.post("/devices", status_code=201)
def post_device(larder: LarderDep, ref: ActDep, body: DeviceIn) -> Answer:
    """Register a logger; its token is in this answer and nowhere else."""
    return answer(ref, loggers.add_device(larder, ref, body.name, body.node_id))


@router.post("/devices/{device_id}/move")
def post_device_move(larder: LarderDep, ref: ActDep, device_id: int, body: DeviceMoveIn) -> Answer:
    """From now on a logger stands elsewhere."""
    return answer(ref, loggers.move_device(larder, ref, device_id, body.node_id))


@router.post("/devices/{device_id}/revoke")
def post_device_revoke(larder: LarderDep, ref: ActDep, device_id: int, body: RevokeIn) -> Answer:
    """Its token is worth nothing from now on."""
    return answer(ref, loggers.revoke_device(larder, ref, device_id, body.version))


@ingest_router.post("/readings")
def post_batch(
    larder: LarderDep,
    request: Request,
    body: BatchIn,
    authorization: Annotated[str, Header(description="Bearer TOKEN")] = "",
) -> BatchOut:
    """A logger sends a batch; the same batch again adds nothing."""
    limit = request.app.state.rate_limit
    assert isinstance(limit, loggers.RateLimit), "made with the app"
    batch = loggers.Batch(
        body.sent_s, [loggers.Reading1(**r.model_dump()) for r in body.readings], body.battery_pct
    )
    token = authorization.removeprefix("Bearer ").strip()
    return BatchOut(**loggers.ingest(larder, limit, token, batch))
