"""Traces left out: their grams and sodium stay, nothing else, and what is left out is what is missing."""

from dataclasses import replace

import pytest
from hypothesis import given

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.nutrients import KEYS
from goodcrate.core.recipes.counting import MOST_TRACE_KCAL, left_out, traces_out
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant, serving_of
from goodcrate.core.recipes.sources import contributions
from goodcrate.core.recipes.variants import with_variant
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import component
from tests.core.strategies import recipes

FOODS = reference_foods()


def salad(spinach_g: float = 30) -> Recipe:
    made = component("bowl", f"lettuce_romaine_raw 80, spinach_raw {spinach_g}, quark 400, caraway_seed 4, salt 6")
    return Recipe("salad", "Salad", 2, (made,))


def test_spices_herbs_and_leaf_salad_are_traces_and_a_pan_of_spinach_is_not() -> None:
    kinds = {key for key in ("lettuce_romaine_raw", "caraway_seed", "dill_fresh", "salt") if FOODS[key].is_trace_kind}
    assert {"lettuce_romaine_raw", "caraway_seed", "dill_fresh"} <= kinds
    assert not FOODS["quark"].is_trace_kind
    names = {line.food.key: line.is_uncounted for line in traces_out(salad()).components[0].lines}
    assert names["lettuce_romaine_raw"]
    assert names["spinach_raw"]
    assert not names["quark"]
    much = {line.food.key: line.is_uncounted for line in traces_out(salad(400)).components[0].lines}
    assert MOST_TRACE_KCAL < 400 / 2 * 0.23
    assert not much["spinach_raw"]


@given(recipes())
def test_counted_and_left_out_are_the_whole(recipe: Recipe) -> None:
    lettuce = replace(
        recipe.components[0].lines[0], key="leaf", food=FOODS["lettuce_romaine_raw"], amount=amount_of(20, "weighed")
    )
    first = replace(recipe.components[0], lines=(*recipe.components[0].lines, lettuce))
    recipe = replace(recipe, components=(first, *recipe.components[1:]))
    school = traces_out(recipe)
    counted, whole, out = serving_of(school).tally, serving_of(recipe).tally, left_out(school)
    assert left_out(recipe).grams == 0
    assert counted.grams == whole.grams
    assert out.grams > 0
    for key in KEYS:
        left = 0.0 if key == "sodium_mg" else out.amount(key).value
        assert abs(counted.amount(key).value + left - whole.amount(key).value) < 1e-6 * max(1, whole.amount(key).value)
    assert counted.amount("energy_kcal").standard_error <= whole.amount("energy_kcal").standard_error + 1e-9


def test_where_the_energy_comes_from_leaves_traces_out_too() -> None:
    serving = serving_of(traces_out(salad()))
    found = {c.food_key: c.energy_kcal for c in contributions(serving)}
    assert found["lettuce_romaine_raw"] == found["caraway_seed"] == 0
    assert found["quark"] == pytest.approx(serving.tally.amount("energy_kcal").value)


def test_a_variant_decides_by_its_own_food() -> None:
    """Quark for the lettuce is no trace any more, lettuce for the quark becomes none by itself: it was never small."""
    school = traces_out(salad())
    swapped = with_variant(school, Variant("v", "creamy", ("maren",), (LineChange("bowl.0", FOODS["quark"], 80.0),)))
    line = swapped.components[0].lines[0]
    assert line.food.key == "quark"
    assert line.tally.amount("protein_g").value > 5
