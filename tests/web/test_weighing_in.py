"""Weighing in: a weight far from plan is asked about, and nothing counts before it is answered."""

import re
from dataclasses import replace
from uuid import UUID, uuid4

from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import weeks
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import MONDAY, Kitchen, eater_input, furnish, place
from tests.web import racing


def barley_kitchen(household: Caller) -> Kitchen:
    """The pot of the small kitchen with 1,200 g of dry barley in place of turkey: 600 g for the three boxes placed."""
    kitchen = furnish(household)
    saved = library.get_input(household, kitchen.recipe_id)
    pot = saved.components[0]
    barley = replace(pot.lines[0], food_key="pearl_barley_dry")
    saving.save_recipe(household, replace(saved, components=(replace(pot, lines=(barley, *pot.lines[1:])),)))
    return kitchen


def weigh(cook: Cook, address: str, net: str, expect: int, event: UUID, sure: str = "") -> str:
    return cook.post(address, {"net": net, "event": str(event), "sure": sure}, expect=expect).text


def test_dry_food_weighed_cooked_is_asked_about_and_counted_dry(cook: Cook, household: Caller) -> None:
    kitchen, event = barley_kitchen(household), uuid4()
    line_id, there = racing.line(kitchen), racing.batch(kitchen)
    address = f"/cook/{there}/lines/{line_id}"
    asked = weigh(cook, address, "1700 g", 422, event)
    assert "1,700 g is about what 600 g of pearl barley (dry) weigh when cooked" in text_of(asked)
    assert 'value="1700 g"' in asked
    assert "weighed 1,700 g" not in text_of(cook.get(f"/cook/{there}"))
    cooked = forms_of(f"/cook/{there}", asked)[address]  # the second of that address
    assert "It was cooked: count 596 g" in text_of(asked)
    sent = dict(cooked.fields)
    weigh(cook, address, sent["net"], 303, event, sure=sent["sure"])
    assert "weighed 596 g" in text_of(cook.get(f"/cook/{there}"))


def test_pot_pages_say_how_sure_the_expected_weight_is(cook: Cook, household: Caller) -> None:
    """Nothing is cooked, so what was guessed is all the doubt: 20 g of oil by eye (7 g), 600 and 450 g on the scale."""
    there = racing.batch(barley_kitchen(household))
    said = re.compile(r"(?:should weigh )?([\d,]+) g ± (\d+) (?:cooked|expected)")
    on_cook = said.search(text_of(cook.get(f"/cook/{there}")))
    on_portion = said.search(text_of(cook.get(f"/portion/{there}")))
    assert on_cook is not None
    assert on_portion is not None
    assert on_cook.groups() == on_portion.groups()
    assert on_cook.groups() == ("1,070", "7")


def test_the_cook_may_be_sure_and_another_figure_is_asked_about_again(cook: Cook, household: Caller) -> None:
    kitchen, event = barley_kitchen(household), uuid4()
    line_id, there = racing.line(kitchen), racing.batch(kitchen)
    address = f"/cook/{there}/lines/{line_id}"
    assert "is 300 g more than planned. Is that right?" in text_of(weigh(cook, address, "900 g", 422, event))
    weigh(cook, address, "950 g", 422, event, sure="900 g")
    weigh(cook, address, "900 g", 303, event, sure="900 g")
    assert "weighed 900 g" in text_of(cook.get(f"/cook/{there}"))


def test_a_weight_near_the_plan_asks_nothing(cook: Cook, household: Caller) -> None:
    kitchen = barley_kitchen(household)
    line_id, there = racing.line(kitchen), racing.batch(kitchen)
    weigh(cook, f"/cook/{there}/lines/{line_id}", "700 g", 303, uuid4())
    assert "weighed 700 g" in text_of(cook.get(f"/cook/{there}"))


def event(**fields: str) -> dict[str, str]:
    return {"event": str(uuid4()), **fields}


def test_what_is_not_in_yet_is_asked_before_the_pot_is_weighed(cook: Cook, household: Caller) -> None:
    """Everything in as planned but the oil, which is left out: 20 g of it hold 180 kcal, for three boxes."""
    there = racing.begun(furnish(household))
    asked = text_of(cook.get(f"/portion/{there}"))
    assert "600 g turkey thigh, 450 g cabbage, 20 g rapeseed oil are not in yet." in asked
    assert "Pot with food" not in asked
    assert "Pot with food" in text_of(cook.get(f"/portion/{there}?all_the_same=1"))
    lines = re.findall(r'id="line-([^"]+)"', cook.get(f"/cook/{there}"))
    cook.post(f"/cook/{there}/lines/{lines[2]}/said", event(how="left_out"))
    assert "1 of 3 ingredients weighed" in text_of(cook.get(f"/cook/{there}"))
    cook.post(f"/cook/{there}/rest", event(how="as_planned", to="pot"))
    assert "Pot with food" in text_of(cook.get(f"/portion/{there}"))
    said = text_of(cook.get(f"/cook/{there}"))
    assert "left out" in said
    assert "in as planned" in said
    assert "−60 kcal a box: 20 g less rapeseed oil" in said
    cook.post(f"/cook/{there}/lines/{lines[2]}/said", event(how="eaten"), expect=422)


