"""Pages without scripts: the empty states teach, the demo shows, bad input is kept and named."""

import re
from dataclasses import replace
from html import unescape
from pathlib import Path
from uuid import UUID, uuid4

import pytest

from goodcrate.services import kitchen as kitchen_service
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import weeks
from goodcrate.web.pages import WEB, static_url, templates
from goodcrate.web.security import MOST_FIELDS
from tests.conftest import Cook, text_of
from tests.services.kitchen import MONDAY, furnish, turkey_pot
from tests.web import racing

STAGES = ("targets", "foods", "recipes", "week", "shop", "cook", "portion", "store", "review")


@pytest.mark.parametrize("stage", STAGES)
def test_every_stage_opens_in_an_empty_household_and_in_the_demo(cook: Cook, stage: str) -> None:
    text = text_of(cook.get(f"/{stage}"))
    assert stage.capitalize() in text


@pytest.mark.parametrize("stage", STAGES)
def test_every_stage_opens_in_the_demo(boat: Cook, stage: str) -> None:
    assert "The Lockside boat" in text_of(boat.get(f"/{stage}"))


def test_empty_pages_teach_with_one_button(cook: Cook) -> None:
    for url, words in (
        ("/targets", "Add the first eater"),
        ("/recipes", "Take recipes from the starter shelf"),
        ("/week", "Add an eater"),
        ("/cook", "Place meals in the week"),
        ("/portion", "weigh the pot"),
        ("/shop", "what they need stands here in whole packs"),
    ):
        assert words in text_of(cook.get(url)), url


def test_all_pages_of_the_demo_render(boat: Cook, demo: Caller) -> None:
    picture = weeks.week_picture(demo, MONDAY)
    assert picture is not None
    urls = {f"/week/{MONDAY}?box={p.id}" for p in picture.meals[:8]}
    for page in ("/targets", "/recipes", "/cook", "/portion", f"/week/{MONDAY}", "/foods?q=beet"):
        urls |= set(re.findall(r'href="(/[^"#]+)"', boat.get(page)))
    urls = {u.replace("&amp;", "&") for u in urls if not u.startswith("/static")}
    assert len(urls) > 120
    for url in sorted(urls):
        html = boat.get(url)
        assert "<style" not in html
        assert not re.search(r"\son\w+=|\sstyle=|javascript:", html), url
        assert "<script>" not in html


def test_templates_hold_no_inline_code_and_undefined_names_are_errors() -> None:
    files = list(WEB.rglob("*.html"))
    assert len(files) > 20
    for path in files:
        text = path.read_text()
        assert not re.search(r"<style|\sstyle=\"|\son[a-z]+=\"|hx-on|js:", text), path
        templates.get_template(str(path.relative_to(WEB)))
    assert templates.undefined.__name__ == "StrictUndefined"


def test_static_files_are_cached_by_their_content() -> None:
    assert re.fullmatch(r"/static/app\.css\?v=[0-9a-f]{10}", static_url("app.css"))
    assert not list((Path(WEB) / "static").rglob("*.map"))


def test_a_bad_recipe_keeps_what_was_typed(cook: Cook) -> None:
    recipe, component, line = uuid4(), uuid4(), uuid4()
    fields = {
        "version": "0",
        "name": "Pot <b>",
        "servings": "many",
        "component": str(component),
        "line": str(line),
        f"component-{component}-name": "",
        f"component-{component}-cooked": "1 l",
        f"line-{line}-food": "turkey_thigh_raw",
        f"line-{line}-amount": "20 kg",
        f"line-{line}-measure": "weighed",
    }
    html = cook.post(f"/recipes/{recipe}", fields, expect=422).text
    text = text_of(html)
    assert 'value="Pot &lt;b&gt;"' in html
    assert all(f'value="{typed}"' in html for typed in ("many", "1 l", "20 kg"))
    assert "home kitchen" in text
    assert "not a number" in text
    assert "unit of weight" in text


