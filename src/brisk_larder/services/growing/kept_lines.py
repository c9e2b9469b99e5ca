"""The lines the household keeps, as the plan of the years needs them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime

import numpy as np
from sqlmodel import col, select

from ...core.base.units import YEAR_S
from ...core.growing.life_cycle import seasons
from ...core.lines.regrow_plan import KeptLine
from ...core.seed import belief as be
from ...core.seed.plants import Seed, Sown, chance
from ...core.seed.worlds import germination, ranks
from ...data.queries import live
from ...data.tables import (
    Cohort,
    Neighbour,
    Part,
    PlanCell,
    Variety,
)
from ...reference import Crop
from ..air.look import Look
from ..forecast.emergence import emergence_of
from ..forecast.glance import REGROW_YEARS
from ..forecast.line_sowings import lines_sown, years_grown
from ..forecast.lines import LotLine
from ..forecast.on_order import orders_of
from ..forecast.outlook import Outlook
from ..household.kinds import Kind, figures
from ..household.memory import recall

CM2_PER_M2 = 10_000


@dataclass(frozen=True)
class Kept:
    """One kept line: its packets (the living ones, else all), its kind, purity, and what the plan needs of it
    (None: no year can be told, ``why_not`` says why). ``missed``: years that were settled for it and whose
    sowing is over; ``grown``: those in which it was sown."""

    variety_id: int
    members: list[LotLine]
    kind: Kind
    purity: str
    version: int
    line: KeptLine | None
    why_not: str
    missed: tuple[int, ...] = ()
    grown: frozenset[int] = frozenset()

    @property
    def crop(self) -> Crop:
        """What the table says of its kind."""
        return self.kind.crop

    @property
    def name(self) -> str:
        """Its variety and its kind."""
        return f"{self.members[0].variety} {self.members[0].kind_name}"

    @property
    def pollen_m(self) -> float:
        """How far off other pollen must be (m): the book's strict or usual distance."""
        return (
            self.crop.isolation_m_strict if self.purity == "strict" else self.crop.isolation_m_home
        )


def bed_m2(crop: Crop) -> float:
    """Bed that the mothers of a line take (m2), as many as it needs at least."""
    return crop.min_plants_viable * crop.spacing_in_row_cm * crop.row_spacing_cm / CM2_PER_M2


def first_year(lines: list[LotLine], this_year: int) -> int:
    """The calendar year in which a kept line can be sown first."""
    at = [x.glance.next_sowing_s for x in lines if x.glance.regrow_asked]
    return min((_year(s) for s in at if s is not None), default=this_year)


def _year(at_s: float) -> int:
    return datetime.fromtimestamp(at_s, UTC).year


def kept_lines(v: Look, lines: list[LotLine], look: Outlook, start: int) -> list[Kept]:
    """All kept lines, by the number of their variety."""
    session = v.session
    variety_of = dict(
        session.exec(
            select(Part.lot_id, Cohort.variety_id).join(Cohort, col(Part.cohort_id) == Cohort.id)
        ).all()
    )
    whole: dict[int, list[LotLine]] = {}
    for one in lines:
        if one.glance.regrow_asked:
            whole.setdefault(variety_of[one.lot_id], []).append(one)
    rows_of = session.exec(select(Variety).where(col(Variety.id).in_(list(whole))))
    varieties = {x.id: x for x in rows_of}
    cells: dict[int, list[PlanCell]] = {}
    for cell in session.exec(live(PlanCell)):
        cells.setdefault(cell.variety_id, []).append(cell)
    grown = years_grown(lines_sown(session, v.home))
    before = {int(k): int(one["year"]) - start for k, one in recall(session, "regrow").items()}
    ordered = _ordered(v)
    nearest = {n.crossing_group: n.distance_m for n in session.exec(live(Neighbour))}
    rows = {row.part.lot_id: i for i, row in enumerate(look.rows)}
    out = []
    for variety, members in sorted(whole.items()):
        alive = [m for m in members if m.verdict.alive]
        row, kind = varieties[variety], v.kinds.get(members[0].kind)
        one = (alive or members)[0]
        why_not = ""
        coming = ordered.get((kind.key, row.name.casefold()), 0)
        if not alive:
            why_not = "regrow_on_its_way" if coming else "regrow_find_again"
        elif one.glance.last_safe_year is None and any(m.seeds is None for m in alive):
            why_not = "regrow_count"
        made = Kept(variety, alive or members, kind, row.purity, row.version, None, why_not)
        if not why_not:
            fresh = fresh_chances(look, rows[one.lot_id], one.glance.sowing_setting)
            hedge = nearest.get(kind.crop.crossing_group, np.inf) < made.pollen_m
            mine = grown.get(variety, frozenset())
            made = replace(made, members=alive, grown=mine)
            line = _line(
                made, one, fresh, bool(hedge), cells.get(variety, []), start, before.get(variety)
            )
            if coming:
                line = _with_order(line, look, rows[one.lot_id], one.glance.sowing_setting, coming)
            made = replace(made, line=line, missed=_missed(line, cells.get(variety, []), start))
        out.append(made)
    return out


