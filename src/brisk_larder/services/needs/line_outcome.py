"""What a food or pick comes to: its seeds, what is short, the next act, and why."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import NamedTuple, TypedDict

from ...core.base.units import DAY_S, day_start_s
from ...core.growing.succession import Sowings
from ...core.growing.windows import Window, order_state
from ...core.needs.cover import CoverPlan, Short, seeds_to_buy
from ...core.needs.outcome import Found, Late, Outcome, outcome
from ...core.needs.seed_needed import Chain, enough_plants
from ...core.needs.shares import PART, whole_key
from ...core.seed.pieces import SEED
from ...core.seed.plants import Seed
from ...data.tables import FoodTarget as FoodRow
from ...data.tables import Household
from ..forecast.lines import LotLine
from ..forecast.on_order import OrderLine
from ..forecast.outlook import Outlook
from ..forecast.soil_words import emergence_words
from ..forecast.sowing import last_day_in, late_until, sowing_in, sowing_of
from ..forecast.wishes import Wishes, made_of, product_of
from ..household.kind_types import listed, of_types, type_choices, types_asked
from ..household.kinds import Kind, Kinds, figures
from ..household.larder import Larder, today, writing_here
from ..household.planting_stock import unit_of
from ..household.wording import date_words, day_words, many, often, percent, prose, sentence
from .chain_lines import METHOD_WORDS, ChainLine, Covered, Enough, Share
from .space_taken import pieces_why, room_of


@dataclass(frozen=True)
class Missed:
    """A need of which nothing can be sown in its windows any more: the last of them, and the plants that are
    missing."""

    window: Window
    plants: int


@dataclass(frozen=True)
class Planned:
    """Wishes of a year and how they are covered: what a bought seed of each kind is worth, packets nobody
    counted, names of the varieties that foods are split over, words of holes and of sowings, plants that
    are sown already, sowings one after the other, needs whose sowing is over, orders on their way (by what
    stands for them among lots)."""

    year: int
    wishes: Wishes
    plan: CoverPlan
    bought: dict[str, Seed]
    look: Outlook
    uncounted: dict[int, str]
    varieties: dict[int, str]
    sow: dict[str, list[str]]
    sown: dict[str, int]
    rounds: dict[str, Sowings]
    missed: dict[str, Missed]
    coming: dict[int, OrderLine]


def line_of(
    key: str,
    planned: Planned,
    kinds: Kinds,
    home: Household,
    covered: list[Covered],
    larder: Larder,
    names: dict[int, str],
    stock: dict[int, LotLine],
) -> ChainLine:
    """One food or pick as the room shows it."""
    # long: one field after the other of what a line of the room shows
    food, pick = planned.wishes.foods.get(key), planned.wishes.picks.get(key)
    demands = [d for d in planned.wishes.demands if whole_key(d.key) == key]
    crop = food.crop if food else next(iter(demands[0].crops)) if demands else ""
    kind = kinds.get(crop)
    if food is not None:
        kind = of_types(kind, types_asked(crop, food.product, food.types))
    made = planned.wishes.chains.get(key)
    shorts = [s for s in planned.plan.short if whole_key(s.demand) == key]
    short = max(shorts, key=lambda s: s.plants, default=None)
    plants = sum(d.plants for d in demands) if demands else None
    seeds: int | None = sum(c.seeds for c in covered) if covered else None
    if short is not None and crop in planned.bought and plants is not None:
        seeds = seeds_to_buy(plants, planned.bought[crop], home.confidence)
    missing = [s.seeds for s in shorts]
    if len(shorts) > 1 and short is not None:
        all_known = sum(x for x in missing if x is not None) if None not in missing else None
        short = replace(short, plants=sum(s.plants for s in shorts), seeds=all_known)
    missed = planned.missed.get(key)
    day = today(larder, home)
    sowing = sowing_in(kind, day, home, planned.year)
    last = last_day_in(kind, day, home, planned.year)
    order = ""
    if short is not None and sowing is not None and last is not None:
        order = order_state(day, home.order_lead_days, sowing.first, last)
    order_by = None
    if short is not None and sowing is not None:
        order_by = float(day_start_s(sowing.first, home.tz) - home.order_lead_days * DAY_S)
    to_count = [
        stock[i].code for i, c in planned.uncounted.items() if any(d.takes(i, c) for d in demands)
    ]
    here = [c for c in covered if c.in_hand]
    waits = [c.code for c in here if stock[c.lot_id].verdict.code == "running"]
    asked_for_test = [c.code for c in here if stock[c.lot_id].verdict.test]
    unit = unit_of(kind, kind.piece.form if kind.piece else SEED, 1)
    sown_plants, split = planned.sown.get(key, 0), planned.rounds.get(key)
    found = outcome(
        Found(
            plants=plants,
            short=short.reason.code if short else "",
            covered=bool(covered),
            on_way=any(c.coming_s is not None for c in covered),
            running=bool(waits),
            test_asked=bool(asked_for_test),
            sown=bool(sown_plants),
            over=missed is not None,
            order=order,
        )
    )
    says, act_words = _words(
        found, short, covered, Named(to_count, waits, asked_for_test), unit, sown_plants
    )
    product = product_of(food.product) if food else None
    short_plants = missed.plants if missed else short.plants if short else 0
    less = _units_less(food, made, short_plants, plants)
    if found.late:
        assert sowing is not None, "an order has a sowing to come for"
        assert last is not None, "and its last day"
        less_said = less_words(food, less)
        act_words = _late_words(found.late, sowing.first, last, covered, less_said, home)
    setting = sowing.setting if sowing else None
    room = room_of(made, plants, seeds, kind, setting)
    why = _why(made, plants, short, kind, setting, home)
    if missed is not None:
        ways = missed_ways(kind, missed.window, home, day)
        says, act_words = f"{'sowing' if kind.piece is None else 'setting'} is over", ways[0].words
        why.append(missed_words(missed, less_words(food, less), ways, kind))
    how = pick.purpose if pick else HOW[food.eaten_by] if food else ""
    if food is not None and food.eaten_by == "table":
        how = METHOD_WORDS.get(product.method, "") if product else "own product"
        if food.unit == "jars" and food.jar_litres != 1:
            how += f" of {writing_here().volume(food.jar_litres)}"
    caution = prose(product.safety_note) if product else kind.hazard if kind.piece else ""
    if sown_plants:
        why.append(
            f"{many(sown_plants, 'plant')} of it are in the ground or expected of what is sown."
        )
    if kind.piece is not None:
        how = how if product is not None else f"set as {unit}s"
        at = len(why) - 1 if short is not None or missed is not None else len(why)
        why[at:at] = pieces_why(kind, plants or 0)  # what is missing is said last
    if food is not None and food.eaten_by == "shoots" and made is not None:
        found, says, act_words = _of_seed(made.wanted.mid, kind, stock.values())
        caution = f"{SHOOTS} {kind.hazard}".strip()
        why = [f"{writing_here().mass(made.wanted.mid)} of seed, from packets meant for eating."]
    shares = [
        Share(v, planned.varieties.get(v, ""), planned.wishes.split.get(key, {}).get(v, 1.0), n,
              next((s.plants for s in shorts if s.demand == f"{key}{PART}{v}"), 0))
        for v, n in planned.wishes.shares.get(key, {}).items()
    ]  # fmt: skip
    f = figures().room
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
        short_plants=short_plants,
        short_seeds=short.seeds if short else None,
        order_by_s=order_by,
        says=says,
        next_act=act_words,
        why=why,
        caution=caution,
        tests_first=found.asks == "test",
        matters=f.food_weight if food else f.pick_weight,
        **_asked(food),
        enough=_enough(made),
        shares=shares,
        sow=planned.sow.get(key, []),
        notes=planned.wishes.notes.get(key, {}),
        types=planned.wishes.types.get(key, []),
        chosen_types=list(listed(food.types)) if food else [],
        type_choices=type_choices(crop) if food else [],
        pinch=_at_a_pinch(planned.wishes.pinch.get(key, []), stock),
        sown_plants=sown_plants,
        rounds=split.wanted if split else 1,
        round_days=split.every_days if split else 0,
        sow_from_s=float(day_start_s(sowing.first, home.tz)) if sowing else None,
        sow_until_s=float(day_start_s(sowing.until, home.tz)) if sowing else None,
        sow_last_s=float(day_start_s(last, home.tz)) if last else None,
        missed_s=float(day_start_s(missed.window.last, home.tz)) if missed else None,
        order=order,
        less=less,
        outcome=found.code,
        asks=found.asks,
        unit=unit,
        also=sorted(made_of(food) - {crop}) if food else [],
        **room,
    )


def _at_a_pinch(lots: list[int], stock: dict[int, LotLine]) -> list[str]:
    """Packets that would do where the right type is short, with what they are."""
    there = [stock[i] for i in lots if i in stock]
    return [f"{x.code} {x.variety} ({x.type_name or 'its type is not said'})" for x in there]


def _why(
    made: Chain | None,
    plants: int | None,
    short: Short | None,
    kind: Kind,
    setting: str | None,
    home: Household,
) -> list[str]:
    """The links of a chain in sentences, each with its likely range and where it comes from."""
    why = _produce(made) if made is not None else []
    if plants:
        why.append(
            f"Seeds: enough that {plants} plants stand {often(home.confidence)}, over what is "
            f"believed of each packet and {emergence_words(kind, setting)}."
            if kind.piece is None
            else f"Enough are set that {plants} plants stand {often(home.confidence)}: "
            f"{percent(figures().pieces.stand_share)} of what is sound do (guess)."
        )
        row_m = plants * kind.crop.spacing_in_row_cm / 100
        wide = writing_here().depth(kind.crop.row_spacing_cm)
        why.append(f"Bed: {writing_here().distance(row_m)} of row, {wide} between rows (the book).")
    if short is not None:
        why.append(sentence(short.reason, home))
    return why


def _units_less(
    food: FoodRow | None, made: Chain | None, short_plants: int, plants: int | None
) -> float:
    """Units of a food that are missing where so many of its plants are."""
    if food is None or made is None or not plants or not short_plants:
        return 0.0
    return round(made.to_put_up.mid * min(1.0, short_plants / plants), 1)


def less_words(food: FoodRow | None, less: float) -> str:
    """So many units of a food, in the household's measures."""
    if food is None or not less:
        return ""
    if food.unit == "kg":
        return writing_here().kilos(less)
    return many(max(1, round(less)), "jar") if food.unit == "jars" else writing_here().volume(less)


