"""Requests over every route, made by chance from two seeds: none may be our fault. The bench sends 12,000."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from goodcrate.services.calling import Caller
from goodcrate.services.jobs import process
from goodcrate.settings import Settings
from goodcrate.web.app import create_app
from tests.conftest import MONDAY, Cook, _no_lifespan, sign_in
from tests.hostile import Generator, routes_of, walk

REQUESTS, PAGES = 600, 90


@pytest.fixture
def boat_alone(own_demo: Caller) -> Iterator[Cook]:
    """The demo on a database of its own: what is done to it here is beyond repair."""
    app = create_app(own_demo.database, Settings(data_dir=Path("unused")), clock=lambda: MONDAY)
    app.router.lifespan_context = _no_lifespan
    with TestClient(app, base_url="http://localhost", raise_server_exceptions=False) as client:
        yield sign_in(client, SIGN_IN_NAME, SIGN_IN_PASSWORD)


@pytest.mark.parametrize("seed", [6, 7])
def test_no_request_over_any_route_is_our_fault(seed: int, boat_alone: Cook, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(process, "launch", lambda *_: None)
    client = boat_alone.client
    generator = Generator(routes_of(client.app), seed)  # type: ignore[arg-type]

    def fetch(url: str) -> str | None:
        answer = client.get(url)
        assert answer.status_code < 500, url
        return answer.text if "html" in answer.headers.get("content-type", "") else None

    walk(generator, fetch, PAGES)
    assert len(generator.forms) > 100
    broken, answers = [], dict[int, int]()
    for request in generator.requests(REQUESTS, boat_alone.csrf):
        files = None if request.file is None else {"file": ("a.json", request.file)}
        data: dict[str, list[str]] = {}
        for name, value in request.fields:
            data.setdefault(name, []).append(value)
        answer = client.request(request.method, request.url, data=data or None, files=files, follow_redirects=False)
        answers[answer.status_code] = answers.get(answer.status_code, 0) + 1
        was_let_out = answer.headers.get("location") == "/sign-in" and not request.url.startswith("/first-run")
        assert not was_let_out, f"signed out by {request.said()}"
        if answer.status_code >= 500:
            mark = re.search(r"log: ([0-9a-f]+)", answer.text)
            broken.append(f"{request.said()} [{mark[1] if mark else ''}]")
    assert broken == []
    assert answers.get(303, 0) > 50  # some of it is taken,
    assert answers.get(422, 0) > 50  # some refused at its place,
    assert answers.get(404, 0) > 50  # some is not there
    for page in ("/week", "/targets", "/foods", "/recipes", "/cook", "/portion", "/store", f"/week/{MONDAY}"):
        assert client.get(page).status_code == 200, page
