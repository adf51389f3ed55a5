"""Every request counted, and said in a line of JSON when that is wished: by its route, never by its address, which may
hold a secret or somebody's id; never with what was sent."""

import logging
import time
from uuid import uuid4

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from goodcrate.log_lines import REQUESTS
from goodcrate.services.server_report import Tally

LOGGER = logging.getLogger(REQUESTS)
NOWHERE = "(nowhere)"


def route_in(scope: Scope) -> str:
    """The address of a request as its route names it: without anybody's ids, and without a secret."""
    if scope["path"].startswith("/static/"):
        return "/static"
    return str(getattr(scope.get("route"), "path", NOWHERE))


class Counted:
    """Counts each request with its route and its time; the answer carries its mark, which is in the log too."""

    def __init__(self, app: ASGIApp, tally: Tally) -> None:
        self.app, self.tally = app, tally

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer, count, and say."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began, mark, status = time.perf_counter(), uuid4().hex[:8], 0

        async def marked(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)["x-request-mark"] = mark
            await send(message)

        try:
            await self.app(scope, receive, marked)
        finally:
            ms = (time.perf_counter() - began) * 1000
            route = route_in(scope)
            self.tally.add(scope["method"], route, status or 500, ms)
            if LOGGER.isEnabledFor(logging.INFO):
                told = {"method": scope["method"], "route": route, "status": status, "ms": round(ms, 1), "mark": mark}
                LOGGER.info("request", extra={"told": told})
