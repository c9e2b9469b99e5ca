"""The application: routers, guard, errors, offline API docs, the built front end."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import partial
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Depends, FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from .. import __version__
from ..services.household.larder import Larder
from ..services.papers.mending import mend
from ..services.storage.brought_files import BroughtFiles
from ..services.storage.loggers import RateLimit
from . import growing, household, needs, saving, today, trials
from .bodies import CALM, Bodies
from .deps import get_larder
from .guard import LoopbackOnly
from .papers import csv_files, parcels
from .problems import (
    OF_LOGGERS,
    OF_READING,
    OF_WRITING,
    Answers,
    Problem,
    Unforeseen,
    add_handlers,
    problem,
)
from .stock import filing, lots, many, sheet, stocktakes, triage
from .storage import drying, readings, shelves, what_if

DIST = Path(__file__).resolve().parents[1] / "web"
DESCRIPTION = (
    "A household's seed stock. Every write takes an `X-Act-Id` (a UUID made by the client): the "
    "same id twice is done once; `POST /api/acts/{id}/undo` takes an act back."
)


class _Built(StaticFiles):
    """Built assets: named by their content, so they may be kept for ever."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, with its caching."""
        answer = await super().get_response(path, scope)
        answer.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return answer


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    yield
    if app.state.brought is not None:
        app.state.brought.close()


def serves(app: FastAPI, larder: Larder | None) -> None:
    """From now on the application is that of this larder."""
    app.state.larder = larder
    app.state.rate_limit = RateLimit()
    app.state.brought = BroughtFiles(larder) if larder is not None else None


def _told(router: APIRouter, writing: Answers = OF_WRITING) -> None:
    """What each call does and what it may answer instead stand in the contract; once for each router."""
    for route in router.routes:
        if isinstance(route, APIRoute) and not route.summary:
            first, _, rest = route.description.partition("\n")
            route.summary, route.description = first.rstrip("."), rest.strip()
            reads = (route.methods or CALM) <= CALM
            route.responses = {**(OF_READING if reads else writing), **route.responses}


def _contract(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with the problem that every refusal is."""
    if app.openapi_schema is None:
        made = FastAPI.openapi(app)
        schema = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
        made["components"]["schemas"].update(schema.pop("$defs"), Problem=schema)
        for unused in ("HTTPValidationError", "ValidationError"):
            made["components"]["schemas"].pop(unused, None)
    return app.openapi_schema or {}


def make_app(larder: Larder | None) -> FastAPI:
    """The ASGI application of one larder (None: only its OpenAPI schema is wanted)."""
    # long: the list of what the application is put together from, in the order it must be
    app = FastAPI(
        lifespan=_lifespan,
        title="Brisk Larder",
        version=__version__,
        description=DESCRIPTION,
        docs_url=None,
        redoc_url=None,
        openapi_url="/openapi.json",
    )

    def set_right() -> list[str]:
        return mend(app.state.larder) if app.state.larder is not None else []

    serves(app, larder)
    app.add_middleware(Unforeseen, mend=set_right)
    app.add_middleware(Bodies)
    app.add_middleware(GZipMiddleware, minimum_size=1024)
    app.add_middleware(LoopbackOnly)
    add_handlers(app, set_right)
    for room in (
        household,
        sheet,
        filing,
        stocktakes,
        triage,
        lots,
        many,
        parcels,
        readings,
        what_if,
        drying,
        shelves,
        trials,
        needs,
        today,
        growing,
        saving,
        csv_files,
    ):
        # whatever is answered, it is in the household's own units
        _told(room.router)
        app.include_router(room.router, dependencies=[Depends(get_larder)])
    _told(readings.ingest_router, OF_LOGGERS)
    app.include_router(readings.ingest_router)
    app.openapi = partial(_contract, app)  # type: ignore[method-assign]

    @app.get("/docs", include_in_schema=False)
    def docs() -> Response:
        # its own script starts it: no inline script runs here
        return front("api-docs/index.html")

    if (DIST / "assets").is_dir():
        app.mount("/assets", _Built(directory=DIST / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def front(path: str) -> Response:
        if path.startswith("api/") or path == "api":
            return problem(404, "Not found", f"There is no /{path}")
        if not DIST.is_dir():
            return problem(503, "Not built", "The front end is not built: run ./run demo")
        wanted = (DIST / path).resolve()
        if path and wanted.is_relative_to(DIST) and wanted.is_file():
            return FileResponse(wanted, headers={"Cache-Control": "no-cache"})
        if "." in path.rsplit("/", 1)[-1]:
            raise HTTPException(404)
        return FileResponse(DIST / "index.html", headers={"Cache-Control": "no-cache"})

    return app
