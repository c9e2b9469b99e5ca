"""What an older program (or another hand) let into the file and no room can reckon with: named, and
set right or aside in one act, so that one value never stops a room. The row's old self stays in the
history, like that of any change.
"""

from __future__ import annotations

from typing import Any
from uuid import uuid4

from sqlalchemy import Boolean, Float, Integer
from sqlmodel import Session, SQLModel, select

from ...core.base.errors import InvalidValue
from ...core.base.units import zone
from ...data.acts import ActRef, Recorder
from ...data.limits import (
    EARLIEST_S,
    JSON_COLUMNS,
    LATEST_S,
    SHAPES,
    TEXT,
    TEXTS,
    odd_values,
    range_of,
)
from ...data.tables import HISTORY_TABLES, Cohort, CropChange, Household, Lot, Part, Stay
from ..acts.acting import doing
from ..air.look import looking_at
from ..air.standing import Standing
from ..forecast.stale import remark_everything
from ..household.kind_types import listed, types_of_kind
from ..household.kinds import check_overrule, load_kinds, reference
from ..household.larder import Larder, is_live
from ..household.settings import read_months

MOST_NAMED = 20


def _suspects(session: Session, table: str) -> list[int]:
    """Live rows of a table with a value outside what its columns may hold."""
    tests = []
    for column in SQLModel.metadata.tables[table].columns:
        name = column.name
        if name in JSON_COLUMNS:
            wanted = "object" if JSON_COLUMNS[name] is dict else "array"
            tests.append(f"NOT json_valid({name}) OR json_type({name}) <> '{wanted}'")
        elif isinstance(column.type, Integer | Float) and not isinstance(column.type, Boolean):
            low, high, least = range_of(table, name)
            tests.append(f"{name} NOT BETWEEN {low!r} AND {high!r}")
            if least:
                tests.append(f"({name} <> 0 AND abs({name}) < {least!r})")
        elif f"{table}.{name}" in SHAPES:
            continue  # read below, one by one
        elif name not in ("id", "version"):
            tests.append(f"length({name}) > {TEXTS.get(name, TEXT)} OR instr({name}, char(0))")
    sql = f"SELECT id FROM {table} WHERE deleted_s IS NULL AND ({' OR '.join(tests)})"
    run = session.connection().exec_driver_sql
    found = {int(row[0]) for row in run(sql)}
    for where, (reads, _) in SHAPES.items():
        of, name = where.split(".")
        if of == table:
            rows = run(f"SELECT id, {name} FROM {table} WHERE deleted_s IS NULL")
            found |= {int(row[0]) for row in rows if not reads(row[1])}
    return sorted(found)


def _strangers(session: Session) -> list[tuple[str, int, str, object]]:
    """Live rows with a word no table knows: (table, id, column, what to write instead)."""
    ref, kinds = reference(), load_kinds(session)
    out: list[tuple[str, int, str, object]] = []
    run = session.connection().exec_driver_sql
    for row in run("SELECT id, tz, unplaced_kind, sow_months, unplaced_wrapper FROM household"):
        try:
            zone(row[1])
        except InvalidValue:
            out.append(("household", row[0], "tz", "UTC"))
        if row[2] not in ref.places:
            out.append(("household", row[0], "unplaced_kind", "inner_cupboard"))
        if row[4] not in ref.storage:
            out.append(("household", row[0], "unplaced_wrapper", "paper_envelope"))
        try:
            read_months(row[3])
        except InvalidValue:
            out.append(("household", row[0], "sow_months", ""))
    for row in run("SELECT id, place_kind, container_kind FROM node WHERE deleted_s IS NULL"):
        if row[1] is not None and row[1] not in ref.places:
            out.append(("node", row[0], "place_kind", "inner_cupboard"))
        if row[2] is not None and row[2] not in ref.storage:
            out.append(("node", row[0], "container_kind", "wooden_box"))
    for row in run("SELECT id, wrapper_kind FROM stay WHERE deleted_s IS NULL"):
        if row[1] not in ref.storage:
            out.append(("stay", row[0], "wrapper_kind", "paper_envelope"))
    out += _strange_types(session)
    for row in run("SELECT id, crop FROM variety WHERE crop IS NOT NULL AND deleted_s IS NULL"):
        if row[1] not in kinds.by_key:
            out.append(("variety", row[0], "crop", None))
    return out


def _strange_types(session: Session) -> list[tuple[str, int, str, object]]:
    """Live rows with a type that their kind has not."""
    run = session.connection().exec_driver_sql
    return [
        (table, row[0], "types", "")
        for table in ("variety", "food_target")
        for row in run(
            f"SELECT id, crop, types FROM {table} WHERE types <> '' AND deleted_s IS NULL"
        )
        if set(listed(row[2])) - {t.key for t in types_of_kind(row[1])}
    ]


def _circles(session: Session) -> list[tuple[str, int]]:
    """Rows that close a circle: a container in itself, seed that is its own ancestor."""
    out: list[tuple[str, int]] = []
    run = session.connection().exec_driver_sql
    for table, parent in (("cohort", "mother_cohort_id"), ("part", "from_part_id")):
        sql = f"SELECT id, {parent} FROM {table} WHERE deleted_s IS NULL AND {parent} IS NOT NULL"
        up: dict[int, int] = {row[0]: row[1] for row in run(sql)}
        for row_id in sorted(up):
            seen, at = set[int](), row_id
            while at in up and at not in seen:
                seen.add(at)
                at = up[at]
            if at == row_id and at in seen:
                out.append((table, row_id))
                del up[row_id]
    home = session.get(Household, 1)
    if home is not None and (node := Standing(session, home, 0).circle()) is not None:
        last = run(
            "SELECT max(id) FROM stay WHERE deleted_s IS NULL AND node_id = ?", (node,)
        ).scalar()
        out.append(("stay", int(last or 0)))
    return out


