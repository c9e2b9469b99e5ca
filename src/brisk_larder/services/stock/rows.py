"""The stock list for thousands of lots: narrow rows at once, strips for what is in view.

Rows show what the forecast of the day is where it is known; the rest is made in the background.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from threading import Lock
from weakref import WeakKeyDictionary

from ...core.base.errors import InvalidValue
from ...core.hand.filing import GROUPINGS, arrange
from ...data.store import Store
from ..air.look import looking_at
from ..forecast.glance import glances
from ..forecast.glance_data import Glance, Likely, Strip, TestAdvice, thaw
from ..forecast.lines import LINE_ROWS, LineRow, LotLine, lines_with, lot_lines
from ..household.kinds import UNKNOWN
from ..household.larder import Larder, today
from .filing_page import all_filed, filed

VISIBLE_MOST = 200
PENDING = Likely(-1.0, -1.0, -1.0)


@dataclass(frozen=True)
class StockRow:
    """One lot in the list. ``now`` is null while its forecast is being made; nothing is
    said of seed that nobody knows, nor of what is set (not ``named``); ``unit``: what one is called."""

    lot_id: int
    code: str
    variety: str
    kind_name: str
    type_name: str
    hybrid: bool
    origin: str
    seeds: float | None
    seeds_sd: float
    mass_g: float | None
    node_id: int | None
    place: str
    position: str
    state: str
    use: str
    tags: str
    marks: list[str]
    now: Likely | None
    named: bool
    unit: str
    kept_until_s: float | None
    guess: bool
    good_until_s: float | None
    next_act: str
    urgency: int


@dataclass(frozen=True)
class RowGroup:
    """A heading and the lots under it, as places in ``rows``."""

    name: str
    rows: list[int]


@dataclass(frozen=True)
class StockRows:
    """The list: rows, groups in the household's order, and how many forecasts are still to come."""

    rows: list[StockRow]
    groups: list[RowGroup]
    pending: int
    falling: int
    kinds: int


def _row(x: LotLine) -> StockRow:
    marks = []
    if x.parts > 1:
        marks.append("mixed")
    if x.treated:
        marks.append("dressed")
    if x.plenty:
        marks.append("more than can be used")
    if x.crossed_risk:
        marks.append("may have crossed")
    return StockRow(
        lot_id=x.lot_id,
        code=x.code,
        variety=x.variety,
        kind_name=x.kind_name,
        type_name=x.type_name,
        hybrid=x.hybrid,
        origin=x.origin,
        seeds=x.seeds,
        seeds_sd=x.seeds_sd,
        mass_g=x.mass_g,
        node_id=x.node_id,
        place=x.place,
        position=x.position,
        state=x.state,
        use=x.intended_use,
        tags=x.tags,
        marks=marks,
        now=x.glance.now,
        named=not x.form and (x.kind != UNKNOWN or x.verdict.standing not in ("unnamed", "none")),
        unit=x.unit,
        kept_until_s=x.kept_until_s,
        guess=x.glance.guess,
        good_until_s=x.glance.good_until_s,
        next_act=x.next_act,
        urgency=x.urgency,
    )


def kept_today(larder: Larder) -> tuple[dict[int, Glance], list[int]]:
    """Glances that are ready, and the lots that have none yet."""
    with looking_at(larder) as v:
        day = today(larder, v.home).isoformat()
        run = v.session.connection().exec_driver_sql
        ids = [LineRow(*row).lot_id for row in run(LINE_ROWS)]
        kept = {
            int(row[0]): str(row[1])
            for row in run("SELECT lot_id, data FROM d_glance WHERE day = ?", (day,))
        }
    ready = {lot: thaw(kept[lot]) for lot in dict.fromkeys(ids) if lot in kept}
    return ready, [lot for lot in dict.fromkeys(ids) if lot not in ready]


