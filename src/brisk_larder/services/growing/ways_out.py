"""What the plan of the years cannot have all at once: which lines are in each other's way, and the cheapest
way out that it took."""

from __future__ import annotations

from dataclasses import dataclass

from ..household.larder import writing_here
from ..household.wording import all_of, many, percent
from .kept_lines import Kept


@dataclass(frozen=True)
class WayOut:
    """A year and what does not go together in it (``says``); what the plan pays to have it all (``way``);
    kind: crossing, bed, work, store, unsafe, lost (not grown although its seed fails)."""

    year: int
    kind: str
    says: str
    way: str
    variety_ids: list[int]


@dataclass(frozen=True)
class Year:
    """What one year of the plan holds: lines sown, those kept apart beside the ones that they would
    cross with, those whose mothers are not promised with the chance, those that are not grown any more though
    this is the first year in which their seed fails, and what goes beyond what it bears."""

    year: int
    sown: list[Kept]
    apart: list[tuple[Kept, list[Kept]]]
    unsafe: list[tuple[Kept, float]]
    lost: list[Kept]
    borrowed_m2: float
    beyond: float
    over_store: float


def ways_out(years: list[Year]) -> list[WayOut]:
    """All of them, year by year."""
    out: list[WayOut] = []
    for y in years:
        out += [_crossing(y.year, k, beside) for k, beside in y.apart]
        if y.borrowed_m2 > 0.05:
            widest = sorted(y.sown, key=lambda k: (-_bed(k), k.name))
            bed = writing_here().area(y.borrowed_m2)
            out.append(
                _too_much(y.year, "bed", f"{bed} more bed than there is", "borrow it", widest[:2])
            )
        if y.beyond >= 0.5:
            said = f"{many(len(y.sown), 'line')}, {y.beyond:.0f} more than a year bears"
            free = [k for k in y.sown if all(k is not u for u, _ in y.unsafe)]
            out.append(_too_much(y.year, "work", said, "do the work", free[: round(y.beyond)]))
        if y.over_store >= 0.5:
            two = [k for k in y.sown if k.line is not None and k.line.seasons > 1]
            said = f"{many(round(y.over_store), 'root')} more to store than there is room for"
            out.append(_too_much(y.year, "store", said, "store fewer than the book asks", two[:2]))
        out += [
            WayOut(
                y.year,
                "unsafe",
                f"{k.name}: enough mothers with a chance of {percent(chance)}, less than you ask",
                "sow most of it, hold some back for a second spring (never the last seed), or find fresh "
                "seed of the line",
                [k.variety_id],
            )
            for k, chance in y.unsafe
        ]
        out += [
            WayOut(
                y.year,
                "lost",
                f"{k.name} is not grown, and from now on its seed no longer promises mothers",
                "ask a neighbour to grow it, find room for it after all, or accept the loss",
                [k.variety_id],
            )
            for k in y.lost
        ]
    return out


def _bed(k: Kept) -> float:
    return k.line.bed_m2 if k.line is not None else 0.0


def _crossing(year: int, k: Kept, beside: list[Kept]) -> WayOut:
    others = all_of([x.name for x in beside]) if beside else "what flowers over the hedge"
    far = writing_here().distance(k.pollen_m)
    by_wind = k.line is not None and k.line.by_wind
    way = f"grow {k.name} {far} off, or ask somebody to grow it"
    if not by_wind:
        way = f"bag {k.name} and use a brush, or keep {far} between them"
    ids = [k.variety_id, *(x.variety_id for x in beside)]
    return WayOut(year, "crossing", f"{k.name} flowers beside {others}", way, ids)


def _too_much(year: int, kind: str, said: str, first: str, give: list[Kept]) -> WayOut:
    way = first
    if give:
        way += f", or ask a neighbour to grow {all_of([k.name for k in give])}"
    return WayOut(year, kind, said, way, [k.variety_id for k in give])
