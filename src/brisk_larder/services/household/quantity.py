"""Quantity as a ledger: the last count plus what came and went since."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import hypot

from sqlmodel import Session

from ...core.errors import InvalidValue

COMES = {"found", "joined"}
Z80 = 1.2816


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

    @property
    def likely(self) -> tuple[float, float]:
        """80 % interval, never below zero."""
        return max(0.0, self.mean - Z80 * self.sd), self.mean + Z80 * self.sd


def after(before: Seeds, kind: str, mean: float, sd: float) -> Seeds:
    """The balance after one entry: a count starts anew, all else comes or goes."""
    if kind == "counted":
        return Seeds(mean, sd, True)
    sign = 1.0 if kind in COMES else -1.0
    left = max(0.0, before.mean + sign * mean)
    # of a lot that is used up nothing is left to doubt
    return Seeds(left, hypot(before.sd, sd) if left > 0 else 0.0, before.known or kind in COMES)


def seeds_left(session: Session, lot_ids: Iterable[int]) -> dict[int, Seeds]:
    """Seeds left in some lots, by lot. A lot with no entry at all is unknown (0, known=False)."""
    wanted = list(lot_ids)
    out = {lot: Seeds(0.0, 0.0, False) for lot in wanted}
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


def check_in_hand(session: Session, lot_id: int, wanted: float, field: str, given: object) -> None:
    """Raises InvalidValue when more seed is to leave a lot than can be in it (two sd above its count).

    A lot that nobody ever counted gives what is asked of it.
    """
    have = seeds_left(session, [lot_id])[lot_id]
    if have.known and wanted > have.mean + 2 * have.sd + 0.5:
        raise InvalidValue(field, given, f"at most the {have.mean:.0f} seeds in hand")
