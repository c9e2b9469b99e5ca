"""Cautions at the act: what is asked once, in words, before it is done; the keeper may do it all the same.

Each function looks and says; nothing is written. ``heed`` refuses until the sentences were read.
"""

from __future__ import annotations

import json
import re
from collections.abc import Collection, Iterable
from dataclasses import replace

import numpy as np
from sqlmodel import col, select

from ...core.base.errors import Conflict
from ...core.base.units import DAY_S
from ...core.hand.cautions import crossing_lines, dusted, held_before
from ...core.storage import barrier
from ...core.storage.handling import can_state
from ...core.trials.when_to_test import as_at_its_best, ceiling
from ...data.queries import live
from ...data.tables import Cohort, Lot, Part, Pick, Trial, Variety
from ..air.air import Air
from ..air.look import Look, looking_at
from ..air.standing import wall
from ..forecast.counts import days_in_warmth
from ..forecast.current import bring_up_to_date
from ..forecast.elsewhere import Option, precautions_said, setting_of
from ..forecast.kept_pieces import lots_of_pieces
from ..forecast.lines import LotLine, lot_lines
from ..forecast.outlook import outlook
from ..household.kinds import figures
from ..household.larder import Larder, planning_year, writing_here
from ..household.own_units import kind_of_lot
from ..household.possible_values import moment_on
from ..household.wording import all_of, day_words, percent, temperature_here
from .new_seeds import NewSeeds, origins_of, resolve_kind

HARMS = ("dry_before_freezing", "would_mould", "drier_better")  # other precautions are only told
FORMER = {
    "ammunition": "it held ammunition: lead and powder stay in its seams; never keep food in it",
    "bait": "it held bait or poison: never for seed that is eaten or given away",
    "fuel": "it held fuel: its vapour harms seed and taints food for good",
    "paint": "it held paint or a solvent: its vapour harms seed and taints food",
}
FRUIT = (
    "Fruit from a shop: often a hybrid that does not come true, picked unripe, or treated so that its seed "
    "is dead: test some first, and save it apart"
)
POISON = "Poisonous parts: keep seed and seedlings from children and dogs"


def heed(said: list[str], anyway: bool) -> None:
    """Raises Conflict with what was said, unless it was read (``anyway``)."""
    if said and not anyway:
        raise Conflict(" ".join(s.rstrip(".") + "." for s in said), warnings=said)


def _damp(v: Look, lots: list[int], option: Option, close: str = "") -> list[str]:
    """The moisture precautions that would harm some lots in an option; ``close``: a container kind that is
    being shut over them."""
    pieces = lots_of_pieces(v.session)
    lots = [i for i in lots if i not in pieces]
    if not lots:
        return []
    look = outlook(v.session, v.air, v.kinds, lots)
    if not look.rows:
        return []
    setting = setting_of(v.session, v.air, option, lots)
    if close:
        shut = barrier.shuts_in([wall(close)], figures().walls)
        setting = replace(setting, sealed=shut)
    codes = v.air.codes()
    worst = int(np.argmax(look.state.erh25))
    name = codes.get(look.rows[worst].part.lot_id, "")
    said = precautions_said(look, setting, option)
    return [f"{name}: {said[code]}" for code in HARMS if code in said]


def _lots_below(air: Air, node_id: int) -> list[int]:
    return [lot for node in air.below(node_id) for lot in air.lots_in(node)]


