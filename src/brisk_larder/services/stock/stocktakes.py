"""Stocktake: one container after another, packet by packet; paused, taken up again, reported."""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue, NotFound
from ...core.hand.amounts import read_amount
from ...core.hand.writing import way_of
from ...data.acts import ActRef, Recorder
from ...data.queries import key, live
from ...data.tables import (
    Lot,
    LotEvent,
    MoistureObs,
    Node,
    NodeEvent,
    StockEntry,
    Stocktake,
    StocktakeLine,
)
from ...data.tables_taking_stock import CONDITIONS
from ..acts.acting import Doing, Done, act
from ..acts.ledger import counted_of
from ..acts.lot_acts import put_lot
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..air.stays import open_stay
from ..forecast.lines import LotLine, lot_lines
from ..household.kinds import figures
from ..household.larder import Larder, household, is_live
from ..household.lot_quantity import seeds_left
from ..household.own_units import measures_of_lot
from ..household.possible_values import get_live
from ..household.wording import prose
from .stocktake_lines import TakeLine, report_of, waiting

# what a condition does beyond being told: an event of the lot, by its kind
EVENTS = {"mouldy": "mould", "sprouted": "sprouted", "eaten": "insects", "damp": "note"}
RESULTS = ("found", "counted", "missing")
RESTS = ("", "found", "missing")  # of what was not looked at
HELD = (col(Lot.deleted_s).is_(None), Lot.state != "gone")


@dataclass(frozen=True)
class Take:
    """A stocktake as the page shows it; ``report`` once it is done."""

    stocktake_id: int
    node_id: int
    name: str
    path: str
    state: str
    started_s: int
    ended_s: int | None
    lines: list[TakeLine]
    left: int
    report: list[str]
    unplaced: list[TakeLine]


@dataclass(frozen=True)
class ToGoThrough:
    """A container with lots in it and when it was last gone through."""

    node_id: int
    name: str
    path: str
    lots: int
    last_s: int | None
    open_id: int | None
    done: int


def containers(larder: Larder) -> list[ToGoThrough]:
    """Containers that hold lots, the longest untouched first, those begun on top."""
    with looking_at(larder) as v:
        air = v.air
        begun = {
            t.node_id: t
            for t in v.session.exec(
                select(Stocktake).where(col(Stocktake.state).in_(["open", "paused"]))
            )
            if is_live(t)
        }
        marked: dict[int, int] = {}
        for line in v.session.exec(select(StocktakeLine)):
            if is_live(line):
                marked[line.stocktake_id] = marked.get(line.stocktake_id, 0) + 1
        live_lots = set(v.session.exec(select(Lot.id).where(*HELD)).all())
        out = []
        for node in air.nodes.values():
            held = [i for i in air.lots_in(node.id) if i in live_lots]
            if node.deleted_s is not None or (not held and node.id not in begun):
                continue
            gone = [e.at_s for e in air.events.get(node.id, []) if e.kind == "gone_through"]
            take = begun.get(node.id)
            out.append(
                ToGoThrough(
                    node.id,
                    node.name,
                    node_path(air, node.id),
                    len(held),
                    max(gone, default=None),
                    take.id if take else None,
                    marked.get(key(take), 0) if take else 0,
                )
            )
    return sorted(out, key=lambda c: (c.open_id is None, c.last_s or 0, c.path))


@dataclass(frozen=True)
class StocktakeRef:
    """A stocktake."""

    stocktake_id: int


@act("stocktake")
def begin(a: Doing, node_id: int) -> StocktakeRef:
    """Begin a container, or take up the one that was left. Raises NotFound."""
    node = get_live(a.session, Node, node_id, "place or container")
    take = a.session.exec(
        live(Stocktake).where(
            Stocktake.node_id == node_id, col(Stocktake.state).in_(["open", "paused"])
        )
    ).first()
    if take is None:
        air = Air(a.session, a.home, a.now_s)
        live_lots = set(a.session.exec(select(Lot.id).where(*HELD)).all())
        expected = [i for i in air.lots_in(node_id) if i in live_lots]
        take = Stocktake(node_id=node_id, started_s=a.now_s, expected=json.dumps(expected))
        a.summary = f"Began to go through {node.name}"
    else:
        take.state = "open"
        a.summary = f"Went on with {node.name}"
    a.session.add(take)
    a.session.flush()
    a.about(f"node:{node_id}")
    return StocktakeRef(stocktake_id=key(take))


def _open(session: Session, stocktake_id: int) -> Stocktake:
    take = get_live(session, Stocktake, stocktake_id, "stocktake")
    if take.state not in ("open", "paused"):
        raise Conflict("That stocktake is over: begin the container again")
    return take


@dataclass(frozen=True)
class LotMarked:
    """What was noted of a lot, and what that changed."""

    result: str
    changed: list[str]


