"""How answers travel: what never changes is kept by the browser for good, and each says how long it was worked on."""

import time

from starlette.datastructures import MutableHeaders
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

FOR_GOOD = "public, max-age=31536000, immutable"
SMALLEST_SQUEEZED, SQUEEZE = 800, 5
"""Shorter answers travel as they are; the level is where a page's time and size are both small."""


class KeptFiles(StaticFiles):
    """Static files: one asked for by the mark of its content never changes; others are asked about each time."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, with how long it may be kept."""
        response = await super().get_response(path, scope)
        marked = b"v=" in scope.get("query_string", b"")
        response.headers["cache-control"] = FOR_GOOD if marked else "no-cache"
        return response


class Timed:
    """Each answer says in `Server-Timing` how many milliseconds the app worked until it began."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer, and count."""
        began = time.perf_counter()

        async def timed(message: Message) -> None:
            if message["type"] == "http.response.start":
                took_ms = (time.perf_counter() - began) * 1000
                MutableHeaders(scope=message)["server-timing"] = f"app;dur={took_ms:.1f}"
            await send(message)

        await self.app(scope, receive, timed if scope["type"] == "http" else send)
