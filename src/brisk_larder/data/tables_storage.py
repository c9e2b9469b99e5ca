"""Places, containers, where things stood when, and what was read there."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field, SQLModel

from .columns import Edited, Erasable, Identified, check, one_of, strict


class Node(Edited, table=True):
    """A place (root) or a container. A place has a place_kind, a container a container_kind."""

    __tablename__ = "node"
    __table_args__ = strict(
        one_of("role", "place", "container"),
        check(
            "kind_fits",
            "(role = 'place' AND place_kind IS NOT NULL) "
            "OR (role = 'container' AND container_kind IS NOT NULL)",
        ),
        check("capacity_positive", "capacity_lots > 0"),
        Index("uq_node_code_live", "code", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    code: str
    name: str
    role: str
    place_kind: str | None = None
    container_kind: str | None = None
    capacity_lots: int | None = None
    walk_order: int = 0
    former_use: str | None = None
    note: str = ""


class Stay(Erasable, table=True):
    """From when to when a node or a lot stood in a node; a lot also in which wrapper.

    ``is_out``: taken out of store for a while, to be put back. ``since``: of a first stay, whether it is
    known from its time on (told), or since the seed came (came: somebody said so; supposed: nobody did).
    """

    __tablename__ = "stay"
    __table_args__ = strict(
        check("one_subject", "(node_id IS NULL) <> (lot_id IS NULL)"),
        check("ends_after_start", "to_s IS NULL OR to_s > from_s"),
        one_of("since", "told", "came", "supposed"),
        Index(
            "uq_stay_open_node",
            "node_id",
            unique=True,
            sqlite_where=text("to_s IS NULL AND deleted_s IS NULL AND node_id IS NOT NULL"),
        ),
        Index(
            "uq_stay_open_lot",
            "lot_id",
            unique=True,
            sqlite_where=text("to_s IS NULL AND deleted_s IS NULL AND lot_id IS NOT NULL"),
        ),
    )

    node_id: int | None = Field(default=None, foreign_key="node.id", index=True)
    lot_id: int | None = Field(default=None, foreign_key="lot.id", index=True)
    parent_node_id: int = Field(foreign_key="node.id", index=True)
    wrapper_kind: str = "paper_envelope"
    section: str = ""
    slot: str = ""
    from_s: int
    to_s: int | None = None
    is_out: int = 0
    since: str = "told"


NODE_EVENTS = (
    "opened", "sealed", "gone_through", "wet", "cleaned",
    "airtight", "vented", "breathing", "desiccant", "desiccant_out", "note",
)  # fmt: skip


class NodeEvent(Erasable, table=True):
    """Something that happened to a place or container; ``figures`` is JSON with units in its keys.

    airtight, vented, breathing: how it is closed from then on. desiccant: a sachet put in, with the
    humidity it brought the inside to and how much slower the wall works since.
    """

    __tablename__ = "node_event"
    __table_args__ = strict(one_of("kind", *NODE_EVENTS))

    node_id: int = Field(foreign_key="node.id", index=True)
    at_s: int
    kind: str
    note: str = ""
    figures: str = "{}"


class Series(Edited, table=True):
    """One stream of readings: a person's dial or a logger. Readings never name a container."""

    __tablename__ = "series"
    __table_args__ = strict(one_of("origin", "dial", "logger"))

    name: str
    origin: str = "dial"


class Deployment(Erasable, table=True):
    """Which node a series was read in, from when to when."""

    __tablename__ = "deployment"
    __table_args__ = strict(check("ends_after_start", "to_s IS NULL OR to_s > from_s"))

    series_id: int = Field(foreign_key="series.id", index=True)
    node_id: int = Field(foreign_key="node.id", index=True)
    from_s: int
    to_s: int | None = None


class _Values(SQLModel):
    temperature_c: float | None = None
    erh: float | None = None
    t_min_c: float | None = None
    t_max_c: float | None = None


READ_RANGES = (
    check("temperature_range", "temperature_c BETWEEN -60 AND 80"),
    check("erh_range", "erh BETWEEN 0 AND 1"),
    check("something", "temperature_c IS NOT NULL OR erh IS NOT NULL"),
)


class Reading(_Values, table=True):
    """One reading of a series. Kept narrow: millions of rows."""

    __tablename__ = "reading"
    __table_args__ = strict(*READ_RANGES, sqlite_with_rowid=False)

    series_id: int = Field(foreign_key="series.id", primary_key=True)
    at_s: int = Field(primary_key=True)
    temperature_c: float | None = None
    erh: float | None = None
    t_min_c: float | None = None
    t_max_c: float | None = None
    batch_id: int | None = Field(default=None, foreign_key="import_batch.id")


class ReadingPast(_Values, Identified, table=True):
    """A reading that was corrected, voided or taken back, with the act that did it."""

    __tablename__ = "reading_past"
    __table_args__ = strict()

    series_id: int = Field(foreign_key="series.id", index=True)
    at_s: int
    batch_id: int | None = None
    act_id: str
    why: str


class ImportBatch(Erasable, table=True):
    """A file that was taken in; undo moves its readings aside in one statement."""

    __tablename__ = "import_batch"
    __table_args__ = strict(one_of("state", "in", "taken_back"))

    file_name: str
    sha256: str
    series_id: int = Field(foreign_key="series.id")
    rows: int
    known_rows: int = 0
    first_s: int | None = None
    last_s: int | None = None
    state: str = "in"
    bad_rows: int = 0
    conflicts: int = 0
    mapping: str = "{}"


class Device(Edited, table=True):
    """A recording logger that sends over HTTP: its series, and the hash of its token."""

    __tablename__ = "device"
    __table_args__ = strict(
        Index("uq_device_token", "token_hash", unique=True),
    )

    name: str
    series_id: int = Field(foreign_key="series.id")
    token_hash: str
    revoked_s: int | None = None


class DeviceSeen(SQLModel, table=True):
    """When a device was last heard of; written with every batch and never part of history."""

    __tablename__ = "device_seen"
    __table_args__ = strict()

    device_id: int = Field(primary_key=True)
    at_s: int
    battery_pct: float | None = None
    skew_s: float = 0.0
    refused: int = 0
