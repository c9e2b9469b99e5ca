"""Parts with all that their forecast needs: cohort, variety, kind and the route they took.

Plain tuples from the driver: a list of thousands of lots reads them at every look.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import NamedTuple

from sqlmodel import Session

from ..air.air import Air
from ..air.standing import EPOCH_S, Leg
from ..household.kinds import Kind, Kinds
from ..household.lineage import Lineage, Step


class PartFacts(NamedTuple):
    """Columns of ``Part``."""

    id: int
    lot_id: int
    cohort_id: int
    share_mean: float
    share_sd: float
    from_part_id: int | None
    from_s: int
    to_s: int | None
    shock_mean: float | None
    shock_sd: float | None
    start_a_probit: float | None
    start_sd_log10_a: float | None
    start_erh25: float | None


class CohortFacts(NamedTuple):
    """Columns of ``Cohort``."""

    id: int
    variety_id: int
    source: str
    mother_cohort_id: int | None
    origin_lo_s: int | None
    origin_hi_s: int | None
    record_from_s: int
    year_guessed: int
    stated_germination: float | None
    stated_as: str
    crossed_risk: int
    from_kitchen: int


class VarietyFacts(NamedTuple):
    """Columns of ``Variety``."""

    id: int
    crop: str | None
    name: str
    breeding: str
    kept_line: int
    treated: int


@dataclass(frozen=True)
class PartRecord:
    """One part with what its forecast needs."""

    part: PartFacts
    cohort: CohortFacts
    variety: VarietyFacts
    kind: Kind
    legs: tuple[Leg, ...]
    start_s: float  # where its record begins, be it in the lot it was split from
    root: PartFacts
    steps: tuple[Step, ...]

    @property
    def part_id(self) -> int:
        """Id of the part."""
        return self.part.id


def _columns(letter: str, facts: type[NamedTuple]) -> str:
    return ", ".join(f"{letter}.{name}" for name in facts._fields)


_PARTS = (
    f"SELECT {_columns('p', PartFacts)}, {_columns('c', CohortFacts)}, {_columns('v', VarietyFacts)} "
    "FROM part p JOIN cohort c ON c.id = p.cohort_id JOIN variety v ON v.id = c.variety_id "
)
_COHORT = len(PartFacts._fields)
_VARIETY = _COHORT + len(CohortFacts._fields)


def load_rows(
    session: Session, air: Air, kinds: Kinds, lot_ids: Iterable[int] | None = None
) -> list[PartRecord]:
    """Live parts (of some lots, or of all) with cohort, variety, kind and route."""
    session.flush()
    some = "" if lot_ids is None else f"AND p.lot_id IN ({', '.join(map(str, lot_ids)) or '0'}) "
    lineage = Lineage(session)
    out = []
    for row in air.query(f"{_PARTS} WHERE p.deleted_s IS NULL {some}ORDER BY p.id"):
        part = root = PartFacts._make(row[:_COHORT])
        variety = VarietyFacts._make(row[_VARIETY:])
        steps = lineage.steps(part.id, part.lot_id, part.from_s, part.to_s)
        first = max(float(steps[0].from_s), float(EPOCH_S))
        legs: list[Leg] = []
        for step in steps:
            legs += air.legs(step.lot_id, max(step.from_s, first), step.to_s)
        if len(steps) > 1:
            (found,) = air.query(f"{_PARTS} WHERE p.id = ?", (lineage.root(part.id),))
            root = PartFacts._make(found[:_COHORT])
        out.append(
            PartRecord(
                part=part,
                cohort=CohortFacts._make(row[_COHORT:_VARIETY]),
                variety=variety,
                kind=kinds.get(variety.crop),
                legs=tuple(legs),
                start_s=first,
                root=root,
                steps=tuple(steps),
            )
        )
    return out
