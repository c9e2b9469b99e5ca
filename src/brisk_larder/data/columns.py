"""How columns are declared: STRICT tables, checks as constraints, names by convention."""

from __future__ import annotations

from typing import Any

from sqlalchemy import CheckConstraint, Float, String
from sqlalchemy.ext.compiler import compiles
from sqlmodel import Field, SQLModel
from sqlmodel.sql.sqltypes import AutoString

SQLModel.metadata.naming_convention = {
    "ix": "ix_%(column_0_label)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


# STRICT tables know INTEGER, REAL, TEXT and BLOB only
@compiles(String, "sqlite")
@compiles(AutoString, "sqlite")
def _text(element: Any, compiler: Any, **kw: Any) -> str:
    return "TEXT"


@compiles(Float, "sqlite")
def _real(element: Any, compiler: Any, **kw: Any) -> str:
    return "REAL"


def strict(*parts: Any, **options: Any) -> tuple[Any, ...]:
    """Table arguments of a STRICT table with its constraints and indexes."""
    return (*parts, {"sqlite_strict": True, **options})


def check(name: str, sql: str) -> CheckConstraint:
    """A named CHECK constraint."""
    return CheckConstraint(sql, name=name)


def one_of(column: str, *values: str) -> CheckConstraint:
    """A CHECK that a text column holds one of these words (or null)."""
    listed = ", ".join(f"'{v}'" for v in values)
    return CheckConstraint(f"{column} IN ({listed})", name=f"{column}_word")


class Identified(SQLModel):
    """A row with an integer id."""

    id: int | None = Field(default=None, primary_key=True)


class Erasable(Identified):
    """A row that is never removed: ``deleted_s`` (epoch s) is null while it lives."""

    deleted_s: int | None = None


class Edited(Erasable):
    """A row that people change by hand: ``version`` counts the changes, for stale writes."""

    version: int = 1
