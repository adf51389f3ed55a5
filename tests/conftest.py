"""Shared ground: one throw-away MariaDB per run, a fresh household per test, and a cook who is signed in."""

import re
import shutil
import sys
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from html import unescape
from pathlib import Path
from typing import Any
from uuid import UUID, uuid4

import httpx2
import pytest
from fastapi.testclient import TestClient
from hypothesis import settings as hypothesis_settings

from goodcrate.db.changes import Kept, Memo
from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.demo.load import load_demo
from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from goodcrate.services import accounts
from goodcrate.services.calling import Caller
from goodcrate.settings import Settings
from goodcrate.web.app import create_app

hypothesis_settings.register_profile("desk", max_examples=60, deadline=None, derandomize=True, database=None)
hypothesis_settings.load_profile("desk")

MONDAY = date(2026, 11, 23)
PASSWORD = "barley-and-beetroot"


def forget_all() -> None:
    """Forget what is kept in memory: a process has one database, and copies of one have the same ids."""
    ours = [module for name, module in sys.modules.items() if name.startswith("goodcrate.")]
    for memory in (value for module in ours for value in vars(module).values() if isinstance(value, Kept | Memo)):
        memory._values.clear()


@dataclass(frozen=True)
class DemoFolder:
    """A database's folder with the demo in it, made once and never started again: tests that write get copies."""

    folder: Path
    household_id: UUID
    user_id: UUID | None

    @contextmanager
    def copied(self, to: Path) -> Iterator[Caller]:
        """The demo on a database of its own, which starts within a second."""
        shutil.copytree(self.folder, to)
        with running(EmbeddedServer(to, durable=False)) as server:
            database = Database(server.url)
            forget_all()
            try:
                yield Caller(database, self.household_id, self.user_id)
            finally:
                database.close()
                forget_all()


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> DemoFolder:
    """The demo as a folder, shut down cleanly."""
    folder = tmp_path_factory.mktemp("demo")
    with running(EmbeddedServer(folder)) as server:
        upgrade(server.url)
        database = Database(server.url)
        caller = load_demo(database, MONDAY)
        database.close()
    return DemoFolder(folder, caller.household_id, caller.user_id)


@pytest.fixture
def own_demo(demo_folder: DemoFolder, tmp_path: Path) -> Iterator[Caller]:
    """The demo for one test alone, which may write."""
    with demo_folder.copied(tmp_path / "own") as caller:
        yield caller


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[EmbeddedServer]:
    """A fast MariaDB that forgets on kill -9; the crash test starts durable ones of its own."""
    with running(EmbeddedServer(tmp_path_factory.mktemp("mariadb"), durable=False)) as started:
        upgrade(started.url)
        yield started


@pytest.fixture(scope="session")
def database(server: EmbeddedServer) -> Iterator[Database]:
    """The migrated database, shared: tests keep apart by household."""
    opened = Database(server.url)
    yield opened
    opened.close()


@pytest.fixture(scope="session")
def demo(database: Database) -> Caller:
    """The Lockside boat, as of Monday 23 November 2026. For reading; tests that write make their own household."""
    return load_demo(database, MONDAY)


@pytest.fixture
def household(database: Database) -> Caller:
    """A new, empty household."""
    return accounts.add_household(database, "A test galley", f"cook-{uuid4().hex[:12]}", PASSWORD)


@pytest.fixture
def neighbour(database: Database) -> Caller:
    """Another new, empty household."""
    return accounts.add_household(database, "Next mooring", f"next-{uuid4().hex[:12]}", PASSWORD)


@dataclass
class Cook:
    """A person at a browser without scripts: gets pages, sends their forms with the page's own token."""

    client: TestClient
    csrf: str

    def get(self, url: str, expect: int = 200) -> str:
        """A page's HTML."""
        answer = self.client.get(url)
        assert answer.status_code == expect, f"{url}: {answer.status_code}"
        return answer.text

    def post(self, url: str, fields: Mapping[str, Any] | None = None, *, expect: int = 303) -> httpx2.Response:
        """Send a form, redirects not followed."""
        answer = self.client.post(url, data={"csrf": self.csrf, **(fields or {})}, follow_redirects=False)
        assert answer.status_code == expect, f"{url}: {answer.status_code} {text_of(answer.text)[-400:]}"
        return answer


def text_of(html: str) -> str:
    """What a person reads of a page: tags off, spaces folded."""
    bare = re.sub(r"<(script|style|title)\b.*?</\1>|<[^>]+>", " ", html, flags=re.S)
    return re.sub(r"\s+", " ", unescape(bare)).strip()


def sign_in(client: TestClient, name: str, password: str = PASSWORD) -> Cook:
    """Sign a client in through the door."""
    page = client.get("/sign-in").text
    token = re.search(r'name="csrf" value="([^"]+)"', page)
    assert token is not None
    answer = client.post("/sign-in", data={"csrf": token[1], "name": name, "password": password})
    found = re.search(r'name="csrf" value="([^"]+)"', answer.text)
    assert found is not None
    assert answer.status_code == 200
    return Cook(client, found[1])


@pytest.fixture
def client(database: Database) -> Iterator[TestClient]:
    """A browser without scripts at the app; today is Monday 23 November 2026. Server faults show as answers."""
    app = create_app(database, Settings(data_dir=Path("unused")), clock=lambda: MONDAY)
    app.router.lifespan_context = _no_lifespan  # the shared database outlives this app
    with TestClient(app, base_url="http://localhost", raise_server_exceptions=False) as opened:
        yield opened


@pytest.fixture
def boat(client: TestClient, demo: Caller) -> Cook:
    """Signed in as the demo household."""
    return sign_in(client, SIGN_IN_NAME, SIGN_IN_PASSWORD)


@pytest.fixture
def cook(client: TestClient, household: Caller, database: Database) -> Cook:
    """Signed in as a new, empty household."""
    return sign_in(client, name_of(database, household))


def name_of(database: Database, caller: Caller) -> str:
    """The sign-in name behind a caller."""
    from goodcrate.db.accounts import UserAccount

    with database.accounts() as session:
        user = session.get(UserAccount, caller.user_id)
        assert user is not None
        return user.name


class _no_lifespan:
    def __init__(self, app: object) -> None:
        pass

    async def __aenter__(self) -> None:
        return None

    async def __aexit__(self, *_: object) -> None:
        return None


def new_id() -> UUID:
    """An id a client would make."""
    return uuid4()
