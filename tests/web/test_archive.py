"""The pages of the household's data: tables, the work under way, and what each answers when it is not theirs."""

import csv
import io
from uuid import uuid4

import pytest

from goodcrate.core.ground.nutrients import KEYS
from goodcrate.services.archive import files, work
from goodcrate.services.calling import Caller
from goodcrate.services.jobs import ledger, process
from goodcrate.services.week.weeks import week_picture
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import Kitchen, furnish, planner_job
from tests.web.racing_whole import looked_through


@pytest.fixture(autouse=True)
def no_worker(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(process, "launch", lambda *_: None)


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def test_weeks_are_a_table_with_every_nutrient(cook: Cook, kitchen: Kitchen) -> None:
    picture = week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    whole, one = cook.get("/archive/weeks.csv"), cook.get(f"/archive/week-{MONDAY}.csv")
    assert whole == one
    rows = list(csv.DictReader(io.StringIO(whole)))
    assert len(rows) == len(picture.meals) == 3
    box = picture.outcome.boxes[str(sorted(picture.meals, key=lambda m: m.day)[0].id)]
    for key in KEYS:
        there = box.tally.amount(key)
        assert rows[0][key] == ("" if there.is_unknown else f"{there.value:.10g}"), key
        assert (key in rows[0]["not_known"].split()) == there.is_at_least, key
    assert rows[0]["stage"] == "planned"
    cook.get("/archive/week-2020-01-06.csv", expect=404)


def test_other_work_is_no_work_on_an_archive(cook: Cook, kitchen: Kitchen) -> None:
    picture = week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    with kitchen.caller.transaction() as session:
        row = planner_job(picture.week.id)
        session.add(row)
        job_id = row.id
    cook.get(f"/archive/{job_id}", expect=404)
    cook.post(f"/archive/{job_id}/take-in", {"wins": "here"}, expect=404)
    making = uuid4()
    cook.post("/archive/make", {"id": str(making)})
    assert "it begins" in text_of(cook.get(f"/archive/{making}"))
    cook.post(f"/archive/{making}/take-in", {"wins": "here"}, expect=404)
    cook.get(f"/archive/{making}/good-crate.zip", expect=404)


def test_a_dry_run_asks_which_wins_and_says_what_is_here(cook: Cook, kitchen: Kitchen) -> None:
    job_id = looked_through(kitchen)
    page = text_of(cook.get(f"/archive/{job_id}"))
    assert "The archive wins" in page
    assert "What is here wins" in page
    assert "all of it is here already" in page
    cook.post(f"/archive/{job_id}/take-in", {"wins": "both"}, expect=422)
    began = cook.post(f"/archive/{job_id}/take-in", {"wins": "archive", "id": str(uuid4())})
    assert "it begins" in text_of(cook.get(began.headers["location"]))


def test_what_went_wrong_is_said_where_it_went_on(cook: Cook, kitchen: Kitchen) -> None:
    job_id = uuid4()
    files.keep(kitchen.caller, job_id, files.IN, "none.zip", io.BytesIO(b"none"))
    work.begin(kitchen.caller, job_id, work.LOOK_JOB, {"file": str(job_id)})
    ledger.beat(kitchen.caller, job_id, status=ledger.FAILED, said="This is no zip file.")
    assert "This is no zip file." in text_of(cook.get(f"/archive/{job_id}/progress"))


def test_a_made_archive_is_fetched_whole(cook: Cook, kitchen: Kitchen) -> None:
    job_id = uuid4()
    cook.post("/archive/make", {"id": str(job_id)})
    work.make(kitchen.caller, job_id)
    assert "Save the archive" in text_of(cook.get(f"/archive/{job_id}"))
    answer = cook.client.get(f"/archive/{job_id}/good-crate.zip")
    assert answer.content.startswith(b"PK")
    assert len(answer.content) == int(answer.headers["content-length"])
    assert "good-crate-" in answer.headers["content-disposition"]
    assert "kept for a day" in text_of(cook.get("/archive"))
