"""The run sheet's page: asked for, drawn, as a list; what stands in its way is named, and a dish goes elsewhere."""

import re
from dataclasses import replace
from datetime import date
from uuid import UUID, uuid4

import pytest

from goodcrate.core.recipes.equipment import Equipment
from goodcrate.core.recipes.steps import Step
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.cook import elsewhere, running
from goodcrate.services.cook.run_sheet import SheetAsked, ask_for_sheet, make_sheet
from goodcrate.services.jobs import process
from goodcrate.services.kitchen import save_equipment
from goodcrate.services.recipes import library, saving
from goodcrate.services.store import house
from goodcrate.services.week.weeks import take_new_version, week_picture
from goodcrate.web.cook import now
from goodcrate.web.cook.sheet_view import core_words
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import MONDAY, Kitchen, furnish, turkey_pot
from tests.web import racing


@pytest.fixture
def kitchen(household: Caller, monkeypatch: pytest.MonkeyPatch) -> Kitchen:
    monkeypatch.setattr(process, "launch", lambda *_: None)
    return furnish(household, 1.5, days=4)


def session_of(kitchen: Kitchen) -> str:
    picture = week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return picture.sessions[0].key


def test_a_sheet_is_asked_for_made_and_drawn(cook: Cook, kitchen: Kitchen) -> None:
    key = session_of(kitchen)
    there = f"/cook/{MONDAY}/sheet/{key}"
    first = cook.get(there)
    assert "No run sheet yet" in text_of(first)
    cook.post(there, {"id": str(uuid4())})
    waiting = cook.get(there)
    assert "Making the run sheet" in text_of(waiting)
    assert 'hx-trigger="every 700ms"' in waiting
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    done = cook.get(there)
    said = text_of(done)
    # The recipe has no steps: 20 min of work, guessed and said so; its one cooked pot cools, four boxes take 4 min.
    assert "proven shortest" in said
    assert "our guess: the recipe says no steps for it" in said
    assert "last box in the fridge at" in said
    assert "every 700ms" not in done
    assert re.search(r"<title>14:00 Make pot for Turkey pot, 20 min", done)
    assert "Turkey thigh" in said.split("Weigh out, bowl by bowl")[1]
    assert 'name="minutes" value="' in done


def test_what_cannot_be_asked_stands_at_its_field_with_what_was_typed(cook: Cook, kitchen: Kitchen) -> None:
    there = f"/cook/{MONDAY}/sheet/{session_of(kitchen)}"
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), session_of(kitchen), SheetAsked()))
    refused = cook.post(there, {"id": str(uuid4()), "burners": "0", "start": "9:15"}, expect=422)
    assert "1 to 8" in text_of(refused.text)
    assert 'name="start" value="9:15"' in refused.text.replace("\n", " ")
    late = cook.get(f"{there}?start=25:00", expect=422)
    assert "is no time" in text_of(late)


def test_a_step_this_kitchen_cannot_do_is_named_with_its_recipe(cook: Cook, kitchen: Kitchen) -> None:
    save_equipment(kitchen.caller, Equipment({"cooks": 1, "microwaves": 0}))
    there = turkey_pot(version=1, recipe=kitchen.recipe_id, component=kitchen.component_id)
    step = Step(str(uuid4()), "Heat it through", equipment="microwave", duration_min=5)
    saving.save_recipe(kitchen.caller, replace(there, steps=(step,)))
    assert "was changed since this week was planned" in text_of(cook.get(f"/cook/{MONDAY}/sheet/{session_of(kitchen)}"))
    cook.post(f"/week/{MONDAY}/recipes/{kitchen.recipe_id}/take", {})
    page = cook.get(f"/cook/{MONDAY}/sheet/{session_of(kitchen)}")
    said = text_of(page)
    assert "The kitchen has no microwave" in said
    assert "Heat it through" in said
    assert f'href="/recipes/{kitchen.recipe_id}"' in page


def test_meals_of_a_dish_are_taken_out_by_one_click(cook: Cook, kitchen: Kitchen) -> None:
    there = f"/cook/{MONDAY}/sheet/{session_of(kitchen)}"
    cook.post(f"{there}/dishes", {"dish": str(kitchen.recipe_id), "to": "", "here": f"{there}?minutes=30"})
    picture = week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    assert elsewhere.meals_of(picture, session_of(kitchen)) == []
    assert "Nothing to cook in this session yet" in text_of(cook.get(there))