def test_two_people_saving_the_same_recipe(cook: Cook, household: Caller) -> None:
    typed = turkey_pot()
    saving.save_recipe(household, typed)
    component, line = typed.components[0], typed.components[0].lines[0]
    fields = {
        "version": "1",
        "name": "First",
        "servings": "6",
        "component": str(component.id),
        "line": str(line.id),
        f"component-{component.id}-name": "pot",
        f"line-{line.id}-food": line.food_key,
        f"line-{line.id}-amount": "900",
    }
    cook.post(f"/recipes/{typed.id}", fields)
    html = cook.post(f"/recipes/{typed.id}", fields | {"name": "Second"}, expect=409).text
    assert "changed elsewhere" in text_of(html)
    assert 'value="Second"' in html
    assert library.get_recipe(household, typed.id).recipe.name == "First"
    assert 'name="version" value="2"' in html  # sent again, it is saved over the newer one on purpose
    cook.post(f"/recipes/{typed.id}", fields | {"name": "Second", "version": "2"})


def test_live_figures_come_from_core(cook: Cook) -> None:
    recipe, component, line = uuid4(), uuid4(), uuid4()
    fields = {
        "name": "",
        "servings": "4",
        "component": str(component),
        "line": str(line),
        f"line-{line}-food": "pearl_barley_dry",
        f"line-{line}-amount": "200 g",
        "step": str(recipe),
        f"step-{recipe}-text": "Boil the barley",
        f"step-{recipe}-equipment": "hob",
    }
    text = text_of(cook.post(f"/recipes/{recipe}/compute", fields, expect=200).text)
    assert "173 kcal" in text
    assert "200 g in → 570 g ± 56 cooked" in text  # nobody listed the 370 g of water: 15 % unsure


def test_nothing_typed_is_not_zero(cook: Cook) -> None:
    for html in (
        cook.get("/recipes/new"),
        cook.post(f"/recipes/{uuid4()}/compute", {"name": "", "servings": "4"}, expect=200).text,
    ):
        assert "0 kcal" not in text_of(html)
        assert "While you type, this tape shows" in text_of(html)


def test_a_meal_is_placed_changed_taken_away_and_put_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=1)
    gap = f"{kitchen.eater_id}.{kitchen.slot_id}.2026-11-27"
    form = {"id": str(uuid4()), "gap": gap, "recipe": str(kitchen.recipe_id), "servings": "1", "days": ["2026-11-27"]}
    html = cook.post(f"/week/{MONDAY}/place", form | {"servings": "lots"}, expect=422).text
    assert 'value="lots"' in html
    assert "not a number" in text_of(html)
    assert "Choose one" in text_of(cook.post(f"/week/{MONDAY}/place", form | {"recipe": ""}, expect=422).text)
    for _ in range(2):
        location = cook.post(f"/week/{MONDAY}/place", form).headers["location"]
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert len(picture.meals) == 2
    meal = picture.meals[1]
    assert str(meal.id) in cook.get(f"/week/{MONDAY}?box={meal.id}")
    cook.post(f"/week/{MONDAY}/meals/{meal.id}", {"servings": "1,5", "version": "1"})
    cook.post(f"/week/{MONDAY}/meals/{meal.id}", {"servings": "1,7", "version": "1"}, expect=422)
    location = cook.post(f"/week/{MONDAY}/meals/{meal.id}/remove").headers["location"]
    assert "Put it back" in cook.get(location)
    cook.post(f"/week/{MONDAY}/meals/{meal.id}/restore")
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [p.servings for p in picture.meals] == [1.0, 1.5]


