"""The whole household out to JSON, and into an empty larder again."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy.exc import IntegrityError
from sqlmodel import col, delete, select

from ..core.errors import BadFile, InvalidValue
from ..data.tables import HISTORY_TABLES, Lot, Reading
from .buckets import rebuild_buckets
from .forecast import remark_everything
from .larder import Larder


def everything_json(larder: Larder) -> str:
    """The whole household as JSON: every table as a list of rows."""
    data: dict[str, object] = {"format": "brisk-larder", "schema": larder.store.schema_rev}
    with larder.store.read() as session:
        for name, model in HISTORY_TABLES.items():
            rows = session.exec(select(model).order_by(col(model.id)))
            data[name] = [row.model_dump() for row in rows]
        readings = select(Reading).order_by(col(Reading.series_id), col(Reading.at_s))
        data["reading"] = [row.model_dump() for row in session.exec(readings)]
    return json.dumps(data, indent=1)


def restore_everything(larder: Larder, name: str, data: bytes) -> int:
    """Fill an empty larder from ``everything_json``; returns the number of rows.

    Refuses a larder that holds seed or readings already. Raises BadFile and InvalidValue.
    """
    try:
        raw = json.loads(data)
    except (UnicodeDecodeError, json.JSONDecodeError) as error:
        raise BadFile(f"{name} is not JSON: {error}") from error
    if not isinstance(raw, dict) or raw.get("format") != "brisk-larder":
        raise BadFile(f"{name} does not hold a larder: its format is not 'brisk-larder'")
    if raw.get("schema") != larder.store.schema_rev:
        raise BadFile(
            f"{name} has schema {raw.get('schema')!r}, this program {larder.store.schema_rev!r}: open "
            "its own file with this program instead, it is brought up to date there"
        )
    tables: dict[str, type[Any]] = {**HISTORY_TABLES, "reading": Reading}
    with larder.store.write() as session:
        if session.exec(select(Lot.id)).first() or session.exec(select(Reading.at_s)).first():
            raise InvalidValue("larder", larder.store.path.name, "an empty larder to restore into")
        session.connection().exec_driver_sql("PRAGMA defer_foreign_keys = ON")
        count = 0
        for model in tables.values():
            session.exec(delete(model))
        for table, model in tables.items():
            for i, row in enumerate(raw.get(table, [])):
                try:
                    session.add(model(**row))
                    session.flush()
                except (IntegrityError, TypeError) as error:
                    raise BadFile(f"{name}, {table}, row {i + 1}: {error.args[0]}") from error
                count += 1
        rebuild_buckets(session)
        remark_everything(session)
    return count
