"""Since when packets and containers stand where they stand: said later, for many at once, dated back."""

from __future__ import annotations

from collections.abc import Sequence

from sqlmodel import Session, col, select

from ...core.base.errors import Conflict, InvalidValue
from ...core.hand.stay_start import Began, began
from ...core.hand.writing import way_of
from ...data.queries import live
from ...data.tables import Lot, Node, Part, Stay
from ..air.standing import EPOCH_S
from ..air.stays import open_node_stay, open_stay
from ..household.possible_values import get_live
from ..household.wording import day_words, many
from .acting import Doing, Done, act


def came_s(session: Session, lot_id: int) -> int:
    """Where the record of a lot's seed begins (epoch s); of several in one bag the first."""
    found = session.exec(
        select(Part.from_s).where(Part.lot_id == lot_id, col(Part.deleted_s).is_(None))
    ).all()
    return min(found, default=EPOCH_S)


def first_stay_began(a: Doing, lot_id: int, said: str) -> Began:
    """When the first stay of a lot begins, by what was said of it. Raises InvalidValue."""
    return began(said, came_s(a.session, lot_id), a.now_s, a.home.tz, way_of(a.home.locale))


@act("say_since")
def say_since(a: Doing, since: str, lot_ids: Sequence[int], node_ids: Sequence[int] = ()) -> Done:
    """Say since when packets and containers stand where they stand now: "since it came", "only from now"
    (from when it was written down that they do), or a year or day; what was before that gives way.

    Raises InvalidValue, NotFound, Conflict for what stands nowhere.
    """
    if not since.strip():
        raise InvalidValue("since when", since, "since it came, only from then, or a year or day")
    for lot_id in lot_ids:
        lot = get_live(a.session, Lot, lot_id, "lot")
        _reach(a, open_stay(a.session, lot_id), came_s(a.session, lot_id), since, lot.code)
        a.about(f"lot:{lot_id}")
    for node_id in node_ids:
        node = get_live(a.session, Node, node_id, "container")
        _reach(a, open_node_stay(a.session, node_id), EPOCH_S, since, node.name)
        a.about(f"node:{node_id}")
    count = len(lot_ids) + len(node_ids)
    if not count:
        raise InvalidValue("packets", 0, "at least one")
    a.summary = (
        f"{many(count, 'packet' if lot_ids else 'container')}: where they stand {since.strip()}"
    )
    return Done()


def _reach(a: Doing, stay: Stay | None, came: int, since: str, name: str) -> None:
    """Let a stay begin when it is said to have; what lay before gives way to it."""
    if stay is None:
        raise Conflict(f"{name} stands nowhere: say where first")
    said = since.strip().lower()
    if said in ("only from then", "then"):
        if stay.since != "told":  # nobody knows since when: from when it was written
            stay.from_s = max(stay.from_s, _written_s(a, stay))
        stay.since = "told"
        a.session.add(stay)
        return
    when = began(since, came, a.now_s, a.home.tz, way_of(a.home.locale))
    if stay.to_s is not None and when.from_s >= stay.to_s:
        raise InvalidValue("since when", since, f"before {day_words(stay.to_s)}, when it left")
    whose = Stay.lot_id == stay.lot_id if stay.lot_id is not None else Stay.node_id == stay.node_id
    for before in a.session.exec(live(Stay).where(whose, Stay.id != stay.id)):
        if before.from_s >= when.from_s:
            before.deleted_s = a.now_s
        elif before.to_s is None or before.to_s > when.from_s:
            before.to_s = when.from_s
        a.session.add(before)
    stay.from_s, stay.since = when.from_s, when.since
    a.session.add(stay)
    a.session.flush()


def _written_s(a: Doing, stay: Stay) -> int:
    """When a stay was first written down (epoch s)."""
    found = a.session.connection().exec_driver_sql(
        "SELECT min(act.at_s) FROM act JOIN change ON change.act_id = act.id "
        "WHERE change.table_name = 'stay' AND change.row_id = ?",
        (stay.id,),
    )
    return int(found.scalar() or stay.from_s)