def test_prep_sessions_from_the_page(cook: Cook, household: Caller) -> None:
    furnish(household)
    cook.post(f"/week/{MONDAY}/sessions", {"starts_at": "2026-11-25T18:30"})
    assert "outside the week" in text_of(
        cook.post(f"/week/{MONDAY}/sessions", {"starts_at": "2026-12-25T18:30"}, expect=422).text
    )
    assert "no day and time" in text_of(cook.post(f"/week/{MONDAY}/sessions", {"starts_at": "soon"}, expect=422).text)
    long = {"starts_at": "2026-11-26T18:30", "length_min": "45 min"}
    assert "not a whole number" in text_of(cook.post(f"/week/{MONDAY}/sessions", long, expect=422).text)
    cook.post(f"/week/{MONDAY}/sessions", {**long, "length_min": "45"})
    assert "ready by 19:15" in text_of(cook.get(f"/week/{MONDAY}"))
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    cook.post(f"/week/{MONDAY}/sessions/{picture.sessions[1].key}/remove")
    assert "Wed 25, 18:30" not in text_of(cook.get(f"/week/{MONDAY}"))


def test_a_low_target_shows_its_caution_with_the_source(cook: Cook, household: Caller) -> None:
    from tests.services.kitchen import eater_input

    household_eaters.save_eater(household, eater_input(energy_kcal=1150))
    text = text_of(cook.get("/targets"))
    assert "doctor or registered dietitian" in text
    assert "follow your own clinician" in text


def test_many_meals_at_once_and_the_fridge_they_wait_in(cook: Cook, household: Caller) -> None:
    furnish(household, 1.5, days=3)
    there = f"/week/{MONDAY}"

    def meals() -> list[str]:
        return re.findall(r'class="box" href="[^"]+box=([^"]+)"', cook.get(there))

    three = meals()
    assert cook.post(f"{there}/many", {"act": "pin", "meals": three[:2]}).headers["location"] == there
    assert cook.get(there).count('class="pinmark"') == 2
    gone = cook.post(f"{there}/many", {"act": "remove", "meals": three}).headers["location"]
    assert "3 taken out." in text_of(cook.get(gone))
    assert meals() == []
    cook.post(f"{there}/many", {"act": "restore", "meals": three})
    assert meals() == three
    came = cook.post(f"{there}/many", {"act": "row", "meals": three[:1]}).headers["location"]
    assert "4 copied." in text_of(cook.get(came))
    assert len(meals()) == 7
    for wrong in (
        {"act": "row", "meals": three[:1], "days": ["soon"], "some_days": "1"},
        {"act": "fly", "meals": three},
    ):
        assert "nothing to do with meals" in text_of(cook.post(f"{there}/many", wrong, expect=422).text)
    assert "No meal is chosen" in text_of(cook.post(f"{there}/many", {"act": "pin"}, expect=422).text)

    full = {"fridge_boxes": "2", "freezer_boxes": "9", "keep_rule": "cautious"}
    cook.post(f"{there}/capacity", full)
    shown = text_of(cook.get(there))
    assert "Take out of the freezer" in shown
    assert "of 9 places are taken" in shown
    refused = cook.post(f"{there}/capacity", full | {"fridge_boxes": "many"}, expect=422).text
    assert "“many” is not a whole number." in text_of(refused)
    assert 'value="many"' in refused


