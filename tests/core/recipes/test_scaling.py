"""Scaling: everything in proportion but what should not be, whole eggs and packs, times, vessels."""

from dataclasses import replace
from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.amounts import Amount
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes import scaling
from goodcrate.core.recipes.filling_vessels import filling, most_at_once_g
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.vessels import COOKS_IN, Vessel, largest_portion_g, volume_ml
from tests.core.dishes import BLENDER, POT, TRAYS, component, ingredient, turkey_pot
from tests.core.strategies import recipes


@given(recipes(), st.floats(0.3, 1.9))
def test_a_scaled_recipe_keeps_its_serving_to_what_a_scale_can_show(recipe: Recipe, factor: float) -> None:
    done = scaling.scaled(recipe, factor, servings=recipe.servings)
    before, after = serving_of(recipe).tally, serving_of(done.recipe).tally
    steps_g = sum(0.5 if x.after_g >= 10 else 0.05 for x in done.lines)
    assert abs(sum(x.after_g for x in done.lines) - factor * sum(x.before_g for x in done.lines)) <= steps_g + 1e-6
    densest = max((x.line.food.composition.get("energy_kcal") or 0) for x in done.lines)
    error = (before.amount("energy_kcal").value * factor - after.amount("energy_kcal").value) * recipe.servings
    assert abs(error) <= densest / 100 * steps_g + 1e-6


@given(st.floats(2.05, 12))
def test_strong_lines_grow_less_and_others_in_full(factor: float) -> None:
    done = {x.line.food.key: x for x in scaling.scaled(turkey_pot(), factor).lines}
    assert isclose(done["cabbage_raw"].after_g, 900 * factor, abs_tol=0.5)
    for key in ("salt", "caraway_seed"):
        assert isclose(done[key].after_g, 8 * factor**0.8, abs_tol=0.5)
        assert done[key].note.startswith("strong")
    full = scaling.scaled(turkey_pot(), factor, seasoning_under_proportional=False)
    assert all(isclose(x.after_g, x.before_g * factor, abs_tol=0.51) for x in full.lines)


def test_up_to_double_salt_is_simply_doubled() -> None:
    done = {x.line.food.key: x for x in scaling.scaled(turkey_pot(), 2.0).lines}
    assert (done["salt"].after_g, done["salt"].note) == (16, "")


def test_eggs_and_tins_stay_whole_and_the_effect_is_said() -> None:
    egg, tin = ingredient("egg", "egg_whole_raw", 153, "count"), ingredient("tin", "tomatoes_canned", 400, "pack")
    assert (egg.food.each_g, tin.food.pack_g) == (51, 400)
    recipe = Recipe("r", "Bake", 4, (replace(component("c", "quark 300"), lines=(egg, tin)),))
    eggs, tins = scaling.scaled(recipe, 1.45).lines
    assert (eggs.after_g, tins.after_g) == (204, 400)
    assert eggs.note == "whole eggs: 4 × 51 g instead of 222 g"
    assert "whole packs: 1 × 400 g instead of 580 g" in tins.note
    assert scaling.scaled(recipe, 0.1, servings=4).lines[0].after_g == 51


def test_ways_to_a_factor() -> None:
    recipe = turkey_pot()
    assert scaling.factor_for_servings(recipe, 9) == 1.5
    now_g = serving_of(recipe).tally.grams
    assert scaling.factor_for_portion(recipe, now_g * 1.2) == pytest.approx(1.2)
    pack_g = next(x for x in recipe.lines if x.key == "mash.2").food.pack_g
    assert pack_g == 250
    assert scaling.factor_for_whole_packs(recipe, "mash.2") == pytest.approx(250 / 40)
    assert scaling.factor_for_whole_eggs(recipe, "pot.2") == pytest.approx(2 * 120 / 200)  # two onions
    boiled = replace(recipe.components[0], vessel="pot")
    filled = replace(recipe, components=(boiled, recipe.components[1]))
    grown = scaling.scaled(filled, scaling.factor_for_vessel(filled, [POT]), vessels=[POT])
    assert grown.fillings[0][1].volume_ml == pytest.approx(POT.usable_ml, rel=0.01)
    for ask in (
        lambda: scaling.factor_for_servings(recipe, 400),
        lambda: scaling.factor_for_portion(recipe, 4),
        lambda: scaling.factor_for_whole_packs(recipe, "nothing"),
        lambda: scaling.factor_for_vessel(recipe, [POT]),
        lambda: scaling.scaled(recipe, 99),
    ):
        with pytest.raises(InvalidInput):
            ask()


