"""What steps tell of the way each line goes through the pot: sentences as cooks write them."""

import pytest

from goodcrate.core.recipes.cooking import BAKED, DRAINED, DRIED, FRIED, RAW, ROASTED, SIMMERED, SOAKED, Cooking
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from tests.core.dishes import component

Told = tuple[tuple[str, str, float | None], ...]


def cooking(lines: str, *told: tuple[str, str, float | None]) -> Cooking:
    steps = tuple(Step(str(n), text, "c", tool, minutes) for n, (text, tool, minutes) in enumerate(told))
    made = Recipe("r", "Dish", 2, (component("c", lines),), steps).components[0].cooking
    assert made is not None
    return made


def ways(made: Cooking, lines: str) -> list[str]:
    return [made.ways.get(f"c.{n}", RAW) for n in range(len(lines.split(",")))]


@pytest.mark.parametrize(
    ("lines", "told", "by_line"),
    [
        # Water that is drained, in the same sentence or a later one; draining a tin or a soak is something else.
        ("rice_white_dry 300", (("Boil in plenty of salted water, then drain", "hob", 15),), [DRAINED]),
        ("pasta_white_dry 300", (("Boil the pasta", "hob", 10), ("Drain", "", 2)), [DRAINED]),
        ("potato_raw 800", (("Boil until tender", "hob", 25), ("Pour the water off and mash", "", 5)), [DRAINED]),
        ("lentils_green_dry 300, carrot_raw 200",
         (("Boil the lentils, strain them", "hob", 25), ("Grate the carrot", "", 5)), [DRAINED, RAW]),
        ("kidney_beans_canned_drained 480", (("Drain the beans", "", 1),), [RAW]),
        ("lamb_mince_raw 800, onion_raw 200", (("Brown the mince with the onion, drain off the fat", "hob", 12),),
         [FRIED, FRIED]),
        ("broccoli_raw 500", (("Steam for five minutes", "hob", 5),), [DRAINED]),
        ("egg_whole_raw 300", (("Poach the eggs", "hob", 4),), [DRAINED]),
        # Their own liquid, listed or not.
        ("tomatoes_canned 800, onion_raw 200", (("Simmer gently", "hob", 30),), [SIMMERED, SIMMERED]),
        ("buckwheat_dry 240, milk_semi_skimmed 1000", (("Simmer the buckwheat in the milk", "hob", 22),),
         [SIMMERED, SIMMERED]),
        ("chicken_thigh_raw 800, coconut_milk_light 400", (("Braise the chicken in the coconut milk", "hob", 40),),
         [SIMMERED, SIMMERED]),
        ("rolled_oats_dry 200, milk_whole 800", (("Cook in the microwave", "microwave", 6),), [SIMMERED, SIMMERED]),
        ("rice_brown_dry 300, water_tap 700", (("Cook the rice", "rice_cooker", 45),), [SIMMERED, SIMMERED]),
        # A pan, a tray, a dish.
        ("leek_raw 500, rapeseed_oil 20", (("Sweat the leek in the oil", "hob", 10),), [FRIED, FRIED]),
        ("onion_raw 300", (("Fry until soft", "hob", 10),), [FRIED]),
        ("barley_flour 200, milk_whole 400, egg_whole_raw 200, rapeseed_oil 20",
         (("Whisk them", "", 3), ("Fry pancakes in the oil", "hob", 20)), [FRIED, FRIED, FRIED, FRIED]),
        ("beetroot_raw 600, rapeseed_oil 20", (("Roast the beetroot", "oven", 40),), [ROASTED, RAW]),
        ("salmon_raw 500, kale_raw 300", (("Bake it all on a tray", "oven", 18),), [ROASTED, ROASTED]),
        ("quark 700, egg_whole_raw 300, oat_flour 160", (("Bake until firm", "oven", 45),), [BAKED, BAKED, BAKED]),
        ("potato_raw 800, cream_single 400", (("Bake under foil", "oven", 60),), [BAKED, BAKED]),
        ("pork_loin_raw 600", (("Cook at 180 degrees", "air_fryer", 25),), [ROASTED]),
        ("apple_raw 600", (("Dry in the oven", "oven", 240),), [DRIED]),
        # First one way, then another.
        ("turkey_thigh_raw 1200, cabbage_raw 900",
         (("Brown the turkey", "hob", 14), ("Sweat the cabbage", "hob", 9), ("Simmer all under a lid", "hob", 35)),
         [SIMMERED, SIMMERED]),
        ("pasta_white_dry 300, cottage_cheese 600",
         (("Boil the pasta, drain it", "hob", 10), ("Bake until golden", "oven", 30)), [BAKED, BAKED]),
        ("pearl_barley_dry 220, beetroot_raw 640",
         (("Boil the barley", "hob", 35), ("Roast the beetroot", "oven", 40), ("Drain the barley", "", 2)),
         [DRAINED, ROASTED]),
        # Cold ways, and lines that come later.
        ("rolled_oats_dry 200, milk_whole 500", (("Soak overnight", "fridge", 480),), [SOAKED, SOAKED]),
        ("bulgur_dry 300, parsley_fresh 20", (("Pour boiling water over the bulgur, let it swell", "", 20),),
         [SIMMERED, RAW]),
        ("cabbage_raw 500, carrot_raw 200", (("Shred them, rub with salt", "", 10),), [RAW, RAW]),
        ("dates_dried 300, walnuts 100", (("Blend and press into a tray", "blender", 10), ("Chill", "fridge", 90)),
         [RAW, RAW]),
    ],
)  # fmt: skip
def test_each_line_goes_its_own_way(lines: str, told: Told, by_line: list[str]) -> None:
    assert ways(cooking(lines, *told), lines) == by_line