def stock_list(larder: Larder, grouping: str) -> StockRows:
    """The list under a grouping, kept until the file changes. Raises InvalidValue."""
    if grouping not in GROUPINGS:
        raise InvalidValue("group by", grouping, ", ".join(GROUPINGS))
    return larder.store.remembered(
        f"{__name__}.stock_list.{grouping}",
        larder.now_s(),
        lambda: _stock_list(larder, grouping),
        lasting=lambda found: not found.pending,
    )


def _all_ready(larder: Larder) -> bool:
    """Whether every lot has its forecast of the day, without reading any; where none can be kept
    (a full disk, a lock) they are made here and now, or they would never come."""
    if larder.store.trouble:
        return True
    with looking_at(larder) as v:
        day = today(larder, v.home).isoformat()
        run = v.session.connection().exec_driver_sql
        waiting = run(
            "SELECT count(*) FROM lot WHERE deleted_s IS NULL AND state <> 'gone' AND NOT EXISTS "
            "(SELECT 1 FROM d_glance WHERE lot_id = lot.id AND day = ?)",
            (day,),
        ).scalar()
        return not waiting and not run("SELECT count(*) FROM dirty").scalar()


def _stock_list(larder: Larder, grouping: str) -> StockRows:
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
    pending: set[int] = set()
    if _all_ready(larder):
        lines, files = lot_lines(larder), all_filed(larder)
    else:
        ready, missing = kept_today(larder)
        pending = set(missing)
        lines = lines_with(larder, ready | {lot: _none(lot) for lot in missing})
        files = {x.lot_id: filed(x, kinds, home) for x in lines}
    rows = [_row(x) for x in lines]
    rows = [_waiting(r) if r.lot_id in pending else r for r in rows]
    at = {r.lot_id: i for i, r in enumerate(rows)}
    groups = [
        RowGroup(g.name, [at[x.lot_id] for x in g.lots])
        for g in arrange([files[r.lot_id] for r in rows], grouping)
    ]
    falling = sum(
        1
        for x in lines
        if x.lot_id not in pending
        and x.glance.at_sowing
        and x.glance.at_sowing.mid < home.sow_level
    )
    return StockRows(rows, groups, len(pending), falling, len({x.kind for x in lines}))


def _waiting(row: StockRow) -> StockRow:
    return replace(row, now=None, next_act="forecast under way", urgency=0, good_until_s=None)


def _none(lot: int) -> Glance:
    """A glance that says nothing yet, for a list that must not wait."""
    return Glance(
        lot_id=lot,
        part_id=0,
        now=PENDING,
        at_sowing=None,
        next_sowing_s=None,
        sowing_setting=None,
        sowing_guessed=False,
        good_until_s=None,
        good_until_low_s=None,
        good_until_high_s=None,
        good_beyond=False,
        strip=Strip(0.0, 1.0, [], [], []),
        advice=TestAdvice(code="pending", wanted=False, due_s=None, chance_below=0.0, why=""),
        start=0.0,
        erh25=0.4,
        a_probit=0.0,
        sd_log10_a=0.0,
        climate_source="usual",
        guess=False,
        tests=[],
        episodes=[],
        last_safe_year=None,
        regrow_asked=False,
        mothers=[],
    )


_WARMING: WeakKeyDictionary[Store, Lock] = WeakKeyDictionary()


def warm(larder: Larder) -> None:
    """Make what is missing of the day's forecasts; does nothing while that is under way already."""
    lock = _WARMING.setdefault(larder.store, Lock())
    if lock.acquire(blocking=False):
        try:
            glances(larder)
        finally:
            lock.release()


def strips(larder: Larder, lot_ids: list[int]) -> dict[int, Glance]:
    """The glances of the lots in view, made at once where they are missing; while others are still being
    made none of them marks a test, for the verdict hangs on all lots of an origin."""
    wanted = lot_ids[:VISIBLE_MOST]
    if _all_ready(larder):
        lines = {x.lot_id: x.glance for x in lot_lines(larder)}
        return {lot: lines[lot] for lot in wanted if lot in lines}
    found = glances(larder, wanted)
    for g in found.values():
        g.advice = replace(g.advice, wanted=False, due_s=None)
    return found
