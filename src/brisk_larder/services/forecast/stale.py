"""What goes stale with a change: parts to rebuild, air to reckon again, what lists show."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import text
from sqlmodel import Session, col, delete, select

from ...core.base.units import month_start_s
from ...core.storage.barrier import MOVES_AIR
from ...data.queries import listed
from ...data.tables import DAir, Part
from ..air.air import Air, new_climate
from ..air.reach import previous_s, reach
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


SETTLED = "kin_settled"  # in meta: the day for which what relatives say (d_kin) holds


def unsettle(session: Session) -> None:
    """What relatives say is to be reckoned again by the next reader."""
    session.connection().exec_driver_sql("DELETE FROM meta WHERE key = ?", (SETTLED,))


def settled_for(session: Session) -> str:
    """The day for which what relatives say was reckoned; empty: for none."""
    found = session.connection().exec_driver_sql("SELECT value FROM meta WHERE key = ?", (SETTLED,))
    return str(found.scalar() or "")


# rows on which it hangs, with their columns (none: all of them): tests and counted sowings, whose relative
# seed is, where new seed lies, the kinds' figures. What changes the past of the air or of a part
# unsettles it when that is rebuilt
EVIDENCE: dict[str, tuple[str, ...]] = {
    "trial": (), "trial_count": (), "sowing_count": (), "part": (),
    "sowing": ("lot_id", "at_s", "n", "setting", "settled_s"),
    "lot_event": (), "crop_change": (), "own_kind": (),
    "stay": ("parent_node_id", "from_s", "to_s", "since"), "variety": ("crop",),
    "cohort": ("source", "origin_lo_s", "origin_hi_s", "record_from_s", "year_guessed",
               "stated_germination", "mother_cohort_id", "variety_id"),
}  # fmt: skip


def is_evidence(c: Changed) -> bool:
    """Whether what relatives say may hang on a changed row. What was just begun says nothing yet."""
    if c.new and c.table in ("trial", "sowing"):
        return False
    columns = EVIDENCE.get(c.table)
    return columns is not None and (not columns or c.any_of(*columns))


class Changed:
    """One row an act changed: its table, and its columns before (none: it is new) and after."""

    def __init__(self, table: str, row_id: int, before: str | None, after: str) -> None:
        self.table, self.row_id = table, row_id
        self.after: dict[str, Any] = json.loads(after)
        self.before: dict[str, Any] | None = None if before is None else json.loads(before)

    @property
    def new(self) -> bool:
        """Whether the act made the row."""
        return self.before is None

    def any_of(self, *columns: str) -> bool:
        """Whether one of some columns changed, or the row came or went."""
        then = self.before
        if then is None:
            return True
        return any(then.get(c) != self.after.get(c) for c in (*columns, "deleted_s"))

    def earliest(self, *columns: str) -> int:
        """The earliest time that stands or stood in some columns that changed; of a row that came or
        went in the first of them."""
        then = self.before
        if then is None or then["deleted_s"] != self.after["deleted_s"]:
            columns, then = columns[:1], then or self.after
            changed = columns
        else:
            changed = tuple(c for c in columns if then[c] != self.after[c])
        times = [row[c] for row in (then, self.after) for c in changed if row[c] is not None]
        return int(min(times, default=0))


@dataclass
class Stale:
    """What an act makes stale, gathered from its rows and written once: all there is, parts and nodes
    from a time on, what lists show of some lots or (``all_lists``) of all."""

    session: Session
    everything: bool = False
    all_lists: bool = False
    lots: set[int] = field(default_factory=set)
    parts: dict[int, int] = field(default_factory=dict)
    nodes: dict[int, int] = field(default_factory=dict)
    read: dict[int, int] = field(default_factory=dict)

    def ids(self, sql: str, *values: object) -> list[int]:
        """Ids that a query finds."""
        found = self.session.connection().exec_driver_sql(sql, values)
        return [int(row[0]) for row in found]

    def age(self, part_ids: Iterable[int], since_s: float) -> None:
        """The ageing of parts from a time on."""
        for part in part_ids:
            self.parts[part] = min(self.parts.get(part, int(since_s)), int(since_s))

    def around(self, node_id: int, since_s: float) -> None:
        """What is around a node, and all in it, from a time on."""
        self.nodes[node_id] = min(self.nodes.get(node_id, int(since_s)), int(since_s))

    def in_lot(self, lot_id: int, since_s: float) -> None:
        """The ageing of all parts of a lot from a time on."""
        self.age(self.ids("SELECT id FROM part WHERE lot_id = ?", lot_id), since_s)

    def of_cohort(self, cohort_id: int) -> list[int]:
        """Parts of a cohort."""
        return self.ids("SELECT id FROM part WHERE cohort_id = ?", cohort_id)

    def of_variety(self, variety_id: int) -> list[int]:
        """Parts of a variety."""
        return self.ids(
            "SELECT part.id FROM part JOIN cohort ON cohort.id = part.cohort_id "
            "WHERE cohort.variety_id = ?",
            variety_id,
        )

    def lots_of(self, part_ids: Iterable[int]) -> None:
        """What lists show of the lots of some parts."""
        self.lots.update(self.ids(f"SELECT lot_id FROM part WHERE id IN ({listed(part_ids)})"))


# the air of all places hangs on these (hours of a day are by its clock), what lists show on all the others
# but what is only for people
ABOUT_AIR = ("hemisphere", "outdoor_mean_c", "unplaced_kind", "unplaced_wrapper", "tz")
FOR_PEOPLE = {
    "name", "code_scheme", "currency", "page_size", "address", "settled", "version", "locale",
    "unplaced_told", "food_bed_m2", "cells", "evenings", "winter_roots", "people", "guest_weeks",
}  # fmt: skip


def _household(s: Stale, c: Changed) -> None:
    if c.any_of(*ABOUT_AIR):
        s.everything = True
    elif c.any_of(*(set(c.after) - FOR_PEOPLE)):
        s.all_lists = True


def _figures(s: Stale, c: Changed) -> None:
    s.everything = True


def _own_kind(s: Stale, c: Changed) -> None:
    found = s.ids(
        "SELECT part.id FROM part JOIN cohort ON cohort.id = part.cohort_id JOIN variety "
        "ON variety.id = cohort.variety_id WHERE variety.crop = ?",
        c.after["key"],
    )
    s.age(found, 0)


def _node(s: Stale, c: Changed) -> None:
    if not c.new and c.any_of("container_kind", "place_kind"):
        s.around(c.row_id, 0)


def _stay(s: Stale, c: Changed) -> None:
    if not c.any_of("parent_node_id", "wrapper_kind", "from_s", "to_s", "since"):
        return
    whose = "node_id" if c.after["node_id"] is not None else "lot_id"
    subject = int(c.after[whose])
    since = c.earliest("from_s", "to_s", "parent_node_id", "wrapper_kind")
    if c.any_of("parent_node_id", "wrapper_kind", "since"):
        since = min(since, int(c.after["from_s"]))
    # the first stay reaches back to the start, whichever that is now
    earlier = s.ids(
        f"SELECT id FROM stay WHERE {whose} = ? AND deleted_s IS NULL AND from_s < ?",
        subject,
        since,
    )
    since = since if earlier else 0
    if whose == "node_id":
        s.around(subject, since)
    else:
        s.in_lot(subject, since)


def _node_event(s: Stale, c: Changed) -> None:
    if c.after["kind"] in MOVES_AIR and c.any_of("at_s", "kind", "figures"):
        s.around(int(c.after["node_id"]), c.earliest("at_s"))


def _deployment(s: Stale, c: Changed) -> None:
    # nothing is known of the air by a logger that stands there, only by what it read from then on
    since = min(
        s.ids(
            "SELECT at_s FROM reading WHERE series_id = ? AND at_s >= ? ORDER BY at_s LIMIT 1",
            c.after["series_id"],
            c.earliest("from_s", "to_s"),
        ),
        default=None,
    )
    if since is None:
        return
    for node in {row["node_id"] for row in (c.before, c.after) if row is not None}:
        s.read[int(node)] = min(s.read.get(int(node), since), since)


def _part(s: Stale, c: Changed) -> None:
    # a part that was split off or ended reaches into the past of the one it came from
    own = c.new and c.after["from_part_id"] is None
    s.age([c.row_id], int(c.after["from_s"]) if own else 0)


def _cohort(s: Stale, c: Changed) -> None:
    if c.new:
        return
    parts = s.of_cohort(c.row_id)
    told = {"mother_cohort_id", "crossed_risk", "person_from", "seller", "price", "description"}
    if c.any_of(*(set(c.after) - told - {"version"})):
        s.age(parts, 0)
    s.lots_of(parts)
    if c.before is not None and c.any_of("variety_id"):
        # a line that seed has left is told anew, too: it is only as safe as what is left of it
        s.lots_of(s.of_variety(int(c.before["variety_id"])))


def _variety(s: Stale, c: Changed) -> None:
    if c.new:
        return
    parts = s.of_variety(c.row_id)
    if c.any_of("crop"):
        s.age(parts, 0)
    s.lots_of(parts)


def _moisture(s: Stale, c: Changed) -> None:
    s.in_lot(int(c.after["lot_id"]), c.earliest("at_s"))


def _lot(s: Stale, c: Changed) -> None:
    s.lots.add(c.row_id)


def _of_lot(s: Stale, c: Changed) -> None:
    s.lots.add(int(c.after["lot_id"]))


def _trial_count(s: Stale, c: Changed) -> None:
    s.lots.update(s.ids("SELECT lot_id FROM trial WHERE id = ?", c.after["trial_id"]))


def _sowing_count(s: Stale, c: Changed) -> None:
    s.lots.update(s.ids("SELECT lot_id FROM sowing WHERE id = ?", c.after["sowing_id"]))


def _wanted(s: Stale, c: Changed) -> None:
    """What is wanted decides what deserves a test; the first wish of a year (or the last that goes) decides
    which year is planned for at all."""
    year = c.after.get("year")
    if c.any_of() and year is not None:
        others = s.ids(
            "SELECT id FROM food_target WHERE deleted_s IS NULL AND year = ? UNION ALL "
            "SELECT id FROM pick WHERE deleted_s IS NULL AND year = ? LIMIT 2",
            year,
            year,
        )
        if len(others) <= 1:
            s.all_lists = True
    if c.table == "pick":
        s.lots.add(int(c.after["lot_id"]))
    else:
        crops = {row["crop"] for row in (c.before, c.after) if row is not None}
        for crop in crops:
            s.lots.update(
                s.ids(
                    "SELECT part.lot_id FROM part JOIN cohort ON cohort.id = part.cohort_id "
                    "JOIN variety ON variety.id = cohort.variety_id WHERE variety.crop = ?",
                    crop,
                )
            )


def _sown(s: Stale, c: Changed) -> None:
    """A kind that was sown is wanted; the first sowing of all, and the last that goes, change it for all."""
    lot = int(c.after["lot_id"])
    s.lots.add(lot)
    if not c.any_of("at_s", "lot_id"):
        return
    if len(s.ids("SELECT id FROM sowing WHERE deleted_s IS NULL LIMIT 2")) <= 1:
        s.all_lists = True
        return
    kin = "JOIN cohort ON cohort.id = part.cohort_id JOIN variety ON variety.id = cohort.variety_id"
    s.lots.update(
        s.ids(
            f"SELECT part.lot_id FROM part {kin} WHERE variety.crop IN "
            f"(SELECT variety.crop FROM part {kin} WHERE part.lot_id = ?)",
            lot,
        )
    )


def _nothing(s: Stale, c: Changed) -> None:
    """No forecast of any lot hangs on it."""


# row kind -> what goes stale when an act, an undo or a redo changes such a row
TABLE: dict[str, Callable[[Stale, Changed], None]] = {
    "household": _household,
    "crop_change": _figures,
    "own_kind": _own_kind,
    "node": _node,
    "stay": _stay,
    "node_event": _node_event,
    "deployment": _deployment,
    "part": _part,
    "cohort": _cohort,
    "variety": _variety,
    "moisture_obs": _moisture,
    "lot": _lot,
    "lot_event": _of_lot,
    "stock_entry": _of_lot,
    "earmark": _of_lot,
    "trial": _of_lot,
    "trial_count": _trial_count,
    "sowing": _sown,
    "sowing_count": _sowing_count,
    "food_target": _wanted,
    "pick": _wanted,
    "series": _nothing,
    "device": _nothing,
    "import_batch": _nothing,  # its readings are marked where they come and go
    "chain_override": _nothing,
    "pantry_entry": _nothing,
    "forecast_note": _nothing,
    "job": _nothing,
    "person": _nothing,
    "spot": _nothing,
    "plan_cell": _nothing,
    "neighbour": _nothing,
    "food_share": _nothing,
    "harvest": _nothing,
    "jar": _nothing,
    "own_window": _wanted,
    "forecast_night": _nothing,
    "seller": _nothing,
    "seed_offer": _nothing,
    "wanted_seed": _nothing,
    "seed_order": _nothing,
    "saved_view": _nothing,
    "stocktake": _nothing,
    "stocktake_line": _nothing,
    "parcel": _nothing,
    "parcel_line": _nothing,
}


def follow(
    session: Session, air: Callable[[], Air], changes: Iterable[tuple[str, int, str | None, str]]
) -> None:
    """Mark all that an act's changed rows (table, id, before, after) make stale; ``air`` gives what
    stands where as the act leaves it."""
    stale = Stale(session)
    changed = [Changed(*change) for change in changes]
    if any(is_evidence(c) for c in changed):
        unsettle(session)
    for c in changed:
        TABLE[c.table](stale, c)
    if stale.everything:
        remark_everything(session)
        return
    if stale.nodes or stale.read:
        _follow_air(session, air(), stale)
    starts: dict[int, list[int]] = {}
    for part, since in stale.parts.items():
        starts.setdefault(since, []).append(part)
    for since, parts in starts.items():
        mark(session, parts, since)
    if stale.all_lists:
        touch(session)
    elif stale.lots:
        touch(session, stale.lots)


def _follow_air(session: Session, air: Air, stale: Stale) -> None:
    for node, since in stale.nodes.items():
        mark_node(session, air, [node], since)
    for node, since in stale.read.items():
        mark_node(session, air, [node], previous_s(air, node, since), read=True)
