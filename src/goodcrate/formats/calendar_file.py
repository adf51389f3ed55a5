"""An iCalendar file (RFC 5545) of what a household has to do: by its own clock, each with a reminder."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Alarm, Calendar, Event


@dataclass(frozen=True)
class CalendarEntry:
    """Something to do at a time of the household's clock: `remind_min` before it a calendar says so."""

    key: str
    at: datetime
    minutes: int
    words: str
    about: str = ""
    remind_min: int = 0


def calendar_text(name: str, entries: Iterable[CalendarEntry], made_at: datetime) -> bytes:
    """The file. Times carry no zone: they are those of the kitchen's clock, whatever a summer does to it. The same
    entry has the same key again, so that a calendar that takes the file twice has it once."""
    calendar = Calendar()
    calendar.add("prodid", "-//Good Crate//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for entry in entries:
        event = Event()
        event.add("uid", entry.key)
        event.add("dtstamp", made_at.astimezone(UTC))
        event.add("dtstart", entry.at)
        event.add("dtend", entry.at + timedelta(minutes=entry.minutes))
        event.add("summary", entry.words)
        if entry.about:
            event.add("description", entry.about)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", entry.words)
        alarm.add("trigger", timedelta(minutes=-entry.remind_min))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
