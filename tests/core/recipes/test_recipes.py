"""Ingredients → batch → per gram → portion: conservation, scaling, yields."""

from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.recipe import Recipe, batch_of, serving_of
from goodcrate.formats.reference import reference_foods
from tests.core.strategies import lines, recipes, weights

FOODS = reference_foods()
BARLEY = Food("barley", "Pearl barley, dry", "dry", "grain", Composition.of({"energy_kcal": 345}), cooked_yield=2.85)
OIL = Food("oil", "Rapeseed oil", "ready", "fat", Composition.of({"energy_kcal": 899}))


def line(key: str, food: Food, grams: float, measure: str = "weighed") -> IngredientLine:
    return IngredientLine(key, food, amount_of(grams, measure))


@given(lines(), weights, st.lists(st.integers(0, 1000), min_size=1, max_size=8))
def test_portions_and_the_rest_hold_what_went_in(
    inside: tuple[IngredientLine, ...], cooked_g: float, cuts: list[int]
) -> None:
    batch = batch_of(inside, cooked_g)
    shares = [c / max(1, sum(cuts)) for c in cuts] if sum(cuts) else [1.0]
    portions = [batch.portion(cooked_g * share, standard_error_g=0) for share in shares]
    together = Tally.sum(portions)
    for key in KEYS:
        a, b = together.amount(key), batch.tally.amount(key)
        assert isclose(a.value, b.value, rel_tol=1e-9, abs_tol=1e-9)
        assert isclose(a.standard_error, b.standard_error, rel_tol=1e-9, abs_tol=1e-9)


@given(recipes())
def test_all_servings_are_the_whole_recipe(recipe: Recipe) -> None:
    one, whole = serving_of(recipe), serving_of(recipe, recipe.servings)
    went_in = Tally.sum(x.tally for c in recipe.components for x in c.lines)
    for key in KEYS:
        assert isclose(whole.tally.amount(key).value, went_in.amount(key).value, rel_tol=1e-9, abs_tol=1e-9)
        assert isclose(
            one.tally.amount(key).value * recipe.servings, went_in.amount(key).value, rel_tol=1e-9, abs_tol=1e-9
        )


@given(lines(), weights, weights)
def test_water_changes_grams_and_never_nutrients(inside: tuple[IngredientLine, ...], a: float, b: float) -> None:
    one, other = batch_of(inside, a), batch_of(inside, b)
    assert one.tally.known == other.tally.known
    assert (one.tally.grams, other.tally.grams) == (a, b)
    for key in KEYS:  # what is unknown keeps its share of the weight
        assert isclose(one.tally.amount(key).unknown_share, other.tally.amount(key).unknown_share, abs_tol=1e-9)


def test_a_portion_adds_its_own_weighing() -> None:
    batch = batch_of((line("oil", OIL, 100, "eye"),), 100)
    bare, weighed = batch.portion(50, standard_error_g=0), batch.portion(50, "this box")
    assert weighed.amount("energy_kcal").value == bare.amount("energy_kcal").value
    assert weighed.amount("energy_kcal").standard_error > bare.amount("energy_kcal").standard_error
    assert dict(weighed.doubt_shares("energy_kcal")).keys() == {"oil", "this box"}


def test_an_empty_component_gives_nothing_and_impossible_weights_are_refused() -> None:
    recipe = Recipe("r", "r", 2, (Component("c", "nothing yet", ()),))
    assert serving_of(recipe).parts == ()
    with pytest.raises(InvalidInput, match="more than 0 g"):
        batch_of((line("a", BARLEY, 10),), 0)
    with pytest.raises(InvalidInput, match="negative"):
        batch_of((line("a", BARLEY, 10),), 10).portion(-1)
    with pytest.raises(InvalidInput, match="negative"):
        serving_of(recipe, -1)
    with pytest.raises(InvalidInput, match="servings"):
        Recipe("r", "r", 0, ())


def test_allergens_are_those_of_all_lines() -> None:
    quark = Food("quark", "Quark", "ready", "dairy", Composition.of({}), allergens=frozenset({"milk"}))
    recipe = Recipe(
        "r", "r", 1, (Component("a", "a", (line("q", quark, 10),)), Component("b", "b", (line("o", OIL, 1),)))
    )
    assert recipe.allergens == {"milk"}