def test_how_hot_it_must_be_inside_is_said_with_its_source() -> None:
    said = "Inside: poultry 74 °C, instant (US FoodSafety.gov safe minimum internal temperatures)"
    assert core_words("poultry") == said
    assert core_words("") == ""


def test_no_such_session(cook: Cook, kitchen: Kitchen) -> None:
    cook.get(f"/cook/{MONDAY}/sheet/{uuid4()}", expect=404)
    cook.get(f"/cook/{date(2030, 1, 7)}/sheet/{session_of(kitchen)}", expect=404)


def test_a_week_goes_into_a_calendar(cook: Cook, kitchen: Kitchen) -> None:
    page = cook.get(f"/cook/{MONDAY}")
    assert f'href="/cook/{MONDAY}/calendar/week.ics"' in page
    answer = cook.client.get(f"/cook/{MONDAY}/calendar/week.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "SUMMARY:Cook for 4 boxes" in answer.text
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), session_of(kitchen), SheetAsked()))
    assert "DTEND:20261122T16" not in cook.client.get(f"/cook/{MONDAY}/calendar/week.ics").text, "as long as the sheet"


def test_a_session_is_cooked_step_by_step(cook: Cook, kitchen: Kitchen) -> None:
    key = session_of(kitchen)
    there = f"/cook/{MONDAY}/sheet/{key}"
    cook.get(f"/cook/{MONDAY}/now/{key}", expect=404)
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    assert "Start cooking" in text_of(cook.get(there))
    cook.post(f"{there}/begin", {})
    now = cook.get(f"/cook/{MONDAY}/now/{key}")
    assert cook.get("/cook").count("cooknow") == now.count("cooknow") > 0, "what is being cooked is what Cook opens"
    said = text_of(now)
    assert "NOW Turkey pot" in said
    assert "Make pot for Turkey pot" in said
    assert "0 of 2 steps done" in said
    work, box = re.findall(r'name="step" value="([^"]+)"', now)[0], f"{kitchen.recipe_id}/box"
    assert "rapeseed oil are not in yet. In as planned Left out Weigh in" in said
    cook.post(f"/cook/{MONDAY}/now/{key}/steps", {"event": str(uuid4()), "step": work, "kind": "done"})
    assert "0 of 2 steps done" in text_of(cook.get(f"/cook/{MONDAY}/now/{key}")), "it is asked before the pot comes off"
    rest = next(form for form in forms_of(there, now) if form.endswith("/rest"))
    answer = cook.post(rest, {"event": str(uuid4()), "how": "as_planned", "to": key})
    assert answer.headers["location"] == f"/cook/{MONDAY}/now/{key}"
    assert "not in yet" not in text_of(cook.get(f"/cook/{MONDAY}/now/{key}"))
    cook.post(f"/cook/{MONDAY}/now/{key}/steps", {"event": str(uuid4()), "step": work, "kind": "done"})
    cook.post(f"/cook/{MONDAY}/now/{key}/steps", {"event": str(uuid4()), "step": box, "kind": "put_off"})
    skipped = text_of(cook.get(f"/cook/{MONDAY}/now/{key}"))
    assert "1 of 2 steps done" in skipped
    assert "✓ Make pot for Turkey pot Not done after all" in skipped
    assert f"/portion/{MONDAY}" in cook.get("/portion"), "Portion opens the week that is being cooked"
    assert "Skipped, still to do" in skipped
    cook.post(f"/cook/{MONDAY}/now/{key}/steps", {"event": str(uuid4()), "step": box, "kind": "done"})
    assert "All steps are done" in text_of(cook.get(f"/cook/{MONDAY}/now/{key}"))
    assert "Go on cooking" in text_of(cook.get(there))
    assert "Run sheet" in text_of(cook.get("/cook")), "all done: Cook opens the batches again"