def _set_right(a: Recorder, row: SQLModel, column: str, said: str) -> str:
    """An odd value goes (empty, or its default) where the row can do without, else the row does."""
    field: Any = type(row).model_fields[column]
    table = str(row.__tablename__)
    name = f"{table.replace('_', ' ')} {getattr(row, 'id', '')}"
    lot = a.session.get(Lot, getattr(row, "lot_id", None) or 0)
    about = f"{lot.code}, {name}" if lot is not None else name
    formed = column in JSON_COLUMNS or f"{table}.{column}" in SHAPES
    text = isinstance(getattr(row, column), str) and not formed
    if text:
        setattr(row, column, getattr(row, column).replace("\x00", "")[: TEXTS.get(column, TEXT)])
        what = "cut short"
    elif not field.is_required():
        setattr(row, column, field.get_default(call_default_factory=True))
        what = "left empty" if getattr(row, column) is None else f"set to {getattr(row, column)}"
    else:
        row.deleted_s = a.now_s
        what = "set aside"
    return f"{about}: {column.replace('_', ' ')} {said} ({what})"


def cannot_be(session: Session) -> list[str]:
    """What is in the file and no room can reckon with, beyond the range of single values: words no
    table knows, circles, a household that is missing. In words."""
    run = session.connection().exec_driver_sql
    out = [
        f"{table}, id {row_id}: {column.replace('_', ' ')} is not known here"
        for table, row_id, column, _ in _strangers(session)
    ]
    out += [f"{table}, id {row_id}: stands inside itself" for table, row_id in _circles(session)]
    if session.get(Household, 1) is None:
        out.append("household: there is none")
    late = run(
        "SELECT series_id, at_s FROM reading WHERE at_s NOT BETWEEN ? AND ?",
        (EARLIEST_S, LATEST_S),
    ).first()
    if late is not None:
        out.append(f"reading of series {late[0]}: the time {late[1]} cannot be")
    bare = run(
        "SELECT id FROM lot WHERE deleted_s IS NULL AND state <> 'gone' AND id NOT IN (SELECT lot_id "
        "FROM part WHERE deleted_s IS NULL AND to_s IS NULL)"
    ).first()
    if bare is not None:
        out.append(f"lot, id {bare[0]}: there is no part of any cohort in it")
    for change in session.exec(select(CropChange)):
        if is_live(change):
            try:
                check_overrule(change.crop, change.field, change.value)
            except InvalidValue as error:
                out.append(f"crop_change, id {change.id}: {error.message}")
    return out


def _odd(session: Session) -> bool:
    return (
        any(_suspects(session, table) for table in HISTORY_TABLES)
        or bool(_strangers(session))
        or bool(_circles(session))
    )


def mend(larder: Larder) -> list[str]:
    """Set right what no room can reckon with; what it was, in words (empty: nothing)."""
    with looking_at(larder) as v:
        if v.session.get(Household, 1) is None or not _odd(v.session):
            return []
    said: list[str] = []
    with doing(larder, ActRef(id=str(uuid4())), "mend") as a:
        session = a.session
        for table, model in HISTORY_TABLES.items():
            for row_id in _suspects(session, table):
                row = session.get(model, row_id)
                assert row is not None, "read in this transaction"
                for column, value, _ in list(odd_values(table, row.model_dump())):
                    shown = f"{value[:20]!r}…" if isinstance(value, str) else f"{value:.6g}"
                    said.append(_set_right(a, row, column, shown))
                session.add(row)
        session.flush()
        for table, row_id, column, instead in _strangers(session):
            row = session.get(HISTORY_TABLES[table], row_id)
            said.append(f"{table} {row_id}: {column.replace('_', ' ')} {getattr(row, column)!r}")
            setattr(row, column, instead)
            session.add(row)
        for change in session.exec(select(CropChange)).all():
            if is_live(change):
                try:
                    check_overrule(change.crop, change.field, change.value)
                except InvalidValue as error:
                    change.deleted_s = a.now_s
                    said.append(error.message)
        session.flush()
        while found := _circles(session):
            for table, row_id in found:
                _cut(a, table, row_id)
                said.append(f"{table} {row_id} stood inside itself")
        remark_everything(session)
        more = f" and {len(said) - MOST_NAMED} more" if len(said) > MOST_NAMED else ""
        a.summary = f"Set right what could not be: {'; '.join(said[:MOST_NAMED])}{more}"
    larder.store.notes[:] = said[:MOST_NAMED]
    return said


def _cut(a: Recorder, table: str, row_id: int) -> None:
    if table == "stay":
        stay = a.session.get(Stay, row_id)
        assert stay is not None, "read in this transaction"
        stay.deleted_s = a.now_s
    elif table == "cohort":
        cohort = a.session.get(Cohort, row_id)
        assert cohort is not None, "read in this transaction"
        cohort.mother_cohort_id = None
    else:
        part = a.session.get(Part, row_id)
        assert part is not None, "read in this transaction"
        part.from_part_id = None
    a.session.flush()
