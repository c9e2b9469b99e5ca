"""What an amount of a lot means: its own seeds per gram where weighed, the packet's count, the book."""

from __future__ import annotations

from sqlmodel import Session, col, select

from ...core.amounts import Measures, typical_packet
from ...data.tables import Cohort, Lot, Part, Variety
from .kinds import Kind, load_kinds, reference

OWN_PER_G_SD = 0.05  # a hundred weighed on a kitchen scale (guess)
BOOK_PER_G_SD = 0.15  # lots of one crop differ by about that much (guess)
PULSES = {"Fabaceae", "Poaceae"}


def measures_of(kind: Kind, variety: Variety | None = None, lot: Lot | None = None) -> Measures:
    """Measures of a kind, sharpened by what its packet says and by what was weighed of the lot."""
    figure = reference().figure
    own = lot.seeds_per_g if lot is not None else None
    per_g = own or kind.crop.seeds_per_g
    counted = variety.packet_count if variety is not None else None
    usual = typical_packet(
        kind.crop.seeds_per_g,
        figure("packet_seeds_at_1_per_g"),
        figure("packet_seeds_power"),
    )
    return Measures(
        seeds_per_g=per_g,
        per_g_sd=OWN_PER_G_SD if own else BOOK_PER_G_SD,
        packet_seeds=float(counted) if counted else usual,
        packet_sd=0.1 if counted else 0.5,
        pinch_seeds=figure("pinch_seeds"),
        g_per_ml=figure("bean_kg_per_l" if kind.crop.family in PULSES else "seed_g_per_ml"),
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
