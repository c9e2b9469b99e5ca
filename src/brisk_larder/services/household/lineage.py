"""Parts that were split or joined: whose past a part shares, and which lots teach each other."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from sqlmodel import Session, col, select

from ...core.judging.edible import SPOILS
from ...data.tables import LotEvent


class PartRow(NamedTuple):
    """A part that has, or is, an ancestor."""

    id: int
    lot_id: int
    cohort_id: int
    from_part_id: int | None
    from_s: int
    to_s: int | None


class Step(NamedTuple):
    """One lot in which seed lay, as the same record: (lot, from, to); the last is open-ended."""

    lot_id: int
    from_s: float
    to_s: float | None


def _ids(values: Iterable[int]) -> str:
    return ", ".join(str(int(v)) for v in values) or "0"


class Lineage:
    """Ancestors of parts, read once. Most households have few: only those with a tie are read."""

    def __init__(self, session: Session) -> None:
        session.flush()
        found = session.connection().exec_driver_sql(
            "SELECT id, lot_id, cohort_id, from_part_id, from_s, to_s FROM part WHERE "
            "deleted_s IS NULL AND (from_part_id IS NOT NULL OR id IN "
            "(SELECT from_part_id FROM part WHERE from_part_id IS NOT NULL AND deleted_s IS NULL))"
        )
        self.parts = {row[0]: PartRow(*row) for row in found}
        for part in self.parts:
            self._ends(part)

    def _ends(self, part_id: int) -> None:
        seen, at = set[int](), self.parts.get(part_id)
        while at is not None and at.from_part_id is not None:
            if at.id in seen:
                raise ValueError("seed that was split off from itself")
            seen.add(at.id)
            at = self.parts.get(at.from_part_id)

    def root(self, part_id: int) -> int:
        """The part whose record a part carries on (itself when it was never split off)."""
        while part_id in self.parts and (up := self.parts[part_id].from_part_id) is not None:
            part_id = up
        return part_id

    def steps(self, part_id: int, lot_id: int, from_s: float, to_s: float | None) -> list[Step]:
        """The lots a part's seed lay in since its record began, oldest first."""
        out = [Step(lot_id, from_s, to_s)]
        at = self.parts.get(part_id)
        while at is not None and at.from_part_id is not None:
            child_from = out[0].from_s
            at = self.parts.get(at.from_part_id)
            if at is None:
                break
            out.insert(0, Step(at.lot_id, float(at.from_s), float(child_from)))
        return out

    def lots_behind(self, lot_ids: Iterable[int]) -> set[int]:
        """Some lots and all lots that lie in the past of their parts."""
        out = set(lot_ids)
        for part in list(self.parts.values()):
            if part.lot_id in out:
                at: PartRow | None = part
                while at is not None:
                    out.add(at.lot_id)
                    at = self.parts.get(at.from_part_id) if at.from_part_id else None
        return out


def kin(session: Session, lot_ids: Iterable[int]) -> set[int]:
    """Some lots and all that ever held seed of the same cohorts: tests of one teach the others."""
    wanted = set(lot_ids)
    found = session.connection().exec_driver_sql(
        "SELECT DISTINCT other.lot_id FROM part JOIN part other ON other.cohort_id = part.cohort_id "
        "AND other.id <> part.id AND other.deleted_s IS NULL "
        f"WHERE part.deleted_s IS NULL AND part.lot_id IN ({_ids(wanted)})"
    )
    return wanted | {int(row[0]) for row in found}


def of_their_varieties(lot_ids: Iterable[int]) -> str:
    """SQL for some lots and all that ever held seed of one of their varieties."""
    listed = _ids(lot_ids)
    held = "SELECT cohort.variety_id FROM part JOIN cohort ON cohort.id = part.cohort_id"
    return (
        f"SELECT id FROM lot WHERE id IN ({listed}) UNION SELECT part.lot_id FROM part JOIN cohort "
        f"ON cohort.id = part.cohort_id WHERE cohort.variety_id IN ({held} WHERE part.lot_id IN ({listed}))"
    )


def with_descendants(session: Session, part_ids: Iterable[int]) -> list[int]:
    """Some parts and all that were split off or joined from them: what touches one touches all."""
    found = session.connection().exec_driver_sql(
        f"WITH RECURSIVE below(id) AS (SELECT id FROM part WHERE id IN ({_ids(part_ids)}) "
        "UNION SELECT part.id FROM part JOIN below ON part.from_part_id = below.id) "
        "SELECT id FROM below"
    )
    return [int(row[0]) for row in found]


def spoilt_lots(session: Session, lot_ids: list[int]) -> dict[int, str]:
    """Lots whose seed is no food any more, with what spoilt it: also in a lot it was split from or
    that was poured into it."""
    session.flush()
    events = session.exec(
        select(LotEvent.lot_id, LotEvent.kind).where(
            col(LotEvent.deleted_s).is_(None), col(LotEvent.kind).in_(SPOILS)
        )
    ).all()
    kinds = dict(events)
    if not kinds:
        return {}
    lineage = Lineage(session)
    out = {}
    for lot in lot_ids:
        found = [kinds[i] for i in sorted(lineage.lots_behind([lot])) if i in kinds]
        if found:
            out[lot] = found[0]
    return out
