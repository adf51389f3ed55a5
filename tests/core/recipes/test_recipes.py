"""Ingredients → batch → per gram → portion: conservation, scaling, yields."""

from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.recipes.component import BOILED_IN_WATER, Component, IngredientLine
from goodcrate.core.recipes.recipe import (
    AS_WEIGHED,
    FROM_FOODS,
    TYPED,
    Recipe,
    batch_of,
    expected_cooked_weight,
    serving_of,
)
from goodcrate.core.recipes.steps import Step
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import component
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


def test_the_cooked_weight_is_typed_or_follows_the_foods() -> None:
    inside = (line("a", BARLEY, 200), line("b", OIL, 10))
    from_foods = expected_cooked_weight(Component("c", "barley", inside, cooking=BOILED_IN_WATER))
    assert (from_foods.grams, from_foods.basis) == (200 * 2.85 + 10, FROM_FOODS)
    typed = expected_cooked_weight(Component("c", "barley", inside, cooked_g=600))
    assert (typed.grams, typed.basis, typed.ingredient_g) == (600, TYPED, 210)
    assert expected_cooked_weight(Component("c", "oil", inside[1:])).basis == AS_WEIGHED


@pytest.mark.parametrize(
    ("lines", "step", "equipment", "grams"),
    [
        ("rice_white_dry 300, water_tap 600", "Simmer the rice", "hob", 900),  # the water is in the list
        ("rice_white_dry 300", "Boil the rice and drain it", "hob", 840),  # water from outside
        ("rice_white_dry 300", "", "", 300),  # nobody said that it is boiled
        ("rolled_oats_dry 200, butter_salted 100, honey 60", "Bake it", "oven", 360),
        ("rolled_oats_dry 100, milk_semi_skimmed 400", "Simmer the oats in the milk", "hob", 500),
        ("rolled_oats_dry 180, milk_semi_skimmed 360, quark 140", "Bake it", "oven", 680),
        ("cabbage_raw 200, carrot_raw 100", "Shred cabbage and carrot", "", 300),
        ("lentils_red_dry 300, water_tap 1050", "Simmer the lentils", "hob", 1350),
        ("lentils_green_dry 300, water_tap 100", "Simmer the lentils", "hob", 300 * 2.9),  # that is soaked up first
        ("turkey_thigh_raw 1000", "Roast the turkey", "oven", 1000 * (FOODS["turkey_thigh_raw"].cooked_yield or 0)),
        ("turkey_thigh_raw 1000", "Cut the turkey", "", 1000),
        ("rice_white_dry 300", "Toast the rice dry in the pan", "hob", 300),
    ],
)
def test_yields_apply_to_what_is_cooked_and_water_of_the_list_counts_once(
    lines: str, step: str, equipment: str, grams: float
) -> None:
    steps = (Step("1", step, "c", equipment, 20),) if step else ()
    (made,) = Recipe("r", "Dish", 2, (component("c", lines),), steps).components
    assert expected_cooked_weight(made).grams == pytest.approx(grams)


def test_a_step_for_all_of_it_boils_the_grain_and_leaves_the_salad_alone() -> None:
    parts = (component("grain", "bulgur_dry 100"), component("salad", "cabbage_raw 200"))
    recipe = Recipe("r", "Dish", 2, parts, (Step("1", "Boil the bulgur", "", "hob", 20),))
    grain, salad = (expected_cooked_weight(c) for c in recipe.components)
    assert grain.basis == FROM_FOODS
    assert (salad.grams, salad.basis) == (200, AS_WEIGHED)


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
