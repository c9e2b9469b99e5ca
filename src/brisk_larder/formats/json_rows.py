"""A JSON document with a list of rows, read by a model: every fault by its row and field."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, TypeVar

from pydantic import AwareDatetime, BaseModel, BeforeValidator, ValidationError

from ..core.base.errors import BadFile
from ..core.base.plain_json import read_json
from ..core.base.shapes import wanted

M = TypeVar("M", bound=BaseModel)


def _day(value: Any) -> Any:
    try:
        return date.fromisoformat(value) if isinstance(value, str) else value
    except ValueError as error:
        raise ValueError("a day such as 2027-04-21") from error


def _moment(value: Any) -> Any:
    try:
        return datetime.fromisoformat(value) if isinstance(value, str) else value
    except ValueError as error:
        raise ValueError("a moment such as 2027-04-20T06:00:00+00:00") from error


# written out, never a number: strictly read, a number is no day
Day = Annotated[date, BeforeValidator(_day)]
Moment = Annotated[AwareDatetime, BeforeValidator(_moment)]


def read_rows(data: bytes, model: type[M], rows: str, most: int, *, called: str, needs: str) -> M:
    """The document as ``model`` reads it, whose list is ``rows``, of ``most`` at most. ``called``: what
    such a document is, ``needs``: what it has. Raises BadFile, which names all that is wrong."""
    raw = read_json(data)
    if not isinstance(raw, dict) or not isinstance(raw.get(rows), list):
        raise BadFile(f"This is no {called}: it has no {needs}")
    if len(raw[rows]) > most:
        raise BadFile(f"{len(raw[rows])} {rows}; at most {most} in one {called}")
    try:
        return model.model_validate(raw)
    except ValidationError as error:
        problems = [_problem(x["loc"], wanted(x), x["input"], rows) for x in error.errors()]
        raise BadFile(
            f"{len(problems)} things in this {called} cannot be read", problems
        ) from error


def _problem(at: tuple[int | str, ...], said: str, given: object, rows: str) -> dict[str, Any]:
    """A fault by the number of its row (0: of the document itself) and its field."""
    row = at[1] + 1 if len(at) > 1 and isinstance(at[1], int) else 0
    field = at[2] if row and len(at) > 2 else rows.removesuffix("s") if row else (*at, rows)[0]
    plain = given is None or isinstance(given, str | int | float)
    shown = f", not {str(given)[:60]!r}" if plain else ""
    return {"line": row, "field": str(field), "reason": f"{said}{shown}"}