def test_hands_on_time_grows_less_and_simmering_not_at_all_until_the_vessel_is_filled_twice() -> None:
    recipe = turkey_pot()
    recipe = replace(recipe, components=(replace(recipe.components[0], vessel="pot"), recipe.components[1]))
    double = scaling.scaled(recipe, 1.5, vessels=[POT])
    before, after = double.hands_on_min
    assert before == 22 + 1  # a look while it simmers
    assert after == pytest.approx(22 * 1.5**0.7 + 1, abs=0.2)
    assert list(double.unattended_min) == [90, 90]
    triple = scaling.scaled(recipe, 3.0, vessels=[POT])
    loads = len(triple.fillings[0][1].loads_ml)
    assert (len(double.fillings[0][1].loads_ml), loads) == (2, 4)  # as written it fills the pot twice already
    assert triple.unattended_min[1] == 35 * loads / 2 + 25 + 30


def test_vessels_split_and_too_little_is_said() -> None:
    dip = replace(component("dip", "quark 120"), vessel="blender")
    little = filling(dip, 120, [BLENDER])
    assert little is not None
    assert little.is_too_little
    assert "needs 300 ml" in little.sentence
    bake = replace(component("bake", "leek_raw 1000, quark 1600"), vessel="tray")
    split = filling(bake, 2500, [TRAYS])
    assert split is not None
    assert split.sentence.startswith("Splits over 2 oven trays of 2.4 l, ")
    assert sum(split.loads_ml) == pytest.approx(split.volume_ml)
    assert filling(bake, 2500, [POT]) is None
    small = Vessel("s", "small pot", "pot", 2800)
    stew = replace(component("stew", "venison_raw 900, carrot_raw 300"), vessel="pot")
    snug = filling(stew, 1000, [POT, small])
    assert snug is not None
    assert snug.vessel == small
    for wrong in ({"kind": "bath"}, {"volume_ml": 10.0}, {"minimum_ml": 5000.0}, {"count": 0}):
        with pytest.raises(InvalidInput):
            replace(POT, **wrong)


def test_typed_pieces_are_written_as_pieces_again() -> None:
    eggs = replace(ingredient("egg", "egg_whole_raw", 102, "count"), amount=Amount(102, "count", 5.0, "2 pcs"))
    recipe = Recipe("r", "Eggs", 2, (replace(component("c", "quark 10"), lines=(eggs,)),))
    assert scaling.scaled(recipe, 2.0).lines[0].line.amount.typed == "4 pcs"


def test_the_tightest_pot_says_how_much_of_a_dish_is_cooked_at_once() -> None:
    pot, mash = turkey_pot().components
    dish = Recipe("d", "Dish", 6, (replace(pot, vessel="pot"), mash))
    serving = serving_of(dish)
    most = most_at_once_g(dish, [POT])
    assert most is not None
    times = most / (serving.tally.grams * 6)
    assert filling(dish.components[0], 1930, [POT]) is not None
    assert volume_ml(dish.components[0], 1930) * times == pytest.approx(POT.usable_ml)
    two = most_at_once_g(dish, [replace(POT, count=2)])
    assert two == pytest.approx(most * 2)
    small = Vessel("small", "small pot", "pot", 2800)
    assert most_at_once_g(dish, [POT, small]) == most  # the small one is no second large one
    assert most_at_once_g(dish, [TRAYS]) is None
    blended = Recipe("d", "Dish", 6, (replace(pot, vessel="blender"), mash))
    assert most_at_once_g(blended, [BLENDER]) is None  # done in turns in a minute


def test_a_portion_goes_into_the_largest_box_there_is() -> None:
    boxes = [Vessel("l", "750 ml box", "box", 750, count=10), Vessel("s", "500 ml box", "box", 500, count=8)]
    assert largest_portion_g(boxes) == pytest.approx(750 * 0.9 * 0.9)
    assert largest_portion_g([POT, TRAYS]) is None
    assert "box" not in COOKS_IN


def test_whole_pieces_side_by_side_are_boxed_whole() -> None:
    eggs = ingredient("e", "egg_hard_boiled", 400, "count")
    each = eggs.food.each_g
    assert each is not None
    side = replace(component("eggs", "quark 10", name="eggs"), lines=(eggs,))
    plate = Recipe("p", "Plate", 4, (side, component("salad", "radish_raw 400")))
    assert scaling.piece_portion_g(plate, 200) == pytest.approx(200 / (400 / each / 4))
    stirred = replace(side, lines=(eggs, ingredient("q", "quark", 200)))
    assert scaling.piece_portion_g(replace(plate, components=(stirred,)), 200) is None
