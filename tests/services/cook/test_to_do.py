"""What a week asks of its cook, as a calendar reads it."""

from collections import Counter
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from icalendar import Calendar

from goodcrate.formats.calendar_file import CalendarEntry, calendar_text
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.to_do import to_do
from goodcrate.services.week.weeks import week_picture
from tests.conftest import MONDAY

MADE = datetime(2026, 11, 21, 9, 0, tzinfo=UTC)


def test_sessions_the_freezer_and_the_night_before_are_in_it(demo: Caller) -> None:
    _, entries = to_do(demo, MONDAY)
    kinds = Counter(entry.key.partition("-")[0] for entry in entries)
    picture = week_picture(demo, MONDAY)
    assert picture is not None
    assert kinds["session"] == 2
    sunday = next(entry for entry in entries if entry.key.startswith("session"))
    assert (sunday.at, sunday.words) == (datetime(2026, 11, 22, 14, 0), "Cook for 23 boxes")
    assert "Leek and quark oven slice" in sunday.about
    # Rye is soaked in milk on the evening before each of its seven breakfasts.
    rye = [entry for entry in entries if entry.key.startswith("night")]
    assert len(rye) == sum(picture.recipes[str(m.recipe_id)].name.startswith("Rye flakes") for m in picture.meals)
    assert all("Milk" in entry.about for entry in rye)
    thawing = {stay.thaw_on for stay in picture.stays.values()} - {None}
    assert kinds["thaw"] == len(thawing)
    assert entries == sorted(entries, key=lambda entry: (entry.at, entry.words))
    with pytest.raises(NotFound):
        to_do(demo, MONDAY + timedelta(days=700))


def test_a_calendar_reads_the_file_by_the_kitchens_clock() -> None:
    long = "Look at it, stir or turn: simmer; all of it, under a lid that is rather large for so small a pot"
    entry = CalendarEntry(f"look-{uuid4()}", datetime(2026, 3, 29, 1, 30), 90, long, "Turkey, and “cabbage”\nlater", 60)
    text = calendar_text("Good Crate", [entry], MADE)
    lines = text.decode().split("\r\n")
    assert lines[0] == "BEGIN:VCALENDAR"
    assert "DTSTART:20260329T013000" in lines, "no zone: half past one is half past one, also when clocks change"
    assert "DTEND:20260329T030000" in lines
    assert "DTSTAMP:20261121T090000Z" in lines
    assert "TRIGGER:-PT1H" in lines
    assert all(len(line.encode()) <= 75 for line in lines)
    (event,) = Calendar.from_ical(text).walk("VEVENT")
    assert (str(event["SUMMARY"]), str(event["DESCRIPTION"])) == (entry.words, entry.about)
    assert str(event["UID"]) == entry.key