def test_devices_are_told_when_something_is_said(cook: Cook, kitchen: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is told is another after a tick and after a weighing, and the same when nothing was said."""
    key = session_of(kitchen)
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    there = f"/cook/{MONDAY}/now/{key}"
    cook.get(f"{there}/changes", expect=404)
    cook.post(f"/cook/{MONDAY}/sheet/{key}/begin", {})
    moment = utc_now()
    monkeypatch.setattr(now, "utc_now", lambda: moment)
    monkeypatch.setattr(now, "LISTENS_S", 0.0001)

    def told() -> str:
        answer = cook.client.get(f"{there}/changes")
        assert answer.headers["content-type"].startswith("text/event-stream")
        return str(re.findall(r"data: (.+)", answer.text)[0])

    first = told()
    assert told() == first
    cook.post(f"{there}/steps", {"event": str(uuid4()), "step": f"{kitchen.recipe_id}/box", "kind": "put_off"})
    second = told()
    assert second != first
    cook.post(f"/cook/{racing.begun(kitchen)}/rest", {"event": str(uuid4()), "how": "as_planned"})
    assert told() not in (first, second)


def test_cooking_begins_by_the_sheet_that_is_shown(cook: Cook, kitchen: Kitchen) -> None:
    """Begun from “two burners”, the session has two; a foreign address is not followed."""
    key, asked = session_of(kitchen), SheetAsked(burners=2)
    for one in (SheetAsked(), asked):
        make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, one))
    here = f"/cook/{MONDAY}/sheet/{key}?burners=2"
    assert f'name="here" value="{here}"' in cook.get(here)
    answer = cook.post(f"/cook/{MONDAY}/sheet/{key}/begin", {"here": here})
    assert answer.headers["location"] == f"/cook/{MONDAY}/now/{key}"
    assert running.running(kitchen.caller, MONDAY, UUID(key)).problem.kitchen.places["hob"] == 2
    assert (
        "/sheet/"
        in cook.post(f"/cook/{MONDAY}/sheet/{key}/ready", {"here": "/elsewhere", "minutes": "30"}).headers["location"]
    )


def test_what_is_done_before_the_session_stands_beside_its_sheet(cook: Cook, kitchen: Kitchen) -> None:
    saved = library.get_input(kitchen.caller, kitchen.recipe_id)
    steps = (
        Step("1", "Soak the cabbage overnight", equipment="fridge", duration_min=600, is_hands_on=False),
        Step("2", "Chop it", duration_min=10, after=("1",)),
    )
    saving.save_recipe(kitchen.caller, replace(saved, steps=steps))
    take_new_version(kitchen.caller, MONDAY, kitchen.recipe_id)
    thing = house.ThingInput(uuid4(), "freezer", MONDAY, typed="700 g turkey thigh")
    house.put_in(kitchen.caller, thing)
    house.put_in(kitchen.caller, house.ThingInput(uuid4(), "freezer", MONDAY, typed="2 kg cabbage"))
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), session_of(kitchen), SheetAsked()))
    said = text_of(cook.get(f"/cook/{MONDAY}/sheet/{session_of(kitchen)}"))
    assert "Take out and soak" in said
    assert "700 g turkey thigh out of the freezer, to thaw in the fridge" in said, "all there is of 1,200 g"
    assert "1,125 g cabbage out of the freezer" in said, "as much as it needs: 900 g, a fifth of it leaves and core"
    assert "Soak the cabbage overnight" in said
    assert said.index("700 g turkey") < said.index("Soak the cabbage"), "the evening before, then at four"
    calendar = cook.client.get(f"/cook/{MONDAY}/calendar/week.ics").text
    assert "DTSTART:20261122T040000" in calendar.replace("\r\n", "\n"), "ten hours before 14:00"


def test_a_guess_is_asked_for_on_the_sheet(cook: Cook, kitchen: Kitchen) -> None:
    saved = library.get_input(kitchen.caller, kitchen.recipe_id)
    saving.save_recipe(kitchen.caller, replace(saved, steps=(Step("chop", "Chop it"),)))
    take_new_version(kitchen.caller, MONDAY, kitchen.recipe_id)
    key, there = session_of(kitchen), f"/cook/{MONDAY}/sheet/{session_of(kitchen)}"
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    assert "10 min is our guess: the step says no minutes" in text_of(cook.get(there))
    said = {"recipe": str(kitchen.recipe_id), "step": "chop"}
    refused = cook.client.post(f"{there}/times", data={"csrf": cook.csrf, **said, "minutes": "soon"})
    assert "is not a whole number" in text_of(refused.text)
    cook.post(f"{there}/times", {**said, "minutes": "14"})
    make_sheet(kitchen.caller, ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    assert "our guess" not in text_of(cook.get(there))
