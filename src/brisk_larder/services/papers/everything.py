"""The whole household out to JSON, and into an empty larder again."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy.exc import IntegrityError, StatementError
from sqlmodel import Session, SQLModel, col, delete, insert, select

from ...core.base.errors import BadFile, InvalidValue
from ...core.base.plain_json import read_json
from ...data.acts import SECRETS
from ...data.limits import JSON_TEXT, odd_values
from ...data.tables import HISTORY_TABLES, Lot, Reading
from ..air.buckets import rebuild_buckets
from ..air.look import looking_at
from ..forecast.stale import remark_everything
from ..household.larder import Larder
from .mending import cannot_be


def everything_json(larder: Larder) -> str:
    """The whole household as JSON: every table as a list of rows; without what is secret to this file."""
    data: dict[str, object] = {"format": "brisk-larder", "schema": larder.store.schema_rev}
    with looking_at(larder) as v:
        run = v.session.connection().execute
        for name, model in HISTORY_TABLES.items():
            table = SQLModel.metadata.tables[name]
            rows = [dict(r) for r in run(table.select().order_by(col(model.id))).mappings()]
            secret = [column for where, column in SECRETS if where == name]
            data[name] = [row | dict.fromkeys(secret, "") for row in rows]
        table = SQLModel.metadata.tables["reading"]
        readings = table.select().order_by(table.c.series_id, table.c.at_s)
        data["reading"] = [dict(row) for row in run(readings).mappings()]
    return json.dumps(data, indent=1)


def _fill(session: Session, name: str, table: str, model: type[Any], rows: list[Any]) -> int:
    """Put the rows of one table in; the first one that cannot be is named."""
    columns = SQLModel.metadata.tables[table].columns.keys()
    for i, row in enumerate(rows, start=1):
        unknown = (
            "no row of names and values"
            if not isinstance(row, dict)
            else ", ".join(sorted(row.keys() - set(columns)))
        )
        if unknown:
            raise BadFile(f"{name}, {table}, row {i}: unknown: {unknown}")
        odd = next(odd_values(table, row), None)
        if odd is not None:
            shown = f"{odd[1]!r:.60}"
            raise BadFile(f"{name}, {table}, row {i}, {odd[0]}: {shown}; allowed: {odd[2]}")
    whole = [row if len(row) == len(columns) else model(**row).model_dump() for row in rows]
    statement = insert(SQLModel.metadata.tables[table])
    run = session.connection().execute
    try:
        with session.connection().begin_nested():
            if whole:
                run(statement, whole)
    except (IntegrityError, StatementError):
        for i, row in enumerate(whole, start=1):  # once more, to find the one
            try:
                run(statement, [row])
            except (IntegrityError, StatementError) as error:
                raise BadFile(f"{name}, {table}, row {i}: {error.args[0]}") from error
        raise
    return len(rows)


def restore_everything(larder: Larder, name: str, data: bytes) -> int:
    """Fill an empty larder from ``everything_json``; returns the number of rows.

    Refuses a larder that holds seed or readings already. Raises BadFile and InvalidValue.
    """
    try:
        raw = read_json(data, most_text=JSON_TEXT)
    except BadFile as error:
        raise BadFile(f"{name}: {error.message}") from error
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
            rows = raw.get(table, [])
            if not isinstance(rows, list):
                raise BadFile(f"{name}, {table}: no list of rows")
            count += _fill(session, name, table, model, rows)
        dangling = session.connection().exec_driver_sql("PRAGMA foreign_key_check").first()
        if dangling is not None:
            raise BadFile(
                f"{name}, {dangling[0]}: a row refers to a {dangling[2]} that is not there"
            )
        wrong = cannot_be(session)
        if wrong:
            raise BadFile(
                f"{name}, {wrong[0]}", [{"line": 0, "field": "", "reason": w} for w in wrong]
            )
        rebuild_buckets(session)
        remark_everything(session)
    return count
