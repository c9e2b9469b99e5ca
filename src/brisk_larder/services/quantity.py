"""Quantity as a ledger: the last count plus what came and went since."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot

from sqlmodel import Session, col, select

from ..core.errors import InvalidValue
from ..data.tables import StockEntry

COMES = {"found"}


@dataclass(frozen=True)
class Seeds:
    """Seeds in a lot: mean, sd; ``known`` is False when nobody ever counted or guessed them."""

    mean: float
    sd: float
    known: bool

    @property
    def whole(self) -> int:
        """A whole number to plan with."""
        return max(0, round(self.mean))


def seeds_left(session: Session, lot_ids: Iterable[int]) -> dict[int, Seeds]:
    """Seeds left in some lots, by lot. A lot with no entry at all is unknown (0, known=False)."""
    wanted = list(lot_ids)
    out = {lot: Seeds(0.0, 0.0, False) for lot in wanted}
    query = (
        select(StockEntry)
        .where(col(StockEntry.lot_id).in_(wanted), col(StockEntry.deleted_s).is_(None))
        .order_by(col(StockEntry.at_s), col(StockEntry.id))
    )
    for entry in session.exec(query):
        before = out[entry.lot_id]
        if entry.kind == "counted":
            out[entry.lot_id] = Seeds(entry.seeds_mean, entry.seeds_sd, True)
        else:
            sign = 1.0 if entry.kind in COMES else -1.0
            out[entry.lot_id] = Seeds(
                max(0.0, before.mean + sign * entry.seeds_mean),
                hypot(before.sd, entry.seeds_sd),
                before.known or entry.kind in COMES,
            )
    return out


def check_in_hand(session: Session, lot_id: int, wanted: float, field: str, given: object) -> None:
    """Raises InvalidValue when more seed is to leave a lot than can be in it (two sd above its count).

    A lot that nobody ever counted gives what is asked of it.
    """
    have = seeds_left(session, [lot_id])[lot_id]
    if have.known and wanted > have.mean + 2 * have.sd + 0.5:
        raise InvalidValue(field, given, f"at most the {have.mean:.0f} seeds in hand")
