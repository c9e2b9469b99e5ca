"""Lines in the ground: what was sown to grow a line anew, and what of it is to come."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlmodel import Session, col, select

from ...core.base.units import local_day
from ...data.queries import live
from ...data.tables import Cohort, Household, Part, PlanCell, Sowing

LINE = "line:"  # before the number of the line that a sowing is meant for


def line_of(meant_for: str) -> int | None:
    """The number of the line that a sowing is meant for; None: it is meant for none."""
    number = meant_for.removeprefix(LINE)
    return int(number) if meant_for.startswith(LINE) and number.isdecimal() else None


@dataclass(frozen=True)
class LineSown:
    """A sowing for a line: which, from which packet, when, and whether nothing of it came up."""

    variety_id: int
    lot_id: int
    day: date
    n: int
    failed: bool


def lines_sown(session: Session, home: Household) -> list[LineSown]:
    """Sowings for lines, the earliest first. A sowing of a line in a year that was settled for it is one,
    also where nobody said what it was for."""
    variety_of = dict(
        session.exec(
            select(Part.lot_id, Cohort.variety_id).join(Cohort, col(Part.cohort_id) == Cohort.id)
        ).all()
    )
    settled = {
        (c.variety_id, c.year)
        for c in session.exec(live(PlanCell).where(PlanCell.state == "agreed"))
    }
    failed = {
        int(row[0])
        for row in session.connection().exec_driver_sql(
            "SELECT sowing.id FROM sowing JOIN sowing_count ON sowing_count.sowing_id = sowing.id "
            "WHERE sowing.settled_s IS NOT NULL AND sowing_count.deleted_s IS NULL "
            "GROUP BY sowing.id HAVING max(sowing_count.up) = 0"
        )
    }
    out = []
    for s in session.exec(live(Sowing).order_by(col(Sowing.at_s), col(Sowing.id))):
        day = local_day(s.at_s, home.tz)
        variety = line_of(s.meant_for)
        if variety is None:
            found = variety_of.get(s.lot_id)
            if found is None or s.meant_for or (found, day.year) not in settled:
                continue
            variety = found
        out.append(LineSown(variety, s.lot_id, day, s.n, s.id in failed))
    return out


def years_grown(sown: list[LineSown]) -> dict[int, frozenset[int]]:
    """Calendar years in which each line was sown, and did not fail, by variety."""
    out: dict[int, set[int]] = {}
    for s in sown:
        if not s.failed:
            out.setdefault(s.variety_id, set()).add(s.day.year)
    return {k: frozenset(x) for k, x in out.items()}
