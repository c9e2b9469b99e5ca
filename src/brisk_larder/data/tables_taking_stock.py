"""Work on the whole stock: stocktakes, saved views, parcels."""

from __future__ import annotations

from sqlalchemy import Index, text
from sqlmodel import Field

from .columns import Edited, Erasable, check, one_of, strict

RESULTS = ("found", "counted", "missing", "moved", "new")
CONDITIONS = ("", "damp", "mouldy", "sprouted", "eaten")


class Stocktake(Edited, table=True):
    """Going through one container, packet by packet; can be left and taken up again."""

    __tablename__ = "stocktake"
    __table_args__ = strict(
        one_of("state", "open", "paused", "done", "given_up"),
        Index(
            "uq_stocktake_open",
            "node_id",
            unique=True,
            sqlite_where=text("state IN ('open', 'paused') AND deleted_s IS NULL"),
        ),
    )

    node_id: int = Field(foreign_key="node.id", index=True)
    started_s: int
    ended_s: int | None = None
    state: str = "open"
    expected: str = "[]"


class StocktakeLine(Edited, table=True):
    """What was found of one lot; ``came_from``: the node it was thought to stand in."""

    __tablename__ = "stocktake_line"
    __table_args__ = strict(
        one_of("result", *RESULTS),
        one_of("condition", *CONDITIONS),
        Index(
            "uq_stocktake_line_live",
            "stocktake_id",
            "lot_id",
            unique=True,
            sqlite_where=text("deleted_s IS NULL"),
        ),
    )

    stocktake_id: int = Field(foreign_key="stocktake.id", index=True)
    lot_id: int = Field(foreign_key="lot.id", index=True)
    at_s: int
    result: str
    condition: str = ""
    as_said: str = ""
    came_from: int | None = None
    changed: str = ""


class SavedView(Edited, table=True):
    """An order and choice of lots under the household's own name; ``spec`` is JSON."""

    __tablename__ = "saved_view"
    __table_args__ = strict(
        Index("uq_saved_view_live", "name", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    name: str
    spec: str


class Parcel(Edited, table=True):
    """Seed for somebody, or from somebody: promised, packed, sent, received."""

    __tablename__ = "parcel"
    __table_args__ = strict(
        one_of("direction", "out", "in"),
        one_of("state", "promised", "packed", "sent", "received"),
        Index("uq_parcel_code_live", "code", unique=True, sqlite_where=text("deleted_s IS NULL")),
    )

    code: str
    direction: str = "out"
    person: str
    state: str = "promised"
    made_s: int
    sent_s: int | None = None
    note: str = ""
    origin: str = ""


class ParcelLine(Erasable, table=True):
    """One lot's amount in a parcel; ``entry_id`` is its line in the ledger once it was packed."""

    __tablename__ = "parcel_line"
    __table_args__ = strict(check("seeds_positive", "seeds_mean > 0"))

    parcel_id: int = Field(foreign_key="parcel.id", index=True)
    lot_id: int = Field(foreign_key="lot.id", index=True)
    seeds_mean: float
    seeds_sd: float = 0.0
    as_said: str = ""
    entry_id: int | None = Field(default=None, foreign_key="stock_entry.id")
