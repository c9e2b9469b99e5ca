"""What goes stale with a change: parts to rebuild, air to reckon again, what lists show."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import text
from sqlmodel import Session, col, delete, select

from ...core.units import month_start_s
from ...data.tables import DAir, Part
from ..air.air import Air, new_climate
from ..air.reach import reach
from ..household.lineage import of_their_varieties, with_descendants


def mark(session: Session, part_ids: Iterable[int], from_s: float) -> None:
    """Mark parts as to be rebuilt from a time on, and drop what lists show of their lots."""
    ids = with_descendants(session, part_ids)
    if not ids:
        return
    session.connection().execute(
        text(
            "INSERT INTO dirty (part_id, from_s) VALUES (:part, :since) "
            "ON CONFLICT (part_id) DO UPDATE SET from_s = min(from_s, excluded.from_s)"
        ),
        [{"part": part, "since": int(from_s)} for part in ids],
    )
    lots = session.exec(select(Part.lot_id).where(col(Part.id).in_(ids))).all()
    touch(session, lots)


def remark_everything(session: Session) -> None:
    """Mark all parts from their start and drop all glances: the climate or the crops changed."""
    parts = session.exec(select(Part.id)).all()
    mark(session, [p for p in parts if p is not None], 0)
    session.exec(delete(DAir))
    new_climate(session)
    touch(session)


def mark_node(
    session: Session, air: Air, node_ids: Iterable[int], from_s: float, *, read: bool = False
) -> None:
    """Mark what ever lay in some nodes, or in what ever stood in them, from a time on.

    ``read``: readings of these nodes changed, and ``from_s`` is the time of the one before
    (``reach.previous_s``); else it is what is around them that changes from then on.
    """
    starts: dict[float, list[int]] = {}
    for node, since in reach(air, node_ids, from_s, read=read).items():
        starts.setdefault(since, []).append(node)
    new_climate(session)
    for since, nodes in starts.items():
        listed = ", ".join(map(str, sorted(nodes)))
        parts = air.query(
            "SELECT DISTINCT part.id FROM stay JOIN part ON part.lot_id = stay.lot_id "
            f"WHERE stay.deleted_s IS NULL AND stay.parent_node_id IN ({listed})"
        )
        session.connection().execute(
            text(f"DELETE FROM d_air WHERE month_s >= :since AND node_id IN ({listed})"),
            {"since": month_start_s(max(since, 0))},
        )
        mark(session, [int(row[0] or 0) for row in parts], since)


def touch(session: Session, lot_ids: Iterable[int] | None = None) -> None:
    """Drop what lists show of some lots (None: of all); the next reader makes it again.

    With them goes all seed of their varieties: tests of one lot teach its kin, and a line that is
    kept is as safe as all its lots together.
    """
    where = "" if lot_ids is None else f" WHERE lot_id IN ({of_their_varieties(lot_ids)})"
    session.flush()
    session.connection().exec_driver_sql("DELETE FROM d_glance" + where)
