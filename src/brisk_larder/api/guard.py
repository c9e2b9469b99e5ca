"""Loopback only: requests from elsewhere, or from another site's page, are refused; and no page of
another site may frame ours, nor any script run that did not ship with it."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from .problems import problem

LOCAL_NAMES = {"127.0.0.1", "localhost", "::1"}
LONGEST_PATH = 1024
# Ant Design writes its styles into the page; nothing else is inline
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; "
    "img-src 'self' data: blob:; font-src 'self' data:; connect-src 'self'; object-src 'none'; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY, "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY", "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Resource-Policy": "same-origin",
}  # fmt: skip


def host_name(value: str) -> str:
    """The host of a Host header or an Origin, without its port; empty for what is none."""
    try:
        return urlsplit(value if "//" in value else f"//{value}").hostname or ""
    except ValueError:
        return ""


def _place(origin: str) -> str:
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return ""


class LoopbackOnly:
    """ASGI guard on Host, Origin and path, against pages of other sites and rebound names."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on with what its answer must say, or refuse it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def safely(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        await (self._refusal(scope) or self.app)(scope, receive, safely)

    def _refusal(self, scope: Scope) -> ASGIApp | None:
        headers = {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}
        host, origin = headers.get("host", ""), headers.get("origin")
        if host_name(host) not in LOCAL_NAMES:
            return problem(
                403, "Refused", f"This server answers to 127.0.0.1 only, not to {host!r}"
            )
        if origin is not None and _place(origin) != host:
            return problem(403, "Refused", f"Requests from {origin!r} are not taken")
        path = str(scope["path"])
        if len(path) > LONGEST_PATH or "\x00" in path:
            return problem(404, "Not found", "There is no such page")
        return None
