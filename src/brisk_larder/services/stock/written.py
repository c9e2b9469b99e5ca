"""What is written of a packet's seed, as the form that mends it shows it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session, col, select

from ...data.tables import Cohort, Household, Lot, Part, Variety
from ...data.tables_stock import PACKET
from ..acts.mend_seed import origin_now
from ..forecast.lines import packet_year_of
from ..forecast.outlook import Outlook
from ..household.kind_types import TypeChoice, listed, type_choices, type_names


@dataclass(frozen=True)
class Written:
    """What is written of a packet's seed, as its form shows it: texts, empty where nothing is known."""

    description: str
    date: str
    person_from: str
    seller: str
    mother: str
    stated_germination: str
    stated_as: str
    as_typed: str
    form: str
    types: list[str]
    type_names: list[str]
    type_choices: list[TypeChoice]
    packet: dict[str, str]


def written_of(
    session: Session, look: Outlook, lot: Lot, variety: Variety, cohort: Cohort, home: Household
) -> Written:
    """All of it, of a lot's largest part; the years of a bag of several."""
    mother = None
    if cohort.mother_cohort_id is not None:
        mother = session.exec(
            select(Lot.code)
            .join(Part, col(Part.lot_id) == Lot.id)
            .where(Part.cohort_id == cohort.mother_cohort_id, col(Part.deleted_s).is_(None))
        ).first()
    blend = look.blends.get(0)
    if blend is None:
        origin = origin_now(cohort, home)
        date = origin.words if origin else ""
    else:
        date = ", ".join(str(packet_year_of(r.cohort)) for r in blend.parts.rows)
    stated = cohort.stated_germination
    return Written(
        description=cohort.description,
        date=date,
        person_from=cohort.person_from,
        seller=cohort.seller,
        mother=mother or "",
        stated_germination="" if stated is None else f"{100 * stated:g}",
        stated_as=cohort.stated_as,
        as_typed=lot.as_typed,
        form=lot.form or "seed",
        types=list(listed(variety.types)),
        type_names=type_names(variety.types, variety.crop),
        type_choices=type_choices(variety.crop),
        packet={f: str(getattr(variety, f) or "") for f in PACKET},
    )
