"""Where a lot or a container stands now, and the end of a stay."""

from __future__ import annotations

from sqlmodel import Session, col

from ...core.base.errors import InvalidValue
from ...data.queries import live
from ...data.tables import Stay
from ..household.wording import day_words


def open_stay(session: Session, lot_id: int) -> Stay | None:
    """Where a lot stands now."""
    return session.exec(live(Stay).where(Stay.lot_id == lot_id, col(Stay.to_s).is_(None))).first()


def end_stay(session: Session, stay: Stay, when: int, now_s: int) -> None:
    """End a stay at a time. One that began at that very time never was: it is taken away.

    Raises InvalidValue for a time before it began.
    """
    if when < stay.from_s:
        began = day_words(stay.from_s)
        raise InvalidValue(
            "moved on", day_words(when), f"after {began}, when it came to where it is"
        )
    if when == stay.from_s:
        stay.deleted_s = now_s
    else:
        stay.to_s = when
    session.add(stay)
    session.flush()


def open_node_stay(session: Session, node_id: int) -> Stay | None:
    """Where a container stands now."""
    return session.exec(live(Stay).where(Stay.node_id == node_id, col(Stay.to_s).is_(None))).first()
