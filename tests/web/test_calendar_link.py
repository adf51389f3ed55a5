"""The calendar behind a secret link: read without signing in, replaced and taken back."""

import re

from fastapi.testclient import TestClient
from icalendar import Calendar

from goodcrate.services.calling import Caller
from tests.conftest import Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing


def link_of(cook: Cook) -> str:
    page = cook.post("/settings/calendar", {"act": "make"}, expect=200).text
    found = re.search(r"http://localhost(/calendar/[^<]+)", page)
    assert found is not None
    return found[1]


def test_a_calendar_reads_what_the_kitchen_asks_for_until_the_link_is_taken_back(
    cook: Cook, household: Caller, client: TestClient
) -> None:
    kitchen = furnish(household, days=7)
    racing.packed_box(kitchen)
    stranger = TestClient(client.app, base_url="http://localhost")
    link = link_of(cook)
    answer = stranger.get(link)
    assert answer.headers["content-type"].startswith("text/calendar")
    said = [str(e["summary"]) for e in Calendar.from_ical(answer.text).walk("VEVENT")]
    assert any(words.startswith("Cook for") for words in said)
    assert any("out of the freezer" in words for words in said)
    assert "Eat by today: Turkey pot" in said
    assert "Maren" not in answer.text
    assert link not in cook.get("/settings")  # shown once
    new = link_of(cook)
    assert stranger.get(link).status_code == 404
    assert stranger.get(new).status_code == 200
    assert "Take the link back" in text_of(cook.get("/settings"))
    cook.post("/settings/calendar", {"act": "revoke"})
    assert stranger.get(new).status_code == 404
    assert stranger.get("/calendar/guessed/week.ics").status_code == 404
