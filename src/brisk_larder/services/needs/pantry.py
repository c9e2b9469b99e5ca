"""The pantry: what stands on the shelf of each product, how fast it goes, when it ends."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlmodel import col

from ...core.pantry import Entry, shelf
from ...core.units import YEAR_DAYS, day_start_s
from ...data.queries import live
from ...data.tables import FoodTarget as FoodRow
from ...data.tables import PantryEntry
from ..air.look import looking_at
from ..forecast.wishes import product_of
from ..household.kinds import figures
from ..household.larder import Larder, household_year, remembered
from ..household.wording import day_words
from .acts import unit_of
from .chains import METHOD_WORDS, target_year

MONTH_DAYS = YEAR_DAYS / 12


@dataclass(frozen=True)
class PantryLine:
    """One product on the shelf, in its own unit: sums of this household year; ``pace`` a week; ``says``: when
    it ends at this pace; ``oldest_s``: the oldest of it, ``past``: beyond the months the book gives it."""

    product: str
    name: str
    how: str
    unit: str
    units: float
    put_up: float
    gone: float
    spoiled: float
    wanted: float
    pace: float | None
    ends_s: float | None
    oldest_s: float | None
    past: bool
    says: str


@dataclass(frozen=True)
class PantryRoom:
    """All products that are on the shelf or wanted, what ends first first."""

    year: int
    lines: list[PantryLine]


@remembered
def pantry_room(larder: Larder) -> PantryRoom:
    """Everything on the shelf."""
    planning = target_year(larder)
    with looking_at(larder) as v:
        home, now_s = v.home, v.now_s
        year = household_year(v.today, home)
        since_s = day_start_s(date(year, home.year_starts_month, 1), home.tz)
        entries: dict[str, list[Entry]] = {}
        for e in v.session.exec(
            live(PantryEntry).order_by(col(PantryEntry.at_s), col(PantryEntry.id))
        ):
            entries.setdefault(e.product, []).append(Entry(e.at_s, e.kind, e.units))
        foods = {
            f.product: f for f in v.session.exec(live(FoodRow).where(FoodRow.year == planning))
        }
    lines = [
        _line(name, entries.get(name, []), foods.get(name), since_s, now_s)
        for name in sorted({*entries, *foods})
    ]
    lines.sort(key=lambda x: (x.ends_s is None, x.ends_s or 0.0, x.name))
    return PantryRoom(year, lines)


def _line(
    product: str, entries: list[Entry], food: FoodRow | None, since_s: float, now_s: float
) -> PantryLine:
    found = shelf(entries, since_s, now_s, figures().pantry)
    book = product_of(product)
    wanted = 0.0
    if food is not None:
        wanted = (food.per_week * food.weeks + food.gifts) * (1 + food.reserve_share)
    keeps = book.storage_months_quality.high * MONTH_DAYS * 86_400 if book else None
    past = bool(keeps and found.oldest_s is not None and now_s - found.oldest_s > keeps)
    if found.units <= 0:
        says = "nothing left"
    elif found.ends_s is not None:
        says = f"at this pace it ends in {day_words(int(found.ends_s))[-8:]}"
    else:
        says = "no pace known yet: note what is opened"
    return PantryLine(
        product=product,
        name=food.name if food else product,
        how=METHOD_WORDS.get(book.method, "") if book else "",
        unit=food.unit if food else unit_of(book) if book else "kg",
        units=found.units,
        put_up=found.put_up,
        gone=found.gone,
        spoiled=found.spoiled,
        wanted=wanted,
        pace=found.pace,
        ends_s=found.ends_s,
        oldest_s=found.oldest_s,
        past=past,
        says=says,
    )
