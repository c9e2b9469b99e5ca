"""What the household wants to eat: foods, the varieties they are split over, last year's list taken over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from sqlmodel import col

from ...core.base.errors import Conflict, InvalidValue
from ...core.base.units import YEAR_S
from ...core.needs.pantry import next_year, shelf
from ...data.acts import expect_version
from ...data.queries import key, live
from ...data.tables import ChainOverride, FoodShare, Pick, Variety
from ...data.tables import FoodTarget as FoodRow
from ..acts.acting import Doing, Done, act
from ..air.look import looking_at
from ..forecast.current import whole_outlook
from ..forecast.lines import lot_lines
from ..forecast.wishes import entries_by_product, product_of
from ..household.kind_types import read_types
from ..household.kinds import UNKNOWN, figures, reference
from ..household.larder import Larder, planning_year, today, writing_here, year_to_name
from ..household.possible_values import get_live
from ..household.wording import all_of
from .chain_lines import EATEN_BY
from .chains import target_year
from .products import unit_of

RANGES = {
    "per week": (0.0, 1000.0), "weeks": (0.01, 53.0), "gifts": (0.0, 10_000.0), "reserve": (0.0, 2.0),
    "put up every so many years": (1, 10), "years in which it is enough": (0.5, 0.99),
    "size of the jar": (0.05, 10.0),
}  # fmt: skip


@dataclass(frozen=True)
class FoodMade:
    """The food on the list."""

    target_id: int


@dataclass(frozen=True)
class SharedOver:
    """A variety that a food is grown of, and how much of it beside the others."""

    variety_id: int
    share: float = 1.0


def wanted_already(larder: Larder, product: str, crop: str | None, eaten_by: str) -> list[str]:
    """What is said before the same food is put on the year's list a second time."""
    book = product_of(product)
    same = {product, book.same_as if book else "", *_same_as(product)} - {""}
    with looking_at(larder) as v:
        year = planning_year(v.session, v.today, v.home)
        rows = v.session.exec(
            live(FoodRow).where(FoodRow.year == year, FoodRow.eaten_by == eaten_by)
        )
        return [
            f"{row.name} is on this year's list already, {writing_here().said(f'{row.per_week:g}')} "
            f"{row.unit} a week"
            for row in rows
            if row.product in same and (book is not None or row.crop == crop)
        ]


def _same_as(product: str) -> list[str]:
    """Products of the book that are the same food in another measure."""
    book = product_of(product)
    main = (book.same_as or product) if book else product
    return [p.product for p in reference().products.values() if main in (p.same_as, p.product)]


@act("food_target")
def set_target(
    a: Doing,
    *,
    product: str,
    per_week: float,
    weeks: float,
    name: str = "",
    crop: str | None = None,
    unit: str = "",
    gifts: float = 0.0,
    reserve_share: float = 0.0,
    every_years: int = 1,
    sure: float = 0.5,
    jar_litres: float = 1.0,
    eaten_by: str = "table",
    types: str | None = None,
    also: Sequence[str] | None = None,
    shares: Sequence[SharedOver] | None = None,
    target_id: int | None = None,
    version: int | None = None,
    year: int | None = None,
) -> FoodMade:
    """Add a food, or change one. ``product``: a name of the book, or the household's own word; ``shares``:
    the varieties it is split over (None: as they are); ``types``: those that it may be met from, keys with
    commas (empty: those that serve it well; None: as they are); ``also``: other kinds it may be made of.

    Raises InvalidValue for negatives, more than 53 weeks, or an own product without a crop.
    """
    # long: one check a field, then the row
    book = product_of(product)
    made_of = book.crop if book else (crop or "")
    if not product.strip():
        raise InvalidValue("food", product, "a product of the book, or your own word for it")
    if book is None and not made_of:
        raise InvalidValue("crop", crop, "the kind of plant this food is made of")
    values = (per_week, weeks, gifts, reserve_share, every_years, sure, jar_litres)
    for (field, (low, high)), value in zip(RANGES.items(), values, strict=True):
        if not low <= value <= high:
            raise InvalidValue(field, value, f"{low:g} to {high:g}")
    if eaten_by not in EATEN_BY:
        raise InvalidValue("eaten by", eaten_by, ", ".join(EATEN_BY))
    planning = year if year is not None else target_year(a.of)
    pieces = reference().pieces
    if made_of not in a.kinds.by_key:
        raise InvalidValue("crop", made_of, "a kind of the table or one of your own")
    if eaten_by == "shoots" and made_of in pieces:
        raise InvalidValue(
            "eaten by", eaten_by, "table or animals: it is set as pieces, not as seed"
        )
    fallback = "g" if eaten_by == "shoots" else unit_of(book) if book else "kg"
    if target_id is None:
        row = FoodRow(
            year=planning,
            product=product,
            crop=made_of,
            name=name or product,
            unit=unit or fallback,
            per_week=per_week,
            weeks=weeks,
        )
    else:
        row = get_live(a.session, FoodRow, target_id, "food")
        expect_version(row, version, row.name)
        if (row.eaten_by == "shoots") != (eaten_by == "shoots"):
            row.unit = fallback
    row.per_week, row.weeks, row.gifts, row.reserve_share = per_week, weeks, gifts, reserve_share
    row.every_years, row.sure, row.jar_litres, row.eaten_by = (
        every_years,
        sure,
        jar_litres,
        eaten_by,
    )
    if name:
        row.name = name
    if types is not None:
        row.types = read_types(types, made_of)
    if also is not None:
        row.also = _also(a, also, made_of)
    a.session.add(row)
    a.session.flush()
    if shares is not None:
        _share(a, row, shares)
    a.about(f"food:{row.id}")
    a.summary = f"Wants {per_week:g} {row.unit} of {row.name} a week for {weeks:g} weeks"
    return FoodMade(key(row))