def _late_words(
    late: Late,
    first: date,
    last: date,
    covered: list[Covered],
    less: str,
    home: Household,
) -> str:
    """What to do when the day to order by is past: sowing opens on ``first`` and ends on ``last``."""
    lead, until = timedelta(days=home.order_lead_days), date_words(last)
    if late == "late":
        missed, at_most = date_words(first - lead), date_words(last - lead)
        act = f"order at once: it was to be ordered by {missed}, and by {at_most} it still comes"
        return f"{act} for sowing by {until}"
    eat = f"eat about {less} less" if less else "do with less"
    what = "sow what is there" if covered else "buy plants"
    return f"too late to order for sowing by {until}: {what}, or {eat}"


class Way(NamedTuple):
    """What is still possible once a sowing is over: a code (late, plants, wait, another), and in words."""

    code: str
    words: str


def missed_ways(kind: Kind, window: Window, home: Household, day: date) -> list[Way]:
    """What is still possible once the sowing of a kind is over, the best first."""
    late, again = late_until(kind, window, home), sowing_of(kind, day, home)
    ways = []
    if late is not None and late >= day:
        verb = "sow" if kind.piece is None else "set"
        ways.append(Way("late", f"{verb} it late, by {date_words(late)} at most"))
    if window.setting == "indoors":
        ways.append(Way("plants", "buy plants"))
    if again is not None:
        ways.append(Way("wait", f"wait for {date_words(again.first, year=True)}"))
    return ways or [Way("another", "grow another kind instead")]


