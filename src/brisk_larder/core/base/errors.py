"""The errors of the whole application, one small tree.

LarderError
|- InvalidValue      a value that cannot be (field, what was given, what is allowed)
|- NotFound          no such record
|- Conflict          the record changed meanwhile, or the act clashes with a later one
|- BadFile           an input file with a bad header, encoding or row (line, field)
|- Refused           a sender that is not known here, or sends too much at once
|- CannotWrite       the file cannot be read or written now (full disk, lock, rights, replaced)
"""

from __future__ import annotations

from typing import Any


class LarderError(Exception):
    """Base of all errors that a user may see; ``message`` is fit to be shown."""

    def __init__(self, message: str) -> None:
        super().__init__(message)
        self.message = message


class InvalidValue(LarderError):
    """A value outside what is allowed."""

    def __init__(self, field: str, given: Any, allowed: str) -> None:
        super().__init__(f"{field}: {given!r} is not possible; {allowed}.")
        self.field = field
        self.given = given
        self.allowed = allowed


class NotFound(LarderError):
    """A record that does not exist (or no longer)."""


class Conflict(LarderError):
    """A write that clashes with what happened meanwhile; ``details`` says with what."""

    def __init__(self, message: str, **details: Any) -> None:
        super().__init__(message)
        self.details = details


class BadFile(LarderError):
    """An input file that cannot be taken in; ``problems`` lists line, field and reason."""

    def __init__(self, message: str, problems: list[dict[str, Any]] | None = None) -> None:
        super().__init__(message)
        self.problems = problems or []


class Refused(LarderError):
    """A sender that is not let in; ``too_many``: known, but sending too much at once."""

    def __init__(self, message: str, *, too_many: bool = False) -> None:
        super().__init__(message)
        self.too_many = too_many


class CannotWrite(LarderError):
    """The household's file cannot be read or written at present; nothing was saved."""
