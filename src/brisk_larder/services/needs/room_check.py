"""Whether the year fits, the cheapest way to make it fit; and how a need is sown: holes, cells, one after
the other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import ceil

from ...core.growing.succession import Sowings
from ...core.needs.cover import CoverPlan, Demand, holes
from ...core.needs.cover_ways import Supply
from ...core.needs.room import Has, Takes, evenings, fit
from ...core.needs.shares import whole_key
from ...data.queries import live
from ...data.tables import FoodTarget as FoodRow
from ...data.tables import Jar
from ..air.look import Look
from ..forecast.kept_pieces import lots_of_pieces
from ..forecast.sowing import sowing_in
from ..forecast.wishes import Wishes, pantry_units, product_of
from ..household.kind_types import of_types, types_asked
from ..household.kinds import figures
from ..household.wording import many
from .chain_lines import ChainLine, GiveUp, RoomCheck, UseLine
from .space_taken import held_by, succession, succession_words


def room_check(lines: Sequence[ChainLine], v: Look, year: int) -> RoomCheck:
    """All foods and picks against what the garden and the kitchen have room for."""
    home = v.home
    jars = list(v.session.exec(live(Jar)))
    full = _full_jars(lines, v)
    empty = {j.litres: float(max(0, j.owned - ceil(full.get(j.litres, 0.0)))) for j in jars}
    takes = [_takes(x, v, year) for x in lines]
    has = Has(home.food_bed_m2, home.cells, home.evenings, empty)
    found = fit(takes, has, figures().room)
    by_key = {x.key: x for x in lines}
    to_fill = {u.litres: u.needed for u in found.uses if u.what == "jars"}
    lids = {j.litres: j.lids for j in jars}
    return RoomCheck(
        fits=found.fits,
        said=any(x is not None for x in (has.bed_m2, has.cells, has.evenings)) or bool(jars),
        uses=[
            UseLine(
                u.what, u.litres, round(u.needed, 1), u.has, round(u.missing, 1),
                u.day.isoformat() if u.day else None,
            )
            for u in found.uses
        ],
        give_up=[
            GiveUp(
                k, by_key[k].name, share, by_key[k].per_week * (1 - share),
                ceil((by_key[k].plants or 0) * (1 - share)),
            )
            for k, share in sorted(found.give_up.items(), key=lambda x: -x[1])
        ],
        gap=found.gap,
        lids_short=sum(max(0, ceil(n) - lids.get(size, 0)) for size, n in to_fill.items()) if jars else 0,
    )  # fmt: skip


def jar_counts(lines: Sequence[ChainLine], v: Look) -> list[tuple[float, int, int, int, int]]:
    """By size (l): jars owned, full, to fill by the plan, and unused lids; sizes that nobody counted too."""
    jars = {j.litres: j for j in v.session.exec(live(Jar))}
    full, to_fill = _full_jars(lines, v), dict[float, float]()
    for x in lines:
        if x.jars:
            to_fill[x.jar_litres] = to_fill.get(x.jar_litres, 0.0) + x.jars
    return [
        (
            size,
            jars[size].owned if size in jars else 0,
            ceil(full.get(size, 0.0)),
            ceil(to_fill.get(size, 0.0)),
            jars[size].lids if size in jars else 0,
        )
        for size in sorted({*jars, *full, *to_fill})
    ]


def _full_jars(lines: Sequence[ChainLine], v: Look) -> dict[float, float]:
    """Jars that are full, by size: what stands on the shelf of all that is kept in jars."""
    litres = {x.product: x.jar_litres for x in lines if x.kind == "food"}
    for food in v.session.exec(live(FoodRow)):
        litres.setdefault(food.product, food.jar_litres)
    out: dict[float, float] = {}
    for product, units in pantry_units(v.session).items():
        book = product_of(product)
        if book is not None and book.pack_unit == "L_jar":
            size = litres.get(product, 1.0)
            out[size] = out.get(size, 0.0) + units
    return out


def _takes(x: ChainLine, v: Look, year: int) -> Takes:
    product = product_of(x.product)
    method = product.method if product is not None else ""
    bed, cells = None, None
    if x.plants:
        asked = types_asked(x.crop, x.product, ",".join(x.chosen_types))
        kind = of_types(v.kinds.get(x.crop), asked)
        sown = sowing_in(kind, v.today, v.home, year)
        fresh = x.weeks if method == "fresh" else 0.0
        bed, cells = held_by(kind, sown, v.home, x.bed_m2, x.cells, fresh)
    kilos = x.chain.fresh_kg.mid if x.chain is not None else 0.0
    work = evenings(figures().room, x.cells, x.row_m, x.jars, method, kilos)
    filled = {x.jar_litres: x.jars} if x.jars else {}
    return Takes(x.key, x.matters, bed, cells, work, filled)


def how_sown(
    asked: Wishes,
    open_: Sequence[Demand],
    plan: CoverPlan,
    supplies: Mapping[int, Supply],
    v: Look,
    year: int,
) -> tuple[dict[str, list[str]], dict[str, Sowings]]:
    """How what is left of each need (``open_``) is sown, in words: one a hole or two and thinned; and its
    sowings one after the other."""
    out: dict[str, list[str]] = {}
    rounds: dict[str, Sowings] = {}
    took: dict[str, list[tuple[int, int]]] = {}
    for t in plan.taken:
        took.setdefault(t.demand, []).append((t.lot, t.seeds))
    short, pieces = {s.demand for s in plan.short}, lots_of_pieces(v.session)
    for d in open_:
        name, lots = whole_key(d.key), took.get(d.key, [])
        food = asked.foods.get(name)
        kind = v.kinds.get(next(iter(d.crops)))
        sown = sowing_in(kind, v.today, v.home, year)
        said = out.setdefault(name, [])
        of_seed = kind.piece is None and lots and lots[0][0] not in pieces
        if len(lots) == 1 and of_seed and d.key not in short and name not in asked.shares:
            (lot, seeds), inside = lots[0], sown is not None and sown.setting == "indoors"
            said += _holes(d.plants, supplies[lot], seeds, inside, v.home.confidence)
        book = product_of(food.product) if food is not None else None
        if food is None or book is None or book.method != "fresh" or name in rounds:
            continue
        split = succession(kind, sown, v.home, asked.plants_of_key(name), food.weeks)
        if split is not None:
            rounds[name] = split
            said.append(succession_words(split, food.weeks))
    return out, rounds


def _holes(plants: int, lot: Supply, seeds: int, inside: bool, confidence: float) -> list[str]:
    """One seed to a hole or cell against two, thinned to one."""
    two = holes(plants, lot, 2, confidence)
    if two is None:
        return []
    hole = "cell" if inside else "hole"
    return [
        f"{many(seeds, 'seed')}, one to a {hole}, or {2 * two} seeds in {two} {hole}s, two to each and "
        "thinned to one."
    ]
