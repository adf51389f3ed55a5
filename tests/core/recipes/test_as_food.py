"""What somebody makes, as a food beside bought ones."""

from dataclasses import replace

import pytest

from goodcrate.core.foods.compare import PER_SERVING, PER_SPOON, amounts_of, compare
from goodcrate.core.recipes.as_food import dish_as_food
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import component


def test_a_dressing_of_ones_own_has_figures_spoon_serving_and_price() -> None:
    foods = reference_foods()
    dressing = component("c", "olive_oil 60, lemon_juice 40")
    priced = [replace(x, food=replace(x.food, price=5.0, pack_g=500.0)) for x in dressing.lines]
    recipe = Recipe("r", "Dressing", 4, (replace(dressing, lines=tuple(priced)),))
    own = dish_as_food("recipe:r", "Dressing", serving_of(recipe).parts, recipe.servings)
    assert own is not None
    oil, juice = foods["olive_oil"], foods["lemon_juice"]
    by_hand = 0.6 * (oil.composition.get("fat_g") or 0) + 0.4 * (juice.composition.get("fat_g") or 0)
    assert own.composition.get("fat_g") == pytest.approx(by_hand)
    assert own.serving_g == pytest.approx(25.0)
    assert own.price_per_100_g == pytest.approx(1.0)
    volume = 60 / (oil.density_g_per_ml or 1) + 40 / (juice.density_g_per_ml or 1)
    assert amounts_of(own, PER_SPOON).grams == pytest.approx(100 / volume * 15)
    assert amounts_of(own, PER_SPOON, 20.0).grams == pytest.approx(100 / volume * 20)
    assert amounts_of(own, PER_SERVING).figures["fat_g"] == pytest.approx(by_hand / 4)
    beside = compare([own, foods["mayonnaise"]])
    assert any("Dressing" in sentence for sentence in beside.sentences)


def test_cooked_dishes_are_counted_as_they_are_eaten_and_what_is_missing_is_said() -> None:
    rice = replace(component("c", "rice_white_dry 100"), cooked_g=280.0)
    recipe = Recipe("r", "Rice", 2, (rice,))
    own = dish_as_food("recipe:r", "Rice", serving_of(recipe).parts, 2)
    assert own is not None
    dry = reference_foods()["rice_white_dry"].composition.get("energy_kcal") or 0
    assert own.composition.get("energy_kcal") == pytest.approx(dry / 2.8)
    assert own.price_per_100_g is None
    assert amounts_of(own, PER_SPOON).grams is None
    unknown = replace(rice.lines[0].food, composition=replace(rice.lines[0].food.composition, per_100_g=(None,) * 38))
    half = component("c", "rice_white_dry 100, rice_white_dry 100")
    lines = (half.lines[0], replace(half.lines[1], food=unknown))
    partly = Recipe("r", "Rice", 2, (replace(half, lines=lines),))
    known_in_part = dish_as_food("recipe:r", "Rice", serving_of(partly).parts, 2)
    assert known_in_part is not None
    assert "energy_kcal" in known_in_part.composition.at_least
    assert dish_as_food("recipe:r", "Nothing", (), 2) is None
