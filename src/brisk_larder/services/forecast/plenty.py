"""Kinds of which the household holds more packets than it can use while they live."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session

from ...core.base.units import YEAR_S
from ...core.hand.seed_count import USED
from ...core.judging.verdict import too_many
from ..household.kinds import Kinds, figures
from ..household.lot_quantity import seeds_left
from ..household.own_units import measures_of
from .wishes import Wishes


@dataclass(frozen=True)
class Plenty:
    """Too many packets of a kind: how many, seeds in them, seeds that go in a year, years they keep."""

    packets: int
    seeds: float
    a_year: float
    life_years: float

    def words(self, kind_name: str) -> str:
        """In a sentence."""
        years = self.seeds / self.a_year
        return (
            f"{self.packets} packets of {kind_name}: {years:.0f} years of seed at your use, and it keeps "
            f"about {self.life_years:.0f} (the book)"
        )


_PACKETS = (
    "SELECT DISTINCT variety.crop, lot.id FROM lot JOIN part ON part.lot_id = lot.id "
    "JOIN cohort ON cohort.id = part.cohort_id JOIN variety ON variety.id = cohort.variety_id "
    "WHERE lot.deleted_s IS NULL AND lot.state <> 'gone' AND lot.intended_use = 'seed' AND lot.form = '' "
    "AND part.deleted_s IS NULL AND part.to_s IS NULL AND variety.crop IS NOT NULL"
)


def plenty(session: Session, kinds: Kinds, asked: Wishes, now_s: float) -> dict[str, Plenty]:
    """By kind. What goes in a year is what was sown, eaten, given or tested of it lately, what foods and
    picks ask for, or a share of a usual packet: the most of these."""
    f = figures()
    run = session.connection().exec_driver_sql
    lots: dict[str, list[int]] = {}
    for crop, lot in run(_PACKETS):
        lots.setdefault(kinds.get(crop).key, []).append(int(lot))
    lots = {
        k: v for k, v in lots.items() if len(v) >= f.verdict.many_packets and kinds.get(k).known
    }
    if not lots:
        return {}
    years = f.verdict.sown_lately_years
    went: dict[int, float] = dict(
        run(
            "SELECT lot_id, sum(seeds_mean) FROM stock_entry WHERE deleted_s IS NULL AND at_s >= ? "
            f"AND kind IN ({', '.join(repr(k) for k in sorted(USED))}) GROUP BY lot_id",
            (now_s - years * YEAR_S,),
        ).all()
    )
    seeds = seeds_left(session, [lot for v in lots.values() for lot in v])
    out = {}
    for kind, ids in lots.items():
        held = sum(seeds[i].mean for i in ids)
        crop = kinds.get(kind).crop
        a_year = max(
            sum(went.get(i, 0.0) for i in ids) / years,
            asked.plants_of(kind) / (f.worth.new_germination * crop.field_emergence_factor),
            f.verdict.packets_a_year * (measures_of(kinds.get(kind)).packet_seeds or 1.0),
        )
        low, high = crop.years_cool_dry
        life = (low + high) / 2
        if too_many(len(ids), held, a_year, life, f.verdict):
            out[kind] = Plenty(len(ids), held, a_year, life)
    return out
