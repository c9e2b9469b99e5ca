"""Loopback only: requests from elsewhere, or from another site's page, are refused."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.types import ASGIApp, Receive, Scope, Send

from .problems import problem

LOCAL_NAMES = {"127.0.0.1", "localhost", "::1"}


def host_name(value: str) -> str:
    """The host of a Host header or an Origin, without its port."""
    name = urlsplit(value if "//" in value else f"//{value}").hostname
    return name or ""


class LoopbackOnly:
    """ASGI guard on Host and Origin, against pages of other sites and rebound names."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or answer 403."""
        if scope["type"] == "http":
            headers = {k.decode().lower(): v.decode("latin-1") for k, v in scope["headers"]}
            host, origin = headers.get("host", ""), headers.get("origin")
            if host_name(host) not in LOCAL_NAMES:
                answer = problem(
                    403, "Refused", f"This server answers to 127.0.0.1 only, not to {host!r}"
                )
                await answer(scope, receive, send)
                return
            if origin is not None and urlsplit(origin).netloc != host:
                answer = problem(403, "Refused", f"Requests from {origin!r} are not taken")
                await answer(scope, receive, send)
                return
        await self.app(scope, receive, send)
