"""Weighing in: a weight far from plan is asked about, and nothing counts before it is answered."""

import re
from dataclasses import replace
from uuid import UUID, uuid4

from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, saving
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import Kitchen, furnish
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
