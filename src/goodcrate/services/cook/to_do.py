"""What a week asks of its cook and when: sessions, their looks, boxes out of the freezer, what is soaked at night."""

from collections.abc import Iterator
from datetime import date, datetime, timedelta

from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many, shown, weekday_whole
from goodcrate.core.shop.needs import NIGHT_BEFORE
from goodcrate.formats.calendar_file import CalendarEntry
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.before import EVENING, beforehand
from goodcrate.services.cook.run_sheet import SessionSheet, SheetAsked, session_sheet
from goodcrate.services.week.weeks import WeekPicture, week_picture

EVENING_MIN, REMIND_MIN = 10, 60


def to_do(caller: Caller, first_day: date) -> tuple[str, list[CalendarEntry]]:
    """A name for it, and all there is to do in a week, in its order.

    Raises:
        NotFound: when there is no such week.
    """
    picture = week_picture(caller, first_day)
    if picture is None:
        raise NotFound("week")
    found = [*_sessions(caller, picture), *_from_freezer(picture), *_at_night(picture)]
    return say("Good Crate"), sorted(found, key=lambda e: (e.at, e.words))


def _sessions(caller: Caller, picture: WeekPicture) -> Iterator[CalendarEntry]:
    for session in picture.sessions:
        try:
            there = session_sheet(caller, picture.week.first_day, session.key, SheetAsked())
        except InvalidInputs:  # a step this kitchen cannot do: the session is still on
            continue
        minutes = session.length_min if there.sheet is None else there.sheet.minutes
        dishes = ", ".join(dish.name for dish in there.dishes.values())
        if not dishes:
            continue
        words = say("Cook for {boxes}", boxes=many(sum(d.boxes for d in there.dishes.values()), "box"))
        yield CalendarEntry(f"session-{session.key}", session.starts_at, minutes, words, dishes, REMIND_MIN)
        yield from _looks(there)
        for n, thing in enumerate(beforehand(caller, there)):
            yield CalendarEntry(f"before-{session.key}-{n}", thing.at, EVENING_MIN, thing.words, thing.about)


def _looks(there: SessionSheet) -> Iterator[CalendarEntry]:
    if there.sheet is None:
        return
    for (key, n), at in there.sheet.looks.items():
        told = there.tasks.told[key]
        dish = there.dishes[there.problem.by_key[key].dish].name
        words = told.look_words
        yield CalendarEntry(f"look-{key}-{n}", minutes_later(there.starts_at, at), 1, words, dish)


def _from_freezer(picture: WeekPicture) -> Iterator[CalendarEntry]:
    """Boxes that thaw in the fridge from an evening on."""
    by_day: dict[date, list[str]] = {}
    names = {str(m.id): picture.recipes[str(m.recipe_id)].name for m in picture.meals}
    for key, stay in picture.stays.items():
        if stay.thaw_on is not None:
            by_day.setdefault(stay.thaw_on, []).append(names[key])
    for day, dishes in sorted(by_day.items()):
        words = say("{boxes} out of the freezer, into the fridge", boxes=many(len(dishes), "box"))
        key = f"thaw-{picture.week.id}-{day}"
        yield CalendarEntry(key, datetime.combine(day, EVENING), EVENING_MIN, words, ", ".join(sorted(dishes)))


def _at_night(picture: WeekPicture) -> Iterator[CalendarEntry]:
    """What goes in the night before a meal."""
    eaters = {eater.id: eater.first_name for eater in picture.eaters}
    for meal in picture.meals:
        recipe = picture.recipes[picture.outcome.boxes[str(meal.id)].placing.recipe_key]
        share = meal.servings / recipe.servings
        what = ", ".join(
            say("{grams} g {food}", grams=shown(line.amount.grams * share), food=line.food.name)
            for line in recipe.lines
            if line.use == NIGHT_BEFORE and line.amount.grams > 0
        )
        if what:
            evening = datetime.combine(meal.day - timedelta(days=1), EVENING)
            told = {"eater": eaters[meal.eater_id], "day": weekday_whole(meal.day), "dish": recipe.name}
            words = say("Tonight for {eater}’s {day}: {dish}", **told)
            yield CalendarEntry(f"night-{meal.id}", evening, EVENING_MIN, words, what)
