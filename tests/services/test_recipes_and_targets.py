"""Saving recipes and eaters: once, whole, or not at all."""

from dataclasses import replace
from uuid import uuid4

import pytest

from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.find import plain
from goodcrate.services import cook, foods, recipe_input, recipes, targets, week
from goodcrate.services.calling import Caller, NotFound, StaleWrite
from tests.services.kitchen import MONDAY, eater_input, furnish, turkey_pot


def test_a_recipe_comes_back_as_it_was_saved(household: Caller) -> None:
    typed = turkey_pot()
    recipes.save_recipe(household, typed)
    saved = recipes.get_recipe(household, typed.id)
    known = foods.food_values(household, {line.food_key for c in typed.components for line in c.lines})
    assert saved.recipe == recipes.compute(household, typed, known)
    assert saved.version == 1


def test_sending_a_new_recipe_twice_saves_one(household: Caller) -> None:
    typed = turkey_pot()
    assert recipes.save_recipe(household, typed) == recipes.save_recipe(household, typed) == 1
    assert len(recipes.list_recipes(household)) == 1


def test_lines_change_move_and_go_and_the_version_counts(household: Caller) -> None:
    typed = turkey_pot()
    recipes.save_recipe(household, typed)
    component = typed.components[0]
    meat, cabbage, oil = component.lines
    lines = (oil, replace(meat, amount_g=1300, measure="pack"), recipe_input.LineInput(uuid4(), "swede_raw", 200))
    changed = replace(typed, version=1, components=(replace(component, lines=lines),))
    assert recipes.save_recipe(household, changed) == 2
    saved = recipes.get_recipe(household, typed.id)
    assert [(x.food.key, x.amount.grams, x.amount.measure) for x in saved.recipe.components[0].lines] == [
        ("rapeseed_oil", 40, "eye"), ("turkey_thigh_raw", 1300, "pack"), ("swede_raw", 200, "weighed"),
    ]  # fmt: skip
    assert str(cabbage.id) not in {x.key for x in saved.recipe.components[0].lines}
    with pytest.raises(StaleWrite) as caught:
        recipes.save_recipe(household, replace(typed, version=1, name="Too late"))
    assert caught.value.current_version == 2


def test_every_fault_is_named_and_nothing_is_saved(household: Caller) -> None:
    typed = turkey_pot("", grams=12_000)
    with pytest.raises(InvalidInputs) as caught:
        recipes.save_recipe(household, replace(typed, servings=0))
    line = typed.components[0].lines[0].id
    assert {f.field for f in caught.value.faults} == {"name", "servings", f"line-{line}-amount"}
    with pytest.raises(InvalidInputs, match="no ingredient"):
        recipes.save_recipe(household, replace(typed, components=()))
    with pytest.raises(NotFound):
        recipes.get_recipe(household, typed.id)


def test_two_kilograms_of_salt_are_a_slip(household: Caller) -> None:
    typed = turkey_pot()
    salty = replace(typed.components[0], lines=(recipe_input.LineInput(uuid4(), "salt", 2000),))
    with pytest.raises(InvalidInputs, match="salt"):
        recipes.save_recipe(household, replace(typed, components=(salty,)))


def test_a_food_nobody_knows_is_refused_and_nothing_is_half_saved(household: Caller) -> None:
    typed = turkey_pot()
    odd = replace(typed.components[0], lines=(recipe_input.LineInput(uuid4(), "unobtainium", 20),))
    with pytest.raises(NotFound):
        recipes.save_recipe(household, replace(typed, components=(odd,)))
    assert recipes.list_recipes(household) == []


def test_a_cooked_component_may_leave_its_recipe_and_the_week_keeps_it(household: Caller) -> None:
    kitchen = furnish(household)
    picture = week.week_picture(household, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    cook.start_batch(household, MONDAY, cook.batch_id_for(picture.week.id, plan.session_key, plan.component_key))
    recipes.save_recipe(household, replace(turkey_pot(version=1), id=kitchen.recipe_id))
    assert plan.component_key not in {c.key for c in recipes.get_recipe(household, kitchen.recipe_id).recipe.components}
    kept = week.week_picture(household, MONDAY)
    assert kept is not None
    assert kept.outcome.batches[0].plan == plan
    with pytest.raises(InvalidInput, match="being cooked"):
        week.take_new_version(household, MONDAY, kitchen.recipe_id)


def test_reference_foods_are_taken_in_once(household: Caller) -> None:
    recipes.save_recipe(household, turkey_pot())
    recipes.save_recipe(household, turkey_pot("Another"))
    assert foods.count_foods(household)[0] == 3


@pytest.mark.parametrize(
    ("query", "first"),
    [("dry barl", "Pearl barley, dry"), ("barley DRY", "Pearl barley, dry"), ("crème fraîche", "Crème fraîche")],
)
def test_foods_are_found_by_words_in_any_order_case_and_accents(household: Caller, query: str, first: str) -> None:
    names = [found.food.name for found in foods.find_foods(household, query)]
    assert plain(names[0]).startswith(plain(first))
    assert foods.find_foods(household, "no such food") == []


def test_an_eater_comes_back_and_is_saved_once(household: Caller) -> None:
    typed = eater_input(excluded_allergens=("celery",), no_pork=True, dislikes="olives")
    for _ in range(2):
        targets.save_eater(household, typed)
    (eater,) = targets.list_eaters(household)
    assert (eater.name, eater.excluded_allergens, eater.no_pork, eater.dislikes) == (
        "Maren",
        ["celery"],
        True,
        "olives",
    )
    assert eater.day_types[0].target.energy_kcal == 2450
    targets.save_eater(household, replace(typed, version=1, name="Maren T"))
    with pytest.raises(StaleWrite):
        targets.save_eater(household, replace(typed, version=1))


def test_a_very_low_target_needs_a_clinicians_confirmation(household: Caller) -> None:
    with pytest.raises(InvalidInputs, match="registered dietitian"):
        targets.save_eater(household, eater_input(energy_kcal=900))
    targets.save_eater(household, eater_input(energy_kcal=900, clinician_confirmed=True))
    assert targets.list_eaters(household)[0].day_types[0].clinician_confirmed


def test_a_slot_that_holds_meals_stays(household: Caller) -> None:
    kitchen = furnish(household)
    typed = eater_input(version=1)
    with pytest.raises(InvalidInputs, match="holds meals"):
        targets.save_eater(household, replace(typed, id=kitchen.eater_id))