def test_the_eater_form_works_targets_out_while_they_are_typed(cook: Cook, household: Caller) -> None:
    key, day, slot = (str(uuid4()) for _ in range(3))
    form = {
        "version": "0",
        "name": "Oskar",
        f"day-{day}-name": "work",
        f"day-{day}-energy_way": "body",
        f"day-{day}-change_pct": "−30",
        f"day-{day}-energy_band_pct": "3",
        f"day-{day}-protein_way": "share",
        f"day-{day}-protein_value": "25",
        f"day-{day}-fat_pct": "30",
        f"day-{day}-fibre_g": "at least 30,5 g",
        f"day-{day}-sodium_mg": "2,300",
        f"slot-{slot}-name": "main",
        f"slot-{slot}-at": "17:30",
        f"slot-{slot}-share_pct": "100 %",
        "sex": "male",
        "age_years": "41",
        "height_cm": "182 cm",
        "weight_kg": "84",
        "activity": "light",
        "was_asked": "1",
        "extras": "200 ml whole milk",
    }
    tape = text_of(cook.post(f"/targets/{key}/compute", form, expect=200).text)
    for words in (
        "10 × 84 kg + 6.25 × 182 cm − 5 × 41 + 5",
        "Mifflin–St Jeor",
        "1,710 kcal",
        "predicted loss a week",
        "25 % of 1,710 kcal",
        "30 % less than keeps your weight",
        "main",
        "100 % = 1,710 kcal",
    ):
        assert words in tape, words
    assert household_eaters.list_eaters(household) == []  # nothing is saved
    ill = text_of(cook.post(f"/targets/{key}/compute", form | {"conditions": "pregnant"}, expect=200).text)
    assert "With pregnant, we compute no target." in ill
    odd = text_of(cook.post(f"/targets/{key}/compute", form | {"weight_kg": "a lot"}, expect=200).text)
    assert "Body size is not complete" in odd

    refused = cook.post(
        f"/targets/{key}", form | {"extras": "200 ml moonshine", f"day-{day}-fibre_g": "lots"}, expect=422
    )
    assert "“lots” is no band." in text_of(refused.text)
    assert "200 ml moonshine" in refused.text
    cook.post(f"/targets/{key}", form)
    page = text_of(cook.get("/targets"))
    assert "energy from body size, protein % of the energy" in page
    assert "fibre at least 30.5 g" in page
    assert "sodium up to 2,300 mg" in page
    assert "200 ml whole milk (1" in page
    again = cook.get(f"/targets/{key}")
    assert 'value="−30"' in again
    assert 'value="at least 30.5"' in again
    assert "fat_g" in again
    assert 'value="48–66"' not in again  # what follows from the split is worked out, not typed


def test_a_week_of_other_length_is_opened_and_another_repeated_into_it(cook: Cook, household: Caller) -> None:
    furnish(household, 1.5, days=3)
    there = "/week/2026-11-30"
    for days, words in (("60", "A plan of 60 days is not possible."), ("soon", "“soon” is not a whole number.")):
        refused = cook.post(f"{there}/open", {"days": days}, expect=422).text
        assert words in text_of(refused)
        assert f'value="{days}"' in refused
    cook.post(f"{there}/open", {"days": "10"})
    assert "30 November – 9 December" in text_of(cook.get(there))
    assert 'href="/week/2026-12-10"' in cook.get(there)
    assert "week 48, 3 meals" in text_of(cook.get(f"{there}?repeats=1"))
    came = cook.post(f"{there}/repeat", {"source": "2026-11-23", "shift": "+1"}).headers["location"]
    assert "3 copied." in text_of(cook.get(came))
    refused = cook.post(f"{there}/repeat", {"source": "2026-11-23", "shift": "often"}, expect=422).text
    assert "“often” is no number of days." in text_of(refused)
    cook.post(f"{there}/pattern", {"id": str(uuid4()), "pattern_name": "early week"})
    assert "early week, 3 meals" in text_of(cook.get(f"{there}?repeats=1"))
    assert "needs a name" in text_of(cook.post(f"{there}/pattern", {"pattern_name": ""}, expect=422).text)
    said = cook.post(
        f"{there}/repeat", {"source": "2026-11-23", "take": "fish", "instead_of": "poultry"}, expect=200
    ).text
    assert "No recipe with fish can stand in" in text_of(said)


def test_traces_may_be_left_out_and_the_tapes_say_how_much(boat: Cook, demo: Caller) -> None:
    picture = weeks.week_picture(demo, MONDAY)
    assert picture is not None
    p = picture.meals[0]
    page, day = f"/recipes/{p.recipe_id}", f"/week/{MONDAY}?day={p.eater_id}.{p.day}"
    before = text_of(boat.get(page))
    assert "as traces" not in before + text_of(boat.get(day))
    boat.post("/targets/counting", {"traces": "leave"})
    try:
        assert 'value="leave" checked' in boat.get("/targets")
        tapes = [text_of(boat.get(f"/recipes/{r.recipe.key}")) for r in library.list_recipes(demo)]
        said = [t for t in tapes if "Left out of a serving as traces" in t]
        assert said
        assert all("a trace, not counted" in t for t in said)
        assert "Left out of this day as traces" in text_of(boat.get(day))
    finally:
        boat.post("/targets/counting", {"traces": "count"})
    assert text_of(boat.get(page)) == before


