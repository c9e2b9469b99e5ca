"""Storage: places, containers, readings."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, UploadFile
from pydantic import BaseModel

from ..core.errors import BadFile
from ..services import containers, imports, readings, storage
from ..services.crops import reference
from ..services.storage import Chart, Shelf
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/storage", tags=["storage"])
MOST_BYTES = 64 * 1024 * 1024


class NodeIn(BaseModel):
    """A new place or container."""

    name: str
    place_kind: str | None = None
    container_kind: str | None = None
    parent_id: int | None = None
    capacity_lots: int | None = None
    former_use: str | None = None


class NodeMoveIn(BaseModel):
    """Where a container goes."""

    parent_id: int
    at_s: int | None = None


class RenameIn(BaseModel):
    """Another name."""

    name: str
    version: int | None = None


class NodeEventIn(BaseModel):
    """Something that happened to a container."""

    kind: str
    note: str = ""


class ReadingIn(BaseModel):
    """A dial as read: the household's temperature unit, per cent."""

    temperature: float | None = None
    humidity_pct: float | None = None
    t_min: float | None = None
    t_max: float | None = None
    at_s: int | None = None


class KindsOut(BaseModel):
    """Kinds of places and containers to choose from."""

    places: dict[str, str]
    containers: dict[str, str]


@router.get("/shelves")
def get_shelves(larder: LarderDep) -> list[Shelf]:
    """All places with their containers, the worst first."""
    return storage.shelves(larder)


@router.get("/kinds")
def get_kinds() -> KindsOut:
    """Kinds of places and containers, with what is known of them."""
    ref = reference()
    return KindsOut(
        places={k: p.note for k, p in ref.places.items()},
        containers={k: c.note for k, c in ref.storage.items()},
    )


@router.post("/nodes")
def post_node(larder: LarderDep, ref: ActDep, body: NodeIn) -> Answer:
    """Add a place or a container."""
    return answer(ref, containers.add_node(larder, ref, containers.NewNode(**body.model_dump())))


@router.post("/nodes/{node_id}/move")
def post_node_move(larder: LarderDep, ref: ActDep, node_id: int, body: NodeMoveIn) -> Answer:
    """Put a container with all in it somewhere else."""
    return answer(ref, containers.move_node(larder, ref, node_id, body.parent_id, body.at_s))


@router.patch("/nodes/{node_id}")
def patch_node(larder: LarderDep, ref: ActDep, node_id: int, body: RenameIn) -> Answer:
    """Give a place or container another name."""
    return answer(ref, containers.edit_node(larder, ref, node_id, body.version, name=body.name))


@router.delete("/nodes/{node_id}")
def delete_node(larder: LarderDep, ref: ActDep, node_id: int) -> Answer:
    """Take a place or container out of use."""
    return answer(ref, containers.remove_node(larder, ref, node_id))


@router.post("/nodes/{node_id}/events")
def post_node_event(larder: LarderDep, ref: ActDep, node_id: int, body: NodeEventIn) -> Answer:
    """Note that a container was opened, sealed, gone through, wet or cleaned."""
    return answer(ref, containers.node_event(larder, ref, node_id, body.kind, body.note))


@router.get("/nodes/{node_id}/chart")
def get_chart(
    larder: LarderDep, node_id: int, from_s: float | None = None, to_s: float | None = None
) -> Chart:
    """Climate and ageing speed of a node over a span, as column arrays."""
    return storage.chart(larder, node_id, from_s, to_s)


@router.post("/nodes/{node_id}/readings")
def post_reading(larder: LarderDep, ref: ActDep, node_id: int, body: ReadingIn) -> Answer:
    """Log a dial."""
    dial = readings.DialReading(**body.model_dump())
    return answer(ref, readings.log_reading(larder, ref, node_id, dial))


@router.delete("/readings/{series_id}/{at_s}")
def delete_reading(larder: LarderDep, ref: ActDep, series_id: int, at_s: int) -> Answer:
    """Take one reading out of account; it stays among the past ones."""
    return answer(ref, readings.void_reading(larder, ref, series_id, at_s))


@router.post("/nodes/{node_id}/readings/file")
def post_readings_file(
    larder: LarderDep,
    ref: ActDep,
    node_id: int,
    file: Annotated[UploadFile, File()],
    tz: Annotated[str | None, Form()] = None,
) -> Answer:
    """Take in a logger's CSV: all rows or none."""
    data = file.file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise BadFile(f"{file.filename} is larger than 64 MB: use 'larder import readings'")
    name = file.filename or "file"
    return answer(ref, imports.import_readings(larder, ref, node_id, name, data, tz))
