"""Saving: what the book says of saving each line the household keeps."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.growing.life_cycle import seasons
from ..air.look import looking_at
from ..forecast.lines import LotLine, lot_lines
from ..household.larder import Larder, remembered, writing_here

METHODS = {
    "dry": "dry: let it turn brown and brittle, bring it in before rain, rub, sieve, winnow",
    "wet": "wet: scoop out, rinse, skim off what floats, dry at once in a thin layer",
    "ferment": "ferment: two to four days in its own juice at 20 to 25 °C, rinse, dry",
}


@dataclass(frozen=True)
class SavingLine:
    """One kept line: how many mothers, how far apart, how it is cleaned and dried (the book)."""

    variety: str
    kind_name: str
    lots: list[str]
    lot_ids: list[int]
    mothers_least: int
    mothers_good: int
    isolation_home_m: float
    isolation_strict_m: float
    pollination: str
    breeding: str
    seasons: int
    method: str
    drying_days: str
    ripe_after_days: float
    seed_per_plant: str
    crosses_with: list[str]
    last_safe_year: int | None


@remembered
def saving_room(larder: Larder) -> list[SavingLine]:
    """All kept lines with what the book says, by kind; each names what it could cross with here."""
    lines = [x for x in lot_lines(larder) if x.kept_line and x.known_kind and not x.form]
    with looking_at(larder) as v:
        kinds = v.kinds
    groups: dict[tuple[str, str], list[LotLine]] = {}
    for line in lines:
        groups.setdefault((line.kind, line.variety), []).append(line)
    by_group: dict[str, set[str]] = {}
    for line in lot_lines(larder):
        crop = kinds.get(line.kind).crop
        if crop.breeding != "selfing" and line.known_kind:
            by_group.setdefault(crop.crossing_group, set()).add(f"{line.variety} {line.kind_name}")
    out = []
    for (key, variety), members in groups.items():
        crop, name = kinds.get(key).crop, kinds.get(key).name
        others = by_group.get(crop.crossing_group, set()) - {f"{variety} {name}"}
        out.append(
            SavingLine(
                variety=variety,
                kind_name=name,
                lots=[m.code for m in members],
                lot_ids=[m.lot_id for m in members],
                mothers_least=crop.min_plants_viable,
                mothers_good=crop.min_plants_good,
                isolation_home_m=crop.isolation_m_home,
                isolation_strict_m=crop.isolation_m_strict,
                pollination=crop.pollination,
                breeding=crop.breeding,
                seasons=seasons(crop.life_cycle),
                method=writing_here().prose(METHODS[crop.seed_processing]),
                drying_days=f"{crop.drying_days.low:g} to {crop.drying_days.high:g}",
                ripe_after_days=crop.days_seed_maturity_after_food_stage,
                seed_per_plant=" to ".join(
                    writing_here().mass(m)
                    for m in (crop.seed_yield_g_per_plant.low, crop.seed_yield_g_per_plant.high)
                ),
                crosses_with=sorted(others)[:6],
                last_safe_year=members[0].glance.last_safe_year,
            )
        )
    return sorted(out, key=lambda s: (s.kind_name, s.variety))
