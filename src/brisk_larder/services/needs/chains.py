"""Needs: what the household wants to eat and grow, worked back to seeds, and what is short."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil

import numpy as np
from sqlmodel import col, select

from ...core.base.units import local_day
from ...core.growing.life_cycle import remnant
from ...core.growing.windows import Window
from ...core.hand.seed_count import Seeds
from ...core.needs.cover import TRY, CoverPlan, Demand, Short, Taken, cover
from ...core.needs.cover_ways import Supply
from ...core.needs.seed_needed import line_reserve, sound, usable
from ...core.needs.shares import PART, less_what_is_sown, whole_key
from ...core.seed import belief as be
from ...core.seed.plants import Seed
from ...core.seed.worlds import germination, ranks
from ...data.queries import key
from ...data.tables import Cohort, Part, Variety
from ..air.look import Look, looking_at
from ..forecast.current import whole_outlook
from ..forecast.emergence import emergence_by_the_book, emergence_of
from ..forecast.line_sowings import lines_sown
from ..forecast.lines import LotLine, lot_lines, test_seeds
from ..forecast.on_order import Coming, OrderLine, coming
from ..forecast.outlook import Outlook
from ..forecast.sowing import in_worlds, last_day_in, missed_in, reckoned_s, seed_of, sowing_in
from ..forecast.wishes import Wishes, product_of, wishes
from ..household.kinds import Kinds, figures
from ..household.larder import Larder, household_year, planning_year, remembered, season
from ..household.lot_quantity import held_back, seeds_left
from ..household.memory import Told, recall, remember
from ..household.own_units import measures_of
from ..household.planting_stock import as_set, piece_worth
from ..household.wording import often
from .chain_lines import ORDERABLE, ORDERED, Covered, NeedsRoom
from .in_ground import plants_in_ground
from .line_outcome import Missed, Planned, line_of
from .room_check import how_sown, room_check


def target_year(larder: Larder) -> int:
    """The household year that planning is for now."""
    with looking_at(larder) as v:
        return planning_year(v.session, v.today, v.home)


def _bought(kinds: Kinds, key: str, setting: str | None) -> Seed:
    """A seed of a fresh bought packet, before anything is known of it."""
    kind, f = kinds.get(key), figures()
    if kind.piece is not None:
        return piece_worth()
    prior = be.prior_of_new(be.quality("bought", None, None, f.belief), kind.living, f.belief)
    new = be.fit(prior, be.Counts.none(), ranks([f"bought:{key}"]))
    return Seed(germination(new, np.zeros(1))[0], emergence_of(kind, setting))


@dataclass(frozen=True)
class _Hand:
    """Lots that may be counted on, and the kinds of those that nobody ever counted."""

    supplies: list[Supply]
    uncounted: dict[int, str]


def _in_hand(
    v: Look, outlook: Outlook, lines: dict[int, LotLine], asked: set[str], year: int
) -> _Hand:
    """What lots can give to what is asked for: the verdict says which may be counted on."""
    seeds = seeds_left(v.session, [row.part.lot_id for row in outlook.rows])
    grown = _grown_now(v)
    aside, f, out = held_back(v.session), figures().needs, _Hand([], {})
    lines_of: dict[int | None, list[int]] = {}
    away = set[int]()
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
        if line.form:
            out.supplies.append(
                _of_pieces(lot, row.kind.key, seeds[lot], aside.get(lot, 0.0), line)
            )
            continue
        sowing = sowing_in(row.kind, v.today, v.home, year)
        setting = sowing.setting if sowing else None
        at_s = reckoned_s(sowing, v.today, v.home) if sowing else float(v.now_s)
        one = seed_of(outlook, i, at_s, setting)
        if line.state not in ("here", "fetched"):
            away.add(lot)  # it keeps its line, wherever it is; it is not sown
        asked_for_test = test_seeds(line.glance) if line.verdict.test else 0
        rest = seeds[lot].whole - round(aside.get(lot, 0.0)) - asked_for_test
        in_ground = row.variety.kept_line and row.variety.id in grown
        spare = max(0, rest - (remnant(seeds[lot].whole, figures().growing) if in_ground else 0))
        if row.variety.kept_line and not in_ground:
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
                usable=good,
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
    return _Hand([replace(x, seeds=0) if x.lot in away else x for x in out.supplies], out.uncounted)


def _of_pieces(lot: int, crop: str, have: Seeds, aside: float, line: LotLine) -> Supply:
    """What tubers, sets and plants can give: each stands or not, whatever its kind's seed does."""
    here = line.state in ("here", "fetched")
    spare = max(0, have.whole - round(aside)) if here else 0
    held = np.maximum(in_worlds(lot, have) - (have.whole - spare), 0.0)
    return Supply(
        lot=lot, crop=crop, seeds=spare, seed=piece_worth(), oldest_s=line.origin_s, usable=True, held=held,
        sound=True, packet=float(max(1, have.whole)),
    )  # fmt: skip