def test_a_form_is_read_as_sent_and_too_many_fields_are_refused(cook: Cook) -> None:
    url, name = f"/recipes/{uuid4()}", "Möhren & 50 % “Quark” + 🥕 = gut"
    html = cook.post(url, {"name": name, "servings": "", "version": "0"}, expect=422).text
    assert name in unescape(html)
    assert "Nothing" in html  # the empty field came along
    many = {f"line-{n}": "" for n in range(MOST_FIELDS)}
    assert "more than 6000 fields" not in cook.post(url + "/compute", {"name": name}, expect=200).text
    cook.post(url + "/compute", {"name": name, **many}, expect=400)
    files = {"file": ("a.txt", b"x")}
    assert cook.client.post(url, data={"csrf": cook.csrf, "name": name}, files=files).status_code == 400
    multipart = cook.client.post(url, data={"csrf": cook.csrf, "name": name, "servings": "0"}, files={"_": (None, "")})
    assert multipart.status_code == 422


def test_what_is_in_the_house_is_noted_offered_first_and_eaten(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=1)
    empty = text_of(cook.get("/store"))
    assert "What is in your fridge and freezer?" in empty
    boxes = {
        "id": str(uuid4()),
        "kind": "boxes",
        "recipe_id": str(kitchen.recipe_id),
        "count": "two",
        "grams": "330",
        "place": "freezer",
        "since": "2026-11-10",
        "until": "",
    }
    refused = cook.post("/store", boxes, expect=422).text
    assert "“two” is not a whole number" in text_of(refused)
    assert 'value="330"' in refused
    cook.post("/store", {**boxes, "count": "2"})
    food = {"id": str(uuid4()), "kind": "food", "typed": "300 g unicorn", "place": "fridge", "since": "2026-11-22"}
    refused = cook.post("/store", food, expect=422).text
    assert 'value="300 g unicorn"' in refused
    cook.post("/store", {**food, "typed": "400 g cabbage, raw"})
    there = text_of(cook.get("/store"))
    assert "2 boxes of 330 g in the freezer" in there
    assert "400 g cabbage" in there
    key = f"{kitchen.eater_id}.{kitchen.slot_id}.2026-11-26"
    place = cook.get(f"/week/{MONDAY}?gap={key}")
    assert "In the house already" in text_of(place)
    assert "uses 400 g of the open cabbage" in text_of(place)
    (box,) = re.findall(r'name="box" value="([^"]+)"', place)
    sent = {"id": str(uuid4()), "gap": key, "box": box}
    answer = cook.post(f"/week/{MONDAY}/place-box", sent)
    shown = text_of(cook.get(answer.headers["location"]))
    assert "A box that is in the house already" in shown
    assert "take it out on Wednesday evening" in shown
    assert "1 planned" in text_of(cook.get("/store"))
    cook.post(f"/week/{MONDAY}/place-box", {**sent, "gap": "nonsense"}, expect=404)
    row = re.search(r'action="/store/([^/"]+)/out"', cook.get("/store"))
    assert row is not None
    gone = cook.get(cook.post(f"/store/{row[1]}/out").headers["location"])
    assert "It is taken out." in text_of(gone)
    cook.post(f"/store/{row[1]}/back")
    assert f"thing-{row[1]}" in cook.get("/store")


