"""What foods and picks take of the garden, and when."""

from __future__ import annotations

from datetime import timedelta
from typing import TypedDict

from ...core.base.units import local_day
from ...core.growing.succession import Sowings, feeds_weeks, sowings
from ...core.growing.windows import Sown
from ...core.needs.room import Held
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


def plants_held(
    kind: Kind, sown: Sown | None, home: Household, bed_m2: float, cells: int, fresh_weeks: float
) -> tuple[Held | None, Held | None]:
    """Bed (m2) and cells that a sowing holds, from its first day to its last harvest.

    ``fresh_weeks``: weeks over which it is eaten fresh; sown one after the other, so much of the bed is held
    at a time as sowings stand in it together.
    """
    if sown is None:
        return None, None
    day, high = local_day(sown.at_s, home.tz), kind.crop.days_to_maturity.high
    out = day
    if sown.setting == "indoors":
        weeks = kind.crop.sow_indoors_weeks_before_last_frost
        inside = weeks.low if weeks is not None else 0.0
        frost = frosts_of(home, day.year).last
        out = max(day, frost) if frost is not None else day + timedelta(weeks=inside)
    feeds = feeds_weeks(kind.crop.rotation_group, figures().room)
    span = fresh_weeks if fresh_weeks and feeds else (feeds or 0.0)
    last = out + timedelta(days=high) + timedelta(weeks=span)
    ends = frosts_of(home, out.year).first
    if feeds is None and ends is not None:  # it bears, and stands, until the frost
        last = max(last, ends)
    share = 1.0
    if fresh_weeks and feeds and fresh_weeks > feeds:
        share = min(1.0, (high / 7 + feeds) / (high / 7 + fresh_weeks))
    cell = Held(cells * share, day, out) if cells and sown.setting == "indoors" else None
    return Held(bed_m2 * share, out, last), cell


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
