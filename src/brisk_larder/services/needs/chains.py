"""Needs: what the household wants to eat and grow, worked back to seeds, and what is short."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil
from typing import TypedDict

import numpy as np

from ...core import belief as be
from ...core.cover import CoverPlan, Short, Taken, cover, seeds_to_buy
from ...core.needs import Chain, line_reserve, sound, usable
from ...core.plants import Seed
from ...core.ways import Supply
from ...core.worlds import germination, ranks
from ...data.tables import Household
from ..air.look import Look, looking_at
from ..forecast.current import whole_outlook
from ..forecast.emergence import emergence_by_the_book, emergence_of
from ..forecast.lines import LotLine, lot_lines, test_seeds
from ..forecast.outlook import Outlook
from ..forecast.soil_words import emergence_words
from ..forecast.sowing import in_worlds, seed_of, sowing_of
from ..forecast.wishes import Wishes, product_of, wishes
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, planning_year, remembered, today, writing_here
from ..household.measures import measures_of
from ..household.quantity import earmarks, seeds_left
from ..household.wording import many, often, percent, prose, sentence

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
    """One food or pick as a readable chain. ``seeds``: None says "test first"; ``beside``: packets that
    may be dead, to be used up beside what is counted on; ``bed_m2``, ``row_m``: bed and row that its plants
    take; ``cells``: seeds begun indoors, one to a cell; ``jars`` to fill."""

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
    beside: list[Covered]
    pick_lot_id: int | None
    short_plants: int
    short_seeds: int | None
    order_by_s: float | None
    says: str
    next_act: str
    why: list[str]
    caution: str
    tests_first: bool
    bed_m2: float
    row_m: float
    cells: int
    jars: float


@dataclass(frozen=True)
class NeedsRoom:
    """The room: chains (shortfalls first), surplus per lot, and the season they stand for."""

    year: int
    season: str
    lines: list[ChainLine]
    surplus: list[Covered]
    order_by_s: float | None
    confidence: str
    bed_m2: float
    cells: int
    jars: int


def target_year(larder: Larder) -> int:
    """The household year that planning is for now."""
    with looking_at(larder) as v:
        home = v.home
        return planning_year(today(larder, home), home)


@dataclass(frozen=True)
class _Planned:
    wishes: Wishes
    plan: CoverPlan
    bought: dict[str, Seed]
    look: Outlook
    uncounted: dict[int, str]


def _bought(kinds: Kinds, key: str, setting: str | None) -> Seed:
    """A seed of a fresh bought packet, before anything is known of it."""
    kind, f = kinds.get(key), figures()
    mean, sd = be.quality("bought", None, None, f.belief)
    prior = be.Prior(
        np.array([mean]),
        np.array([sd]),
        np.zeros(1),
        np.array([f.belief.new_packet_d_sd]),
        np.array([kind.living]),
        np.array([f.belief.living_logit_sd]),
    )
    new = be.fit(prior, be.Counts.none(), ranks([f"bought:{key}"]))
    return Seed(germination(new, np.zeros(1))[0], emergence_of(kind, setting))


@dataclass(frozen=True)
class _Hand:
    """Lots that may be counted on, and the kinds of those that nobody ever counted."""

    supplies: list[Supply]
    uncounted: dict[int, str]


def _in_hand(v: Look, outlook: Outlook, lines: dict[int, LotLine], asked: set[str]) -> _Hand:
    """What lots can give to what is asked for: the verdict says which may be counted on."""
    seeds = seeds_left(v.session, [row.part.lot_id for row in outlook.rows])
    aside, f, out = earmarks(v.session), figures().needs, _Hand([], {})
    lines_of: dict[int | None, list[int]] = {}
    for i, row in enumerate(outlook.rows):
        lot = row.part.lot_id
        line = lines.get(lot)
        if line is None or row.kind.key not in asked:
            continue
        if line.intended_use != "seed" or not line.verdict.may_sow:
            continue  # meant for the table, for sale or for a swap; or dead
        if not seeds[lot].known:
            out.uncounted[lot] = row.kind.key
            continue
        sowing = sowing_of(row.kind, v.today, v.home)
        at_s, setting = (sowing.at_s, sowing.setting) if sowing else (float(v.now_s), None)
        one = seed_of(outlook, i, at_s, setting)
        asked_for_test = test_seeds(line.glance) if line.verdict.test else 0
        spare = max(0, seeds[lot].whole - round(aside.get(lot, 0.0)) - asked_for_test)
        if row.variety.kept_line:
            lines_of.setdefault(row.variety.id, []).append(len(out.supplies))
        # where the ground is hard on all seed, none of it is the worse for that
        learnt = one.emergence.mean / emergence_by_the_book(row.kind, setting)
        good = usable(one.mean, row.kind.crop.field_emergence_factor * learnt, f)
        out.supplies.append(
            Supply(
                lot=lot,
                crop=row.kind.key,
                seeds=spare,
                seed=one,
                oldest_s=float(row.cohort.record_from_s),
                usable=good and line.state in ("here", "fetched"),
                held=np.maximum(in_worlds(lot, seeds[lot]) - (seeds[lot].whole - spare), 0.0),
                sound=sound(
                    one, row.kind.crop.typical_initial_germination_pct / 100, figures().cover
                ),
                packet=float(
                    measures_of(row.kind).packet_seeds or figures().trials.uncounted_seeds
                ),
            )
        )
    for index in lines_of.values():
        _keep_mothers(out.supplies, index, kinds=v.kinds, confidence=v.home.line_confidence)
    return out


def _keep_mothers(
    supplies: list[Supply], index: list[int], *, kinds: Kinds, confidence: float
) -> None:
    """A line's own mothers come first, from all its packets together; one that cannot promise them gives
    nothing to the table."""
    mothers = kinds.get(supplies[index[0]].crop).crop.min_plants_viable
    keep = line_reserve([(supplies[i].seed, supplies[i].seeds) for i in index], mothers, confidence)
    for i, n in zip(index, keep, strict=True):
        one = supplies[i]
        held = np.maximum(one.held - n, 0.0)
        supplies[i] = replace(one, seeds=one.seeds - n, held=held)


def _plan(v: Look, outlook: Outlook, lines: dict[int, LotLine], year: int) -> _Planned:
    asked = wishes(v.session, v.kinds, year, v.now_s)
    hand = _in_hand(v, outlook, lines, asked.crops)
    bought = {}
    for crop in sorted(asked.crops):
        sowing = sowing_of(v.kinds.get(crop), v.today, v.home)
        bought[crop] = _bought(v.kinds, crop, sowing.setting if sowing else None)
    f = figures().cover
    plan = cover(asked.demands, hand.supplies, v.home.confidence, bought, f, hand.uncounted)
    return _Planned(asked, plan, bought, outlook, hand.uncounted)


@remembered
def needs_room(larder: Larder) -> NeedsRoom:
    """All foods and picks of the planning year with what covers them, shortfalls first."""
    year, outlook = target_year(larder), whole_outlook(larder)
    stock = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        planned = _plan(v, outlook, stock, year)
        names = {row.part.lot_id: row.variety.name for row in planned.look.rows}

        def named(taken: Sequence[Taken], key: str) -> list[Covered]:
            return [
                Covered(t.lot, stock[t.lot].code, names.get(t.lot, ""), t.seeds)
                for t in taken
                if t.demand == key
            ]

        keys = [*planned.wishes.foods, *planned.wishes.picks]
        lines = [
            replace(
                _line(k, planned, kinds, home, named(planned.plan.taken, k), larder, names, stock),
                beside=named(planned.plan.beside, k),
            )
            for k in keys
        ]
        taken: dict[int, int] = {}
        for t in planned.plan.taken:
            taken[t.lot] = taken.get(t.lot, 0) + t.seeds
        surplus = [
            Covered(x.lot_id, x.code, x.variety, x.spare)
            for x in stock.values()
            # the verdict leaves what its kind is asked for; a lot that gives more than its share says so
            if x.spare > 0
            and x.state == "here"
            and x.spare + taken.get(x.lot_id, 0) <= (x.seeds or 0)
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
        round(sum(x.bed_m2 for x in lines), 1),
        sum(x.cells for x in lines),
        ceil(sum(x.jars for x in lines)),
    )


def _line(
    key: str,
    planned: _Planned,
    kinds: Kinds,
    home: Household,
    covered: list[Covered],
    larder: Larder,
    names: dict[int, str],
    stock: dict[int, LotLine],
) -> ChainLine:
    # long: one field after the other of what a line of the room shows
    food, pick = planned.wishes.foods.get(key), planned.wishes.picks.get(key)
    demand = next((d for d in planned.wishes.demands if d.key == key), None)
    crop = food.crop if food else next(iter(demand.crops)) if demand else ""
    kind = kinds.get(crop)
    made = planned.wishes.chains.get(key)
    short = next((s for s in planned.plan.short if s.demand == key), None)
    plants = demand.plants if demand else None
    seeds: int | None = sum(c.seeds for c in covered) if covered else None
    if short is not None and crop in planned.bought and plants is not None:
        seeds = seeds_to_buy(plants, planned.bought[crop], home.confidence)
    sowing = sowing_of(kind, today(larder, home), home)
    order_by = None
    if short is not None and sowing is not None:
        order_by = max(sowing[0] - home.order_lead_days * 86_400, float(larder.now_s()))
    to_count = [stock[i].code for i, c in planned.uncounted.items() if demand and c in demand.crops]
    waits = [c.code for c in covered if stock[c.lot_id].verdict.code == "running"]
    says, act_words = _outcome(short, plants, covered, to_count, waits)
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
        beside=[],
        pick_lot_id=pick.lot_id if pick else None,
        short_plants=short.plants if short else 0,
        short_seeds=short.seeds if short else None,
        order_by_s=order_by,
        says=says,
        next_act=act_words,
        why=_why(made, plants, short, kind, sowing.setting if sowing else None, home),
        caution=prose(product.safety_note) if product else "",
        tests_first=bool(short and short.reason.code == "short_too_unsure" and not waits),
        **_room(made, plants, seeds, kind, sowing.setting if sowing else None),
    )


class Room(TypedDict):
    """What the plants of a food or pick take."""

    bed_m2: float
    row_m: float
    cells: int
    jars: float


def _room(
    made: Chain | None, plants: int | None, seeds: int | None, kind: Kind, setting: str | None
) -> Room:
    """Bed (m2) and row (m) at the book's spacing, cells for seed begun indoors, jars to fill."""
    row_m = (plants or 0) * kind.crop.spacing_in_row_cm / 100
    jars = made.to_put_up.mid if made is not None and made.to_put_up.unit == "jars" else 0.0
    return Room(
        bed_m2=round(row_m * kind.crop.row_spacing_cm / 100, 1),
        row_m=round(row_m, 1),
        cells=(seeds or 0) if setting == "indoors" and plants else 0,
        jars=jars,
    )