@act("stocktake_line")
def mark_lot_found(
    a: Doing,
    stocktake_id: int,
    lot_id: int,
    result: str,
    condition: str = "",
    amount: str = "",
) -> LotMarked:
    """Tick a lot, count it, or say that it is not here; with what is wrong with it.

    ``result``: found, counted (with an amount), missing; a lot that was expected elsewhere is
    moved here. Marking it again replaces what was said. Raises InvalidValue.
    """
    if result not in RESULTS:
        raise InvalidValue("result", result, "found, counted or missing")
    if condition not in CONDITIONS:
        raise InvalidValue("condition", condition, ", ".join(filter(None, CONDITIONS)))
    take = _open(a.session, stocktake_id)
    take.state = "open"
    a.session.add(take)
    lot = get_live(a.session, Lot, lot_id, "lot")
    line = a.session.exec(
        live(StocktakeLine).where(
            StocktakeLine.stocktake_id == stocktake_id, StocktakeLine.lot_id == lot_id
        )
    ).first()
    line = line or StocktakeLine(
        stocktake_id=stocktake_id, lot_id=lot_id, at_s=a.now_s, result=result
    )
    changed = []
    stay = open_stay(a.session, lot_id)
    here = stay is not None and stay.parent_node_id == take.node_id
    if result == "missing":
        changed += _missing(lot)
    else:
        if not here:
            line.came_from = stay.parent_node_id if stay else None
            put_lot(a, lot_id, take.node_id)
            changed.append("moved here")
        if lot.state != "here":
            changed.append("is back" if lot.state == "fetched" else "found again")
            lot.state = "here"
    if result == "counted" and amount.strip():
        changed += _count(a, lot_id, amount)
    changed += _condition(a, lot, line.condition, condition)
    moved = line.came_from is not None or (not here and result != "missing")
    line.result = "moved" if moved and result == "found" else result
    line.condition, line.as_said, line.at_s = condition, amount.strip(), a.now_s
    line.changed = ", ".join(filter(None, [line.changed, *changed]))
    a.session.add_all([lot, line])
    a.about(f"lot:{lot_id}", f"node:{take.node_id}")
    words = {"found": "there", "counted": f"counted {amount.strip()}", "missing": "not here"}
    a.summary = f"{lot.code}: " + ", ".join([words[result], *filter(None, [condition])])
    return LotMarked(result=line.result, changed=changed)


def _missing(lot: Lot) -> list[str]:
    if lot.state == "missing":
        return []
    lot.state = "missing"
    return ["now missing"]


def _count(a: Recorder, lot_id: int, amount: str) -> list[str]:
    way = way_of(household(a.session).locale)
    measures = measures_of_lot(a.session, lot_id)
    said = read_amount(amount, measures, "", way)
    if said is None:
        raise InvalidValue(
            "quantity", amount, prose("write a count (120), a mass (3.5 g) or half left")
        )
    before = seeds_left(a.session, [lot_id])[lot_id]
    mean, sd = counted_of(a.session, lot_id, said)
    a.session.add(
        StockEntry(
            lot_id=lot_id,
            at_s=a.now_s,
            kind="counted",
            seeds_mean=mean,
            seeds_sd=sd,
            mass_g=said.mass_g,
            as_said=amount.strip(),
        )
    )
    if not before.known:
        return [f"counted for the first time: {mean:.0f}"]
    low, high = before.likely
    return (
        []
        if low <= mean <= high
        else [f"{mean:.0f} instead of {before.mean:.0f} {measures.piece}s"]
    )


def _condition(a: Recorder, lot: Lot, before: str, condition: str) -> list[str]:
    if not condition or condition == before:
        return []
    note = {"eaten": "gnawed or eaten", "damp": "felt damp"}.get(condition, "")
    a.session.add(
        LotEvent(
            lot_id=key(lot),
            at_s=a.now_s,
            kind=EVENTS[condition],
            note=f"stocktake {note}".strip(),
        )
    )
    if condition == "damp":
        f = figures().moisture
        a.session.add(
            MoistureObs(
                lot_id=key(lot),
                at_s=a.now_s,
                erh25=f.damp_packet_erh25,
                sd=f.damp_packet_erh25_sd,
                how="stated",
            )
        )
    return [condition]


def lot_by_code(larder: Larder, code: str) -> LotLine:
    """The lot of a code as it stands on its label, case aside. Raises NotFound with the likeliest."""
    wanted = code.strip().rsplit("/", 1)[-1].lower()  # a scanned label carries the whole address
    lines = lot_lines(larder)
    for line in lines:
        if line.code.lower() == wanted or (code.startswith("http") and str(line.lot_id) == wanted):
            return line
    raise NotFound(f"No lot here has the code {code.strip()!r}: is it a new packet?")


