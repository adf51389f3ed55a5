"""What a household's calendar says: sessions, what thaws and soaks, and the last days of what is in the house."""

from datetime import date, datetime, time, timedelta
from uuid import UUID

from goodcrate.core.ground.wording import say
from goodcrate.core.store.box_code import box_code
from goodcrate.formats.calendar_file import CalendarEntry
from goodcrate.services.at_table.store_map import store_map
from goodcrate.services.calling import Caller
from goodcrate.services.cook.to_do import to_do
from goodcrate.services.week.weeks import week_of

EAT_BY_AT = time(17, 0)
"""When a calendar says what is to be eaten today at the latest: our assumption, a calendar moves it."""


def feed(caller: Caller, today: date) -> tuple[str, list[CalendarEntry]]:
    """Its name, and all of this week and the next, in order; and until when each box in the house is to be eaten."""
    entries: list[CalendarEntry] = []
    seen = set[date]()
    for day in (today + timedelta(days=n) for n in range(15)):
        first_day = week_of(caller, day)
        if first_day is not None and first_day not in seen:
            seen.add(first_day)
            entries += to_do(caller, first_day)[1]
    for one in store_map(caller).boxes:
        if not one.is_past(today):
            words = say("Eat by today: {dish}", dish=one.recipe.name)
            at = datetime.combine(one.until, EAT_BY_AT)
            entries.append(CalendarEntry(f"eat-by-{one.box.key}", at, 10, words, box_code(UUID(one.box.key))))
    return say("Good Crate"), sorted(entries, key=lambda e: (e.at, e.words))
