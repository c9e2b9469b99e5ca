"""One act for many packets: moved, fetched, picked, sown, tagged, tested together, taken back together."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field
from sqlmodel import col, select

from ...core.base.errors import InvalidValue, NotFound
from ...data.queries import live
from ...data.tables import Lot, Node
from ...services.acts import ask_before, lot_acts
from ...services.acts.acting import Doing, step, together
from ...services.acts.lot_acts import STATES, LotEdit
from ...services.acts.stays_told import say_since
from ...services.forecast.current import bring_up_to_date
from ...services.forecast.lines import LotLine, lot_lines
from ...services.growing import sowings
from ...services.household.larder import Larder
from ...services.needs import chain_acts as needs
from ...services.trials import trial_acts as trials
from ...services.trials.bench import bench
from ...services.trials.evening_steps import decides, setup
from ..deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/stock", tags=["stock"])
Steps = list[Callable[[Doing], Any]]


class ManyIn(BaseModel):
    """The packets that something is done with; ``anyway``: what was asked was read."""

    lot_ids: list[int] = Field(min_length=1, max_length=500)
    anyway: bool = False


class MoveMany(ManyIn):
    """They all go into one container or place."""

    what: Literal["move"] = "move"
    node_id: int
    section: str = ""
    slot: str = ""
    on: str = ""


class StateMany(ManyIn):
    """Fetched, put back, not found, or let go."""

    what: Literal["state"] = "state"
    state: Literal["here", "fetched", "missing", "gone"]


class PickMany(ManyIn):
    """Grown this year, so many plants of each."""

    what: Literal["pick"] = "pick"
    plants: int = 12
    purpose: str = "table"


class SowMany(ManyIn):
    """Sown, so many seeds of each."""

    what: Literal["sow"] = "sow"
    n: int
    setting: str = "outdoors"
    on: str = ""


class EventMany(ManyIn):
    """Something happened to all of them."""

    what: Literal["event"] = "event"
    kind: str
    note: str = ""
    on: str = ""


class TagMany(ManyIn):
    """Tags that are put on, beside those they have, or taken off."""

    what: Literal["tag"] = "tag"
    tags: str = Field(min_length=1, max_length=200)
    off: bool = False


class MeantMany(ManyIn):
    """What they are meant for."""

    what: Literal["meant"] = "meant"
    intended_use: str


class TestMany(ManyIn):
    """A test of each is started, so many seeds of each; without a number as many as each deserves, without a
    warmth or a medium where and on what the plan of the bench has it."""

    what: Literal["test"] = "test"
    n: int | None = None
    medium: str = ""
    temperature_c: float | None = None
    on: str = ""


class SinceMany(ManyIn):
    """Since when they stand where they stand: since they came, only from then, or a year or day."""

    what: Literal["since"] = "since"
    since: str = Field(min_length=1, max_length=60)


class HouseMany(ManyIn):
    """Each goes where it is said, lot id -> node id: a division that was accepted."""

    what: Literal["house"] = "house"
    into: dict[int, int]


Many = Annotated[
    MoveMany
    | StateMany
    | PickMany
    | SowMany
    | EventMany
    | TagMany
    | MeantMany
    | TestMany
    | HouseMany
    | SinceMany,
    Field(discriminator="what"),
]


def _cautions(larder: Larder, body: Many) -> list[str]:
    ids = body.lot_ids
    if isinstance(body, MoveMany):
        return ask_before.moving_lots(larder, ids, body.node_id)
    if isinstance(body, HouseMany):
        goes = {
            n: [lot for lot, to in body.into.items() if to == n] for n in set(body.into.values())
        }
        return [w for n, lots in goes.items() for w in ask_before.moving_lots(larder, lots, n)]
    if isinstance(body, PickMany):
        return ask_before.picking(larder, ids)
    if isinstance(body, EventMany):
        said = [ask_before.treating(larder, lot, body.kind, body.note) for lot in ids]
    elif isinstance(body, TestMany):
        said = [[f"{x.code}: {w}" for w in ask_before.testing(x)] for x in _lines(larder, ids)]
    else:
        return []
    return list(dict.fromkeys(w for words in said for w in words))


def _lines(larder: Larder, ids: list[int]) -> list[LotLine]:
    return [x for x in lot_lines(larder) if x.lot_id in ids]


def _steps(
    body: Many, lots: list[Lot], named: str, place: str, begun: dict[int, dict[str, Any]]
) -> tuple[str, Steps]:
    """How it is called, and a step for each lot; ``begun``: how each is tested."""
    ids = [lot.id or 0 for lot in lots]
    if isinstance(body, MoveMany):
        return f"Moved {named} to {place}", [
            step(
                lot_acts.move_lot, i, body.node_id, section=body.section, slot=body.slot, on=body.on
            )
            for i in ids
        ]
    if isinstance(body, HouseMany):
        return f"Divided {named} among tins", [
            step(lot_acts.move_lot, i, body.into[i]) for i in ids if i in body.into
        ]
    if isinstance(body, SinceMany):
        words = f"Said since when {named} stand where they stand: {body.since.strip()}"
        return words, [step(say_since, body.since, [i]) for i in ids]
    if isinstance(body, StateMany):
        words = f"{named}: {STATES[body.state]}"
        return words, [step(lot_acts.edit_lot, i, LotEdit(state=body.state)) for i in ids]
    if isinstance(body, PickMany):
        return f"Grow {body.plants} each of {named} this year ({body.purpose})", [
            step(needs.set_pick, i, body.plants, body.purpose) for i in ids
        ]
    if isinstance(body, SowMany):
        return f"Sowed {body.n} each of {named} {body.setting}", [
            step(sowings.sow, i, body.n, body.setting, on=body.on) for i in ids
        ]
    if isinstance(body, EventMany):
        return f"{named}: {body.kind}", [
            step(lot_acts.log_event, i, body.kind, body.note, body.on) for i in ids
        ]
    if isinstance(body, TagMany):
        words = f"{named}: {'no longer ' if body.off else ''}tagged {body.tags}"
        return words, [step(lot_acts.tag_lot, i, body.tags, body.off) for i in ids]
    if isinstance(body, MeantMany):
        return f"{named}: meant for {body.intended_use}", [
            step(lot_acts.edit_lot, i, LotEdit(intended_use=body.intended_use)) for i in ids
        ]
    return f"Tests of {named} started", [
        step(trials.start_one, i, on=body.on, **begun[i]) for i in ids
    ]


def _begun(larder: Larder, body: TestMany, lot_ids: list[int]) -> dict[int, dict[str, Any]]:
    """How each packet is tested: as was said, else as the plan of the bench and its kind have it."""
    planned = {t.lot_id: t for e in bench(larder).plan.evenings for t in e.tests}
    out = {}
    for lot in lot_ids:
        there = planned.get(lot)
        at = there.temperature_c if there is not None else None
        how = setup(
            larder, lot, body.n, body.temperature_c if body.temperature_c is not None else at
        )
        out[lot] = {
            "n": how.seeds,
            "medium": body.medium or how.medium,
            "temperature_c": how.temperature_c,
            "cold_days": how.cold_days,
            "decides": decides(larder, lot, how.seeds),
        }
    return out


@router.post("/many")
def post_many(larder: LarderDep, ref: ActDep, body: Many) -> Answer:
    """Do one thing with many packets: all of it or nothing, one line of history, one take-back."""
    wanted = list(dict.fromkeys(body.lot_ids))
    ask_before.heed(_cautions(larder, body), body.anyway)
    with larder.store.read() as session:
        rows = {x.id: x for x in session.exec(live(Lot).where(col(Lot.id).in_(wanted)))}
        lost = [i for i in wanted if i not in rows]
        if lost:
            raise NotFound(f"There is no packet {lost[0]}, or it is gone")
        node = getattr(body, "node_id", 0)
        place = session.exec(select(Node.name).where(Node.id == node)).first() or ""
    lots = [rows[i] for i in wanted]
    begun: dict[int, dict[str, Any]] = {}
    if isinstance(body, TestMany):
        bring_up_to_date(larder, wanted)
        begun = _begun(larder, body, wanted)
    codes = [x.code for x in lots]
    named = ", ".join(codes[:6]) + (f" and {len(codes) - 6} more" if len(codes) > 6 else "")
    said, steps = _steps(body, lots, named, place, begun)
    if not steps:
        raise InvalidValue("packets", "none", "at least one that goes somewhere")
    kind = f"{body.what}_lots"
    return answer(ref, together(larder, ref, kind, steps, said if len(lots) > 1 else ""))