def missed_words(missed: Missed, less: str, ways: list[Way], kind: Kind) -> str:
    """What it means that a sowing is over, and all that is possible still."""
    where = "" if missed.window.setting == "outdoors" else " indoors"
    began, ended = date_words(missed.window.first), date_words(missed.window.last)
    doing, done = ("sowing", "sown") if kind.piece is None else ("setting", "set")
    said = f"Its days for {doing}{where} were {began} to {ended}; "
    said += f"{many(missed.plants, 'plant')} of it were not {done}"
    said += f", and about {less} will be missing on the shelf. " if less else ". "
    ripens = ", and see whether it ripens by the first frost" if ways[0].code == "late" else ""
    others = "; ".join([*(w.words for w in ways[1:]), "another kind"])
    return f"{said}Still possible: {ways[0].words}{ripens}; {others}."


HOW = {"table": "", "animals": "for animals", "shoots": "eaten as shoots"}
SHOOTS = "Shoots: only clean, untreated seed of edible kinds; what was dressed for sowing is never eaten."


def _of_seed(wanted_g: float, kind: Kind, stock: Iterable[LotLine]) -> tuple[Outcome, str, str]:
    """Of a food that is the seed itself: whether seed meant for the table is enough, and from which packets,
    the oldest first."""
    mass = writing_here().mass
    mine = [
        x
        for x in stock
        if x.kind == kind.key
        and x.intended_use in ("shoots", "food")
        and x.seeds
        and not x.treated
        and x.state in ("here", "fetched")
    ]
    have_g, codes = 0.0, []
    for x in sorted(mine, key=lambda x: (x.origin_s, x.code)):
        if have_g < wanted_g:
            codes.append(x.code)
        have_g += (x.seeds or 0) / x.seeds_per_g
    if have_g >= wanted_g:
        return Outcome("seed_here"), "covered", "eat " + ", ".join(codes)
    missing = f"{mass(wanted_g - have_g)} of seed missing"
    return Outcome("seed_short"), missing, "buy untreated seed, or mean a packet for shoots"