def _why(
    made: Chain | None,
    plants: int | None,
    short: Short | None,
    kind: Kind,
    setting: str | None,
    home: Household,
) -> list[str]:
    """The links of a chain in sentences, each with its likely range and where it comes from."""
    why, lost = [], percent(figures().needs.plants_lost_before_harvest)
    kilos = writing_here().kilos
    if made is not None:
        why.append(
            f"Fresh produce: {kilos(made.fresh_kg.mid)}, likely {kilos(made.fresh_kg.low)} to "
            f"{kilos(made.fresh_kg.high)} ({made.fresh_kg.origin}: {made.fresh_kg.note})."
        )
        if made.plants is not None:
            why.append(
                f"Plants: likely {made.plants.low:.0f}\u2013{made.plants.high:.0f} "
                f"({made.plants.origin}: {made.plants.note}); {lost} are lost on the way (guess)."
            )
    if plants:
        why.append(
            f"Seeds: enough that {plants} plants stand {often(home.confidence)}, over what is "
            f"believed of each packet and {emergence_words(kind, setting)}."
        )
        row_m = plants * kind.crop.spacing_in_row_cm / 100
        wide = writing_here().depth(kind.crop.row_spacing_cm)
        why.append(f"Bed: {writing_here().distance(row_m)} of row, {wide} between rows (the book).")
    if short is not None:
        why.append(sentence(short.reason, home))
    return why


def _outcome(
    short: Short | None,
    plants: int | None,
    covered: list[Covered],
    to_count: list[str],
    waits: list[str],
) -> tuple[str, str]:
    """What a food or pick comes to, and the next act; ``to_count``: codes nobody ever counted, ``waits``:
    codes with a test under way."""
    if plants is None:
        return "no yield known", "set the plants yourself"
    if plants == 0:
        return "nothing to grow", "the pantry holds it all"
    codes = ", ".join(c.code for c in covered)
    if short is None:
        return "covered", "sow " + ", ".join(f"{c.seeds} of {c.code}" for c in covered)
    if short.reason.code == "short_uncounted":
        return "not counted", "count first: " + ", ".join(to_count)
    if short.reason.code == "short_amount_unsure":
        return "not sure enough", f"count first: {codes}"
    if short.reason.code == "short_too_unsure":
        if waits:
            return "not sure enough", "wait for the test of " + ", ".join(waits)
        return "not sure enough", f"test first: {codes}"
    missing = "seeds" if short.seeds is None else many(short.seeds, "seed")
    return f"{missing} short", f"{many(short.plants, 'plant')} missing: order or regrow"
