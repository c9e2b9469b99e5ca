"""Questions that many ask: live rows, and the id of a row that is in the file."""

from __future__ import annotations

from typing import Any, TypeVar

from sqlmodel import SQLModel, col, select
from sqlmodel.sql.expression import SelectOfScalar

M = TypeVar("M", bound=SQLModel)


def live(model: type[M]) -> SelectOfScalar[M]:
    """All rows of a table that have not been taken away."""
    return select(model).where(col(model.deleted_s).is_(None))  # type: ignore[attr-defined]


def key(row: Any) -> int:
    """The id of a row that was flushed or read."""
    row_id = row.id
    assert isinstance(row_id, int), "a row in the file has an id"
    return row_id


def listed(ids: Any) -> str:
    """Ids for an SQL list; of none a list that holds no row."""
    return ", ".join(str(int(i)) for i in ids) or "0"
