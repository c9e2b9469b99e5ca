"""The household's own harvests and its jars."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import col

from ...core.base.errors import InvalidValue
from ...core.needs.harvests import yield_of_a_plant
from ...core.needs.seed_needed import Amount
from ...data.queries import key, live
from ...data.tables import Harvest, Jar
from ..acts.acting import Doing, Done, act
from ..air.look import looking_at
from ..forecast.wishes import book_yield, own_of
from ..household.kinds import figures
from ..household.larder import Larder, today, writing_here
from ..household.possible_values import get_live, whole

OLDEST_HARVEST = 1950


@dataclass(frozen=True)
class HarvestLine:
    """What so many plants gave in a year (kg fresh)."""

    harvest_id: int
    year: int
    plants: int
    mass_kg: float
    note: str


@dataclass(frozen=True)
class Harvests:
    """A kind's own harvests, and what a plant gives by them and by the book alone (kg)."""

    lines: list[HarvestLine]
    by_plant: Amount | None
    book: Amount | None


def harvests(larder: Larder, crop: str) -> Harvests:
    """Own harvests of a kind, the latest first."""
    with looking_at(larder) as v:
        rows = v.session.exec(
            live(Harvest).where(Harvest.crop == crop).order_by(col(Harvest.year).desc())
        )
        lines = [HarvestLine(key(h), h.year, h.plants, h.mass_kg, h.note) for h in rows]
        book, own = book_yield(crop, v.kinds), own_of(v.session).harvests.get(crop, [])
    return Harvests(lines, yield_of_a_plant(book, own, figures().harvest), book)


LEAST_KG = 0.001  # no scale of a kitchen shows less


@act("harvest")
def note_harvest(
    a: Doing, crop: str, year: int, plants: int, mass_kg: float, note: str = ""
) -> Done:
    """Note what so many plants of a kind gave in a year."""
    if crop not in a.kinds.by_key:
        raise InvalidValue("kind", crop, "a kind of the table or one of your own")
    whole("year", year, OLDEST_HARVEST, today(a.of, a.home).year)
    whole("plants", plants, 1, 100_000)
    if not LEAST_KG <= mass_kg <= 100_000:
        raise InvalidValue("harvest", mass_kg, "a gram at least, at most 100,000 kg")
    a.session.add(Harvest(crop=crop, year=year, plants=plants, mass_kg=mass_kg, note=note))
    a.about(f"harvest:{crop}")
    name = a.kinds.get(crop).name
    a.summary = f"{plants} plants of {name} gave {writing_here().kilos(mass_kg)} in {year}"
    return Done()


@act("drop_harvest")
def drop_harvest(a: Doing, harvest_id: int) -> Done:
    """Take a harvest off the list."""
    row = get_live(a.session, Harvest, harvest_id, "harvest")
    row.deleted_s = a.now_s
    a.about(f"harvest:{row.crop}")
    a.summary = f"Took a harvest of {row.year} off"
    return Done()


@act("jars")
def set_jars(a: Doing, litres: float, owned: int, lids: int) -> Done:
    """Say how many jars of a size there are, and unused lids for them; none at all takes the size off."""
    if not 0.05 <= litres <= 10:
        raise InvalidValue("size of the jar", litres, "0.05 to 10 litres")
    whole("jars", owned, 0, 100_000)
    whole("lids", lids, 0, 100_000)
    row = a.session.exec(live(Jar).where(Jar.litres == litres)).first()
    if row is None:
        row = Jar(litres=litres)
    row.owned, row.lids = owned, lids
    if owned == 0 and lids == 0:
        row.deleted_s = a.now_s
    a.session.add(row)
    a.about("jars")
    a.summary = f"{owned} jars of {writing_here().volume(litres)}, {lids} lids"
    return Done()
