"""How much seed there is in each lot, by its ledger, and what is set aside of it."""

from __future__ import annotations

from collections.abc import Iterable

from sqlmodel import Session

from ...core.base.errors import InvalidValue
from ...core.hand.seed_count import NOTHING_SAID, Seeds, after, more_than_there_is
from .kinds import figures


def seeds_left(session: Session, lot_ids: Iterable[int]) -> dict[int, Seeds]:
    """Seeds left in some lots, by lot. A lot with no entry at all is unknown (0, known=False)."""
    wanted = list(lot_ids)
    out = dict.fromkeys(wanted, NOTHING_SAID)
    listed = ", ".join(map(str, wanted)) or "0"
    session.flush()
    for lot, kind, mean, sd in session.connection().exec_driver_sql(
        "SELECT lot_id, kind, seeds_mean, seeds_sd FROM stock_entry WHERE deleted_s IS NULL "
        f"AND lot_id IN ({listed}) ORDER BY at_s, id"
    ):
        out[lot] = after(out[lot], kind, mean, sd)
    return out


def earmarks(session: Session) -> dict[int, float]:
    """Seeds set aside in each lot for another use than the lot as a whole."""
    session.flush()
    found = session.connection().exec_driver_sql(
        "SELECT lot_id, sum(seeds_mean) FROM earmark WHERE deleted_s IS NULL GROUP BY lot_id"
    )
    return {int(row[0]): float(row[1]) for row in found}


def promised(session: Session) -> dict[int, float]:
    """Seeds of each lot that are promised in parcels not yet packed."""
    session.flush()
    found = session.connection().exec_driver_sql(
        "SELECT line.lot_id, sum(line.seeds_mean) FROM parcel_line line "
        "JOIN parcel ON parcel.id = line.parcel_id WHERE line.deleted_s IS NULL "
        "AND parcel.deleted_s IS NULL AND parcel.direction = 'out' AND parcel.state = 'promised' "
        "GROUP BY line.lot_id"
    )
    return {int(lot): float(seeds) for lot, seeds in found}


def held_back(session: Session) -> dict[int, float]:
    """Seeds in each lot that are neither sown nor given: set aside for another use, or promised."""
    out = earmarks(session)
    for lot, seeds in promised(session).items():
        out[lot] = out.get(lot, 0.0) + seeds
    return out


def check_in_hand(session: Session, lot_id: int, wanted: float, field: str, given: object) -> None:
    """Raises InvalidValue when more seed is to leave a lot than can be in it."""
    have = seeds_left(session, [lot_id])[lot_id]
    if more_than_there_is(have, wanted, figures().quantity):
        raise InvalidValue(field, given, f"at most the {have.mean:.0f} seeds in hand")
