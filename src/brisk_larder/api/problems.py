"""Errors as RFC 9457 problem details; no stack trace reaches a user."""

from __future__ import annotations

import logging
import traceback
from collections.abc import Callable, Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, Field
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..core.base.errors import (
    BadFile,
    CannotWrite,
    Conflict,
    InvalidValue,
    LarderError,
    NotFound,
    Refused,
)
from ..core.base.shapes import wanted

STATUS: dict[type[LarderError], tuple[int, str]] = {
    InvalidValue: (422, "Not possible"),
    NotFound: (404, "Not found"),
    Conflict: (409, "Changed meanwhile"),
    BadFile: (422, "This file cannot be taken in"),
    CannotWrite: (503, "Not saved"),
}
MEDIA = "application/problem+json"
log = logging.getLogger("brisk_larder")


class Wrong(BaseModel):
    """What is wrong in a file, and where."""

    line: int = Field(description="Line of the file, the first is 1; 0: of the whole file")
    field: str = Field(description="The column or key")
    reason: str = Field(description="What was given and what is allowed")


class Problem(BaseModel):
    """What every refusal answers (RFC 9457). Nothing was saved."""

    type: str = Field(
        description="What kind of problem it is, such as urn:brisk-larder:problem:not-possible"
    )
    title: str = Field(description="The kind in words, the same for all of a kind")
    status: int
    detail: str = Field(description="What was given and what is allowed, in words")
    field: str | None = Field(None, description="The field of the request that cannot be so")
    allowed: str | None = Field(None, description="What is allowed in that field, in words")
    problems: list[Wrong] | None = Field(None, description="Of a file: what is wrong where")
    warnings: list[str] | None = Field(
        None, description="What is asked before it is done; sent again with `anyway` it is done"
    )
    later: list[str] | None = Field(None, description="Acts to be taken back first")
    yours: int | None = Field(None, description="The version that was changed")
    theirs: int | None = Field(None, description="The version that stands by now")
    current: dict[str, Any] | None = Field(None, description="What stands by now")
    meanwhile: bool | None = Field(None, description="Something came in since the form was opened")
    other: bool | None = Field(None, description="Another larder is open at this address by now")


def _answer(told: str) -> dict[str, Any]:
    schema = {"$ref": "#/components/schemas/Problem"}
    return {"description": told, "content": {MEDIA: {"schema": schema}}}


# what a request may be answered instead; the words are those of the errors' docstrings
Answers = dict[int | str, dict[str, Any]]
REFUSALS: Answers = {
    404: _answer("There is no such thing here (any more)"),
    409: _answer("It changed meanwhile, or clashes with what was done since; or it is asked first"),
    413: _answer("More than can be sent at once"),
    422: _answer("Something in it cannot be so: what, and what can, is told"),
    429: _answer("Too many at once"),
    503: _answer("The household's file cannot be written now"),
}
OF_READING: Answers = {k: REFUSALS[k] for k in (404, 422)}
OF_WRITING: Answers = {k: REFUSALS[k] for k in (404, 409, 413, 422, 503)}
OF_LOGGERS: Answers = {
    401: _answer("A logger that is not known here"),
    **{k: REFUSALS[k] for k in (409, 413, 422, 429, 503)},
}


def problem(status: int, title: str, detail: str, **more: Any) -> JSONResponse:
    """One problem document."""
    kind = f"urn:brisk-larder:problem:{title.lower().replace(' ', '-')}"
    return JSONResponse(
        {"type": kind, "title": title, "status": status, "detail": detail, **more},
        status_code=status,
        media_type=MEDIA,
    )


CALLED = {
    "n": "seeds", "lot_ids": "packets", "lot_id": "packet", "node_id": "place or container",
    "up": "how many are up", "mass_g": "weight", "temperature_c": "temperature", "on": "day",
    "person_id": "person", "per_week": "a week", "count.normal": "how many are up",
}  # fmt: skip


def shape_words(field: str, told: Mapping[str, Any]) -> str:
    """What a value that has not the right shape should have been, in words; ``told`` by the validator."""
    name = CALLED.get(field.removeprefix("body."), field.rsplit(".", 1)[-1].replace("_", " "))
    if told["type"] == "missing":
        return f"{name} is missing"
    if told["type"] == "extra_forbidden":
        return f"{name} is not known here"
    given = told.get("input")
    shown = "" if isinstance(given, dict | list) or given is None else f" ('{str(given)[:60]}')"
    return f"{name}{shown} is not possible: {wanted(told)}"


def mended(mend: Callable[[], list[str]]) -> bool:
    """Whether something in the file was set right just now."""
    try:
        return bool(mend())
    except LarderError:
        return False


def add_handlers(app: FastAPI, mend: Callable[[], list[str]]) -> None:
    """Map every error of the application, bad requests, and the unforeseen."""

    @app.exception_handler(LarderError)
    def _known(request: Request, error: LarderError) -> Response:
        if request.method == "GET" and isinstance(error, InvalidValue) and mended(mend):
            return RedirectResponse(str(request.url), 307)  # it was the file that held it
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
        return problem(422, "Not possible", shape_words(field, first), field=field)

    @app.exception_handler(OverflowError)
    def _too_large(request: Request, error: OverflowError) -> JSONResponse:
        # ids and times beyond 64 bits reach the file as given; any other overflow is a fault of ours
        if "SQLite INTEGER" not in str(error):
            raise error
        return problem(422, "Not possible", "A number here is larger than can be kept")


def unforeseen(path: str, error: Exception) -> JSONResponse:
    """The answer to a fault of ours. The log says where, but not with what: names and notes stay out."""
    where = "".join(traceback.format_tb(error.__traceback__))
    log.error("unforeseen error at %s: %s\n%s", path, type(error).__name__, where)
    return problem(
        500, "Something went wrong here", "Nothing was saved. The server's log says more."
    )


class Unforeseen:
    """ASGI guard: no fault of ours goes further. Where a room stumbles over a value in the file that
    cannot be, it is set right (and named) and the room asked again."""

    def __init__(self, app: ASGIApp, mend: Callable[[], list[str]]) -> None:
        self.app = app
        self.mend = mend

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on; answer 500 for what nobody foresaw."""
        begun = False

        async def noting(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        try:
            await self.app(scope, receive, noting)
        except Exception as error:
            if scope["type"] != "http" or begun:
                raise
            answer = unforeseen(str(scope["path"]), error)
            if scope["method"] == "GET" and await run_in_threadpool(mended, self.mend):
                await self.app(scope, receive, send)
                return
            await answer(scope, receive, send)
