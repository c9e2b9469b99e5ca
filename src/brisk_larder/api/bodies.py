"""What a request may bring: JSON of two megabytes read strictly, files of a size, nothing without end."""

from __future__ import annotations

from hashlib import sha256

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..core.base.errors import BadFile
from ..core.base.plain_json import read_json
from ..services.storage.brought_files import MOST_BYTES as MOST_LOGGER_BYTES
from .problems import problem

MOST_JSON = 2_000_000
MOST_FILE = 20 * 2**20  # sheets of packets, parcels
FRAME = 1_000_000  # what a form puts around a file
LOGGER_PATHS = ("/imports", "/readings/file")
CALM = {"GET", "HEAD", "OPTIONS"}


def _size_words(most: int) -> str:
    return f"{most / 1e6:.0f} MB" if most >= 10**6 else f"{most} bytes"


class Bodies:
    """ASGI guard on the size and the JSON of what is sent."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or answer 413 or 422."""
        if scope["type"] != "http" or scope["method"] in CALM:
            await self.app(scope, receive, send)
            return
        headers = {k.lower(): v for k, v in scope["headers"]}
        form = headers.get(b"content-type", b"").lower().startswith(b"multipart/")
        most = MOST_JSON
        if form:
            path = str(scope["path"])
            most = (MOST_LOGGER_BYTES if path.endswith(LOGGER_PATHS) else MOST_FILE) + FRAME
        told = headers.get(b"content-length", b"0")
        if not told.isdigit() or len(told) > 18 or int(told) > most:
            await self._too_large(most)(scope, receive, send)
            return
        if form:
            await self.app(scope, _counted(receive, most), send)
            return
        body = await _whole(receive, most)
        if body is None:
            await self._too_large(most)(scope, receive, send)
            return
        if body.strip():
            try:
                read_json(body)
            except BadFile as error:
                answer = problem(422, "Not possible", f"What was sent cannot be: {error.message}")
                await answer(scope, receive, send)
                return
        # the same act sent again is the same to the byte; a form draws its boundary anew
        asked = f"{scope['method']} {scope['path']}?".encode() + scope.get("query_string", b"")
        scope.setdefault("state", {})["said"] = sha256(asked + b"\n" + body).hexdigest()
        await self.app(scope, _again(body, receive), send)

    @staticmethod
    def _too_large(most: int) -> ASGIApp:
        return problem(413, "Too large", f"At most {_size_words(most)} can be sent at once")


def _counted(receive: Receive, most: int) -> Receive:
    """The same messages; raises when they grow beyond what was allowed."""
    size = 0

    async def counting() -> Message:
        nonlocal size
        message = await receive()
        size += len(message.get("body", b""))
        if size > most:
            raise HTTPException(413, f"At most {_size_words(most)} can be sent at once")
        return message

    return counting


async def _whole(receive: Receive, most: int) -> bytes | None:
    """The whole body; None when it is larger than allowed."""
    pieces, size, more = [], 0, True
    while more:
        message = await receive()
        if message["type"] == "http.disconnect":
            break
        pieces.append(message.get("body", b""))
        size += len(pieces[-1])
        if size > most:
            return None
        more = message.get("more_body", False)
    return b"".join(pieces)


def _again(body: bytes, receive: Receive) -> Receive:
    """A body that was read already, then whatever else comes."""
    told = False

    async def once_more() -> Message:
        nonlocal told
        if told:
            return await receive()
        told = True
        return {"type": "http.request", "body": body, "more_body": False}

    return once_more
