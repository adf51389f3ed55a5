"""Sessions that were cooked teach what steps really take; the recipe says it when somebody wants it to."""

from dataclasses import replace
from datetime import date, timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.cook.running import DONE, Tick
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.steps import Step
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.cook import running, step_times
from goodcrate.services.cook.run_sheet import SheetAsked, ask_for_sheet, make_sheet
from goodcrate.services.jobs import process
from goodcrate.services.recipes import library, saving
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, Kitchen, furnish


def place_in(kitchen: Kitchen, first_day: date) -> None:
    """Place the whole recipe in another week."""
    weeks.open_week(kitchen.caller, first_day)
    dates = tuple(first_day + timedelta(days=n) for n in range(4))
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1.5, dates)
    placing.place(kitchen.caller, first_day, typed)


def cooked(caller: Caller, monday: int, took: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Cook the session of a week by its sheet; its first step takes so long."""
    first_day = MONDAY + timedelta(weeks=monday)
    picture = weeks.week_picture(caller, first_day)
    assert picture is not None
    key = next(w.plan.session_key for w in picture.outcome.batches)
    make_sheet(caller, ask_for_sheet(caller, first_day, uuid4(), key, SheetAsked()))
    begun = utc_now() + timedelta(days=monday)
    monkeypatch.setattr(running, "utc_now", lambda: begun)
    running.begin_cooking(caller, first_day, UUID(key), SheetAsked())
    monkeypatch.setattr(running, "utc_now", lambda: begun + timedelta(minutes=took, seconds=5))
    step = next(t.key for t in running.running(caller, first_day, UUID(key)).problem.tasks if t.key.endswith("chop"))
    running.tick(caller, first_day, UUID(key), uuid4(), Tick(step, DONE, 0))
    monkeypatch.setattr(running, "utc_now", utc_now)


def test_after_three_sessions_minutes_are_offered_and_taken_once(
    household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(process, "launch", lambda *_: None)
    kitchen = furnish(household, 1.5, days=4)
    saved = library.get_input(household, kitchen.recipe_id)
    saving.save_recipe(household, replace(saved, steps=(Step("chop", "Chop it", duration_min=10),)))
    weeks.take_new_version(household, MONDAY, kitchen.recipe_id)
    for monday, took in enumerate((20, 24, 22)):
        if monday:
            place_in(kitchen, MONDAY + timedelta(weeks=monday))
        assert step_times.offers(household, {str(kitchen.recipe_id)}) == []
        cooked(household, monday, took, monkeypatch)
    (offer,) = step_times.offers(household, {f"{kitchen.recipe_id}~somebody"})
    assert (offer.minutes, offer.written_min, [round(t) for t in offer.times]) == (22, 10, [20, 24, 22])
    assert step_times.offers(household, {str(uuid4())}) == []
    for minutes in (0, 1500):
        with pytest.raises(InvalidInput, match="is not possible"):
            step_times.say_minutes(household, MONDAY, kitchen.recipe_id, "chop", minutes)
    with pytest.raises(NotFound):
        step_times.say_minutes(household, MONDAY, kitchen.recipe_id, "no such step", 5)
    for _ in range(2):
        step_times.say_minutes(household, MONDAY, kitchen.recipe_id, "chop", 22)
    after = library.get_input(household, kitchen.recipe_id)
    assert after.steps[0].duration_min == 22
    assert step_times.offers(household, {str(kitchen.recipe_id)}) == []


def test_minutes_that_were_guessed_are_said_and_the_week_follows(household: Caller) -> None:
    kitchen = furnish(household, 1.5, days=4)
    saved = library.get_input(household, kitchen.recipe_id)
    saving.save_recipe(household, replace(saved, steps=(Step("chop", "Chop it"),)))
    weeks.take_new_version(household, MONDAY, kitchen.recipe_id)
    step_times.say_minutes(household, MONDAY, kitchen.recipe_id, "chop", 14)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert picture.recipes[str(kitchen.recipe_id)].steps[0].duration_min == 14