def _also(a: Doing, kinds: Sequence[str], made_of: str) -> str:
    """Other kinds that a food may be made of, as they are kept. Raises InvalidValue."""
    for one in kinds:
        if one not in a.kinds.by_key or a.kinds.get(one).key == UNKNOWN:
            raise InvalidValue("or also", one, "a kind of the table or one of your own")
    return ",".join(k for k in dict.fromkeys(kinds) if k != made_of)


def _share(a: Doing, food: FoodRow, shares: Sequence[SharedOver]) -> None:
    """Split a food over these varieties, and over no others."""
    wanted: dict[int, float] = {}
    for s in shares:
        variety = get_live(a.session, Variety, s.variety_id, "variety")
        if a.kinds.get(variety.crop).key != food.crop:
            raise InvalidValue("variety", variety.name, f"one of the kind {food.name} is made of")
        if not 0 < s.share <= 1000:
            raise InvalidValue(f"share of {variety.name}", s.share, "more than 0, at most 1000")
        wanted[s.variety_id] = s.share
    rows = a.session.exec(live(FoodShare).where(FoodShare.food_target_id == key(food))).all()
    for row in rows:
        if row.variety_id in wanted:
            row.share = wanted.pop(row.variety_id)
        else:
            row.deleted_s = a.now_s
    for variety_id, share in wanted.items():
        a.session.add(FoodShare(food_target_id=key(food), variety_id=variety_id, share=share))


@dataclass(frozen=True)
class GivenUp:
    """A share (0-1) of a food or pick, by its key in the room ("food:12"), to give up."""

    key: str
    share: float


# of a chain with a number of the keeper's own it is the last of these that stands whatever is wanted a week
LOWERED = ("plants", "fresh_kg", "to_put_up", "wanted")


@act("give_up")
def give_up(a: Doing, shares: Sequence[GivenUp]) -> Done:
    """Want so much less of some foods and picks, all in one act; a pick of which nothing is left is taken
    back."""
    if not shares:
        raise InvalidValue("foods", "none", "at least one")
    names = []
    for said in shares:
        if not 0 < said.share <= 1:
            raise InvalidValue("share", said.share, "more than 0, at most 1")
        kind, _, number = said.key.partition(":")
        if kind not in ("food", "pick") or not number.isdecimal():
            raise InvalidValue("food", said.key, "one of the list, such as food:12")
        left = 1.0 - said.share
        if kind == "pick":
            pick = get_live(a.session, Pick, int(number), "pick")
            pick.plants = max(1, ceil(pick.plants * left))
            if left < LEAST_LEFT:
                pick.deleted_s = a.now_s
            names.append("a pick")
            continue
        food = get_live(a.session, FoodRow, int(number), "food")
        own = {
            x.link: x
            for x in a.session.exec(
                live(ChainOverride).where(ChainOverride.food_target_id == food.id)
            )
        }
        link = next((own[k] for k in LOWERED if k in own), None)
        if link is not None:
            link.value *= left
        else:
            food.per_week *= left
            food.gifts *= left
        names.append(food.name)
        a.about(said.key)
    a.summary = f"Less of {all_of(names)}, so that the year fits"
    return Done()


LEAST_LEFT = 0.005  # of a pick: less is nothing


