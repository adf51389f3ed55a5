"""The door and what holds for every answer: headers, hosts, half requests, and pages that say what broke."""

import re
import socket
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError, OperationalError

from goodcrate.db.session import Database
from goodcrate.services import people
from goodcrate.services.calling import Caller
from goodcrate.services.week import weeks
from goodcrate.settings import Settings
from goodcrate.web import security, wire
from goodcrate.web.security import HEADERS, is_our_host, our_hosts
from tests.browser.conftest import served
from tests.conftest import PASSWORD, Cook, name_of, sign_in, text_of


def test_a_page_that_broke_has_the_headers_and_says_what_is_kept(
    cook: Cook, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def break_down(*_: object) -> None:
        raise RuntimeError("a bug")

    monkeypatch.setattr(weeks, "week_of", break_down)
    answer = cook.client.get("/week")
    assert answer.status_code == 500
    for name, value in HEADERS.items():
        assert answer.headers[name] == value
    assert "what you typed is still in its form" in text_of(answer.text)
    mark = re.search(r"log: ([0-9a-f]{8})", answer.text)
    assert mark is not None
    assert mark[1] in caplog.text

    def away(*_: object) -> None:
        raise OperationalError("SELECT 1", {}, Exception(2003, "nobody there"))

    monkeypatch.setattr(weeks, "week_of", away)
    answer = cook.client.get("/week")
    assert answer.status_code == 503
    assert "The database is away" in text_of(answer.text)
    assert answer.headers["retry-after"] == "5"
    assert answer.headers["content-security-policy"]


def test_a_log_holds_no_values_of_a_statement(database: Database, household: Caller) -> None:
    name = name_of(database, household)
    statement = text(
        "INSERT INTO user_account (id, household_id, name, password_hash, role, created_at) "
        "SELECT UUID(), household_id, :name, :secret, 'cook', NOW() FROM user_account WHERE name = :name"
    )
    with pytest.raises(IntegrityError) as caught, database.engine.begin() as connection:
        connection.execute(statement, {"name": name, "secret": "hash of barley"})
    assert "hash of barley" not in str(caught.value)


def test_head_is_get_without_its_body(client: TestClient) -> None:
    got, asked = client.get("/sign-in"), client.head("/sign-in")
    assert (asked.status_code, asked.content) == (got.status_code, b"")
    assert asked.headers["content-type"] == got.headers["content-type"]
    assert client.head("/nowhere-at-all").status_code == client.get("/nowhere-at-all").status_code


@pytest.mark.parametrize(
    ("host", "is_ours"),
    [
        ("localhost", True),
        ("localhost:8080", True),
        ("127.0.0.1:8080", True),
        ("192.168.1.20", True),
        ("[::1]:80", True),
        ("Kitchen.example", True),
        ("kitchen.example:443", True),
        ("evil.example", False),
        ("", False),
        ("127.0.0.1.evil.example", False),
    ],
)
def test_only_our_own_names_are_answered(host: str, is_ours: bool) -> None:
    assert is_our_host(host, our_hosts("kitchen.example, other.example")) is is_ours


def test_a_page_of_another_name_gets_nothing(client: TestClient) -> None:
    answer = client.get("/sign-in", headers={"host": "evil.example"})
    assert answer.status_code == 421
    assert answer.headers["content-security-policy"]


def test_what_does_not_come_to_its_end_is_not_waited_for(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wire, "HEAD_SECONDS", 0.3)
    monkeypatch.setattr(security, "BODY_SECONDS", 0.3)
    with served(database) as address:
        there = (address.removeprefix("http://").split(":")[0], int(address.rsplit(":", 1)[1]))
        for half in (b"", b"GET /sign-in HTTP/1.1\r\nHost: local"):
            with socket.create_connection(there, 60) as knock:
                knock.sendall(half)
                assert knock.recv(100) == b""  # closed
        head = b"POST /sign-in HTTP/1.1\r\nHost: localhost\r\nContent-Length: 9\r\n"
        with socket.create_connection(there, 60) as knock:
            knock.sendall(head + b"Content-Type: application/x-www-form-urlencoded\r\n\r\nname")
            assert b" 408 " in knock.recv(1000)


def test_sign_up_is_refused_before_anything_is_hashed(cook: Cook, monkeypatch: pytest.MonkeyPatch) -> None:
    def hashed(*_: object) -> str:
        raise AssertionError("a password was hashed")

    monkeypatch.setattr(people, "hashed", hashed)
    token = cook.client.cookies.get(security.DOOR_COOKIE)
    sent = {"csrf": token, "household_name": "Second", "name": "second", "password": PASSWORD}
    answer = cook.client.post("/first-run", data=sent, follow_redirects=False)
    assert (answer.status_code, answer.headers["location"]) == (303, "/sign-in")


def test_the_account_page_changes_the_password_and_lists_browsers(
    cook: Cook, client: TestClient, household: Caller
) -> None:
    page = cook.get("/account")
    assert "this one" in text_of(page)
    refused = cook.post("/account/password", {"old": PASSWORD, "new": "aaaaaaaaaa"}, expect=422)
    assert "made of only 1 different character" in text_of(refused.text)
    cook.post("/account/password", {"old": PASSWORD, "new": "millet-and-marrow"})
    assert "Every other browser is signed out" in text_of(cook.get("/account?done=password"))
    left = cook.post("/account/sign-out-everywhere")
    assert left.headers["clear-site-data"] == '"storage"'
    assert cook.client.get("/week", follow_redirects=False).headers["location"].startswith("/sign-in")
    again = sign_in(client, name_of(household.database, household), "millet-and-marrow")
    assert again.post("/sign-out").headers["clear-site-data"] == '"storage"'


def test_a_forwarding_header_is_nobodys_word_by_default() -> None:
    assert Settings(data_dir=Path("unused")).trusted_proxies == ""