def test_spoons_are_counted_tap_by_tap_on_two_devices(cook: Cook, household: Caller) -> None:
    there = racing.begun(furnish(household))
    page = cook.get(f"/cook/{there}")
    lines = re.findall(r'id="line-([^"]+)"', page)
    oil = f"/cook/{there}/lines/{lines[2]}/spoon"
    assert "+ 1 tbsp 14 g" in text_of(page)
    assert f"/lines/{lines[0]}/spoon" not in page, "nobody counts 600 g in spoons"
    once = event(spoon="tablespoon")
    for tap in (once, once, event(spoon="tablespoon"), event(spoon="teaspoon")):
        cook.post(oil, tap)
    said = text_of(cook.get(f"/cook/{there}"))
    assert "2 tbsp + 1 tsp" in said
    assert "by spoon 32 g" in said, "35 ml of oil at 0.915 g each"
    assert "+36 kcal a box: 12 g more rapeseed oil" in said
    cook.post(oil, event(spoon="tablespoon", less="1"))
    assert "1 tbsp + 1 tsp" in text_of(cook.get(f"/cook/{there}"))
    cook.post(oil, event(spoon="ladle"), expect=422)
    cook.post(oil, event(spoon="tablespoon", less="1"))
    cook.post(oil, event(spoon="teaspoon", less="1"))
    assert "by spoon" not in text_of(cook.get(f"/cook/{there}")), "none is as if nobody had counted"


def test_something_else_goes_in_and_something_is_added(cook: Cook, household: Caller) -> None:
    there = racing.begun(furnish(household))
    lines = re.findall(r'id="line-([^"]+)"', cook.get(f"/cook/{there}"))
    found = cook.get(f"/cook/{there}/put-in?instead_of={lines[1]}&q=savoy")
    assert "What went in for the cabbage?" in text_of(found)
    swap = event(food="carrot_raw", net="300", instead_of=lines[1], q="carrot")
    for _ in range(2):
        cook.post(f"/cook/{there}/put-in", swap)
    cook.post(f"/cook/{there}/put-in", event(food="salt", net="8", q="salt"))
    page = cook.get(f"/cook/{there}")
    said = text_of(page)
    assert said.count("went in for cabbage") == 1, "sent twice it is one"
    assert "something else went in" in said
    assert ", added to taste" in said
    assert "450 g less cabbage" in said
    carrot = re.findall(r'id="line-([^"]+)"', page)[3]
    cook.post(f"/cook/{there}/lines/{carrot}/take-out", event())
    said = text_of(cook.get(f"/cook/{there}"))
    assert "went in for cabbage" not in said
    assert "something else went in" not in said, "the cabbage is to be weighed again"
    for wrong in (event(food="", net="3"), event(food="salt", net="0"), event(food="salt", net="9000")):
        cook.post(f"/cook/{there}/put-in", wrong, expect=422)
    cook.post(f"/cook/{there}/put-in", event(food="salt", net="3", instead_of=str(uuid4())), expect=404)


def test_what_somebody_must_not_get_is_asked_about(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    oskar = eater_input("Oskar", excluded_allergens=("milk",))
    household_eaters.save_eater(household, oskar)
    place(replace(kitchen, eater_id=oskar.id, slot_id=oskar.slots[0].id), 1.0, 1)
    there = racing.begun(kitchen)
    cream = event(food="quark", net="20", q="quark")
    asked = text_of(cook.post(f"/cook/{there}/put-in", cream, expect=422).text)
    assert "holds milk, which Oskar must not get" in asked
    assert ", added to taste" not in text_of(cook.get(f"/cook/{there}"))
    cook.post(f"/cook/{there}/put-in", {**cream, "sure": "quark"})
    assert ", added to taste" in text_of(cook.get(f"/cook/{there}"))


def test_what_is_for_later_is_not_asked_for_now(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    saved = library.get_input(household, kitchen.recipe_id)
    pot = saved.components[0]
    oil = replace(pot.lines[2], use="on_the_day")
    saving.save_recipe(household, replace(saved, components=(replace(pot, lines=(*pot.lines[:2], oil)),)))
    weeks.take_new_version(household, MONDAY, kitchen.recipe_id)
    there = racing.begun(kitchen)
    assert "600 g turkey thigh, 450 g cabbage are not in yet." in text_of(cook.get(f"/portion/{there}"))
    assert "Not now: 20 g rapeseed oil (on the day)" in text_of(cook.get(f"/cook/{there}"))
