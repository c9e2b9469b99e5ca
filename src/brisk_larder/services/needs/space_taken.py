"""What foods and picks take of the garden, and when."""

from __future__ import annotations

from datetime import timedelta
from typing import TypedDict

from ...core.base.units import local_day
from ...core.growing.succession import Sowings, feeds_weeks, sowings
from ...core.growing.windows import Sown
from ...core.needs.room import Held, Stand, plants_held, set_out
from ...core.needs.seed_needed import Chain
from ...data.tables import Household
from ..forecast.sowing import frosts_of, last_useful
from ..household.kinds import Kind, figures
from ..household.larder import writing_here
from ..household.wording import date_words, many, temperature_here


class Room(TypedDict):
    """What the plants of a food or pick take."""

    bed_m2: float
    row_m: float
    cells: int
    jars: float


def room_of(
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


def pieces_why(kind: Kind, plants: int) -> list[str]:
    """What is known of pieces of a kind: their weight, how they keep."""
    piece = kind.piece
    assert piece is not None, "only of what is set"
    kilos, low, high = writing_here().kilos, *piece.keeps_weeks
    said = []
    if piece.pieces_per_kg is not None and plants:
        least, most = plants / piece.pieces_per_kg.high, plants / piece.pieces_per_kg.low
        said.append(f"They weigh {kilos(least)} to {kilos(most)} (the book).")
    said.append(
        f"Set as {piece.piece}s: no forecast of their life is made; they keep {low:g} to {high:g} weeks at "
        f"{temperature_here(piece.keep_temp_c.low)} to {temperature_here(piece.keep_temp_c.high)} (guess). "
        f"{piece.note.capitalize()}."
    )
    return said


def held_by(
    kind: Kind, sown: Sown | None, home: Household, bed_m2: float, cells: int, fresh_weeks: float
) -> tuple[Held | None, Held | None]:
    """Bed and cells that a sowing of a kind holds; ``fresh_weeks``: weeks over which it is eaten fresh."""
    if sown is None:
        return None, None
    day, inside = local_day(sown.at_s, home.tz), sown.setting == "indoors"
    out = day
    if inside:
        weeks = kind.crop.sow_indoors_weeks_before_last_frost
        out = set_out(day, weeks.low if weeks else 0.0, frosts_of(home, day.year).last)
    stand = Stand(
        day,
        out,
        kind.crop.days_to_maturity.high,
        feeds_weeks(kind.crop.rotation_group, figures().room),
        frosts_of(home, out.year).first,
        fresh_weeks,
    )
    return plants_held(stand, bed_m2, cells if inside else 0)


def succession(
    kind: Kind, sown: Sown | None, home: Household, plants: int, weeks: float
) -> Sowings | None:
    """Sowings one after the other for a food that is eaten fresh over so many weeks; None: one is enough."""
    feeds = feeds_weeks(kind.crop.rotation_group, figures().room)
    if sown is None or feeds is None or plants < 1:
        return None
    first = local_day(sown.at_s, home.tz)
    until = last_useful(kind, home, first.year) or first + timedelta(days=365)
    split = sowings(plants, weeks, feeds, first, until)
    return split if split.wanted > 1 else None


def succession_words(split: Sowings, weeks: float) -> str:
    """The same in words."""
    first = split.days[0]
    said = (
        f"{weeks:g} weeks of eating: {split.wanted} sowings of {many(split.plants, 'plant')}, one every "
        f"{many(split.every_days, 'day')} from {date_words(first)} (how long one feeds is a guess)"
    )
    if split.late:
        said += f"; {split.late} of them would no longer ripen before the frost"
    return said + "."