def _line(
    kept: Kept,
    one: LotLine,
    fresh: list[float],
    hedge: bool,
    cells: list[PlanCell],
    start: int,
    told: int | None,
) -> KeptLine:
    crop, g = kept.crop, one.glance
    at = g.next_sowing_s
    late = max(0, _year(at) - start) if at is not None else 0  # years before it can be sown at all
    known = [g.mothers[0]] * late + g.mothers
    twice = seasons(crop.life_cycle)
    within = [(c, c.year - start) for c in cells if 0 <= c.year - start < REGROW_YEARS]
    grown = {y - start for y in kept.grown}
    for sown in grown:
        # what was sown in an earlier year is seed to come, as if it were in hand then
        harvest = sown + twice - 1
        if sown < 0:
            known = [
                max(c, fresh[i - harvest]) if 0 < i - harvest < len(fresh) else c
                for i, c in enumerate(known)
            ]
    asked = {y for c, y in within if c.state == "agreed"}
    # a year that is settled stays as long as it can be sown, and for good once it was
    agreed = {y for y in asked if y >= late or y in grown} | {y for y in grown if y >= 0}
    barred = {*range(late), *(y for c, y in within if c.state == "barred")} - agreed
    return KeptLine(
        key=kept.variety_id,
        group=crop.crossing_group,
        seasons=twice,
        crosses=crop.breeding == "outcrossing",
        by_wind=crop.pollination == "wind",
        purity=kept.purity,
        bed_m2=bed_m2(crop),
        chances=tuple(known[:REGROW_YEARS]),
        fresh=tuple(fresh),
        agreed=frozenset(agreed),
        barred=frozenset(barred),
        apart=frozenset(y + twice - 1 for c, y in within if c.state == "agreed" and c.apart),
        hedge=hedge,
        roots=crop.min_plants_viable if twice > 1 else 0,
        late=late,
        told=told if told is not None and late <= told < REGROW_YEARS else None,
    )


def _missed(line: KeptLine, cells: list[PlanCell], start: int) -> tuple[int, ...]:
    """Years that were settled, and in which it was not sown while that could be."""
    asked = {c.year for c in cells if c.state == "agreed" and c.year - start in range(line.years)}
    return tuple(sorted(y for y in asked if y - start not in line.agreed))


def _ordered(v: Look) -> dict[tuple[str, str], int]:
    """Seeds on their way that are reckoned with, by kind and variety."""
    out: dict[tuple[str, str], int] = {}
    for o in orders_of(v):
        if o.variety and o.state == "ordered" and o.counts:
            name = (o.crop, o.variety.casefold())
            out[name] = out.get(name, 0) + o.seeds
    return out


def _with_order(line: KeptLine, look: Outlook, i: int, setting: str | None, seeds: int) -> KeptLine:
    """A line with its seed that is on its way, as if it were there."""
    bought = fresh_chances(look, i, setting, "bought", seeds)
    chances = tuple(max(a, b) for a, b in zip(line.chances, bought, strict=False))
    return replace(line, chances=chances)


def fresh_chances(
    look: Outlook, i: int, setting: str | None, source: str = "own", seeds: int | None = None
) -> list[float]:
    """P(enough mothers) from new seed of row i's line, kept where that packet is, by years since its harvest
    (or since it came); so much of it as is kept of a growing (None), or so many ``seeds``."""
    f, row = figures(), look.rows[i]
    usual = be.quality(source, None, None, f.belief)
    prior = be.prior_of_new(usual, row.kind.living, f.belief, float(look.of_kind[i]))
    new = be.fit(prior, be.Counts.none(), ranks([f"fresh:{row.variety.id}"]))
    mothers, emerges = row.kind.crop.min_plants_viable, emergence_of(row.kind, setting)
    if seeds is None:
        seeds = int(mothers * f.regrow.fresh_seeds_times)
    rate = float(look.last_rate[i]) * YEAR_S
    out = []
    for years in range(REGROW_YEARS + 1):
        g = germination(new, np.array([rate * years]))[0]
        out.append(round(chance(mothers, [Sown(seeds, Seed(g, emerges))]), 4))
    return out
