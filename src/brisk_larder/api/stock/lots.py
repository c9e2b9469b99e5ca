"""Stock: lots, one by one and as a list."""

from __future__ import annotations

from typing import Annotated

import orjson
from fastapi import APIRouter, BackgroundTasks, Query
from fastapi.responses import Response
from pydantic import BaseModel, Field

from ...services.acts import ask_before, entry, ledger, lot_acts
from ...services.acts.lot_acts import LotEdit
from ...services.acts.new_seeds import NewSeeds
from ...services.forecast import lines
from ...services.forecast.glance_data import Glance
from ...services.forecast.lines import LotLine
from ...services.stock import finding, lot_page, rows, splitting
from ...services.stock.lot_page import LotPage
from ..allowed import Grouping, LedgerKind, LotEvent
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])


class PileIn(BaseModel):
    """A pile of packets, added in one act."""

    packets: list[NewSeeds] = Field(min_length=1, max_length=500)
    anyway: bool = False


class MoveIn(BaseModel):
    """Where a lot goes."""

    node_id: int
    wrapper_kind: str | None = None
    at_s: int | None = None
    section: str = ""
    slot: str = ""
    on: str = ""
    anyway: bool = False


class QuantityIn(BaseModel):
    """A count or a booking, as said."""

    kind: LedgerKind = "counted"
    amount: str
    sure: str = ""
    on: str = ""


class EventIn(BaseModel):
    """Something that happened."""

    kind: LotEvent
    note: str = ""
    on: str = ""
    anyway: bool = False


class SplitIn(BaseModel):
    """How much goes into a packet of its own, and where it stands."""

    amount: str
    node_id: int | None = None
    code: str = ""
    note: str | None = None
    intended_use: str | None = None


class MergeIn(BaseModel):
    """Lots to pour into one; ``anyway``: the warnings were read."""

    other_ids: list[int] = Field(min_length=1, max_length=20)
    anyway: bool = False


class AsideIn(BaseModel):
    """An amount set aside for a use; empty lifts it."""

    intended_use: str
    amount: str = ""


class WeighIn(BaseModel):
    """So many seeds weigh so much."""

    count: float = 100
    mass_g: float


@router.get("/lots")
def get_lots(larder: LarderDep) -> list[LotLine]:
    """All lots at a glance, with their strips."""
    return lines.lot_lines(larder)


@router.get("/rows", response_model=rows.StockRows)
def get_rows(larder: LarderDep, later: BackgroundTasks, group: Grouping = "season") -> Response:
    """The list in the household's order, at once; forecasts that are missing follow."""
    found = rows.stock_list(larder, group)
    if found.pending:
        later.add_task(rows.warm, larder)
    # thousands of rows are written as they are: checking each again took most of the time
    return Response(orjson.dumps(found), media_type="application/json", background=later)


@router.get("/strips")
def get_strips(
    larder: LarderDep, lot_ids: Annotated[list[int], Query(max_length=rows.VISIBLE_MOST)]
) -> dict[int, Glance]:
    """The strips of the lots in view."""
    return rows.strips(larder, lot_ids)


@router.get("/find")
def get_find(larder: LarderDep, q: Annotated[str, Query(max_length=120)] = "") -> list[finding.Hit]:
    """Lots and places by any word, spelled badly; the answer says where to put your hand."""
    return finding.find(larder, q)


@router.post("/lots", status_code=201)
def post_lots(larder: LarderDep, ref: ActDep, body: PileIn) -> Answer:
    """Add a pile of packets; ``anyway``: what was asked was read."""
    ask_before.heed(ask_before.adding(larder, body.packets), body.anyway)
    return answer(ref, entry.add_seeds(larder, ref, body.packets))


@router.get("/lots/{lot_id}")
def get_lot(larder: LarderDep, lot_id: int) -> LotPage:
    """One lot in full."""
    return lot_page.lot_page(larder, lot_id)


@router.patch("/lots/{lot_id}")
def patch_lot(larder: LarderDep, ref: ActDep, lot_id: int, body: LotEdit) -> Answer:
    """Change what is written of a lot, or let it go."""
    return answer(ref, lot_acts.edit_lot(larder, ref, lot_id, body))


@router.post("/lots/{lot_id}/move")
def post_move(larder: LarderDep, ref: ActDep, lot_id: int, body: MoveIn) -> Answer:
    """Put a lot somewhere else."""
    ask_before.heed(ask_before.moving_lot(larder, lot_id, body.node_id), body.anyway)
    return answer(
        ref, lot_acts.move_lot(larder, ref, lot_id, **body.model_dump(exclude={"anyway"}))
    )


@router.post("/lots/{lot_id}/quantity")
def post_quantity(larder: LarderDep, ref: ActDep, lot_id: int, body: QuantityIn) -> Answer:
    """Count a lot, or book what was given, eaten, lost, thrown out or found."""
    done = ledger.book_quantity(larder, ref, lot_id, body.kind, body.amount, body.sure, body.on)
    return answer(ref, done)


@router.post("/lots/{lot_id}/aside", status_code=201)
def post_aside(larder: LarderDep, ref: ActDep, lot_id: int, body: AsideIn) -> Answer:
    """Set part of a lot aside for another use."""
    return answer(ref, ledger.set_aside(larder, ref, lot_id, body.intended_use, body.amount))


@router.post("/lots/{lot_id}/weigh")
def post_weigh(larder: LarderDep, ref: ActDep, lot_id: int, body: WeighIn) -> Answer:
    """The lot's own seeds per gram, by weighing a hundred."""
    return answer(ref, ledger.weigh_seeds(larder, ref, lot_id, body.count, body.mass_g))


@router.post("/lots/{lot_id}/events", status_code=201)
def post_event(larder: LarderDep, ref: ActDep, lot_id: int, body: EventIn) -> Answer:
    """Note something that happened to a lot."""
    ask_before.heed(ask_before.treating(larder, lot_id, body.kind, body.note), body.anyway)
    return answer(
        ref, lot_acts.log_event(larder, ref, lot_id, **body.model_dump(exclude={"anyway"}))
    )


@router.post("/lots/{lot_id}/split", status_code=201)
def post_split(larder: LarderDep, ref: ActDep, lot_id: int, body: SplitIn) -> Answer:
    """Part of a lot becomes a lot of its own."""
    return answer(ref, splitting.split_lot(larder, ref, lot_id, **body.model_dump()))


@router.get("/lots/{lot_id}/mixing")
def get_mixing(
    larder: LarderDep, lot_id: int, other_ids: Annotated[list[int], Query(max_length=20)]
) -> splitting.Mixing:
    """What pouring other lots into this one would mix."""
    with larder.store.read() as session:
        return splitting.mixing(session, [lot_id, *other_ids])


@router.post("/lots/{lot_id}/merge")
def post_merge(larder: LarderDep, ref: ActDep, lot_id: int, body: MergeIn) -> Answer:
    """Pour other lots into this one."""
    return answer(ref, splitting.merge_lots(larder, ref, lot_id, body.other_ids, body.anyway))
