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
from ...data.queries import key, live
from ...data.tables import ChainOverride, Household, Lot, PantryEntry, Pick
from ...data.tables import FoodTarget as FoodRow
from ...reference import Product
from ..air.look import Look, looking_at
from ..forecast.outlook import Outlook, whole_outlook
from ..forecast.sowing import emergence, seed_success, sowing_of
from ..household.kinds import Kind, Kinds, figures, reference
from ..household.larder import Larder, planning_year, remembered, today
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
    with looking_at(larder) as v:
        home = v.home
        return planning_year(today(larder, home), home)


def product_of(name: str) -> Product | None:
    """A product of the book by name."""
    return reference().products.get(name)


def pantry_units(session: Session) -> dict[str, float]:
    """What stands on the shelf per product: the last count plus what came and went since."""
    out: dict[str, float] = {}
    query = live(PantryEntry).order_by(col(PantryEntry.at_s), col(PantryEntry.id))
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
    wishes: _Wishes
    plan: CoverPlan
    bought: dict[str, Success]
    look: Outlook
    idle: dict[int, int]


def _bought_success(kinds: Kinds, key: str, setting: str | None) -> Success:
    """Success per seed of a fresh bought packet, before anything is known of it."""
    kind, f = kinds.get(key), figures()
    mean, sd = be.quality("bought", None, None, f.belief)
    prior = be.Prior(
        np.array([mean]),
        np.array([sd]),
        np.zeros(1),
        np.array([f.belief.new_packet_d_sd]),
        np.array([kind.living]),
    )
    g = be.nodes(be.fit(prior, be.Counts.none()), np.zeros(1))
    return success(g.g[0], g.weight[0], emergence(kind, setting), f.needs.emergence_beta_weight)


@dataclass(frozen=True)
class _Wishes:
    """What is wanted, by name: picks first, then foods in the household's order."""

    demands: list[Demand]
    chains: dict[str, Chain]
    foods: dict[str, FoodRow]
    picks: dict[str, Pick]

    @property
    def crops(self) -> set[str]:
        """Kinds that are asked for."""
        return {c for d in self.demands for c in d.crops} - {""}


def _wishes(v: Look, outlook: Outlook, year: int) -> _Wishes:
    pantry = pantry_units(v.session)
    overrides: dict[int, dict[str, float]] = {}
    for own in v.session.exec(live(ChainOverride)):
        overrides.setdefault(own.food_target_id, {})[own.link] = own.value
    crop_of = {r.part.lot_id: r.kind.key for r in outlook.rows}
    out = _Wishes([], {}, {}, {})
    for pick in sorted(v.session.exec(live(Pick).where(Pick.year == year)), key=key):
        name, crop = f"pick:{pick.id}", crop_of.get(pick.lot_id, "")
        out.demands.append(Demand(name, frozenset([crop]), pick.plants, frozenset([pick.lot_id])))
        out.picks[name] = pick
    foods = v.session.exec(live(FoodRow).where(FoodRow.year == year))
    for food in sorted(foods, key=lambda x: (x.priority, key(x))):
        name = f"food:{food.id}"
        own_links, stock = overrides.get(key(food), {}), pantry.get(food.product, 0.0)
        made = food_chain(food, own_links, v.kinds, stock)
        out.chains[name], out.foods[name] = made, food
        if made.plants is not None:
            out.demands.append(Demand(name, frozenset([food.crop]), int(made.plants.mid)))
    return out


