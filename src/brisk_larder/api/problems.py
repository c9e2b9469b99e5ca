"""Errors as RFC 9457 problem details; no stack trace reaches a user."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse

from ..core.errors import (
    BadFile,
    CannotWrite,
    Conflict,
    InvalidValue,
    LarderError,
    NotFound,
    Refused,
)

STATUS: dict[type[LarderError], tuple[int, str]] = {
    InvalidValue: (422, "Not possible"),
    NotFound: (404, "Not found"),
    Conflict: (409, "Changed meanwhile"),
    BadFile: (422, "This file cannot be taken in"),
    CannotWrite: (503, "Not saved"),
}
log = logging.getLogger("brisk_larder")


def problem(status: int, title: str, detail: str, **more: Any) -> JSONResponse:
    """One problem document."""
    return JSONResponse(
        {"type": "about:blank", "title": title, "status": status, "detail": detail, **more},
        status_code=status,
        media_type="application/problem+json",
    )


def add_handlers(app: FastAPI) -> None:
    """Map every error of the application, bad requests, and the unforeseen."""

    @app.exception_handler(LarderError)
    def _known(request: Request, error: LarderError) -> JSONResponse:
        status, title = next(
            (v for k, v in STATUS.items() if isinstance(error, k)), (400, "Not possible")
        )
        if isinstance(error, Refused):
            status, title = (429, "Too many") if error.too_many else (401, "Not let in")
        more: dict[str, Any] = {}
        if isinstance(error, InvalidValue):
            more = {"field": error.field, "allowed": error.allowed}
        elif isinstance(error, Conflict):
            more = error.details
        elif isinstance(error, BadFile):
            more = {"problems": error.problems}
        return problem(status, title, error.message, **more)

    @app.exception_handler(RequestValidationError)
    def _request(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"][1:]) or "request"
        return problem(422, "Not possible", f"{field}: {first['msg']}", field=field)

    @app.exception_handler(OverflowError)
    def _too_large(request: Request, error: OverflowError) -> JSONResponse:
        # ids and times beyond 64 bits reach the file as given; any other overflow is a fault of ours
        if "SQLite INTEGER" not in str(error):
            return _unforeseen(request, error)
        return problem(422, "Not possible", "A number here is larger than can be kept")

    @app.exception_handler(Exception)
    def _unforeseen(request: Request, error: Exception) -> JSONResponse:
        log.exception("unforeseen error at %s", request.url.path, exc_info=error)
        return problem(
            500, "Something went wrong here", "Nothing was saved. The server's log says more."
        )
