"""What a pot should weigh: by hand from what goes in, the water there is, and what steams off."""

from dataclasses import replace
from typing import Any

import pytest

from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import AS_WEIGHED, FROM_FOODS, LEARNED, TYPED, expected_cooked_weight
from goodcrate.core.recipes.cooking import ABSORBED, BAKED, DRAINED, DRIED, FRIED, RAW, ROASTED, SIMMERED, SOAKED
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import component


def made(lines: str, *steps: tuple[str, str, float | None], **facts: Any) -> Component:
    """A component as its recipe sees it; steps are what, with what, minutes."""
    told = tuple(Step(str(n), text, "c", tool, minutes) for n, (text, tool, minutes) in enumerate(steps))
    return Recipe("r", "Dish", 2, (replace(component("c", lines), **facts),), told).components[0]


TURKEY = reference_foods()["turkey_thigh_raw"].cooked_yield or 0


@pytest.mark.parametrize(
    ("lines", "steps", "grams", "method"),
    [
        # The water is in the list: 900 g go in, a tenth an hour steams off in 20 min.
        ("rice_white_dry 300, water_tap 600", [("Simmer the rice", "hob", 20)], 900 - 30, ABSORBED),
        ("rice_white_dry 300", [("Boil the rice and drain it", "hob", 20)], 300 * 2.8, DRAINED),
        ("pasta_white_dry 500, water_tap 4000", [("Boil the pasta, drain it", "hob", 10)], 500 * 2.3, DRAINED),
        ("rice_white_dry 300", [], 300, RAW),  # nobody said that it is boiled
        ("millet_dry 300", [("Swell the millet in twice its water under a lid", "hob", 30)], 900 - 18, ABSORBED),
        ("millet_dry 300", [("Cook it in 700 ml water under a lid", "hob", 30)], 1000 - 20, ABSORBED),
        ("bulgur_dry 200", [("Pour boiling water over it and let it swell", "", 15)], 520, ABSORBED),
        # A litre of stock is what the lentils soak up: nothing comes from outside.
        ("lentils_red_dry 300, water_tap 1000", [("Simmer them under a lid", "hob", 30)], 1300 - 26, SIMMERED),
        ("rolled_oats_dry 180, milk_semi_skimmed 360, quark 140", [("Bake it", "oven", 30)], 680 - 47.6, BAKED),
        ("rolled_oats_dry 180, milk_semi_skimmed 480, yoghurt_strained_0 300, plum_raw 144",
         [("Soak overnight", "fridge", 480)], 1104, SOAKED),
        ("black_eyed_beans_dry 500",
         [("Soak the beans overnight, pour the water off", "fridge", 720), ("Boil and drain the beans", "hob", 50)],
         500 * 2.8, DRAINED),
        ("cabbage_raw 200, carrot_raw 100", [("Shred cabbage and carrot", "", 5)], 300, RAW),
        ("turkey_thigh_raw 1000", [("Roast the turkey", "oven", 40)], 1000 * TURKEY, ROASTED),
        ("turkey_thigh_raw 1000", [("Poach the turkey", "hob", 30)], 1000 * TURKEY, DRAINED),
        # In its sauce what the meat loses stays in the pot.
        ("turkey_thigh_raw 1000, tomatoes_canned 800", [("Simmer it under a lid", "hob", 60)], 1800 - 72, SIMMERED),
        ("turkey_thigh_raw 1000", [("Cut the turkey", "", 5)], 1000, RAW),
        ("carrot_raw 800", [("Roast the carrots", "oven", 40)], 800 * 0.7, ROASTED),
        ("cabbage_raw 600", [("Fry the cabbage", "hob", 10)], 600 * 0.9, FRIED),
        # Boiled and drained, then baked: 100 g of dry pasta stay 235 g, and a seventh of the dish an hour steams off.
        ("pasta_wholewheat_dry 200, milk_semi_skimmed 300, cottage_cheese 300",
         [("Boil the pasta in plenty of water, drain it", "hob", 10), ("Bake it", "oven", 30)],
         (200 * 2.35 + 600) * 0.93, BAKED),
        ("cabbage_raw 600, rapeseed_oil 10", [("Fry it in the oil, in two lots", "hob", 20)], 610 * 0.9, FRIED),
        ("soba_buckwheat_noodles_dry 100", [("Boil the noodles, drain them", "hob", 7)], 340, DRAINED),
        ("tomatoes_canned 1000", [("Reduce without a lid", "hob", 20)], 1000 - 150, SIMMERED),
    ],
)  # fmt: skip
def test_a_pot_weighs_what_went_in_with_its_water(
    lines: str, steps: list[tuple[str, str, float]], grams: float, method: str
) -> None:
    expected = expected_cooked_weight(made(lines, *steps))
    assert expected.grams == pytest.approx(grams, rel=0.002)
    assert expected.method == method
    assert expected.basis == (FROM_FOODS if expected.changes else AS_WEIGHED)


