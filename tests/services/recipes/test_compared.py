"""Own dishes for comparing: which are offered, and what is made of keys nobody should send."""

from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from goodcrate.services.calling import Caller
from goodcrate.services.recipes import compared, library, saving, starter_shelf
from goodcrate.services.recipes.starter_shelf import household_id


def test_recipes_are_offered_and_components_of_those_with_several(household: Caller) -> None:
    starter_shelf.take(household, ["herbsauce", "butterbean"])
    bean, sauce = household_id(household, "butterbean"), household_id(household, "herbsauce")
    parts = [household_id(household, "butterbean", n) for n in (0, 1)]
    offered = {dish.key: dish.name for dish in compared.own_dishes(household)}
    assert offered == {
        f"recipe:{bean}": "Butter bean, fennel and orange box",
        f"component:{parts[0]}": "Butter bean, fennel and orange box: beans and fennel",
        f"component:{parts[1]}": "Butter bean, fennel and orange box: dressing",
        f"recipe:{sauce}": "Herb yoghurt sauce",
    }
    foods = compared.own_dish_foods(household, offered)
    assert list(foods) == list(offered)
    whole, beans, dressing = (foods[key] for key in list(offered)[:3])
    together = (beans.serving_g or 0) + (dressing.serving_g or 0)
    assert whole.serving_g == pytest.approx(together)
    energy = [f.composition.get("energy_kcal") or 0 for f in (beans, dressing)]
    by_hand = (energy[0] * (beans.serving_g or 0) + energy[1] * (dressing.serving_g or 0)) / together
    assert whole.composition.get("energy_kcal") == pytest.approx(by_hand)


def test_what_is_taken_out_is_not_offered_and_still_known(household: Caller) -> None:
    starter_shelf.take(household, ["herbsauce"])
    sauce = household_id(household, "herbsauce")
    saving.archive(household, sauce, archived=True)
    assert compared.own_dishes(household) == []
    assert f"recipe:{sauce}" in compared.own_dish_foods(household, [f"recipe:{sauce}"])


def test_keys_of_nothing_and_of_others_are_left_out(household: Caller, neighbour: Caller) -> None:
    starter_shelf.take(neighbour, ["herbsauce"])
    theirs = household_id(neighbour, "herbsauce")
    keys = [
        f"recipe:{theirs}",
        f"component:{household_id(neighbour, 'herbsauce', 0)}",
        f"recipe:{uuid4()}",
        "recipe:",
        "component:☃",
        "recipe:" + "9" * 4000,
        "quark",
        ":",
    ]
    assert compared.own_dish_foods(household, keys) == {}


def test_a_figure_no_ingredient_has_is_unknown_and_one_that_some_lack_is_known_from_below(household: Caller) -> None:
    starter_shelf.take(household, ["tomatosauce"])
    recipe_id = household_id(household, "tomatosauce")
    food = compared.own_dish_foods(household, [f"recipe:{recipe_id}"])[f"recipe:{recipe_id}"]
    recipe = library.get_recipe(household, recipe_id).recipe
    for key, figure in food.composition.as_mapping().items():
        known = [line.food.composition.get(key) is not None for line in recipe.lines]
        assert (figure is None) == (not any(known)), key
        assert (key in food.composition.at_least) == (any(known) and not all(known)), key


def test_a_changed_recipe_compares_as_it_stands(household: Caller) -> None:
    starter_shelf.take(household, ["herbsauce"])
    recipe_id = household_id(household, "herbsauce")
    key = f"recipe:{recipe_id}"
    before = compared.own_dish_foods(household, [key])[key]
    typed = library.get_input(household, recipe_id)
    (part,) = typed.components
    richer = tuple(replace(x, amount_g=200.0) if x.food_key == "olive_oil" else x for x in part.lines)
    saving.save_recipe(household, replace(typed, components=(replace(part, lines=richer),)))
    after = compared.own_dish_foods(household, [key])[key]
    assert (after.composition.get("fat_g") or 0) > (before.composition.get("fat_g") or 0) + 10
    assert UUID(key.partition(":")[2]) == recipe_id
