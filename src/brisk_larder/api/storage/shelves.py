"""Storage: places and containers, what is done to them, and what is known of each."""

from __future__ import annotations

from io import BytesIO

import segno
from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import BaseModel, Field

from ...services.acts import ask_before
from ...services.acts.stays_told import say_since
from ...services.household.kinds import reference
from ...services.household.wording import prose
from ...services.storage import (
    alarms_now,
    charts,
    container_page,
    containers,
    rounds,
    sachets,
    shelves,
)
from ..allowed import NodeEvent
from ..deps import ActDep, Answer, LarderDep, Moment, answer

router = APIRouter(prefix="/api/storage", tags=["storage"])


class NodeIn(BaseModel):
    """A new place or container."""

    name: str
    place_kind: str | None = None
    container_kind: str | None = None
    parent_id: int | None = None
    capacity_lots: int | None = None
    former_use: str | None = None
    since: str = ""
    anyway: bool = False


class SinceIn(BaseModel):
    """Since when a container stands where it stands."""

    since: str = Field(min_length=1, max_length=60)


class NodeMoveIn(BaseModel):
    """Where a container goes."""

    parent_id: int
    at_s: int | None = None
    on: str = ""
    anyway: bool = False


class NodeEditIn(BaseModel):
    """What is written of a place or container; what is left out stays."""

    name: str | None = None
    capacity_lots: int | None = None
    former_use: str | None = None
    container_kind: str | None = None
    version: int | None = None
    anyway: bool = False


class NodeEventIn(BaseModel):
    """Something that happened to a container; figures of a sealed can: food_kg, shut_days."""

    kind: NodeEvent
    note: str = ""
    at_s: int | None = None
    figures: dict[str, float | str] | None = None
    on: str = ""
    anyway: bool = False


class OutIn(BaseModel):
    """Where a case was taken to (left out: a heated room)."""

    to_node_id: int | None = None


class DesiccantIn(BaseModel):
    """A sachet: kind, grams, and whether it was dried before."""

    kind: str = "silica_gel"
    mass_g: float
    at_s: int | None = None
    spent: bool = False


class WalkIn(BaseModel):
    """The order of the round."""

    node_ids: list[int]


class Bucket(BaseModel):
    """One series as columns: epoch s, readings in each point, degC and fractions with least and most."""

    series_id: int
    name: str
    origin: str
    table: str
    at_s: list[int]
    n: list[int]
    t_mean_c: list[float | None]
    t_min_c: list[float | None]
    t_max_c: list[float | None]
    erh_mean: list[float | None]
    erh_min: list[float | None]
    erh_max: list[float | None]


class PastReading(BaseModel):
    """A reading that was corrected or voided."""

    at_s: int
    temperature_c: float | None
    erh: float | None
    why: str


class Mark(BaseModel):
    """An event on the chart."""

    at_s: int
    kind: str
    note: str


class ReadOut(BaseModel):
    """What was read in a node over a span."""

    name: str
    from_s: int
    to_s: int
    series: list[Bucket]
    past: list[PastReading]
    events: list[Mark]


class KindsOut(BaseModel):
    """Kinds of places and containers to choose from, and what people call them."""

    places: dict[str, str]
    containers: dict[str, str]
    names: dict[str, list[str]]
    groups: dict[str, str]


@router.get("/shelves")
def get_shelves(larder: LarderDep) -> list[shelves.Shelf]:
    """All places with their containers, the worst first."""
    return shelves.shelves(larder)


@router.get("/kinds")
def get_kinds() -> KindsOut:
    """Kinds of places and containers, with what is known of them."""
    ref = reference()
    return KindsOut(
        places={k: prose(p.note) for k, p in ref.places.items()},
        containers={k: prose(c.note) for k, c in ref.storage.items()},
        names={k: list(v) for k, v in ref.store_names.items()},
        groups=dict(ref.store_groups),
    )


@router.get("/alarms")
def get_alarms(larder: LarderDep) -> list[alarms_now.AlarmLine]:
    """Standing alarms, the most urgent first."""
    return alarms_now.alarms(larder)


@router.get("/round")
def get_round(larder: LarderDep) -> list[rounds.Stop]:
    """Stops of the round in walking order."""
    return rounds.round_list(larder)


@router.put("/round/order")
def put_round_order(larder: LarderDep, ref: ActDep, body: WalkIn) -> Answer:
    """The order in which the round is walked."""
    return answer(ref, containers.set_walk_order(larder, ref, body.node_ids))