def test_each_food_of_a_component_goes_its_own_way() -> None:
    """The barley is drained, the beetroot roasted: 220 × 2.85 and 640 less 45 % an hour for 40 min."""
    both = made(
        "pearl_barley_dry 220, beetroot_raw 640, spring_onion_raw 40",
        ("Boil the barley until tender", "hob", 35),
        ("Cube the beetroot and roast it", "oven", 40),
        ("Drain the barley, fold in beetroot and spring onion", "", 6),
    )
    assert expected_cooked_weight(both).grams == pytest.approx(220 * 2.85 + 640 * 0.7 + 40, rel=0.002)


def test_a_step_for_all_of_it_boils_the_grain_and_leaves_the_salad_alone() -> None:
    parts = (component("grain", "bulgur_dry 100"), component("salad", "cabbage_raw 200"))
    recipe = Recipe("r", "Dish", 2, parts, (Step("1", "Boil the bulgur", "", "hob", 20),))
    grain, salad = (expected_cooked_weight(c) for c in recipe.components)
    assert grain.basis == FROM_FOODS
    assert (salad.grams, salad.basis) == (200, AS_WEIGHED)


def test_typed_goes_before_learned_and_learned_before_worked_out() -> None:
    steps = ("Simmer it", "hob", 30)
    lines = "rice_white_dry 300, water_tap 600"
    learned = learned_yield([0.9, 0.96, 1.0])
    typed = expected_cooked_weight(made(lines, steps, cooked_g=800.0, learned=learned))
    assert (typed.grams, typed.basis, typed.ingredient_g) == (800, TYPED, 900)
    by_pots = expected_cooked_weight(made(lines, steps, learned=learned))
    assert by_pots.grams == pytest.approx(0.96 * 900)
    assert by_pots.basis == LEARNED
    assert by_pots.standard_error_g == pytest.approx(0.05 * 900)  # half of what the pots lay apart
    assert expected_cooked_weight(made(lines, steps)).basis == FROM_FOODS


def test_the_longer_it_simmers_the_less_sure_its_weight() -> None:
    lines = "venison_raw 1000, carrot_raw 800, water_tap 500"
    short, long = (expected_cooked_weight(made(lines, ("Simmer it", "hob", m))) for m in (20, 120))
    assert long.grams < short.grams
    assert long.standard_error_g > 3 * short.standard_error_g


def test_no_pot_boils_dry_and_oil_does_not_steam_off() -> None:
    soup = expected_cooked_weight(made("water_tap 1000", ("Boil it down", "hob", 600)))
    assert soup.grams >= 290
    oil = expected_cooked_weight(made("rapeseed_oil 500", ("Fry in the oil", "hob", 60)))
    assert oil.grams == pytest.approx(500, abs=10)


def test_water_nobody_listed_is_said_and_less_sure() -> None:
    (change, *_) = expected_cooked_weight(made("lentils_red_dry 300", ("Simmer the lentils", "hob", 20))).changes
    assert change.is_unlisted
    assert change.grams == pytest.approx(300 * 1.9)
    assert change.standard_error_g > 0.1 * change.grams


def test_the_cooks_word_goes_before_the_steps() -> None:
    lines, steps = "rice_white_dry 300, water_tap 600", ("Simmer the rice", "hob", 20)
    assert expected_cooked_weight(made(lines, steps, cooked_as=RAW)).grams == 900
    drained = expected_cooked_weight(made(lines, steps, cooked_as=DRAINED))
    assert drained.grams == pytest.approx(840)
    assert drained.method == DRAINED
    dried = expected_cooked_weight(made("apple_raw 1000", cooked_as=DRIED))
    assert 200 < dried.grams < 350  # about 85 % water, most of it gone
    assert expected_cooked_weight(made("plum_raw 500", cooked_as=BAKED)).grams < 500


def test_bones_and_what_is_poured_off_do_not_stay() -> None:
    stock = made("chicken_thigh_raw 1000, water_tap 1500", ("Simmer under a lid", "hob", 60))
    less = replace(stock, lines=(replace(stock.lines[0], is_discarded=True), stock.lines[1]))
    assert expected_cooked_weight(less).grams == pytest.approx(1500 * 0.96, rel=0.01)
