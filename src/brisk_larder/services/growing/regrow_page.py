"""Which line to regrow in which year: the plan of the years in the household's words."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.growing.life_cycle import seasons
from ...core.lines.regrow_plan import (
    KeptLine,
    Limits,
    Pattern,
    YearsPlan,
    how_it_stands,
    plan_years,
    priced,
)
from ...data.queries import live
from ...data.tables import Household, PlanCell
from ..air.look import Look
from ..forecast.glance import REGROW_YEARS
from ..forecast.line_sowings import lines_sown
from ..forecast.lines import LotLine
from ..forecast.outlook import Outlook
from ..household.kinds import figures
from ..household.larder import writing_here
from ..household.wording import many, often, percent
from .kept_lines import Kept, first_year, kept_lines
from .not_kept import MissedYear, missed_years, not_together
from .ways_out import WayOut, Year, ways_out


@dataclass(frozen=True)
class RegrowLine:
    """One line to be grown anew: its (first) year, its last safe year, why, and its lots."""

    variety_id: int
    variety: str
    kind_name: str
    crossing_group: str
    year: int
    last_safe_year: int | None
    seasons: int
    mothers: int
    lots: list[str]
    lot_ids: list[int]
    why: str
    code: str
    says: str
    chances: list[float]


@dataclass(frozen=True)
class YearCell:
    """One line in one year. ``act``: sow, flower (the second season of one sown before) or empty; settled:
    agreed, barred or empty; ``safe``: seed in hand (or of a growing in the plan) promises enough mothers;
    ``chance`` of them; ``apart``: kept apart while it flowers; ``why``: of a growing, and how."""

    year: int
    act: str
    settled: str
    safe: bool
    chance: float
    apart: bool
    why: str


@dataclass(frozen=True)
class YearRow:
    """One kept line over the years. ``group``: of lines that cross; ``says``: how it stands."""

    variety_id: int
    version: int
    variety: str
    kind_name: str
    group: str
    crosses: bool
    purity: str
    lot_id: int
    last_safe_year: int | None
    bed_m2: float
    says: str
    code: str
    cells: list[YearCell]


@dataclass(frozen=True)
class YearLoad:
    """What a year bears: lines grown anew, bed (m2), roots of biennials in the store in the winter after it,
    what goes beyond either."""

    year: int
    lines: int
    bed_m2: float
    borrowed_m2: float
    beyond: int
    roots: int
    over_store: int


@dataclass(frozen=True)
class RegrowPlan:
    """Lines by the year in which they are grown, those that need no growing yet, and the years; ``rows`` and
    ``loads``: line by line, year by year; ``says``: how good the plan is; ``ways_out``: what it cannot
    have all at once, and what it pays to."""

    regrow: list[RegrowLine]
    safe: list[str]
    years: list[int]
    rows: list[YearRow]
    loads: list[YearLoad]
    says: str
    ways_out: list[WayOut]
    missed: list[MissedYear]


SAYS = {
    "regrow_find_again": "no living seed left: find it again",
    "regrow_on_its_way": "no living seed here: some is on its way",
    "regrow_count": "count it first",
    "regrow_already_unsafe": "not safe any more",
}


@dataclass(frozen=True)
class Planned:
    """The kept lines, the first year, what a year bears, and the plan."""

    kept: list[Kept]
    start: int
    limits: Limits
    plan: YearsPlan

    @property
    def lines(self) -> list[KeptLine]:
        """Those of which a year can be told."""
        return [k.line for k in self.kept if k.line is not None]

    def partners(self, line: KeptLine, flowers: int) -> list[Kept]:
        """Lines that cross with one and flower in the same year by the plan."""
        return [
            k
            for k in self.kept
            if k.line is not None
            and k.line.key != line.key
            and line.crosses
            and k.line.crosses
            and k.line.group == line.group
            and flowers in map(k.line.flowers, self.plan.chosen[k.line.key])
        ]


def planned(v: Look, lines: list[LotLine], look: Outlook) -> Planned:
    """The plan for all kept lines, as they stand."""
    year, home = v.today.year, v.home
    in_ground = any(s.day.year == year and not s.failed for s in lines_sown(v.session, home))
    settled = v.session.exec(
        live(PlanCell).where(PlanCell.year == year, PlanCell.state == "agreed")
    ).first()
    start = year if in_ground or settled is not None else first_year(lines, year)
    kept = kept_lines(v, lines, look, start)
    usual = figures().growing.lines_a_year
    limits = Limits(
        home.line_confidence, home.seed_bed_m2, home.seed_lines or usual, home.winter_roots
    )
    asked = [k.line for k in kept if k.line is not None]
    return Planned(kept, start, limits, plan_years(asked, limits, figures().regrow))


def regrow_plan(v: Look, lines: list[LotLine], look: Outlook) -> RegrowPlan:
    """The plan of the years, told."""
    p, home = planned(v, lines, look), v.home
    years = list(range(p.start, p.start + REGROW_YEARS))
    regrow, rows, safe, missed = [], [], list[str](), list[MissedYear]()
    for k in p.kept:
        row = _row(p, k, years, home)
        rows.append(row)
        first = next((c for c in row.cells if c.act == "sow"), None)
        missed += missed_years(k, first.year if first else None, first.chance if first else 0.0)
        if k.line is not None and first is None:
            safe.append(k.name)
            continue
        regrow.append(_first(k, row, first, p.start))
    load = [
        YearLoad(
            y,
            sum(r.cells[i].act == "sow" for r in rows),
            round(sum(r.bed_m2 for r in rows if r.cells[i].act), 1),
            round(p.plan.borrowed_m2[i], 1) if p.plan.borrowed_m2 else 0.0,
            round(p.plan.beyond[i]) if p.plan.beyond else 0,
            sum(
                k.line.roots
                for k in p.kept
                if k.line is not None and k.line.seasons > 1 and i in p.plan.chosen[k.line.key]
            ),
            round(p.plan.over_store[i]) if p.plan.over_store else 0,
        )
        for i, y in enumerate(years)
    ]
    regrow.sort(key=lambda r: (r.year, r.variety_id))
    rows.sort(key=lambda r: (r.group if r.crosses else "~" + r.kind_name, r.kind_name, r.variety))
    return RegrowPlan(
        regrow, sorted(safe), years, rows, load, _how_good(p.plan),
        [*not_together(p.kept, p.plan, p.start), *ways_out(_by_year(p))],
        missed,
    )  # fmt: skip


def _by_year(p: Planned) -> list[Year]:
    """What each year of the plan holds, and what it cannot have all at once."""
    out = []
    for i in range(REGROW_YEARS):
        sown, unsafe, apart, lost = [], [], [], []
        for k in p.kept:
            if k.line is None:
                continue
            chosen = p.plan.chosen[k.line.key]
            if i in chosen:
                sown.append(k)
                before = [s for s in chosen if k.line.flowers(s) < i]
                after = k.line.fresh[i - k.line.flowers(before[-1])] if before else None
                chance = k.line.chances[i] if after is None else after
                if chance < p.limits.promised:
                    unsafe.append((k, chance))
            if _fails_from(k.line, chosen, p.limits.promised) == i:
                lost.append(k)
            # what the keeper settled on keeping apart is settled
            if (k.line.key, i) in p.plan.apart and i not in k.line.apart:
                apart.append((k, p.partners(k.line, i)))
        out.append(
            Year(
                p.start + i, sown, apart, unsafe, lost,
                p.plan.borrowed_m2[i] if p.plan.borrowed_m2 else 0.0,
                p.plan.beyond[i] if p.plan.beyond else 0.0,
                p.plan.over_store[i] if p.plan.over_store else 0.0,
            )
        )  # fmt: skip
    return out


def _fails_from(line: KeptLine, chosen: Pattern, promised: float) -> int | None:
    """The first year in which the seed of a line fails that is not grown again; None: none."""
    if not chosen:
        fails = line.safe_to(promised) + 1
    else:
        fails = line.flowers(chosen[-1]) + line.fresh_for(promised) + 1
    return fails if fails < line.years else None


def _how_good(plan: YearsPlan) -> str:
    if not plan.chosen:
        return ""
    if plan.gap == 0:
        return "No better plan can be found by what is weighed."
    return f"At most {percent(plan.gap)} from the best plan there could be."


def _code(k: Kept, first: int, promised: float) -> str:
    assert k.line is not None, "only of lines that have a year"
    running = any(m.verdict.code == "running" for m in k.members)
    return how_it_stands(k.line, first, promised, running=running)


def _row(p: Planned, k: Kept, years: list[int], home: Household) -> YearRow:
    one, line = k.members[0], k.line
    last_safe = one.glance.last_safe_year
    if line is None:
        code, says = k.why_not, SAYS[k.why_not]
        cells = [YearCell(y, "", "", False, 0.0, False, "") for y in years]
    else:
        chosen = p.plan.chosen[line.key]
        code = _code(k, chosen[0], p.limits.promised) if chosen else ""
        says = _says(code, last_safe, k, years[-1])
        cells = [_cell(p, k, line, i, home) for i in range(len(years))]
    return YearRow(
        variety_id=k.variety_id,
        version=k.version,
        variety=one.variety,
        kind_name=one.kind_name,
        group=k.crop.crossing_group,
        crosses=k.crop.breeding == "outcrossing",
        purity=k.purity,
        lot_id=one.lot_id,
        last_safe_year=last_safe,
        bed_m2=round(line.bed_m2, 2) if line else 0.0,
        says=says,
        code=code,
        cells=cells,
    )


def _says(code: str, last_safe_year: int | None, k: Kept, last: int) -> str:
    """How a line stands, in a few words."""
    if code == "regrow_wait":
        return next(m.next_act for m in k.members if m.verdict.code == "running")
    if last_safe_year is None:
        return SAYS["regrow_already_unsafe"]
    if last_safe_year > last:
        return f"safe beyond {last}"
    return SAYS.get(code, f"safe to {last_safe_year}")


def _cell(p: Planned, k: Kept, line: KeptLine, i: int, home: Household) -> YearCell:
    chosen = p.plan.chosen[line.key]
    before = [s for s in chosen if line.flowers(s) < i]  # harvests that are in by then
    chance = line.fresh[i - line.flowers(before[-1])] if before else line.chances[i]
    sown, second = i in chosen, line.seasons > 1 and i - 1 in chosen
    year = p.start + i
    settled = "agreed" if i in line.agreed else "barred" if i in line.barred else ""
    return YearCell(
        year=year,
        act="sow" if sown else "flower" if second else "",
        settled=settled,
        safe=chance >= p.limits.promised,
        chance=chance,
        apart=(line.key, line.flowers(i)) in p.plan.apart if sown else False,
        why=_why(p, k, line, i, home) if sown else "",
    )


def _why(p: Planned, k: Kept, line: KeptLine, i: int, home: Household) -> str:
    """Why a line is grown in a year, and how it is kept apart."""
    promised, chosen = p.limits.promised, p.plan.chosen[line.key]
    before = [s for s in chosen if s < i]
    safe = line.safe_to(promised)
    parts = []
    if i in line.agreed:
        parts.append("Settled by you.")
    elif before:
        life = line.fresh_for(promised)
        parts.append(
            f"Its seed of {p.start + line.flowers(before[-1])} promises enough mothers for about "
            f"{many(life, 'year')} where it is kept now."
        )
    elif safe < 0:
        parts.append(
            f"Even now its seed gives enough mothers with a chance of {percent(line.chances[i])} only: sow "
            "all of it, or find fresh seed of the line."
        )
    elif i == safe:
        parts.append(
            f"{p.start + safe} is the last year in which its seed gives enough mother plants, "
            f"{often(home.line_confidence)}."
        )
    elif i < safe:
        parts.append(f"Safe until {p.start + safe}; {_taken_earlier(p, line, i, safe)}.")
    else:
        parts.append(
            f"{p.start + safe} was its last safe year; by then the chance of enough mothers is "
            f"{percent(line.chances[i])}."
        )
    flowers = line.flowers(i)
    if line.seasons > 1:
        parts.append(
            f"Sown {p.start + i}, it flowers in {p.start + flowers}: lift it, store it, set it again."
        )
    if (line.key, flowers) in p.plan.apart:
        parts.append(_apart_words(p, k, line, flowers))
    return " ".join(parts)


def _apart_words(p: Planned, k: Kept, line: KeptLine, flowers: int) -> str:
    others = ", ".join(x.name for x in p.partners(line, flowers))
    beside = f"beside {others}" if others else "beside what flowers over the hedge"
    far = writing_here().distance(k.pollen_m)
    if line.by_wind:
        return (
            f"It flowers {beside}, and wind carries their pollen: grow it {far} off, or ask "
            "somebody to grow it."
        )
    return f"It flowers {beside}: bag it and use a brush, or keep {far} between them."


def _taken_earlier(p: Planned, line: KeptLine, i: int, safe: int) -> str:
    """What would be dearer in its last safe year, all other lines as they are."""
    chosen = {**p.plan.chosen, line.key: (safe,)}
    instead = priced(p.lines, chosen, p.limits, figures().regrow)
    flowers = line.flowers(safe)
    partners = ", ".join(x.name for x in p.partners(line, flowers))
    if instead.parts["apart"] > p.plan.parts["apart"] and partners:
        return f"in {p.start + flowers} it would flower beside {partners}"
    if instead.parts["bed"] > p.plan.parts["bed"]:
        return f"the bed for seed is full in {p.start + safe}"
    if instead.parts["work"] > p.plan.parts["work"]:
        return f"{p.start + safe} has lines enough to grow"
    return "taken earlier, as its later years fit better so"


def _first(k: Kept, row: YearRow, first: YearCell | None, start: int) -> RegrowLine:
    """The first growing of a line, as lists and Today have it."""
    code = row.code
    return RegrowLine(
        variety_id=k.variety_id,
        variety=row.variety,
        kind_name=row.kind_name,
        crossing_group=row.group,
        year=first.year if first else start,
        last_safe_year=row.last_safe_year,
        seasons=seasons(k.crop.life_cycle),
        mothers=k.crop.min_plants_viable,
        lots=[
            m.code
            for m in k.members
            if m.verdict.alive and (m.seeds is not None or code == "regrow_count")
        ],
        lot_ids=[m.lot_id for m in k.members],
        why=first.why if first else WHY_NOT[k.why_not],
        code=code,
        says=row.says,
        chances=k.members[0].glance.mothers,
    )


WHY_NOT = {
    "regrow_find_again": "No living seed of this line is left here: find seed of it again, from whoever "
    "has it.",
    "regrow_on_its_way": "No living seed of this line is left here; some is ordered and on its way.",
    "regrow_count": "It is not known how much there is of it: count it, then its last safe year can be told.",
}