@router.post("/nodes", status_code=201)
def post_node(larder: LarderDep, ref: ActDep, body: NodeIn) -> Answer:
    """Add a place or a container."""
    ask_before.heed(ask_before.former_use(body.former_use), body.anyway)
    new = containers.NewNode(**body.model_dump(exclude={"anyway"}))
    return answer(ref, containers.add_node(larder, ref, new))


@router.post("/nodes/{node_id}/since")
def post_since(larder: LarderDep, ref: ActDep, node_id: int, body: SinceIn) -> Answer:
    """Say since when a container, with what is in it, stands where it stands."""
    return answer(ref, say_since(larder, ref, body.since, [], [node_id]))


@router.get("/nodes/{node_id}")
def get_node(larder: LarderDep, node_id: int) -> container_page.NodePage:
    """One place or container in full."""
    return container_page.node_page(larder, node_id)


@router.patch("/nodes/{node_id}")
def patch_node(larder: LarderDep, ref: ActDep, node_id: int, body: NodeEditIn) -> Answer:
    """Change what is written of a place or container."""
    ask_before.heed(ask_before.former_use(body.former_use), body.anyway)
    values = body.model_dump(exclude={"version", "anyway"})
    return answer(ref, containers.edit_node(larder, ref, node_id, body.version, **values))


@router.delete("/nodes/{node_id}")
def delete_node(larder: LarderDep, ref: ActDep, node_id: int) -> Answer:
    """Take a place or container out of use."""
    return answer(ref, containers.remove_node(larder, ref, node_id))


@router.post("/nodes/{node_id}/move")
def post_node_move(larder: LarderDep, ref: ActDep, node_id: int, body: NodeMoveIn) -> Answer:
    """Put a container with all in it somewhere else."""
    return answer(
        ref, containers.move_node(larder, ref, node_id, body.parent_id, body.at_s, body.on)
    )


@router.post("/nodes/{node_id}/out")
def post_node_out(larder: LarderDep, ref: ActDep, node_id: int, body: OutIn) -> Answer:
    """Take a case out of store for a while."""
    return answer(ref, containers.take_out(larder, ref, node_id, body.to_node_id))


@router.post("/nodes/{node_id}/back")
def post_node_back(larder: LarderDep, ref: ActDep, node_id: int) -> Answer:
    """Put it back where it stood."""
    return answer(ref, containers.put_back(larder, ref, node_id))


@router.post("/nodes/{node_id}/events", status_code=201)
def post_node_event(larder: LarderDep, ref: ActDep, node_id: int, body: NodeEventIn) -> Answer:
    """Note what happened to a container; openings and closings change the climate inside."""
    ask_before.heed(ask_before.closing(larder, node_id, body.kind), body.anyway)
    told = body.model_dump(exclude={"anyway"})
    return answer(ref, containers.node_event(larder, ref, node_id, **told))


@router.post("/nodes/{node_id}/desiccant", status_code=201)
def post_desiccant(larder: LarderDep, ref: ActDep, node_id: int, body: DesiccantIn) -> Answer:
    """Put a sachet of desiccant in."""
    return answer(ref, sachets.add_desiccant(larder, ref, node_id, **body.model_dump()))


@router.get("/nodes/{node_id}/read", response_model=ReadOut)
def get_read(
    larder: LarderDep, node_id: int, from_s: Moment = None, to_s: Moment = None
) -> Response:
    """What was read in a node over a span, as column arrays; least and most of each point are kept."""
    # already bytes, and of this machine: neither validated nor compressed again
    return Response(
        charts.readings_json(larder, node_id, from_s, to_s),
        media_type="application/json",
        headers={"Content-Encoding": "identity"},
    )


@router.get("/nodes/{node_id}/air")
def get_air(
    larder: LarderDep, node_id: int, from_s: Moment = None, to_s: Moment = None
) -> charts.AirOverTime:
    """The air in a node, read or not, and the ageing speed, as column arrays."""
    return charts.air(larder, node_id, from_s, to_s)


@router.get("/nodes/{node_id}/code.svg")
def get_code(larder: LarderDep, request: Request, node_id: int) -> Response:
    """A QR code that opens the container's page."""
    container_page.node_page(larder, node_id)  # 404 for one that is not there
    out = BytesIO()
    segno.make(f"{request.base_url}storage/{node_id}", error="m").save(
        out, kind="svg", scale=4, border=2
    )
    return Response(out.getvalue(), media_type="image/svg+xml")
