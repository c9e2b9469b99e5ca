"""Mother, daughters and split-off packets of a lot, as a small tree across the years."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...data.queries import key, live
from ...data.tables import Cohort, Lot, Part, Variety
from ..air.look import looking_at
from ..forecast.lines import LotLine, lot_lines, packet_year_of
from ..household.larder import Larder, is_live
from ..household.lineage import Lineage

MOST = 60


@dataclass(frozen=True)
class Relative:
    """One lot in the tree: its column is the year, its row keeps lines apart."""

    lot_id: int
    code: str
    variety: str
    year: int
    row: int
    here: bool
    me: bool
    germination: float | None
    source: str


@dataclass(frozen=True)
class Tie:
    """mother: grown from; split: out of the same packet."""

    from_lot: int
    to_lot: int
    kind: str


@dataclass(frozen=True)
class Family:
    """The tree; alone when there is nothing but the lot itself."""

    relatives: list[Relative]
    ties: list[Tie]
    giver: str


def family(larder: Larder, lot_id: int) -> Family:
    """Everything tied to a lot: mothers upward, daughters downward, packets split off or joined."""
    lines = {x.lot_id: x for x in lot_lines(larder)}
    with looking_at(larder) as v:
        return _family(v.session, lines, lot_id)


def _family(session: Session, lines: dict[int, LotLine], lot_id: int) -> Family:
    cohorts = {key(c): c for c in session.exec(select(Cohort)) if is_live(c)}
    parts = list(session.exec(live(Part).order_by(col(Part.id))))
    lots_of: dict[int, list[int]] = {}
    cohorts_of: dict[int, list[int]] = {}
    for p in parts:
        lots_of.setdefault(p.cohort_id, []).append(p.lot_id)
        cohorts_of.setdefault(p.lot_id, []).append(p.cohort_id)
    daughters: dict[int, list[int]] = {}
    for c in cohorts.values():
        if c.mother_cohort_id is not None:
            daughters.setdefault(c.mother_cohort_id, []).append(key(c))
    found: list[int] = []
    queue = list(dict.fromkeys(cohorts_of.get(lot_id, [])))
    while queue and len(found) < MOST:
        at = queue.pop(0)
        if at in found or at not in cohorts:
            continue
        found.append(at)
        mother = cohorts[at].mother_cohort_id
        queue += [*([mother] if mother is not None else []), *daughters.get(at, [])]
    members = list(dict.fromkeys(lot for c in found for lot in lots_of.get(c, [])))
    names = {v.id: v.name for v in session.exec(select(Variety))}
    lots = {x.id: x for x in session.exec(select(Lot).where(col(Lot.id).in_(members)))}
    rows: dict[int, int] = {}
    taken: dict[int, int] = {}
    relatives = []
    for lot in sorted(members, key=lambda i: (_year(cohorts, cohorts_of, i), i)):
        cohort = cohorts[next(c for c in cohorts_of[lot] if c in found)]
        year = packet_year_of(cohort)
        row = taken.get(year, 0)
        taken[year] = row + 1
        rows[lot] = row
        line = lines.get(lot)
        relatives.append(
            Relative(
                lot,
                lots[lot].code,
                names.get(cohort.variety_id, ""),
                year,
                row,
                line is not None,
                lot == lot_id,
                line.glance.now.mid if line else None,
                cohort.source,
            )
        )
    ties: list[Tie] = []
    for mine in found:
        mother = cohorts[mine].mother_cohort_id
        if mother in found and mother is not None:
            origin = lots_of.get(mother, [])
            first = [i for i in lots_of.get(mine, []) if i in rows]
            if origin and first:
                ties.append(Tie(origin[0], first[0], "mother"))
    by_id = {p.id: p for p in parts}
    for child in Lineage(session).parts.values():
        up = by_id.get(child.from_part_id) if child.from_part_id else None
        if (
            up is not None
            and up.lot_id != child.lot_id
            and {up.lot_id, child.lot_id} <= rows.keys()
        ):
            ties.append(Tie(up.lot_id, child.lot_id, "split"))
    own = [cohorts[c] for c in cohorts_of.get(lot_id, []) if c in cohorts]
    giver = next((c.person_from for c in own if c.person_from), "")
    return Family(relatives, list(dict.fromkeys(ties)), giver)


def _year(cohorts: dict[int, Cohort], of: dict[int, list[int]], lot: int) -> int:
    return min((packet_year_of(cohorts[c]) for c in of[lot] if c in cohorts), default=0)
