"""What an amount of a lot means: its own seeds per gram where weighed, the packet's count, the book."""

from __future__ import annotations

from dataclasses import replace

from sqlmodel import Session, col, select

from ...core.hand import amounts
from ...core.hand.amounts import Measures
from ...core.seed.pieces import SEED
from ...data.queries import live
from ...data.tables import Cohort, Lot, Part, Variety
from .kinds import Kind, figures, load_kinds
from .planting_stock import measured_as

PULSES = {"Fabaceae", "Poaceae"}


def measures_of(
    kind: Kind, variety: Variety | None = None, lot: Lot | None = None, form: str = SEED
) -> Measures:
    """Measures of a kind (in the ``form`` in which it is set, or the lot's own), sharpened by what its packet
    says and by what was weighed of the lot."""
    form = lot.form if lot is not None else form
    if form != SEED:
        plain = measures_of(kind, variety)
        own = lot.seeds_per_g if lot is not None else None
        told = measured_as(plain, kind, form)
        return replace(told, seeds_per_g=own) if own else told
    return amounts.measures_of(
        kind.crop.seeds_per_g,
        lot.seeds_per_g if lot is not None else None,
        variety.packet_count if variety is not None else None,
        kind.crop.family in PULSES,
        figures().handling.bean_kg_per_l,
        figures().amounts,
    )


def main_part(session: Session, lot_id: int) -> tuple[Part, Cohort, Variety]:
    """The largest living part of a lot with its cohort and variety."""
    row = session.exec(
        select(Part, Cohort, Variety)
        .join(Cohort, col(Part.cohort_id) == Cohort.id)
        .join(Variety, col(Cohort.variety_id) == Variety.id)
        .where(Part.lot_id == lot_id, col(Part.deleted_s).is_(None))
        .order_by(col(Part.to_s).is_(None).desc(), col(Part.share_mean).desc(), col(Part.id))
    ).first()
    assert row is not None, "every lot has a part, a cohort and a variety"
    return row[0], row[1], row[2]


def kind_of_lot(session: Session, lot_id: int) -> Kind:
    """The kind of a lot's largest part."""
    return load_kinds(session).get(main_part(session, lot_id)[2].crop)


def measures_of_lot(session: Session, lot_id: int) -> Measures:
    """Measures of one lot."""
    variety = main_part(session, lot_id)[2]
    lot = session.get(Lot, lot_id)
    return measures_of(load_kinds(session).get(variety.crop), variety, lot)


def parts_of(session: Session, lot_id: int) -> list[Part]:
    """The living parts of a lot, largest first."""
    rows = session.exec(
        live(Part)
        .where(Part.lot_id == lot_id, col(Part.to_s).is_(None))
        .order_by(col(Part.share_mean).desc(), col(Part.id))
    )
    return list(rows)
