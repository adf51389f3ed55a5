"""A real app on a real port, and a real Chromium in front of it."""

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from http.server import ThreadingHTTPServer
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.devices.catalogue import Catalogue
from goodcrate.devices.printer import Printer
from goodcrate.devices.scale import Scale
from goodcrate.services.calling import Caller
from goodcrate.settings import Settings
from goodcrate.web.app import create_app
from goodcrate.web.wire import ImpatientProtocol
from tests.conftest import MONDAY, DemoFolder

PATIENCE_MS = 40_000
"""How long a page may take on a busy machine; nothing here is timed."""
expect.set_options(timeout=PATIENCE_MS)
CHROMIUM_ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def serving_thread(service: ThreadingHTTPServer) -> Iterator[None]:
    """A stand-in device in a thread of its own."""
    thread = threading.Thread(target=service.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
    thread.start()
    try:
        yield
    finally:
        service.shutdown()
        service.server_close()


@contextmanager
def served(
    database: Database, catalogue: Catalogue | None = None, scale: Scale | None = None, printer: Printer | None = None
) -> Iterator[str]:
    """The app on a free port, in a thread of its own."""
    settings = Settings(data_dir=Path("unused"))
    app = create_app(database, settings, clock=lambda: MONDAY, catalogue=catalogue, scale=scale, printer=printer)
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    config = uvicorn.Config(
        app, http=ImpatientProtocol, log_level="warning", lifespan="off", timeout_graceful_shutdown=1
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    finally:  # a page left open would go on asking, and its errors would fall on other tests
        server.should_exit = True
        thread.join(10)
        listener.close()


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_ARGS)
        yield browser
        browser.close()


@dataclass
class Sight:
    """A page, its address, and everything its console complained about; of a demo for one test, who reads its data."""

    page: Page
    base: str
    complaints: list[str]
    caller: Caller | None = None

    def go(self, path: str) -> None:
        self.page.goto(self.base + path)


def cut_the_line(page: Page) -> None:
    """No connection any more: what a page sends right after it is told so may still come through."""
    page.context.set_offline(True)
    page.wait_for_function("() => fetch('/healthz', {cache: 'no-store'}).then(() => false, () => true)")


@contextmanager
def looking(chromium: Browser, base: str, *, bypass_csp: bool = False) -> Iterator[Sight]:
    """A fresh browser at the app; any console error or policy violation fails the test at its end."""
    context: BrowserContext = chromium.new_context(
        viewport={"width": 1280, "height": 800}, locale="en-GB", timezone_id="Europe/London", bypass_csp=bypass_csp
    )
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    complaints: list[str] = []
    page.on("console", lambda m: complaints.append(m.text) if m.type == "error" and "422" not in m.text else None)
    page.on("pageerror", lambda error: complaints.append(str(error)))
    try:
        yield Sight(page, base, complaints)
    finally:
        context.close()
    assert complaints == []


@contextmanager
def empty_served(data: Path) -> Iterator[str]:
    """The address of an installation that nobody has used yet."""
    with running(EmbeddedServer(data, durable=False)) as server:
        upgrade(server.url)
        database = Database(server.url)
        try:
            with served(database) as base:
                yield base
        finally:
            database.close()


@pytest.fixture(scope="session")
def demo_address(demo_folder: DemoFolder, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A demo of the browser's own: what is clicked here does not show in other tests."""
    with demo_folder.copied(tmp_path_factory.mktemp("browser") / "mariadb") as caller, served(caller.database) as base:
        yield base


@pytest.fixture
def demo_sight(chromium: Browser, demo_address: str) -> Iterator[Sight]:
    with looking(chromium, demo_address) as sight:
        yield sight


@pytest.fixture
def fresh_demo_sight(chromium: Browser, own_demo: Caller) -> Iterator[Sight]:
    """A demo for one test alone: for those that start or change a week others look at."""
    with served(own_demo.database) as base, looking(chromium, base) as sight:
        sight.caller = own_demo
        yield sight


@pytest.fixture
def empty_sight(chromium: Browser, tmp_path: Path) -> Iterator[Sight]:
    """An installation nobody has used yet."""
    with empty_served(tmp_path / "mariadb") as base, looking(chromium, base) as sight:
        yield sight
