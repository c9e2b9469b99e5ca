"""Which line to regrow in which year."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime

from sqlmodel import Session, col, select

from ...core.growing import seasons
from ...core.reasons import Reason
from ...core.regrow import Line, Regrow, propose
from ...data.tables import Cohort, Household, Part
from ..forecast.glance import REGROW_YEARS
from ..forecast.lines import LotLine
from ..household.kinds import figures, load_kinds
from ..household.wording import sentence


@dataclass(frozen=True)
class RegrowLine:
    """One kept line: its year, its last safe year, why, and its lots."""

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
class RegrowPlan:
    """Lines by the year in which they are grown, those that need no growing yet, and the years."""

    regrow: list[RegrowLine]
    safe: list[str]
    years: list[int]


SAYS = {
    "regrow_find_again": "no living seed left: find it again",
    "regrow_count": "count it first",
    "regrow_already_unsafe": "not safe any more",
}


def _says(code: str, last_safe_year: int | None, members: list[LotLine]) -> str:
    """How a line stands, in a few words."""
    if code == "regrow_wait":
        return next(m.next_act for m in members if m.verdict.code == "running")
    return SAYS.get(code, f"safe to {last_safe_year}")


def regrow_plan(
    lines: list[LotLine], home: Household, session: Session, this_year: int
) -> RegrowPlan:
    """First proposal by year for all kept lines, from the verdicts on their lots and their glances."""
    # long: lines asked for, then lines that no year can be given, then a row each
    variety_of = dict(
        session.exec(
            select(Part.lot_id, Cohort.variety_id).join(Cohort, col(Part.cohort_id) == Cohort.id)
        ).all()
    )
    kinds = load_kinds(session)
    by_variety: dict[int, list[LotLine]] = {}
    for line in lines:
        if line.glance.regrow_asked:
            by_variety.setdefault(variety_of[line.lot_id], []).append(line)
    asked, facts, first_years = [], {}, []
    others: dict[int, str] = {}  # lines that no year can be given, and why
    for variety, whole in by_variety.items():
        members = [m for m in whole if m.verdict.alive]
        facts[variety] = members or whole
        one = facts[variety][0]
        crop = kinds.get(one.kind).crop
        if one.glance.next_sowing_s is not None:
            first_years.append(datetime.fromtimestamp(one.glance.next_sowing_s, UTC).year)
        if not members:
            others[variety] = "regrow_find_again"
            continue
        if one.glance.last_safe_year is None and any(m.seeds is None for m in members):
            others[variety] = "regrow_count"
            continue
        asked.append(
            Line(
                variety,
                crop.crossing_group,
                seasons(crop.life_cycle),
                one.glance.last_safe_year,
                crop.breeding == "outcrossing",
            )
        )
    start = min(first_years, default=this_year)
    years = list(range(start, start + REGROW_YEARS))
    plan = propose(asked, years, figures().growing.lines_a_year) if asked else ()
    plan += tuple(Regrow(v, start, None, Reason(code, {})) for v, code in others.items())
    placed = {r.line for r in plan}
    out = []
    for r in plan:
        members = facts[r.line]
        crop = kinds.get(members[0].kind).crop
        code = r.reason.code
        if code not in others.values() and any(m.verdict.code == "running" for m in members):
            code = "regrow_wait"
        why = sentence(replace(r.reason, code=code), home)
        if seasons(crop.life_cycle) > 1:
            why += " It flowers in its second year: two seasons in the ground."
        out.append(
            RegrowLine(
                variety_id=r.line,
                variety=members[0].variety,
                kind_name=members[0].kind_name,
                crossing_group=crop.crossing_group,
                year=r.year,
                last_safe_year=r.last_safe_year,
                seasons=seasons(crop.life_cycle),
                mothers=crop.min_plants_viable,
                lots=[
                    m.code
                    for m in members
                    if m.verdict.alive and (m.seeds is not None or code == "regrow_count")
                ],
                lot_ids=[m.lot_id for m in members],
                why=why,
                code=code,
                says=_says(code, r.last_safe_year, members),
                chances=members[0].glance.mothers,
            )
        )
    safe = [f"{facts[v][0].variety} {facts[v][0].kind_name}" for v in facts if v not in placed]
    return RegrowPlan(out, sorted(safe), years)
