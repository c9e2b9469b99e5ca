"""What was done to a lot, a place or a container: the acts that named it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import text
from sqlmodel import Session, col, select

from ...data.tables import Act, Person


@dataclass(frozen=True)
class HistoryLine:
    """One act that touched the lot."""

    act_id: str
    at_s: int
    who: str
    summary: str


def history_of(session: Session, subject: str) -> list[HistoryLine]:
    """Acts that named a subject (``lot:7``, ``node:3``), newest first."""
    people = {p.id: p.name for p in session.exec(select(Person))}
    needle = f'%"{subject}"%'
    acts = session.exec(
        select(Act)
        .where(col(Act.subjects).like(needle))
        .order_by(col(Act.at_s).desc(), text("act.rowid DESC"))
        .limit(60)
    )
    return [HistoryLine(a.id, a.at_s, people.get(a.person_id, ""), a.summary) for a in acts]
