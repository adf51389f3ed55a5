"""The real app in a server of its own, with a clock around it that times each request where it is served."""

import re
import socket
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from urllib.parse import urlencode

import httpx2
import uvicorn
from starlette.types import ASGIApp, Receive, Scope, Send

from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.demo.eaten import live_through
from goodcrate.demo.load import load_demo
from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from goodcrate.devices.scale import LineScale
from goodcrate.devices.scale_service import in_thread
from goodcrate.settings import Settings
from goodcrate.web.app import create_app, settle_memory


@dataclass
class Visit:
    """A signed-in client, and the server's own times of its requests in ms."""

    client: httpx2.Client
    server_ms: list[float]
    csrf: str = field(default="")
    database: Database | None = None

    def get(self, url: str) -> str:
        """A page."""
        answer = self.client.get(url)
        answer.raise_for_status()
        return answer.text

    def post(self, url: str, fields: list[tuple[str, str]]) -> str:
        """A sent form."""
        headers = {"content-type": "application/x-www-form-urlencoded"}
        answer = self.client.post(url, content=urlencode(fields), headers=headers)
        answer.raise_for_status()
        return answer.text


class Clock:
    """ASGI middleware that notes how long the app worked on each request."""

    def __init__(self, app: ASGIApp, times_ms: list[float]) -> None:
        self.app, self.times_ms = app, times_ms

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Time one request."""
        began = time.perf_counter()
        await self.app(scope, receive, send)
        self.times_ms.append((time.perf_counter() - began) * 1000)


@contextmanager
def serving(today: date, week: date | None = None) -> Iterator[Visit]:
    """The demo on a durable database, served by uvicorn as the start command does, and somebody signed in. With `week`
    its week is the one that starts on that day, lived through."""
    with (
        tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder,
        running(EmbeddedServer(Path(folder) / "db")) as server,
        in_thread() as scale_address,
    ):
        upgrade(server.url)
        database = Database(server.url)
        boat = load_demo(database, week or today)
        if week is not None:
            live_through(boat, week)
        times_ms: list[float] = []
        scale = LineScale(scale_address, has_pan=True)
        app = Clock(create_app(database, Settings(data_dir=Path(folder)), clock=lambda: today, scale=scale), times_ms)
        settle_memory()
        listener = socket.socket()
        listener.bind(("127.0.0.1", 0))
        web = uvicorn.Server(uvicorn.Config(app, log_level="error", lifespan="off", http="httptools", loop="uvloop"))
        thread = threading.Thread(target=web.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        base = f"http://127.0.0.1:{listener.getsockname()[1]}"
        with httpx2.Client(base_url=base, follow_redirects=True, timeout=30) as client:
            yield _signed_in(Visit(client, times_ms, database=database))
        web.should_exit = True
        thread.join(10)
        listener.close()
        database.close()


def _signed_in(visit: Visit) -> Visit:
    def token(html: str) -> str:
        found = re.search(r'name="csrf" value="([^"]+)"', html)
        assert found is not None
        return found[1]

    form = [("csrf", token(visit.get("/sign-in"))), ("name", SIGN_IN_NAME), ("password", SIGN_IN_PASSWORD)]
    visit.csrf = token(visit.post("/sign-in", form))
    return visit