def test_one_more_session_is_added_when_planning_begins_and_not_when_it_is_refused(
    cook: Cook, household: Caller
) -> None:
    weeks.open_week(household, MONDAY)
    wishes = {"keep": "usual", "different": "2", "repeats": "7", "freezer_boxes": "6"}
    page = cook.post(f"/week/{MONDAY}/plan", wishes | {"session_day": "-1"}, expect=422).text
    assert "Nobody has a target and slots to plan for." in text_of(page)  # so nothing was planned
    cook.post(f"/week/{MONDAY}/plan", wishes | {"session_day": "4"}, expect=422)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [f"{s.starts_at:%d %H:%M}" for s in picture.sessions] == ["22 14:00"]
    furnish(household)
    recipe = library.list_recipes(household)[0]
    saving.save_recipe(household, replace(library.get_input(household, UUID(recipe.recipe.key)), tags=("cold",)))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("goodcrate.services.jobs.process.launch", lambda *_: None)
        cook.post(f"/week/{MONDAY}/plan", wishes | {"session_day": "-1"})
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    assert [f"{s.starts_at:%d %H:%M}" for s in picture.sessions] == ["22 14:00", "22 18:30"]


def test_hands_and_heat_are_counted_and_vessels_say_what_they_stand(cook: Cook, household: Caller) -> None:
    refused = cook.post("/cook/kitchen/equipment", {"cooks": "0", "burners": "many", "ovens": "1"}, expect=422).text
    assert "is not a whole number" in text_of(refused)
    assert 'value="many"' in refused
    assert "0 is not possible" in text_of(cook.post("/cook/kitchen/equipment", {"cooks": "0"}, expect=422).text)
    cook.post("/cook/kitchen/equipment", {"cooks": "2", "oven_preheat_min": "12 min"})
    shown = cook.get("/cook/kitchen")
    assert re.search(r'name="oven_preheat_min"\s+value="12"', shown)
    v = str(uuid4())
    box = {
        "vessel": v,
        f"vessel-{v}-name": "tin",
        f"vessel-{v}-kind": "box",
        f"vessel-{v}-volume_ml": "0,75 l",
        f"vessel-{v}-count": "4",
        f"vessel-{v}-compartments": "9",
        f"vessel-{v}-stands": ["freezer", "oven"],
    }
    refused = cook.post("/cook/kitchen", box, expect=422).text
    assert "9 is not possible" in text_of(refused)
    assert len(re.findall(r'value="(?:freezer|oven)" checked', refused)) == 2
    cook.post("/cook/kitchen", {**box, f"vessel-{v}-compartments": "2"})
    (saved,) = kitchen_service.vessels(household)
    assert (saved.volume_ml, saved.compartments, saved.stands) == (750, 2, frozenset({"freezer", "oven"}))


def test_a_week_is_closed_and_opened_by_its_cook(cook: Cook, household: Caller) -> None:
    furnish(household)
    assert "Close this week" in text_of(cook.get(f"/week/{MONDAY}"))
    cook.post(f"/week/{MONDAY}/close")
    closed = text_of(cook.get(f"/week/{MONDAY}"))
    assert "This week is closed" in closed
    cook.post(f"/week/{MONDAY}/open-again")
    assert "Close this week" in text_of(cook.get(f"/week/{MONDAY}"))


def test_what_is_over_waits_for_somebody_and_boxes_go_with_a_reason(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = f"/portion/{racing.weighed(cook, kitchen)}"
    cook.post(f"{there}/fill", {"event": str(uuid4())})
    refused = cook.post(f"{there}/spare", {"spare_g": "9 kg", "event": str(uuid4()), "id": str(uuid4())}, expect=422)
    assert "are left in the pot" in text_of(refused.text)
    cook.post(f"{there}/pots", {"id": str(uuid4())}, expect=422)  # its boxes are packed
    lot, event = racing.noted(cook, kitchen), str(uuid4())
    assert "of 2" in text_of(cook.get("/store"))
    wrong = cook.post(f"/store/{lot}/out", {"kind": "eaten", "count": "3", "event": event}, expect=422)
    assert "2 are there" in text_of(wrong.text)
    cook.post(f"/store/{lot}/out", {"kind": "thrown_away:spoilt", "count": "1", "event": event})
    assert "1 box of 330 g" in text_of(cook.get(f"/store?gone={lot}&event={event}"))
    cook.post(f"/store/{lot}/back", {"event": event})
    assert "2 boxes of 330 g" in text_of(cook.get("/store"))