def _grown_now(v: Look) -> set[int]:
    """Lines whose mothers are in the ground this season and did not fail: only a remnant is held back of
    them."""
    since = season(v.home, household_year(v.today, v.home))[0]
    return {s.variety_id for s in lines_sown(v.session, v.home) if s.day >= since and not s.failed}


def _on_their_way(v: Look, orders: Sequence[Coming], asked: set[str], year: int) -> list[Supply]:
    """What is ordered and comes in time to be sown, as if it were there."""
    out = []
    for c in orders:
        kind = v.kinds.get(c.line.crop)
        set_as = as_set(kind, c.line.form)
        last = last_day_in(set_as, v.today, v.home, year) if kind.key in asked else None
        if last is None:
            continue
        if local_day(max(c.line.expected_s, float(v.now_s)), v.home.tz) > last:
            continue  # it would come too late
        seeds = c.line.seeds
        usual = kind.crop.typical_initial_germination_pct / 100
        out.append(
            Supply(
                lot=c.lot,
                crop=kind.key,
                seeds=seeds,
                seed=c.seed,
                oldest_s=c.line.expected_s,
                usable=True,
                held=np.full(len(c.seed.g), float(seeds)),
                sound=bool(c.line.form) or sound(c.seed, usual, figures().cover),
                packet=float(max(1, seeds // c.line.packs)),
            )
        )
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


def _plan(v: Look, outlook: Outlook, lines: dict[int, LotLine], year: int, before: Told) -> Planned:
    asked = wishes(v.session, v.kinds, year, v.now_s)
    hand = _in_hand(v, outlook, lines, asked.crops, year)
    orders = coming(v, list(lines.values()))
    supplies = [*hand.supplies, *_on_their_way(v, orders, asked.crops, year)]
    bought = {}
    for crop in sorted(asked.crops):
        sowing = sowing_in(v.kinds.get(crop), v.today, v.home, year)
        bought[crop] = _bought(v.kinds, crop, sowing.setting if sowing else None)
    f = figures().cover
    mine = _with_orders(v, asked, orders)
    demands, sown = less_what_is_sown(
        mine, plants_in_ground(v, outlook, year), figures().needs.missed_share, _fresh(asked)
    )
    wanted = {d.key: d.plants for d in mine}
    past: dict[str, Window] = {}
    ready = _still_set(v, lines, orders, year)
    for i, d in enumerate(demands):
        over_of = {c: missed_in(v.kinds.get(c), v.today, v.home, year) for c in sorted(d.crops)}
        late = [w for w in over_of.values() if w is not None]
        if len(late) < len(over_of):  # one of its kinds can still be sown
            demands[i] = replace(d, crops=frozenset(c for c, w in over_of.items() if w is None))
        elif still := {lot for c in over_of for lot in ready.get(c, ())}:
            demands[i] = replace(
                d, among=frozenset(still)
            )  # its seed is too late, its plants are not
        else:
            past[d.key] = max(late, key=lambda w: w.last)
    # what little is missing of a need whose sowing is over is not worth a word
    least = figures().needs.missed_share
    over = [d for d in demands if d.key in past and d.plants > least * wanted[d.key]]
    open_ = [d for d in demands if d.key not in past]
    told = {
        k: tuple((int(i), int(n)) for i, n in way)
        for k, way in before.items()
        if not k.startswith(SHORT)
    }
    plan = cover(open_, supplies, v.home.confidence, bought, f, hand.uncounted, told)
    plan = replace(plan, short=tuple(_as_told(s, before.get(SHORT + s.demand)) for s in plan.short))
    chosen = sorted({i for some in asked.shares.values() for i in some})
    named = v.session.exec(select(Variety).where(col(Variety.id).in_(chosen)))
    sow, rounds = how_sown(asked, open_, plan, {x.lot: x for x in supplies}, v, year)
    missed: dict[str, Missed] = {}
    for d in over:
        so_far = missed.get(whole_key(d.key), Missed(past[d.key], 0)).plants
        missed[whole_key(d.key)] = Missed(past[d.key], so_far + d.plants)
    return Planned(
        year, asked, plan, bought, outlook, hand.uncounted, {key(x): x.name for x in named}, sow,
        {whole_key(k): sum(n for d, n in sown.items() if whole_key(d) == whole_key(k)) for k in sown},
        rounds, missed, {c.lot: c.line for c in orders},
    )  # fmt: skip


def _still_set(
    v: Look, lines: dict[int, LotLine], orders: Sequence[Coming], year: int
) -> dict[str, set[int]]:
    """By kind, lots and orders of pieces that can still be set in a year."""
    out: dict[str, set[int]] = {}
    mine = [(i, x.kind, x.form) for i, x in lines.items() if x.form and x.verdict.may_sow]
    mine += [(c.lot, c.line.crop, c.line.form) for c in orders if c.line.form]
    for lot, crop, form in mine:
        if last_day_in(as_set(v.kinds.get(crop), form), v.today, v.home, year) is not None:
            out.setdefault(crop, set()).add(lot)
    return out


def _fresh(asked: Wishes) -> frozenset[str]:
    """Foods that are eaten fresh: they are sown one time after the other."""
    books = {k: product_of(food.product) for k, food in asked.foods.items()}
    return frozenset(k for k, book in books.items() if book is not None and book.method == "fresh")


def _with_orders(v: Look, asked: Wishes, orders: Sequence[Coming]) -> list[Demand]:
    """What is asked for; a share of one variety, and a pick, may be met by an order of just that variety."""
    if not orders:
        return asked.demands
    names = {key(x): x.name.casefold() for x in v.session.exec(select(Variety))}
    by_lot = dict(
        v.session.exec(
            select(Part.lot_id, Cohort.variety_id).join(Cohort, col(Part.cohort_id) == Cohort.id)
        ).all()
    )
    out = []
    for d in asked.demands:
        if d.among is not None and PART not in d.key:
            fits = [c for c in orders if asked.of_its_type(d.key, c.line.crop, c.line.types)]
            out.append(replace(d, among=d.among | {c.lot for c in fits}))
            continue
        if d.among is not None:
            wanted = {names.get(int(d.key.split(PART)[1]), "")}
        else:
            wanted = {names.get(by_lot.get(i, 0), "") for i in d.lots}
        more = frozenset(c.lot for c in orders if c.line.variety.casefold() in wanted - {""})
        if d.among is not None:
            out.append(replace(d, among=d.among | more))
        else:
            out.append(replace(d, lots=d.lots | more) if d.lots else d)
    return out


@remembered
def needs_room(larder: Larder) -> NeedsRoom:
    """All foods and picks of the planning year with what covers them, shortfalls first."""
    return _room(larder, target_year(larder))


@remembered
def season_room(larder: Larder) -> NeedsRoom:
    """The same for the household year that is under way: late in it the next is planned already, but what is
    left of this one is still sown."""
    with looking_at(larder) as v:
        year = household_year(v.today, v.home)
    planned = needs_room(larder)
    return planned if planned.year == year else _room(larder, year)


def _told_of(plan: CoverPlan) -> Told:
    """What is told to be taken for each need that is met, to stand until something changes it."""
    short, out = {s.demand for s in plan.short}, Told()
    for t in (*plan.taken, *plan.beside):
        trying = t.demand in short or t in plan.beside
        out.setdefault(TRY + t.demand if trying else t.demand, []).append([t.lot, t.seeds])
    return out | {SHORT + s.demand: [s.plants, s.seeds] for s in plan.short}


SHORT = "short:"  # before the demand of which so many plants and seeds were told to be missing


def _as_told(short: Short, told: list[int | None] | None) -> Short:
    """What is missing in the numbers that were told, while they are about right and say no less than is
    missing."""
    if told is None or told[0] is None or (told[1] is None) != (short.seeds is None):
        return short
    near = 1 + figures().cover.retold_share * short.plants
    stands = 0 <= told[0] - short.plants <= near and (told[1] or 0) >= (short.seeds or 0)
    return replace(short, plants=told[0], seeds=told[1]) if stands else short


def _ordered(order: OrderLine, seeds: int) -> Covered:
    """Seed of an order, as what covers a need."""
    return Covered(
        -order.order_id, ORDERED, order.variety or order.name, seeds, order.expected_s, order.unit
    )


def _room(larder: Larder, year: int) -> NeedsRoom:
    # long: what is read, the plan, then one figure of the room after the other
    outlook = whole_outlook(larder)
    stock = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        home, kinds = v.home, v.kinds
        before = recall(v.session, f"cover:{year}")
        planned = _plan(v, outlook, stock, year, before)
        names = {row.part.lot_id: row.variety.name for row in planned.look.rows}

        def named(taken: Sequence[Taken], of: str) -> list[Covered]:
            mine = [t for t in taken if whole_key(t.demand) == of]
            here = sorted(
                (t for t in mine if t.lot in stock),
                key=lambda t: (stock[t.lot].origin_s, stock[t.lot].code),
            )
            return [
                *(
                    Covered(
                        t.lot,
                        stock[t.lot].code,
                        names.get(t.lot, ""),
                        t.seeds,
                        None,
                        stock[t.lot].unit,
                    )
                    for t in here
                ),
                *(_ordered(planned.coming[t.lot], t.seeds) for t in mine if t.lot not in stock),
            ]

        keys = [*planned.wishes.foods, *planned.wishes.picks]
        lines = [
            replace(
                line_of(
                    k, planned, kinds, home, named(planned.plan.taken, k), larder, names, stock
                ),
                beside=named(planned.plan.beside, k),
            )
            for k in keys
        ]
        room = room_check(lines, v, year)
        taken: dict[int, int] = {}
        for t in planned.plan.taken:
            taken[t.lot] = taken.get(t.lot, 0) + t.seeds
        surplus = [
            Covered(x.lot_id, x.code, x.variety, x.spare, None, x.unit)
            for x in stock.values()
            # the verdict leaves what its kind is asked for; a lot that gives more than its share says so
            if x.spare > 0
            and x.state == "here"
            and x.spare + taken.get(x.lot_id, 0) <= (x.seeds or 0)
        ]
    remember(larder, f"cover:{year}", before, _told_of(planned.plan))
    lines.sort(
        key=lambda x: (
            x.short_plants == 0,
            x.missed_s is not None,
            x.kind != "food",
            -(x.short_seeds or 0),
        )
    )
    orders = [x.order_by_s for x in lines if x.order_by_s is not None and x.order in ORDERABLE]
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
        room,
    )
