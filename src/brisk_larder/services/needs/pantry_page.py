"""The pantry: what stands on the shelf of each product, how fast it goes, when it ends."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from ...core.base.units import YEAR_DAYS, day_start_s
from ...core.needs.pantry import Entry, shelf
from ...data.queries import live
from ...data.tables import FoodTarget as FoodRow
from ..air.look import looking_at
from ..forecast.wishes import entries_by_product, guests_share, product_of, target_of
from ..household.kinds import figures
from ..household.larder import Larder, household_year, remembered
from ..household.wording import day_words, many
from .chain_lines import METHOD_WORDS
from .chains import needs_room, target_year
from .products import unit_of
from .room_check import jar_counts

MONTH_DAYS = YEAR_DAYS / 12


@dataclass(frozen=True)
class PastYear:
    """What was put up, gone and spoiled of a product in an earlier household year."""

    year: str
    put_up: float
    gone: float
    spoiled: float


@dataclass(frozen=True)
class PantryLine:
    """One product on the shelf, in its own unit: sums of this household year; ``pace`` a week; ``says``: when
    it ends at this pace; ``oldest_s``: the oldest of it, ``past``: beyond the months the book gives it;
    ``earlier``: the years before, the latest first."""

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
    earlier: list[PastYear]


@dataclass(frozen=True)
class JarLine:
    """Jars of one size (l): owned, full on the shelf, to fill this year by the plan, unused lids; ``short``:
    jars or lids are missing."""

    litres: float
    owned: int
    full: int
    to_fill: int
    lids: int
    short: bool
    says: str


@dataclass(frozen=True)
class PantryRoom:
    """All products that are on the shelf or wanted, what ends first first."""

    year: int
    lines: list[PantryLine]
    jars: list[JarLine]


@remembered
def pantry_room(larder: Larder) -> PantryRoom:
    """Everything on the shelf."""
    planning = target_year(larder)
    with looking_at(larder) as v:
        home, now_s, guests = v.home, v.now_s, guests_share(v.home)
        year = household_year(v.today, home)
        first = home.year_starts_month
        begins = [
            float(day_start_s(date(year - ago, first, 1), home.tz)) for ago in range(YEARS_BACK + 1)
        ]
        entries = entries_by_product(v.session)
        foods = {
            f.product: f for f in v.session.exec(live(FoodRow).where(FoodRow.year == planning))
        }
    lines = [
        replace(
            _line(name, entries.get(name, []), foods.get(name), begins[0], now_s, guests),
            earlier=_earlier(entries.get(name, []), begins, year, first, now_s),
        )
        for name in sorted({*entries, *foods})
    ]
    foods_lines = needs_room(larder).lines
    with looking_at(larder) as v:
        jars = [_jar(*counted) for counted in jar_counts(foods_lines, v)]
    lines.sort(key=lambda x: (x.ends_s is None, x.ends_s or 0.0, x.name))
    return PantryRoom(year, lines, jars)


YEARS_BACK = 4


def _earlier(
    entries: list[Entry], begins: list[float], year: int, first_month: int, now_s: float
) -> list[PastYear]:
    """Sums of the years before: what came and went since each began, less what did since the next."""
    since = [shelf(entries, b, now_s, figures().pantry) for b in begins]
    out = []
    for ago in range(1, len(begins)):
        a, b = since[ago], since[ago - 1]
        put_up, gone, spoiled = a.put_up - b.put_up, a.gone - b.gone, a.spoiled - b.spoiled
        if put_up or gone:
            y = year - ago
            name = str(y) if first_month == 1 else f"{y}/{(y + 1) % 100:02d}"
            out.append(PastYear(name, put_up, gone, spoiled))
    return out


def _jar(litres: float, owned: int, full: int, to_fill: int, lids: int) -> JarLine:
    empty, said = max(0, owned - full), []
    if to_fill > empty:
        said.append(f"{many(to_fill - empty, 'jar')} missing")
    if to_fill > lids:
        said.append(f"{many(to_fill - lids, 'lid')} missing")
    return JarLine(
        litres, owned, full, to_fill, lids, bool(said), ", ".join(said) or "enough for the plan"
    )


def _line(
    product: str,
    entries: list[Entry],
    food: FoodRow | None,
    since_s: float,
    now_s: float,
    guests: float,
) -> PantryLine:
    found = shelf(entries, since_s, now_s, figures().pantry)
    book = product_of(product)
    wanted = target_of(food, guests).in_a_year if food is not None else 0.0
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
        earlier=[],
    )
