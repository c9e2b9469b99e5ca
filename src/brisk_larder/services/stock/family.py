"""Mother, daughters and split-off packets of a lot, as a small tree across the years."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...data.queries import key, live
from ...data.tables import Cohort, Lot, Part, Variety
from ..air.look import looking_at
from ..forecast.glance_data import Likely
from ..forecast.lines import LotLine, lot_lines, packet_year_of
from ..household.larder import Larder
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
    germination: Likely | None
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


class _Tree:
    """All cohorts of the household and the lots they lie in, to walk up and down."""

    def __init__(self, session: Session) -> None:
        self.cohorts = {key(c): c for c in session.exec(live(Cohort))}
        self.parts = {key(p): p for p in session.exec(live(Part).order_by(col(Part.id)))}
        self.lots_of: dict[int, list[int]] = {}
        self.cohorts_of: dict[int, list[int]] = {}
        for p in self.parts.values():
            self.lots_of.setdefault(p.cohort_id, []).append(p.lot_id)
            self.cohorts_of.setdefault(p.lot_id, []).append(p.cohort_id)
        self.daughters: dict[int, list[int]] = {}
        for c in self.cohorts.values():
            if c.mother_cohort_id is not None:
                self.daughters.setdefault(c.mother_cohort_id, []).append(key(c))

    def around(self, lot_id: int) -> list[int]:
        """Cohorts tied to those of a lot, the nearest first, at most MOST."""
        found: list[int] = []
        queue = list(dict.fromkeys(self.cohorts_of.get(lot_id, [])))
        while queue and len(found) < MOST:
            at = queue.pop(0)
            if at in found or at not in self.cohorts:
                continue
            found.append(at)
            mother = self.cohorts[at].mother_cohort_id
            queue += [*([mother] if mother is not None else []), *self.daughters.get(at, [])]
        return found

    def ties(self, found: list[int], shown: set[int], lineage: Lineage) -> list[Tie]:
        """Mothers and split-off packets among the lots that are shown, each tie once."""
        ties: list[Tie] = []
        for mine in found:
            mother = self.cohorts[mine].mother_cohort_id
            if mother in found and mother is not None:
                origin = self.lots_of.get(mother, [])
                first = [i for i in self.lots_of.get(mine, []) if i in shown]
                if origin and first:
                    ties.append(Tie(origin[0], first[0], "mother"))
        for child in lineage.parts.values():
            up = self.parts.get(child.from_part_id) if child.from_part_id else None
            if up is not None and up.lot_id != child.lot_id and {up.lot_id, child.lot_id} <= shown:
                ties.append(Tie(up.lot_id, child.lot_id, "split"))
        return list(dict.fromkeys(ties))


def _family(session: Session, lines: dict[int, LotLine], lot_id: int) -> Family:
    tree = _Tree(session)
    cohorts, cohorts_of = tree.cohorts, tree.cohorts_of
    found = tree.around(lot_id)
    members = list(dict.fromkeys(lot for c in found for lot in tree.lots_of.get(c, [])))
    names = {v.id: v.name for v in session.exec(select(Variety))}
    lots = {x.id: x for x in session.exec(select(Lot).where(col(Lot.id).in_(members)))}
    taken: dict[int, int] = {}
    relatives = []
    for lot in sorted(members, key=lambda i: (_year(cohorts, cohorts_of, i), i)):
        cohort = cohorts[next(c for c in cohorts_of[lot] if c in found)]
        year = packet_year_of(cohort)
        row = taken.get(year, 0)
        taken[year] = row + 1
        line = lines.get(lot)
        relatives.append(
            Relative(
                lot_id=lot,
                code=lots[lot].code,
                variety=names.get(cohort.variety_id, ""),
                year=year,
                row=row,
                here=line is not None,
                me=lot == lot_id,
                germination=line.glance.now if line else None,
                source=cohort.source,
            )
        )
    ties = tree.ties(found, {r.lot_id for r in relatives}, Lineage(session))
    own = [cohorts[c] for c in cohorts_of.get(lot_id, []) if c in cohorts]
    giver = next((c.person_from for c in own if c.person_from), "")
    return Family(relatives, ties, giver)


def _year(cohorts: dict[int, Cohort], of: dict[int, list[int]], lot: int) -> int:
    return min((packet_year_of(cohorts[c]) for c in of[lot] if c in cohorts), default=0)
