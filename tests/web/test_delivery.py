"""How answers travel: squeezed, kept for good where they never change, timed, and light enough for a phone."""

import gzip
import json
import re

from fastapi.testclient import TestClient

from goodcrate.web.delivery import FOR_GOOD
from goodcrate.web.pages import STATIC, static_url
from tests.conftest import MONDAY, Cook

WEEK_BYTES, WEEK_BYTES_SENT = 60_000, 11_000
"""The demo's whole week: 54 meals with their drawings. What travels is what a phone waits for."""


def test_a_week_is_light(boat: Cook) -> None:
    html = boat.get(f"/week/{MONDAY}").encode()
    assert html.count(b'class="box') == 54
    assert len(html) < WEEK_BYTES
    assert len(gzip.compress(html, 5)) < WEEK_BYTES_SENT
    answer = boat.client.get(f"/week/{MONDAY}", headers={"accept-encoding": "gzip"})
    assert answer.headers["content-encoding"] == "gzip"
    assert int(answer.headers["content-length"]) < WEEK_BYTES_SENT
    assert "Accept-Encoding" in answer.headers["vary"]
    plain = boat.client.get(f"/week/{MONDAY}", headers={"accept-encoding": "identity"})
    assert "content-encoding" not in plain.headers


def test_every_answer_says_how_long_it_was_worked_on(client: TestClient, boat: Cook) -> None:
    for address in ("/sign-in", "/static/app.css", "/nowhere", f"/week/{MONDAY}"):
        said = boat.client.get(address).headers["server-timing"]
        assert re.fullmatch(r"app;dur=\d+\.\d", said), address


def test_what_is_asked_for_by_its_mark_is_kept_for_good(client: TestClient) -> None:
    for name in ("app.css", "js/app.min.js", "fonts/atkinson-next.woff2"):
        assert client.get(static_url(name)).headers["cache-control"] == FOR_GOOD
        assert client.get(f"/static/{name}").headers["cache-control"] == "no-cache"
    assert "immutable" not in client.get("/static/no-such.css?v=1").headers.get("cache-control", "")
    assert client.get("/sign-in").headers["cache-control"] == "no-store"


def test_the_style_sheet_asks_for_the_faces_every_page_preloads(client: TestClient) -> None:
    asked = set(re.findall(r"fonts/[a-z-]+\.woff2\?v=[0-9a-f]+", (STATIC / "app.css").read_text()))
    preloaded = set(re.findall(r"fonts/[a-z-]+\.woff2\?v=[0-9a-f]+", client.get("/sign-in").text))
    assert len(preloaded) == 2
    assert preloaded <= asked


def test_head_is_get_without_its_body(client: TestClient) -> None:
    answer = client.head("/sign-in")
    assert answer.status_code == 200
    assert answer.content == b""


def test_it_can_be_installed(client: TestClient) -> None:
    address = re.search(r'rel="manifest" href="([^"]+)"', client.get("/sign-in").text)
    assert address is not None
    manifest = json.loads(client.get(address[1]).text)
    assert manifest["start_url"] == "/week"
    for icon in manifest["icons"]:
        assert client.get(icon["src"]).status_code == 200
    assert {icon.get("purpose", "any") for icon in manifest["icons"]} == {"any", "maskable"}