def _produce(made: Chain) -> list[str]:
    """Produce and plants in sentences."""
    kilos, lost = writing_here().kilos, percent(figures().needs.plants_lost_before_harvest)
    why = [
        f"Fresh produce: {kilos(made.fresh_kg.mid)}, likely {kilos(made.fresh_kg.low)} to "
        f"{kilos(made.fresh_kg.high)} ({made.fresh_kg.origin}: {made.fresh_kg.note})."
    ]
    if made.plants is not None:
        why.append(
            f"Plants: likely {made.plants.low:.0f}\u2013{made.plants.high:.0f} "
            f"({made.plants.origin}: {made.plants.note}); {lost} are lost on the way (guess)."
        )
        if made.planned is not None and made.plants.origin != "set" and made.planned:
            years = ", ".join(f"{e.plants} in {10 * e.share:.0f}" for e in _enough(made))
            why.append(f"Plants that are enough, in so many years of ten: {years}.")
    return why


YEARS_OF_TEN = (0.5, 0.8, 0.9)


def _enough(made: Chain | None) -> list[Enough]:
    """Plants that are enough in five, eight and nine years of ten."""
    if made is None or made.plants is None or made.plants.origin == "set" or not made.planned:
        return []
    return [Enough(s, enough_plants(made.plants, s)) for s in YEARS_OF_TEN]


class Asked(TypedDict):
    """How a food is asked for."""

    gifts: float
    reserve_share: float
    every_years: int
    sure: float
    jar_litres: float
    eaten_by: str


def _asked(food: FoodRow | None) -> Asked:
    return Asked(
        gifts=food.gifts if food else 0.0,
        reserve_share=food.reserve_share if food else 0.0,
        every_years=food.every_years if food else 1,
        sure=food.sure if food else 0.5,
        jar_litres=food.jar_litres if food else 1.0,
        eaten_by=food.eaten_by if food else "table",
    )


class Named(NamedTuple):
    """Codes of packets nobody ever counted, of those with a test under way, of those to be tested."""

    to_count: list[str]
    waits: list[str]
    to_test: list[str]


def _words(
    found: Outcome, short: Short | None, covered: list[Covered], named: Named, unit: str, sown: int
) -> tuple[str, str]:
    """What a food or pick comes to, and the next act, in words."""
    here = [c for c in covered if c.in_hand]
    codes, sow = ", ".join(c.code for c in here), sown_words(here)
    match found.code:
        case "no_yield":
            return "no yield known", "set the plants yourself"
        case "nothing_to_grow":
            return "nothing to grow", "the pantry holds it all"
        case "sown":
            return "sown", f"{many(sown, 'plant')} expected of it"
        case "covered":
            return "covered", sow
        case "ordered":
            due = ", ".join(
                f"{many(c.seeds, c.unit)} on the way, {day_words(c.coming_s)}"
                for c in covered
                if c.coming_s is not None
            )
            return "ordered", f"{sow}; {due}" if sow else due
        case "uncounted":
            return "not counted", "count first: " + ", ".join(named.to_count)
        case "amount_unsure":
            return "not sure enough", f"count first: {codes}"
        case "unsure":
            first = f"sow all of {codes}, and order beside it"
            if found.asks == "wait":
                first = "wait for the test of " + ", ".join(named.waits)
            elif found.asks == "test":
                first = "test first: " + ", ".join(named.to_test)
            return "not sure enough", first
    if short is None:
        return "", ""  # its sowing is over: told from the window
    missing = f"{unit}s" if short.seeds is None else many(short.seeds, unit)
    ways = "order or regrow" if unit == "seed" else "set aside or order them"
    return f"{missing} short", f"{many(short.plants, 'plant')} missing: {ways}"


def sown_words(here: list[Covered]) -> str:
    """What is sown and what is set of some packets: sow 41 of T4, set 60 of P1."""
    sow = ", ".join(f"{c.seeds} of {c.code}" for c in here if c.unit == "seed")
    put = ", ".join(f"{many(c.seeds, c.unit)} of {c.code}" for c in here if c.unit != "seed")
    return "; ".join(f"{verb} {words}" for verb, words in (("sow", sow), ("set", put)) if words)