@dataclass(frozen=True)
class LastFood:
    """A food of last year's list: so much a week, how much of it is left over, and what is proposed for this
    year, with its reason; ``target_id``: of the row of last year."""

    target_id: int
    name: str
    unit: str
    per_week: float
    proposed: float
    weeks: float
    says: str


@dataclass(frozen=True)
class LastYear:
    """Last year's list, as far as it is not on this year's yet."""

    year: int
    foods: list[LastFood]


def last_year(larder: Larder) -> LastYear:
    """Last year's list beside what became of it: what is left over lowers what is proposed, what ran out
    raises it."""
    now_s = larder.now_s()
    with looking_at(larder) as v:
        planning = year_to_name(v.today, v.home)
        rows = v.session.exec(live(FoodRow).order_by(col(FoodRow.priority), col(FoodRow.id))).all()
        entries = entries_by_product(v.session)
        kinds_now = {(r.product, r.crop) for r in rows if r.year == planning}
        year = max((r.year for r in rows if r.year < planning), default=planning - 1)
        foods = []
        for r in rows:
            if r.year != year or (r.product, r.crop) in kinds_now:
                continue
            on_shelf = shelf(entries.get(r.product, []), now_s - YEAR_S, now_s, figures().pantry)
            code, proposed = next_year(r.per_week, on_shelf, figures().pantry)
            says = LEFT_WORDS[code].format(
                left=f"{on_shelf.units:g} {r.unit}", pace=f"{on_shelf.pace or 0.0:.2g}"
            )
            foods.append(LastFood(key(r), r.name, r.unit, r.per_week, proposed, r.weeks, says))
    return LastYear(year, foods)


LEFT_WORDS = {
    "unknown": "as last year: nobody noted how fast it went",
    "ran_out": "none is left: somewhat more",
    "pace": "{left} left; it went at {pace} a week",
}


@dataclass(frozen=True)
class TakenOver:
    """A food of last year to take over, so much of it a week."""

    target_id: int
    per_week: float


@act("take_over_year")
def take_over(a: Doing, foods: Sequence[TakenOver]) -> Done:
    """Put foods of last year on this year's list, with the keeper's own numbers and varieties."""
    planning = year_to_name(today(a.of, a.home), a.home)
    if not foods:
        raise InvalidValue("foods", "none", "at least one")
    low, high = RANGES["per week"]
    for said in foods:
        old = get_live(a.session, FoodRow, said.target_id, "food")
        if not low <= said.per_week <= high:
            raise InvalidValue(f"{old.name} a week", said.per_week, f"{low:g} to {high:g}")
        there = live(FoodRow).where(
            FoodRow.year == planning, FoodRow.product == old.product, FoodRow.crop == old.crop
        )
        if old.year == planning or a.session.exec(there).first() is not None:
            raise Conflict(f"{old.name} is on this year's list already")
        kept = {k: v for k, v in old.model_dump().items() if k not in ("id", "version", "year")}
        row = FoodRow(**{**kept, "year": planning, "per_week": said.per_week})
        a.session.add(row)
        a.session.flush()
        _with_all(a, key(old), key(row))
    a.about("foods")
    a.summary = f"Took {len(foods)} foods over from last year"
    return Done()


def _with_all(a: Doing, old: int, new: int) -> None:
    """The keeper's numbers for links that hold every year, and the varieties."""
    for own in a.session.exec(live(ChainOverride).where(ChainOverride.food_target_id == old)).all():
        if own.link in ("fresh_kg_per_unit", "yield_kg_per_plant"):
            a.session.add(
                ChainOverride(food_target_id=new, link=own.link, value=own.value, note=own.note)
            )
    for s in a.session.exec(live(FoodShare).where(FoodShare.food_target_id == old)).all():
        a.session.add(FoodShare(food_target_id=new, variety_id=s.variety_id, share=s.share))


@dataclass(frozen=True)
class VarietyChoice:
    """A variety in hand, and how many packets of it."""

    variety_id: int
    name: str
    packets: int


def varieties_of(larder: Larder, crop: str) -> list[VarietyChoice]:
    """Varieties of a kind that are in hand and may be sown, by name."""
    found: dict[tuple[int, str], int] = {}
    sowable = {x.lot_id for x in lot_lines(larder) if x.verdict.may_sow}
    for row in whole_outlook(larder).rows:
        if row.kind.key == crop and row.part.lot_id in sowable:
            named = (key(row.variety), row.variety.name)
            found[named] = found.get(named, 0) + 1
    return [
        VarietyChoice(i, name, n) for (i, name), n in sorted(found.items(), key=lambda x: x[0][1])
    ]