def moving_lots(larder: Larder, lot_ids: list[int], node_id: int) -> list[str]:
    """Seed too damp for the freezer, or to be shut in where it goes."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        if node_id not in v.air.nodes:
            return []
        moved = [lot for lot in lot_ids if v.air.node_of(lot) != node_id]
        return _damp(v, moved, Option(node_id=node_id))


def moving_lot(larder: Larder, lot_id: int, node_id: int) -> list[str]:
    """As moving_lots, for one."""
    return moving_lots(larder, [lot_id], node_id)


def moving_node(larder: Larder, node_id: int, parent_id: int) -> list[str]:
    """A container with seed too damp for where it goes."""
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        node = v.air.nodes.get(node_id)
        if node is None or parent_id not in v.air.nodes:
            return []
        option = Option(node_id=parent_id, container_kind=node.container_kind)
        return _damp(v, _lots_below(v.air, node_id), option)


def closing(larder: Larder, node_id: int, kind: str) -> list[str]:
    """Seed too damp to be shut in, when its container is closed or sealed; a can opened in its month."""
    if kind == "opened":
        return _resting(larder, node_id)
    if kind not in ("sealed", "airtight"):
        return []
    bring_up_to_date(larder)
    with looking_at(larder) as v:
        node = v.air.nodes.get(node_id)
        if node is None or node.container_kind is None:
            return []
        lots = _lots_below(v.air, node_id)
        return _damp(v, lots, Option(node_id=node_id), close=node.container_kind)


def _resting(larder: Larder, node_id: int) -> list[str]:
    """Whether a can stands within the time that kills what is in it."""
    with looking_at(larder) as v:
        events = v.air.events.get(node_id, [])
        sealed = next((e for e in reversed(events) if e.kind == "sealed"), None)
        told = json.loads(sealed.figures) if sealed is not None else {}
        if sealed is None or "food_kg" not in told:
            return []
        opened = [e.at_s for e in events if e.kind == "opened" and e.at_s > sealed.at_s]
        days = told.get("shut_days")
        now = can_state(
            float(sealed.at_s),
            float(v.now_s),
            opened[0] if opened else None,
            figures().handling,
            days,
        )
        if now.state != "resting":
            return []
        due = sealed.at_s + (now.days_shut + now.days_to_go) * DAY_S
        return [
            f"This can is shut against insects until {day_words(due)}: opened now, the count begins again"
        ]


def packing(larder: Larder, lot_ids: Iterable[int]) -> list[str]:
    """Seed that is not to be given away as it is: dead or used up, spoilt, wet, dressed."""
    wanted, out = set(lot_ids), []
    for x in lot_lines(larder):
        if x.lot_id not in wanted:
            continue
        name = f"{x.code} {x.variety}"
        if not x.verdict.alive:
            out.append(f"{name} is dead or used up: nothing would come up")
        elif x.verdict.standing == "spoilt":
            out.append(f"{name} is spoilt")
        elif x.verdict.standing == "wet":
            out.append(f"{name} got wet: dry it first")
        if x.treated:
            out.append(f"{name} is dressed seed: say so on the packet, and never as food")
    return out


BARE_YEARS = re.compile(r"\d\d(?:\s*[,;+]\s*\d\d)+")


def adding(larder: Larder, items: list[NewSeeds]) -> list[str]:
    """Years in bare figures, fruit from the kitchen, poisonous kinds that the household had none of."""
    out, had = [], {x.kind for x in lot_lines(larder)}
    with looking_at(larder) as v:
        for item in items:
            if BARE_YEARS.fullmatch(item.date.strip()):
                years = [o.words for o in origins_of(item, v.today, v.home)]
                shares = f"{years[0]}: 50, {years[1]}: 30"
                out.append(
                    f"{item.date.strip()}: taken as one bag of the years {all_of(years)}, as much of each. "
                    f"If you know how much, write {shares}; packets of one year are a line each"
                )
            if item.from_kitchen and FRUIT not in out:
                out.append(FRUIT)
            kind = v.kinds.get(resolve_kind(item.kind, v.kinds))
            if kind.known and kind.key not in had and "poison" in kind.hazard.lower():
                out.append(f"{kind.name}: {kind.hazard[0].lower()}{kind.hazard[1:]}. {POISON}")
                had.add(kind.key)
    return out


def testing(line: LotLine) -> list[str]:
    """What to know of a lot before its seed is handled for a test."""
    out = []
    if line.treated:
        out.append(
            "Dressed seed: gloves; paper and seedlings go into the waste, not on the compost"
        )
    if line.kind == "hot_pepper":
        out.append("Gloves: the seed burns eyes and skin")
    return out


def closing_test(larder: Larder, trial_id: int, close: bool, on: str) -> list[str]:
    """A test that is closed before what is in it could all be up."""
    if not close:
        return []
    with looking_at(larder) as v:
        trial = v.session.get(Trial, trial_id)
        if trial is None or trial.closed_s is not None:
            return []
        when = moment_on(on, None, v.home, v.now_s)
        kind, f = kind_of_lot(v.session, trial.lot_id), figures().trials
        crop, day = kind.crop, days_in_warmth(trial, when)
        at_best = as_at_its_best(
            day, trial.temperature_c, crop.germ_temp_min_c, crop.germ_temp_opt_c.low, f
        )
        could = ceiling(True, at_best, crop.first_count_days, crop.final_count_days, f)
    if could.middle >= 1.0:
        return []
    return [
        f"Closed on day {int(day)}: of living {kind.name} about {percent(could.middle)} would be up by now "
        f"(the last count is day {crop.final_count_days:g}"
        + (f", later at {temperature_here(trial.temperature_c)}" if at_best < day else "")
        + "). What waits is not counted as dead"
    ]


def picking(larder: Larder, lot_ids: Collection[int]) -> list[str]:
    """Lines that would cross in one year (two kinds of maize), a sentence for each group that crosses: among
    what is now picked, and with what was picked before."""
    with looking_at(larder) as v:
        year = planning_year(v.session, v.today, v.home)
        before = v.session.exec(live(Pick).where(Pick.year == year)).all()
        ids = {*(p.lot_id for p in before), *lot_ids}
        rows = v.session.exec(
            select(Part.lot_id, Variety.name, Lot.code)
            .join(Lot, col(Lot.id) == Part.lot_id)
            .join(Cohort, col(Cohort.id) == Part.cohort_id)
            .join(Variety, col(Variety.id) == Cohort.variety_id)
            .where(col(Part.lot_id).in_(ids), col(Part.to_s).is_(None))
            .order_by(Lot.code)
        ).all()
        crops = {lot: kind_of_lot(v.session, lot).crop for lot, _, _ in rows}
    groups = crossing_lines(
        [
            (lot, name, f"{code} {name}", crops[lot].crossing_group)
            for lot, name, code in rows
            if crops[lot].breeding == "outcrossing"
        ],
        lot_ids,
    )
    said = []
    for lots, labels in groups:
        apart = writing_here().distance(max(crops[lot].isolation_m_home for lot in lots))
        said.append(
            f"{all_of(labels)} would cross when they flower in one year: apart by {apart}, by time, "
            "or seed saved of none of them"
        )
    return said


def former_use(text: str | None) -> list[str]:
    """What a container held before that harms seed or those who eat of it."""
    code = held_before(text or "")
    return [FORMER[code]] if code else []


def treating(larder: Larder, lot_id: int, kind: str, note: str) -> list[str]:
    """Insecticide or dressing put on seed."""
    if kind != "treated" and not dusted(note):
        return []
    with looking_at(larder) as v:
        aside = v.session.exec(live(Lot).where(Lot.id == lot_id)).first()
        use = aside.intended_use if aside is not None else "seed"
    said = "Seed with insecticide or dressing on it is never food, feed or shoots again"
    return [said + (f"; it is meant for {use}" if use in ("food", "shoots") else "")]