def take_in(larder: Larder, ref: ActRef, stocktake_id: int, code: str) -> LotMarked:
    """An unexpected packet is taken in by its code: it stands here from now on. Raises NotFound."""
    line = lot_by_code(larder, code)
    return mark_lot_found(larder, ref, stocktake_id, line.lot_id, "found")


@act("stocktake_pause")
def pause(a: Doing, stocktake_id: int) -> Done:
    """Leave it for now."""
    take = _open(a.session, stocktake_id)
    take.state = "paused"
    a.session.add(take)
    node = get_live(a.session, Node, take.node_id, "container")
    a.summary = f"Left off in {node.name}"
    a.about(f"node:{take.node_id}")
    return Done()


@act("stocktake_done")
def finish(a: Doing, stocktake_id: int, rest: str = "") -> StocktakeRef:
    """End it: the container was gone through today. ``rest``: what of the lots not looked at:
    "found" or "missing" for all of them, or empty to leave them as they were."""
    if rest not in RESTS:
        raise InvalidValue("the rest", rest, "found, missing, or left as they were")
    take = _open(a.session, stocktake_id)
    node = get_live(a.session, Node, take.node_id, "container")
    lines = _lines(a.session, stocktake_id)
    waiting = [i for i in json.loads(take.expected) if i not in lines] if rest else []
    for lot_id in waiting:
        lot = a.session.get(Lot, lot_id)
        if lot is None or not is_live(lot) or lot.state == "gone":
            continue
        changed = _missing(lot) if rest == "missing" else []
        if rest == "found":
            lot.state = "here"
        a.session.add_all(
            [
                lot,
                StocktakeLine(
                    stocktake_id=stocktake_id,
                    lot_id=lot_id,
                    at_s=a.now_s,
                    result=rest,
                    changed=", ".join(changed),
                ),
            ]
        )
    take.state, take.ended_s = "done", a.now_s
    a.session.add(take)
    a.session.add(NodeEvent(node_id=take.node_id, at_s=a.now_s, kind="gone_through"))
    a.session.flush()
    a.about(f"node:{take.node_id}")
    a.summary = f"Went through {node.name}: " + _tally(a.session, take)
    return StocktakeRef(stocktake_id=stocktake_id)


def _lines(session: Session, stocktake_id: int) -> dict[int, StocktakeLine]:
    rows = session.exec(select(StocktakeLine).where(StocktakeLine.stocktake_id == stocktake_id))
    return {r.lot_id: r for r in rows if is_live(r)}


def _tally(session: Session, take: Stocktake) -> str:
    lines = _lines(session, key(take))
    results = [line.result for line in lines.values()]
    left = sum(1 for i in json.loads(take.expected) if i not in lines)
    counts = {
        "found": sum(r in ("found", "counted") for r in results),
        "moved in": results.count("moved"),
        "missing": results.count("missing"),
        "not looked at": left,
    }
    return ", ".join(f"{n} {word}" for word, n in counts.items() if n) or "nothing in it"


def stocktake(larder: Larder, stocktake_id: int) -> Take:
    """A stocktake with its list in the order of their slots. Raises NotFound."""
    by_id = {line.lot_id: line for line in lot_lines(larder)}
    with looking_at(larder) as v:
        take = v.session.get(Stocktake, stocktake_id)
        if take is None or not is_live(take):
            raise NotFound(f"There is no stocktake number {stocktake_id}")
        air = v.air
        marked = _lines(v.session, stocktake_id)
        ids = [
            *json.loads(take.expected),
            *(i for i in marked if i not in json.loads(take.expected)),
        ]
        lines = []
        for order, lot_id in enumerate(ids):
            line, m = by_id.get(lot_id), marked.get(lot_id)
            lot = v.session.get(Lot, lot_id)
            if lot is None:
                continue
            came = m.came_from if m else None
            lines.append(
                TakeLine(
                    lot_id=lot_id,
                    code=lot.code,
                    variety=line.variety if line else "",
                    kind_name=line.kind_name if line else "",
                    origin=line.origin if line else "",
                    seeds=line.seeds if line else None,
                    unit=line.unit if line else "seed",
                    position=line.position if line else "",
                    result=m.result if m else "",
                    condition=m.condition if m else "",
                    as_said=m.as_said if m else "",
                    came_from=node_path(air, came) if came else "",
                    changed=m.changed if m else "",
                    order=order,
                )
            )
        lines.sort(key=lambda x: (x.position or "~", x.order))
        return Take(
            stocktake_id=key(take),
            node_id=take.node_id,
            name=air.nodes[take.node_id].name,
            path=node_path(air, take.node_id),
            state=take.state,
            started_s=take.started_s,
            ended_s=take.ended_s,
            lines=lines,
            left=sum(1 for x in lines if not x.result),
            report=report_of(lines) if take.state == "done" else [],
            unplaced=[
                waiting(x) for x in by_id.values() if x.node_id is None and x.lot_id not in marked
            ]
            if take.state != "done"
            else [],
        )
