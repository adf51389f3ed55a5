"""What a cook says of a component: how it is cooked, and days of their own; from the page to the file and back."""

import json
from uuid import UUID, uuid4

import pytest

from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.cooking import DRAINED, RAW
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, recipe_input, saving
from tests.conftest import Cook, text_of
from tests.web.test_recipe_pages import Fields, put, send, shown_fields

STEP = "Cook the barley until tender"


@pytest.fixture
def barley(household: Caller, cook: Cook) -> tuple[UUID, UUID, Fields]:
    """300 g of barley, cooked by a step that says no more; the recipe, its component, and the page's fields."""
    line = recipe_input.LineInput(uuid4(), "pearl_barley_dry", 300)
    part = recipe_input.ComponentInput(uuid4(), "barley", (line,))
    recipe = recipe_input.RecipeInput(uuid4(), "Barley", 3, (part,))
    saving.save_recipe(household, recipe)
    fields = shown_fields(cook.get(f"/recipes/{recipe.id}"))
    fields += [("step", (key := str(uuid4()))), (f"step-{key}-text", STEP), (f"step-{key}-equipment", "hob")]
    return recipe.id, part.id, [*fields, (f"step-{key}-duration", "40")]


def with_field(fields: Fields, name: str, value: str) -> Fields:
    return put(fields, name, value) if any(n == name for n, _ in fields) else [*fields, (name, value)]


def test_how_it_is_cooked_is_said_in_one_word(cook: Cook, household: Caller, barley: tuple[UUID, UUID, Fields]) -> None:
    recipe_id, part_id, fields = barley
    read = text_of(send(cook, f"/recipes/{recipe_id}/compute", fields))
    assert "cooked in water that it takes up" in read
    assert "water that the list does not hold" in read
    chosen = with_field(fields, f"component-{part_id}-cooked_as", DRAINED)
    read = text_of(send(cook, f"/recipes/{recipe_id}/compute", chosen))
    assert "boiled in water and drained" in read
    assert "all of it is cooked in water that the list does not hold" not in read
    send(cook, f"/recipes/{recipe_id}", chosen, expect=303)
    saved = library.get_recipe(household, recipe_id).recipe
    assert expected_cooked_weight(saved.components[0]).method == DRAINED
    assert f'value="{DRAINED}" selected' in cook.get(f"/recipes/{recipe_id}")


def test_not_cooked_is_one_switch(cook: Cook, household: Caller, barley: tuple[UUID, UUID, Fields]) -> None:
    recipe_id, part_id, fields = barley
    ticked = [*fields, (f"component-{part_id}-not_cooked", "on")]
    send(cook, f"/recipes/{recipe_id}", ticked, expect=303)
    saved = library.get_recipe(household, recipe_id).recipe
    assert expected_cooked_weight(saved.components[0]).grams == 300
    assert library.get_input(household, recipe_id).components[0].cooked_as == RAW
    assert "not cooked: it weighs what goes in" in text_of(cook.get(f"/recipes/{recipe_id}"))


def test_a_word_of_no_kitchen_is_refused_at_its_place(
    cook: Cook, household: Caller, barley: tuple[UUID, UUID, Fields]
) -> None:
    recipe_id, part_id, fields = barley
    sent = with_field(fields, f"component-{part_id}-cooked_as", "charmed")
    html = send(cook, f"/recipes/{recipe_id}", sent, expect=422)
    assert 'value="Barley"' in html
    assert library.get_input(household, recipe_id).version == 1


def test_own_days_count_when_they_are_fewer_or_have_a_reason(
    cook: Cook, household: Caller, barley: tuple[UUID, UUID, Fields]
) -> None:
    recipe_id, part_id, fields = barley
    days, because = f"component-{part_id}-own_days", f"component-{part_id}-days_because"
    fewer = text_of(send(cook, f"/recipes/{recipe_id}/compute", with_field(fields, days, "1")))
    assert "1 day in the fridge by cautious advice" in fewer
    assert "your own 1 day; the guidance says 2" in fewer
    longer = text_of(send(cook, f"/recipes/{recipe_id}/compute", with_field(fields, days, "6")))
    assert "2 days in the fridge by cautious advice" in longer
    assert "6 days for barley are more than the 2 of the guidance: say why, or they do not count." in longer
    reasoned = with_field(with_field(fields, days, "6"), because, "vacuum packed at 3 °C")
    told = text_of(send(cook, f"/recipes/{recipe_id}/compute", reasoned))
    assert "6 days in the fridge" in told
    assert "Barley is kept 6 days, 4 more than the guidance: “vacuum packed at 3 °C”." in told
    assert "EFSA" in told  # the source stays in sight
    send(cook, f"/recipes/{recipe_id}", reasoned, expect=303)
    storage = library.get_input(household, recipe_id).components[0].storage
    assert (storage.own_days, storage.days_because) == (6, "vacuum packed at 3 °C")


@pytest.mark.parametrize("typed", ["many", "-1", "400", "2.5"])
def test_days_that_cannot_be_are_named_at_their_field(
    cook: Cook, barley: tuple[UUID, UUID, Fields], typed: str
) -> None:
    recipe_id, part_id, fields = barley
    days = f"component-{part_id}-own_days"
    html = send(cook, f"/recipes/{recipe_id}", with_field(fields, days, typed), expect=422)
    assert f'value="{typed}"' in html
    assert 'class="keeping" open' in " ".join(html.split())


def test_choices_go_into_the_file_and_come_back(
    cook: Cook, household: Caller, barley: tuple[UUID, UUID, Fields]
) -> None:
    recipe_id, part_id, fields = barley
    chosen = with_field(fields, f"component-{part_id}-cooked_as", DRAINED)
    chosen = with_field(chosen, f"component-{part_id}-own_days", "1")
    send(cook, f"/recipes/{recipe_id}", chosen, expect=303)
    copy_id = uuid4()
    saving.duplicate(household, recipe_id, copy_id)
    copied = library.get_input(household, copy_id).components[0]
    assert (copied.cooked_as, copied.storage.own_days) == (DRAINED, 1)
    document = json.loads(cook.get(f"/recipes/{recipe_id}/export.json"))
    assert DRAINED in json.dumps(document)
    (part,) = recipe_input.of_document(recipe_input.as_document(library.get_input(household, recipe_id))).components
    assert (part.cooked_as, part.storage.own_days) == (DRAINED, 1)