def _supplies(v: Look, outlook: Outlook, asked: set[str]) -> tuple[list[Supply], dict[int, int]]:
    """What lots can give to what is asked for, and seeds of the lots that nothing asks for."""
    seeds = seeds_left(v.session, [row.part.lot_id for row in outlook.rows])
    lots = {key(x): x for x in v.session.exec(live(Lot)) if x.state != "gone"}
    aside, f = earmarks(v.session), figures().needs
    supplies, idle = [], {}
    for i, row in enumerate(outlook.rows):
        lot = row.part.lot_id
        if lot not in lots or not seeds[lot].known:
            continue
        if row.kind.key not in asked:
            idle[lot] = seeds[lot].whole
            continue
        if lots[lot].intended_use != "seed":
            continue  # meant for the table, for sale or for a swap
        sowing = sowing_of(row.kind, v.today, v.home)
        at_s, setting = (sowing.at_s, sowing.setting) if sowing else (float(v.now_s), None)
        one = seed_success(outlook, i, at_s, setting)
        mean = float(one.p @ one.weight)
        spare = max(0, seeds[lot].whole - round(aside.get(lot, 0.0)))
        # the line's own mothers come first; a lot that cannot promise them gives nothing to the table
        kept, mothers = bool(row.variety.kept_line), row.kind.crop.min_plants_viable
        spare = max(0, spare - reserve(mothers, one, v.home.line_confidence, spare, kept))
        good = usable(mean, row.kind.crop.field_emergence_factor, f)
        supplies.append(
            Supply(
                lot=lot,
                crop=row.kind.key,
                seeds=spare,
                success=one,
                oldest_s=float(row.cohort.record_from_s),
                usable=good and lots[lot].state == "here",
            )
        )
    return supplies, idle


def _plan(v: Look, outlook: Outlook, year: int) -> _Planned:
    wishes = _wishes(v, outlook, year)
    supplies, idle = _supplies(v, outlook, wishes.crops)
    bought = {}
    for crop in sorted(wishes.crops):
        sowing = sowing_of(v.kinds.get(crop), v.today, v.home)
        bought[crop] = _bought_success(v.kinds, crop, sowing.setting if sowing else None)
    plan = cover(wishes.demands, supplies, v.home.confidence, bought)
    return _Planned(wishes, plan, bought, outlook, idle)


@remembered
def needs_room(larder: Larder) -> NeedsRoom:
    """All foods and picks of the planning year with what covers them, shortfalls first."""
    year, outlook = target_year(larder), whole_outlook(larder)
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        planned = _plan(v, outlook, year)
        lots = {lot.id: lot for lot in v.session.exec(select(Lot))}
        names = {row.part.lot_id: row.variety.name for row in planned.look.rows}

        def covered(key: str) -> list[Covered]:
            return [
                Covered(t.lot, lots[t.lot].code, names.get(t.lot, ""), t.seeds)
                for t in planned.plan.taken
                if t.demand == key
            ]

        keys = [*planned.wishes.foods, *planned.wishes.picks]
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
        left,
        used,
        bool(row.variety.kept_line),
        row.kind.crop.min_plants_good,
        bool(row.variety.treated),
        figures().needs,
    )


def _line(
    key: str,
    planned: _Planned,
    kinds: Kinds,
    home: Household,
    covered: list[Covered],
    larder: Larder,
    names: dict[int, str],
) -> ChainLine:
    food, pick = planned.wishes.foods.get(key), planned.wishes.picks.get(key)
    demand = next((d for d in planned.wishes.demands if d.key == key), None)
    crop = food.crop if food else next(iter(demand.crops)) if demand else ""
    kind = kinds.get(crop)
    made = planned.wishes.chains.get(key)
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
        why=_why(made, plants, short, kind, home),
        caution=product.safety_note if product else "",
    )


def _why(
    made: Chain | None, plants: int | None, short: Short | None, kind: Kind, home: Household
) -> list[str]:
    """The links of a chain in sentences, each with its likely range and where it comes from."""
    why, lost = [], percent(figures().needs.plants_lost_before_harvest)
    if made is not None:
        why.append(
            f"Fresh produce: {made.fresh_kg.mid:.0f} kg, likely {made.fresh_kg.low:.0f}\u2013"
            f"{made.fresh_kg.high:.0f} ({made.fresh_kg.origin}: {made.fresh_kg.note})."
        )
        if made.plants is not None:
            why.append(
                f"Plants: likely {made.plants.low:.0f}\u2013{made.plants.high:.0f} "
                f"({made.plants.origin}: {made.plants.note}); {lost} are lost on the way (guess)."
            )
    if plants:
        why.append(
            f"Seeds: enough that {plants} plants stand {often(home.confidence)}, over what is "
            f"believed of each lot and an emergence of about "
            f"{percent(kind.crop.field_emergence_factor)} in the open."
        )
    if short is not None:
        why.append(sentence(short.reason, home))
    return why


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