@pytest.mark.parametrize(
    ("text", "grams"),
    [
        ("Swell the millet in twice its water", 600),
        ("Simmer in three times the amount of water", 900),
        ("Cook in 700 ml water", 700),
        ("Cook it in 1.5 litres of water", 1500),
        ("Simmer in 1/2 l of hot water", 500),
        ("Simmer, adding a splash of water if it catches", 0),
        ("Simmer until the water is gone", 0),
    ],
)
def test_water_that_a_step_names(text: str, grams: float) -> None:
    assert cooking("millet_dry 300", (text, "hob", 20)).told_water_g == pytest.approx(grams)


def test_listed_water_is_not_named_twice() -> None:
    made = cooking("millet_dry 300, water_tap 600", ("Swell the millet in twice its water", "hob", 20))
    assert made.told_water_g == 0


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("Simmer under a lid", "lid"),
        ("Simmer, covered", "lid"),
        ("Simmer uncovered", "open"),
        ("Simmer without the lid", "open"),
        ("Simmer with the lid off", "open"),
        ("Simmer", "simmer"),
        ("Simmer until it thickens", "reduce"),
        ("Boil down by half", "reduce"),
    ],
)
def test_lids(text: str, rate: str) -> None:
    (spell,) = cooking("tomatoes_canned 800", (text, "hob", 20)).spells
    assert spell.rate == rate
    assert spell.minutes == 20


def test_lots_divide_the_minutes_and_a_step_without_minutes_takes_the_usual() -> None:
    (lots,) = cooking("beef_stewing_raw 900", ("Brown the beef in three lots", "hob", 18)).spells
    assert lots.minutes == 6
    (usual,) = cooking("beef_stewing_raw 900", ("Brown the beef", "hob", None)).spells
    assert usual.minutes == 10


def test_what_is_soaked_and_drained_before_is_told_apart() -> None:
    beans = cooking(
        "black_eyed_beans_dry 480, tomatoes_canned 400",
        ("Soak the beans overnight, pour the water off", "fridge", 720),
        ("Simmer all", "hob", 40),
    )
    assert beans.soaked == {"c.0"}
    bake = cooking(
        "pasta_white_dry 300, cottage_cheese 600", ("Boil the pasta, drain it", "hob", 10), ("Bake it", "oven", 30)
    )
    assert bake.drained == {"c.0"}
    swelled = cooking("bulgur_dry 300", ("Pour boiling water over it, let it swell", "", 20))
    assert swelled.swelled == {"c.0"}
