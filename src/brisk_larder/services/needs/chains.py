"""Needs: what the household wants to eat and grow, worked back to seeds, and what is short."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from sqlmodel import Session, col, select

from ...core import belief as be
from ...core.cover import CoverPlan, Demand, Short, Supply, cover
from ...core.needs import (
    Amount,
    Chain,
    FoodTarget,
    Origin,
    Success,
    between,
    chain,
    on_the_shelf,
    reserve,
    seeds_for,
    success,
    to_spare,
    usable,
)
from ...data.tables import ChainOverride, Household, Lot, PantryEntry, Pick
from ...data.tables import FoodTarget as FoodRow
from ...reference import Product
from ..forecast.outlook import Outlook, whole_outlook
from ..forecast.sowing import emergence, seed_success, sowing_of
from ..household.kinds import Kinds, figures, load_kinds, reference
from ..household.larder import Larder, household, is_live, planning_year, remembered, today
from ..household.quantity import earmarks, seeds_left
from ..household.wording import often, percent, sentence

PURPOSES = ("table", "joy", "bees", "soil", "gift", "trial")
LINKS = ("wanted", "to_put_up", "fresh_kg_per_unit", "fresh_kg", "yield_kg_per_plant", "plants")
METHOD_WORDS = {
    "water_bath_can": "jars, water bath", "pressure_can": "jars, pressure canned",
    "freeze": "frozen", "dry": "dried", "dry_store": "stored dry", "root_cellar": "cellar",
    "ferment": "crock", "fresh": "fresh",
}  # fmt: skip


@dataclass(frozen=True)
class Covered:
    """Seeds of one lot for one food or pick."""

    lot_id: int
    code: str
    variety: str
    seeds: int


@dataclass(frozen=True)
class ChainLine:
    """One food or pick as a readable chain. ``seeds``: None says "test first"."""

    key: str
    kind: str
    target_id: int | None
    pick_id: int | None
    version: int
    name: str
    product: str
    crop: str
    crop_name: str
    how: str
    per_week: float
    weeks: float
    chain: Chain | None
    plants: int | None
    seeds: int | None
    covered: list[Covered]
    short_plants: int
    short_seeds: int | None
    order_by_s: float | None
    says: str
    next_act: str
    why: list[str]
    caution: str


@dataclass(frozen=True)
class NeedsRoom:
    """The room: chains (shortfalls first), surplus per lot, and the season they stand for."""

    year: int
    season: str
    lines: list[ChainLine]
    surplus: list[Covered]
    order_by_s: float | None
    confidence: str


def target_year(larder: Larder) -> int:
    """The household year that planning is for now."""
    with larder.store.read() as session:
        home = household(session)
        return planning_year(today(larder, home), home)


def product_of(name: str) -> Product | None:
    """A product of the book by name."""
    return reference().products.get(name)


def pantry_units(session: Session) -> dict[str, float]:
    """What stands on the shelf per product: the last count plus what came and went since."""
    out: dict[str, float] = {}
    query = (
        select(PantryEntry)
        .where(col(PantryEntry.deleted_s).is_(None))
        .order_by(col(PantryEntry.at_s), col(PantryEntry.id))
    )
    for e in session.exec(query):
        out[e.product] = on_the_shelf(out.get(e.product, 0.0), e.kind, e.units)
    return out


def food_chain(row: FoodRow, own: Mapping[str, float], kinds: Kinds, pantry: float) -> Chain:
    """The chain of one food: own numbers before the book's, the book's before a guess."""
    product, f = product_of(row.product), figures().needs
    kind = kinds.get(row.crop)
    if "fresh_kg_per_unit" in own:
        per_unit = Amount.exact(own["fresh_kg_per_unit"], "kg", "set", "set by the keeper")
    elif product is not None:
        span = product.fresh_kg_per_unit_as_harvested
        per_unit = between(span.low, span.high, "kg", "book", product.source)
    else:
        per_unit = between(
            f.unit_kg_low, f.unit_kg_high, "kg", "guess", "no figure known: about a kilo a unit"
        )
    yields = kind.crop.food_yield_kg_per_plant
    if "yield_kg_per_plant" in own:
        value = own["yield_kg_per_plant"]
        per_plant: Amount | None = Amount.exact(value, "kg", "set", "set by the keeper")
    elif yields is not None:
        origin: Origin = "book" if kind.known else "guess"
        per_plant = between(
            yields.low, yields.high, "kg", origin, "kilos per plant, the book's range"
        )
    else:
        per_plant = None
    target = FoodTarget(row.per_week, row.weeks, row.unit, row.gifts, row.reserve_share)
    links = {k: v for k, v in own.items() if k in ("wanted", "to_put_up", "fresh_kg", "plants")}
    return chain(target, per_unit, per_plant, pantry, links, f.plants_lost_before_harvest)


@dataclass(frozen=True)
class _Planned:
    demands: list[Demand]
    chains: dict[str, Chain]
    foods: dict[str, FoodRow]
    picks: dict[str, Pick]
    plan: CoverPlan
    bought: dict[str, Success]
    look: Outlook
    idle: dict[int, int]


def _bought_success(kinds: Kinds, key: str, setting: str | None) -> Success:
    """Success per seed of a fresh bought packet, before anything is known of it."""
    kind, f = kinds.get(key), figures()
    mean, sd = be.quality("bought", None, None, f.belief)
    prior = be.Prior(
        np.array([mean]), np.array([sd]), np.zeros(1), np.array([f.belief.new_packet_d_sd]),
        np.array([kind.living]),
    )  # fmt: skip
    g = be.nodes(be.fit(prior, be.Counts.none()), np.zeros(1))
    return success(g.g[0], g.weight[0], emergence(kind, setting), f.needs.emergence_beta_weight)


def _plan(session: Session, larder: Larder, home: Household, year: int) -> _Planned:
    now_s = larder.now_s()
    kinds, look = load_kinds(session), whole_outlook(larder)
    seeds = seeds_left(session, [row.part.lot_id for row in look.rows])
    pantry = pantry_units(session)
    overrides: dict[int, dict[str, float]] = {}
    for o in session.exec(select(ChainOverride)):
        if is_live(o):
            overrides.setdefault(o.food_target_id, {})[o.link] = o.value
    foods = [f for f in session.exec(select(FoodRow).where(FoodRow.year == year)) if is_live(f)]
    picks = [p for p in session.exec(select(Pick).where(Pick.year == year)) if is_live(p)]
    lots = {
        lot.id: lot for lot in session.exec(select(Lot)) if is_live(lot) and lot.state != "gone"
    }
    chains, demands, food_by, pick_by = {}, [], {}, {}
    for pick in sorted(picks, key=lambda p: p.id or 0):
        key = f"pick:{pick.id}"
        crop = next((r.kind.key for r in look.rows if r.part.lot_id == pick.lot_id), "")
        demands.append(Demand(key, frozenset([crop]), pick.plants, frozenset([pick.lot_id])))
        pick_by[key] = pick
    for food in sorted(foods, key=lambda f: (f.priority, f.id or 0)):
        key = f"food:{food.id}"
        made = food_chain(
            food, overrides.get(food.id or 0, {}), kinds, pantry.get(food.product, 0.0)
        )
        chains[key], food_by[key] = made, food
        if made.plants is not None:
            demands.append(Demand(key, frozenset([food.crop]), int(made.plants.mid)))
    asked = {c for d in demands for c in d.crops} - {""}
    day = today(larder, home)
    supplies, idle, aside = [], {}, earmarks(session)
    f = figures().needs
    for i, row in enumerate(look.rows):
        lot = row.part.lot_id
        if lot not in lots or not seeds[lot].known:
            continue
        if row.kind.key not in asked:
            idle[lot] = seeds[lot].whole
            continue
        sowing = sowing_of(row.kind, day, home)
        one = seed_success(
            look, i, sowing[0] if sowing else float(now_s), sowing[1] if sowing else None
        )
        mean = float(one.p @ one.weight)
        if lots[lot].intended_use != "seed":
            continue  # meant for the table, for sale or for a swap
        spare = max(0, seeds[lot].whole - round(aside.get(lot, 0.0)))
        # the line's own mothers come first; a lot that cannot promise them gives nothing to the table
        kept, mothers = bool(row.variety.kept_line), row.kind.crop.min_plants_viable
        spare = max(0, spare - reserve(mothers, one, home.line_confidence, spare, kept))
        supplies.append(
            Supply(
                lot,
                row.kind.key,
                spare,
                one,
                mean,
                float(row.cohort.record_from_s),
                usable(mean, row.kind.crop.field_emergence_factor, f) and lots[lot].state == "here",
            )
        )
    bought = {}
    for key in sorted(asked):
        sowing = sowing_of(kinds.get(key), day, home)
        bought[key] = _bought_success(kinds, key, sowing[1] if sowing else None)
    plan = cover(demands, supplies, home.confidence, bought)
    return _Planned(demands, chains, food_by, pick_by, plan, bought, look, idle)


@remembered
def needs_room(larder: Larder) -> NeedsRoom:
    """All foods and picks of the planning year with what covers them, shortfalls first."""
    year = target_year(larder)
    with larder.store.read() as session:
        home, kinds = household(session), load_kinds(session)
        planned = _plan(session, larder, home, year)
        lots = {lot.id: lot for lot in session.exec(select(Lot))}
        names = {row.part.lot_id: row.variety.name for row in planned.look.rows}

        def covered(key: str) -> list[Covered]:
            return [
                Covered(t.lot, lots[t.lot].code, names.get(t.lot, ""), t.seeds)
                for t in planned.plan.taken
                if t.demand == key
            ]

        keys = [*planned.foods, *planned.picks]
        lines = [_line(k, planned, kinds, home, covered(k), larder, names) for k in keys]
        surplus = [
            Covered(lot, lots[lot].code, names.get(lot, ""), left)
            for lot, left in [*planned.plan.left.items(), *planned.idle.items()]
            if left > 0 and _to_spare(planned, lot, left)
        ]
    lines.sort(key=lambda x: (x.short_plants == 0, x.kind != "food", -(x.short_seeds or 0)))
    orders = [x.order_by_s for x in lines if x.order_by_s is not None and x.short_plants]
    first, last = home.year_starts_month, (home.year_starts_month - 2) % 12 + 1
    months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
    end = year + 1 if first > 1 else year
    return NeedsRoom(
        year,
        f"{months[first - 1]} {year} to {months[last - 1]} {end}",
        lines,
        sorted(surplus, key=lambda s: -s.seeds),
        min(orders, default=None),
        often(home.confidence),
    )


def _to_spare(planned: _Planned, lot: int, left: int) -> bool:
    row = next((r for r in planned.look.rows if r.part.lot_id == lot), None)
    if row is None:
        return False
    used = sum(t.seeds for t in planned.plan.taken if t.lot == lot)
    return to_spare(
        left, used, bool(row.variety.kept_line), row.kind.crop.min_plants_good,
        bool(row.variety.treated), figures().needs,
    )  # fmt: skip


def _line(
    key: str, planned: _Planned, kinds: Kinds, home: Household, covered: list[Covered],
    larder: Larder, names: dict[int, str],
) -> ChainLine:  # fmt: skip
    food, pick = planned.foods.get(key), planned.picks.get(key)
    demand = next((d for d in planned.demands if d.key == key), None)
    crop = food.crop if food else next(iter(demand.crops)) if demand else ""
    kind = kinds.get(crop)
    made = planned.chains.get(key)
    short = next((s for s in planned.plan.short if s.demand == key), None)
    plants = demand.plants if demand else None
    seeds: int | None = sum(c.seeds for c in covered) if covered else None
    if short is not None and crop in planned.bought and plants is not None:
        seeds = seeds_for(plants, planned.bought[crop], home.confidence)
    order_by = None
    if short is not None:
        sowing = sowing_of(kind, today(larder, home), home)
        if sowing is not None:
            order_by = max(sowing[0] - home.order_lead_days * 86_400, float(larder.now_s()))
    says, act_words = _outcome(short, plants, covered)
    product = product_of(food.product) if food else None
    why = []
    if made is not None:
        why += [
            f"Fresh produce: {made.fresh_kg.mid:.0f} kg, likely {made.fresh_kg.low:.0f}\u2013"
            f"{made.fresh_kg.high:.0f} ({made.fresh_kg.origin}: {made.fresh_kg.note}).",
        ]
        if made.plants is not None:
            why.append(
                f"Plants: likely {made.plants.low:.0f}\u2013{made.plants.high:.0f} "
                f"({made.plants.origin}: {made.plants.note}); a tenth is lost on the way (guess)."
            )
    if plants:
        why.append(
            f"Seeds: enough that {plants} plants stand {often(home.confidence)}, over what is "
            f"believed of each lot and an emergence of about "
            f"{percent(kind.crop.field_emergence_factor)} in the open."
        )
    if short is not None:
        why.append(sentence(short.reason, home))
    how = (
        METHOD_WORDS.get(product.method, "")
        if product
        else (pick.purpose if pick else "own product")
    )
    row = food or pick
    assert row is not None, "a key is that of a food or of a pick"
    return ChainLine(
        key=key,
        kind="food" if food else "pick",
        target_id=food.id if food else None,
        pick_id=pick.id if pick else None,
        version=row.version,
        name=food.name if food else names.get(pick.lot_id if pick else 0, kind.name),
        product=food.product if food else "",
        crop=crop,
        crop_name=kind.name,
        how=how,
        per_week=food.per_week if food else 0.0,
        weeks=food.weeks if food else 0.0,
        chain=made,
        plants=plants,
        seeds=seeds,
        covered=covered,
        short_plants=short.plants if short else 0,
        short_seeds=short.seeds if short else None,
        order_by_s=order_by,
        says=says,
        next_act=act_words,
        why=why,
        caution=product.safety_note if product else "",
    )


def _outcome(short: Short | None, plants: int | None, covered: list[Covered]) -> tuple[str, str]:
    if plants is None:
        return "no yield known", "set the plants yourself"
    if plants == 0:
        return "nothing to grow", "the pantry holds it all"
    if short is None:
        return "covered", "oldest first: " + ", ".join(c.code for c in covered)
    if short.reason.code == "short_too_unsure":
        return "not sure enough", "test first: " + ", ".join(c.code for c in covered)
    missing = "seeds" if short.seeds is None else f"{short.seeds} seeds"
    return f"{missing} short", f"{short.plants} plants missing: order or regrow"
