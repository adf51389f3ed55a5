"""Who must not get what: diet, allergens and pork together; dislikes and heating are said and forbid nothing."""

from dataclasses import replace

import pytest

from goodcrate.core.foods.food import UNKNOWN, check_diet, least_diet, usual_cooks_like
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.targets.excluding import Exclusions, disliked_foods, made_of, remarks, why_not_food, why_not_for
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import component

FOODS = reference_foods()
PLANTS = Exclusions("Maren", diet="plant")
VEGETARIAN = Exclusions("Maren", diet="vegetarian")
MISLABELLED = replace(FOODS["butter_salted"], diet="plant")  # as a label typed in a hurry may say


@pytest.mark.parametrize(
    ("eater", "food", "says"),
    [
        (PLANTS, MISLABELLED, "with milk, and Maren eats plants only"),
        (PLANTS, FOODS["butter_salted"], "eats plants only"),
        (PLANTS, FOODS["honey"], "eats plants only"),
        (PLANTS, FOODS["stock_cube"], "eats plants only"),
        (VEGETARIAN, FOODS["fish_sauce"], "no meat and no fish"),
        (VEGETARIAN, replace(FOODS["fish_sauce"], diet="plant"), "with fish"),
        (VEGETARIAN, FOODS["lard"], "no meat and no fish"),
        (Exclusions("Oskar", frozenset({"celery"})), FOODS["stock_cube"], "holds celery"),
        (Exclusions("Oskar", frozenset({"cereals_gluten"})), FOODS["vinegar"], "cereals with gluten"),
        (Exclusions("Oskar", frozenset({"cereals_gluten"})), FOODS["miso_paste"], "cereals with gluten"),
        (Exclusions("Oskar", frozenset({"milk"})), FOODS["dark_chocolate_70"], "milk"),
        (Exclusions("Oskar", no_pork=True), FOODS["bacon_back_raw"], "pork"),
        (Exclusions("Oskar", no_pork=True), replace(FOODS["bacon_back_raw"], key="a1", name="Rashers"), "pork"),
    ],
)
def test_what_somebody_must_not_get(eater: Exclusions, food: object, says: str) -> None:
    said = why_not_food(eater, food)  # type: ignore[arg-type]
    assert said is not None
    assert says in said


def test_what_somebody_may_get() -> None:
    assert why_not_food(PLANTS, FOODS["olive_oil"]) is None
    assert why_not_food(VEGETARIAN, FOODS["butter_salted"]) is None
    assert why_not_food(Exclusions("Oskar", no_pork=True), FOODS["turkey_thigh_raw"]) is None
    assert why_not_for(Exclusions("Maren"), Recipe("r", "Dish", 1, (component("c", "bacon_back_raw 100"),))) is None


def test_every_typical_food_s_diet_agrees_with_its_allergens() -> None:
    assert [food.key for food in FOODS.values() if check_diet(food)] == []
    assert check_diet(MISLABELLED)[0].field == "diet"
    assert check_diet(replace(FOODS["bacon_back_raw"], diet="plant"))
    assert least_diet("plant", frozenset({"milk"})) == "dairy"
    assert least_diet("plant", frozenset({"soya"})) == "plant"


def test_dislikes_are_met_by_all_their_words_and_an_oil_is_not_its_fruit() -> None:
    salad = Recipe("r", "Salad", 2, (component("c", "olives_black 40, olive_oil 20, pepper_red_raw 50"),))
    assert disliked_foods(Exclusions("Maren", dislikes="olives"), salad) == ("olives",)
    assert disliked_foods(Exclusions("Maren", dislikes="green pepper, oil"), salad) == ("olive oil",)
    assert disliked_foods(Exclusions("Maren"), salad) == ()


def test_a_meal_to_be_heated_speaks_up_where_nothing_is_heated() -> None:
    stew = Recipe("r", "Stew", 2, (component("c", "olives_black 40"),))
    maren = Exclusions("Maren", dislikes="olives")
    heat = ["heat once, until 74 °C in the middle"]
    at_work = remarks(maren, stew, (), heat, slot="Lunch", is_cold=True, travels=True)
    assert at_work == (
        "Stew is to be heated, and nothing is heated for Lunch.",
        "Maren does not like olives, which Stew holds.",
    )
    assert remarks(Exclusions("Maren"), stew, ("cold", "travels"), heat, slot="Lunch", is_cold=True, travels=True) == ()
    assert remarks(Exclusions("Maren"), stew, ("hot",), heat, slot="Dinner", is_cold=False, travels=False) == ()
    said, _ = remarks(maren, stew, ("hot",), [], slot="Lunch", is_cold=False, travels=True)
    assert "not marked as one that travels" in said


@pytest.mark.parametrize(
    ("name", "group", "state", "is_like"),
    [
        ("Jasmine rice", "grain", "dry", "rice"),
        ("Rice cakes", "grain", "ready", ""),
        ("Plain flour", "grain", "dry", "flour"),
        ("Jumbo oats", "grain", "dry", "flakes"),
        ("Penne", "grain", "dry", "grain"),
        ("Turtle beans", "legume", "dry", "pulse"),
        ("Microwave rice", "grain", "ready", "rice"),
        ("Rice vinegar", "condiment", "ready", ""),
    ],
)
def test_what_a_typed_food_cooks_like(name: str, group: str, state: str, is_like: str) -> None:
    assert usual_cooks_like(name, group, state) == is_like


@pytest.mark.parametrize(
    ("lines", "word"),
    [
        ("turkey_thigh_raw 100, cabbage_raw 100, quark 50", "meat"),
        ("mackerel_smoked 100, quark 50", "fish"),
        ("trout_raw 100, venison_raw 50", "meat"),
        ("quark 100, egg_whole_raw 50", "dairy and egg"),
        ("quark 100, honey 20", "dairy"),
        ("egg_whole_raw 100, barley_flour 50", "egg"),
        ("rolled_oats_dry 100, honey 20", "plants and honey"),
        ("rolled_oats_dry 100, apple_raw 20, salt 1", "plants"),
    ],
)
def test_what_a_recipe_is_made_of(lines: str, word: str) -> None:
    assert made_of(Recipe("r", "Dish", 2, (component("c", lines),))) == word


def test_what_may_hold_anything_is_not_called_plants() -> None:
    unknown = next(food for food in reference_foods().values() if food.diet == UNKNOWN)
    oats = component("c", "rolled_oats_dry 100")
    lines = (*oats.lines, replace(oats.lines[0], key="c.9", food=unknown))
    assert made_of(Recipe("r", "Dish", 2, (replace(oats, lines=lines),))) == "not all known"
