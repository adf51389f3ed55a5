"""The starter shelf: forty whole recipes for every way of eating, and taking them."""

from dataclasses import replace
from uuid import UUID

import pytest

from goodcrate.core.recipes.cooked_weight import TYPED, expected_cooked_weight
from goodcrate.core.recipes.lint import LOOK, lint
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import hands_on_min
from goodcrate.core.targets.excluding import made_of
from goodcrate.demo.recipes import RECIPES
from goodcrate.formats.reference import guidance
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library, saving, starter_shelf
from goodcrate.services.targets import household_eaters
from goodcrate.shelf.all_recipes import SHELF
from tests.services.kitchen import eater_input


def recipes(caller: Caller) -> dict[str, Recipe]:
    return {offer.key: offer.recipe for offer in starter_shelf.offers(caller)}


def test_forty_recipes_serve_every_meal_and_every_way_of_eating(demo: Caller) -> None:
    shelf = recipes(demo)
    assert len(shelf) == len(SHELF) == 40
    tags = [set(written.tags) for written in SHELF.values()]
    assert sum("breakfast" in t for t in tags) >= 6
    assert sum("snack" in t for t in tags) >= 5
    assert sum("sauce" in t for t in tags) == 2
    assert sum({"cold", "travels"} <= t and not {"breakfast", "snack"} & t for t in tags) >= 10
    assert sum("hot" in t and not {"breakfast", "sauce", "cold"} & t for t in tags) >= 10
    made = [made_of(recipe) for recipe in shelf.values()]
    assert made.count("meat") >= 6
    assert made.count("fish") >= 4
    assert made.count("plants") >= 9
    assert sum(kind in ("dairy", "egg", "dairy and egg") for kind in made) >= 8


@pytest.mark.parametrize("key", SHELF)
def test_a_recipe_of_the_shelf_is_whole(demo: Caller, key: str) -> None:
    """Each has minutes, a name for its equipment, and nothing that a careful cook would ask about."""
    recipe = recipes(demo)[key]
    assert hands_on_min(recipe.steps) > 0
    assert all(step.duration_min for step in recipe.steps)
    asked = [
        note for note in lint(recipe, guidance()) if note.kind == LOOK and "Weigh the pot once" not in note.sentence
    ]
    assert asked == []
    for component in recipe.components:
        weight = expected_cooked_weight(component)
        assert weight.basis != TYPED
        assert not any(change.is_unlisted for change in weight.changes)


def test_the_demo_is_on_the_shelf(demo: Caller) -> None:
    taken = {offer.key for offer in starter_shelf.offers(demo) if offer.is_taken}
    assert taken == RECIPES.keys()


def test_taking_twice_makes_one_and_what_was_taken_out_comes_back(household: Caller) -> None:
    assert starter_shelf.take(household, ["turkey", "no such", "turkey"]) == 1
    (saved,) = library.list_recipes(household)
    recipe_id = UUID(saved.recipe.key)
    saving.save_recipe(household, replace(library.get_input(household, recipe_id), name="Ours"))
    assert starter_shelf.take(household, ["turkey"]) == 0
    saving.archive(household, recipe_id, archived=True)
    assert starter_shelf.take(household, ["turkey"]) == 1
    (back,) = library.list_recipes(household)
    assert back.recipe.name == "Ours"  # the household's own by now


def test_all_that_suits_is_taken_and_the_rest_says_why_not(household: Caller) -> None:
    eater = replace(eater_input(), diet="plant", excluded_allergens=("soya",))
    household_eaters.save_eater(household, eater)
    offers = starter_shelf.offers(household)
    stays = {offer.key for offer in offers if offer.why_not}
    assert {"turkey", "leek", "tempeh", "rye"} <= stays
    assert all("Maren" in offer.why_not for offer in offers if offer.key in stays)
    assert starter_shelf.take_all(household) == 40 - len(stays)
    names = {page.recipe.name for page in library.list_recipes(household)}
    assert names == {SHELF[key].name for key in SHELF.keys() - stays}
    assert starter_shelf.take_all(household) == 0
