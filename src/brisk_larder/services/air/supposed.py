"""Packets that are taken to have lain where they lie since they came, though nobody said so."""

from __future__ import annotations

from sqlmodel import Session

from ...core.base.units import DAY_S
from ...core.hand.stay_start import RECENT_DAYS

# a first stay that reaches back by itself is as good as told when it was written soon after the seed came
_SUPPOSED = (
    "SELECT stay.lot_id, stay.parent_node_id FROM stay "
    "JOIN change ON change.table_name = 'stay' AND change.row_id = stay.id "
    "JOIN act ON act.id = change.act_id JOIN lot ON lot.id = stay.lot_id "
    "WHERE stay.since = 'supposed' AND stay.deleted_s IS NULL AND stay.to_s IS NULL "
    "AND lot.deleted_s IS NULL AND lot.state <> 'gone' "
    "GROUP BY stay.id HAVING min(act.at_s) - stay.from_s > ? ORDER BY stay.lot_id"
)


def supposed_lots(session: Session) -> dict[int, list[int]]:
    """Lots of which it is to be asked since when they lie where they lie, by the node they lie in."""
    run = session.connection().exec_driver_sql
    out: dict[int, list[int]] = {}
    if run("SELECT 1 FROM stay WHERE since = 'supposed' AND deleted_s IS NULL LIMIT 1").first():
        for lot, node in run(_SUPPOSED, (RECENT_DAYS * DAY_S,)):
            out.setdefault(int(node), []).append(int(lot))
    return out
