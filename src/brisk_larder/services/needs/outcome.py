"""What a food or pick comes to: its seeds, what is short, the next act, and why."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import TypedDict

from ...core.cover import CoverPlan, Short, seeds_to_buy
from ...core.needs import Chain, enough_plants
from ...core.plants import Seed
from ...core.shares import PART, whole_key
from ...core.succession import Sowings
from ...data.tables import FoodTarget as FoodRow
from ...data.tables import Household
from ..forecast.lines import LotLine
from ..forecast.outlook import Outlook
from ..forecast.soil_words import emergence_words
from ..forecast.sowing import sowing_of
from ..forecast.wishes import Wishes, product_of
from ..household.kinds import Kind, Kinds, figures, reference
from ..household.larder import Larder, today, writing_here
from ..household.wording import many, often, percent, prose, sentence
from .lines import METHOD_WORDS, ChainLine, Covered, Enough, Share
from .takes import piece_name, pieces_room, pieces_why, pieces_words, room_of


@dataclass(frozen=True)
class Planned:
    """Wishes of a year and how they are covered: what a bought seed of each kind is worth, packets nobody
    counted, names of the varieties that foods are split over, words of holes and of sowings, plants that
    are sown already, sowings one after the other."""

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
    sowing = sowing_of(kind, today(larder, home), home)
    order_by = None
    if short is not None and sowing is not None:
        order_by = max(sowing[0] - home.order_lead_days * 86_400, float(larder.now_s()))
    to_count = [
        stock[i].code for i, c in planned.uncounted.items() if any(d.takes(i, c) for d in demands)
    ]
    waits = [c.code for c in covered if stock[c.lot_id].verdict.code == "running"]
    says, act_words = _outcome(short, plants, covered, to_count, waits)
    sown_plants, split = planned.sown.get(key, 0), planned.rounds.get(key)
    if sown_plants and short is None and not covered:
        says, act_words = "sown", f"{many(sown_plants, 'plant')} expected of it"
    setting = sowing.setting if sowing else None
    room = room_of(made, plants, seeds, kind, setting)
    why = _why(made, plants, short, kind, setting, home)
    product = product_of(food.product) if food else None
    how = pick.purpose if pick else HOW[food.eaten_by] if food else ""
    if food is not None and food.eaten_by == "table":
        how = METHOD_WORDS.get(product.method, "") if product else "own product"
        if food.unit == "jars" and food.jar_litres != 1:
            how += f" of {writing_here().volume(food.jar_litres)}"
    caution = prose(product.safety_note) if product else ""
    if sown_plants:
        why.append(
            f"{many(sown_plants, 'plant')} of it are in the ground or expected of what is sown."
        )
    piece = reference().pieces.get(crop)
    if piece is not None and made is not None and made.planned is not None:
        plants = made.planned
        how = f"set as {piece.piece}s"
        says, act_words = pieces_words(piece, plants, home, planned.year)
        room = pieces_room(made, piece, plants)
        why = [*_produce(made), *pieces_why(piece)]
    if food is not None and food.eaten_by == "shoots" and made is not None:
        says, act_words = _of_seed(made.wanted.mid, kind, stock.values())
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
        crop_name=piece_name(crop) if piece else kind.name,
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
        why=why,
        caution=caution,
        tests_first=bool(short and short.reason.code == "short_too_unsure" and not waits),
        matters=f.food_weight if food else f.pick_weight,
        **_asked(food),
        enough=_enough(made),
        shares=shares,
        sow=planned.sow.get(key, []),
        notes=planned.wishes.notes.get(key, {}),
        sown_plants=sown_plants,
        rounds=split.wanted if split else 1,
        round_days=split.every_days if split else 0,
        **room,
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
    why = _produce(made) if made is not None else []
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


HOW = {"table": "", "animals": "for animals", "shoots": "eaten as shoots"}
SHOOTS = "Shoots: only clean, untreated seed of edible kinds; what was dressed for sowing is never eaten."


def _of_seed(wanted_g: float, kind: Kind, stock: Iterable[LotLine]) -> tuple[str, str]:
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
        return "covered", "eat " + ", ".join(codes)
    missing = f"{mass(wanted_g - have_g)} of seed missing"
    return missing, "buy untreated seed, or mean a packet for shoots"


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
