"""For whoever runs the server: alive, ready, logs and metrics; and that none of them tells of any household."""

import json
import logging
import re
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from goodcrate.core.ground.roles import COOK
from goodcrate.db import reports
from goodcrate.db.migrate import newest_version
from goodcrate.db.session import Database
from goodcrate.log_lines import JsonLines
from goodcrate.services import people, server_report
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.server_report import BOUNDS_MS, Counted, Tally
from goodcrate.settings import Settings
from goodcrate.web.app import create_app
from goodcrate.web.request_log import LOGGER
from tests.conftest import MONDAY, Cook, _no_lifespan, name_of
from tests.services.kitchen import furnish

KEY = "a-key-of-the-server"


@pytest.fixture
def watched(database: Database) -> Iterator[TestClient]:
    """An app whose metrics have a key."""
    settings = Settings(data_dir=Path("unused"), metrics_key=KEY)
    app = create_app(database, settings, clock=lambda: MONDAY)
    app.router.lifespan_context = _no_lifespan
    with TestClient(app, base_url="http://localhost") as client:
        yield client


def test_it_is_alive_and_ready_and_says_why_not(
    client: TestClient, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert client.get("/healthz").text == "alive\n"
    assert (client.get("/readyz").status_code, client.get("/readyz").text) == (200, "ready\n")
    monkeypatch.setattr(server_report, "newest_version", lambda: "9999")
    told = client.get("/readyz")
    assert told.status_code == 503
    assert "this app needs 9999" in told.text
    gone = Database(database.engine.url.set(host="127.0.0.1", port=1, query={}).render_as_string(hide_password=False))
    client.app.state.database = gone  # type: ignore[attr-defined]
    told = client.get("/readyz")
    assert told.status_code == 503
    assert told.text == "the database does not answer (OperationalError)\n"
    assert client.get("/healthz").status_code == 200
    client.app.state.database = database  # type: ignore[attr-defined]
    gone.close()


def test_metrics_need_their_key_and_are_not_there_without_one(client: TestClient, watched: TestClient) -> None:
    assert client.get("/metrics").status_code == 404
    assert watched.get("/metrics").status_code == 401
    assert "basic" in watched.get("/metrics").headers["www-authenticate"].lower()
    for wrong in ("Bearer guessed", "Basic !!", "Basic Z3Vlc3NlZDpndWVzc2Vk", KEY):
        assert watched.get("/metrics", headers={"authorization": wrong}).status_code == 401
    assert watched.get("/metrics", headers={"authorization": f"Bearer {KEY}"}).status_code == 200
    assert watched.get("/metrics", auth=("anybody", KEY)).status_code == 200


def test_requests_of_all_processes_are_added_up_by_route(
    watched: TestClient, database: Database, household: Caller
) -> None:
    furnish(household)
    watched.get(f"/week/{MONDAY}")
    watched.get(f"/join/{uuid4().hex}")
    server_report.say(database, watched.app.state.tally)  # type: ignore[attr-defined]
    other = Tally()
    other.process = f"elsewhere:{uuid4().hex[:6]}"
    for ms in (3, 40, 99_000):
        other.add("GET", "/made-up/{of}", 200, ms)
    server_report.say(database, other)
    told = watched.get("/metrics", headers={"authorization": f"Bearer {KEY}"}).text
    assert 'goodcrate_request_ms_count{route="GET /made-up/{of}",answer="2xx"} 3' in told
    assert 'goodcrate_request_ms_bucket{route="GET /made-up/{of}",answer="2xx",le="50"} 2' in told
    assert 'goodcrate_request_ms_bucket{route="GET /made-up/{of}",answer="2xx",le="+Inf"} 3' in told
    assert 'route="GET /join/{invitation}",answer="4xx"' in told
    assert re.search(r"goodcrate_database_threads_connected \d+", told)
    page = watched.get("/metrics", headers={"accept": "text/html"}, auth=("x", KEY)).text
    assert "How the server is doing" in page
    assert "/made-up/{of}" in page
    assert name_of(database, household) not in page + told
    assert "A test galley" not in page + told
    old = utc_now() - reports.FORGOTTEN_AFTER - timedelta(minutes=1)
    reports.report(database.engine, other.process, old, {}, old)
    server_report.say(database, watched.app.state.tally)  # type: ignore[attr-defined]
    assert other.process not in {row["process"] for row in reports.reports(database.engine)}


def test_a_share_of_requests_is_within_a_bound() -> None:
    counted = Counted()
    for ms in [4] * 90 + [240] * 9 + [99_999]:
        counted.add(ms)
    assert counted.within(0.5) == BOUNDS_MS[0]
    assert counted.within(0.95) == 300
    assert counted.within(1.0) is None
    assert counted.count == 100


def test_a_log_line_names_the_route_and_nothing_that_was_sent(
    cook: Cook, household: Caller, database: Database, caplog: pytest.LogCaptureFixture
) -> None:
    kitchen = furnish(household)
    secret = people.invite(household, COOK, None)
    with caplog.at_level(logging.INFO, logger=LOGGER.name):
        cook.client.get(f"/join/{secret}")
        cook.client.get(f"/recipes/{kitchen.recipe_id}")
        cook.post("/today/off-plan", {"eater": str(kitchen.eater_id), "typed": "cake, 613 kcal", "event": str(uuid4())})
        cook.client.get(f"/today?eater={kitchen.eater_id}")
        cook.client.get("/static/app.css")
        answer = cook.client.get("/nowhere-at-all")
    lines = [json.loads(JsonLines().format(record)) for record in caplog.records if record.name == LOGGER.name]
    assert [line["route"] for line in lines[:2]] == ["/join/{invitation}", "/recipes/{recipe_id}"]
    assert lines[-1]["route"] == "(nowhere)"
    assert lines[-1]["mark"] == answer.headers["x-request-mark"]
    assert {line["status"] for line in lines} <= {200, 303, 404}
    whole = json.dumps(lines)
    for hidden in (
        secret,
        str(kitchen.recipe_id),
        str(kitchen.eater_id),
        "613",
        "kcal",
        name_of(database, household),
        "nowhere-at",
    ):
        assert hidden not in whole


def test_what_broke_is_logged_by_its_route_too(
    client: TestClient, caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr(people, "welcome", broken)
    answer = client.get("/join/a-secret-of-somebody")
    assert answer.status_code == 500
    told = "\n".join(record.getMessage() for record in caplog.records)
    assert "/join/{invitation}" in told
    assert "a-secret-of-somebody" not in told


def test_tables_are_of_the_version_this_app_needs(database: Database) -> None:
    with database.engine.connect() as connection:
        now = connection.scalar(text("SELECT version_num FROM alembic_version"))
    assert newest_version() == now
