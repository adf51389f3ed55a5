"""What counts of what was said at the shelf, labels to read, and food taken in the place of another."""

from dataclasses import replace

import pytest

from goodcrate.core.foods.food import UNKNOWN
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.instead import resolved, with_instead
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.shop.label_reminders import labels_to_read, says_on_its_label
from goodcrate.core.shop.shelf import BOUGHT, NOT_THERE, OPEN, ShelfEvent, shelf_of
from goodcrate.core.targets.excluding import Exclusions
from goodcrate.formats.reference import reference_foods

CELERY = Exclusions("Oskar", frozenset({"celery"}))


def test_the_last_word_about_a_food_counts() -> None:
    said = [
        ShelfEvent("quark", BOUGHT, 500),
        ShelfEvent("cabbage", NOT_THERE),
        ShelfEvent("leek", BOUGHT, 500),
        ShelfEvent("leek", OPEN),
        ShelfEvent("quark", BOUGHT, 1000, 4.10),
    ]
    assert shelf_of(said) == {"quark": said[4], "cabbage": said[1]}


@pytest.mark.parametrize(
    ("kind", "grams", "price", "field"),
    [
        ("eaten", None, None, "kind"),
        (BOUGHT, 0.0, None, "grams"),
        (BOUGHT, -5.0, None, "grams"),
        (BOUGHT, 200_000.0, None, "grams"),
        (BOUGHT, 500.0, -1.0, "price"),
        (BOUGHT, 500.0, 1e9, "price"),
    ],
)
def test_what_cannot_happen_at_a_shelf_is_told_at_its_place(
    kind: str, grams: float | None, price: float | None, field: str
) -> None:
    with pytest.raises(InvalidInput) as refused:
        ShelfEvent("quark", kind, grams, price)
    assert refused.value.field == field


def test_a_label_is_read_where_what_is_in_it_depends_on_who_made_it() -> None:
    foods = reference_foods()
    assert says_on_its_label(foods["mustard_smooth"])
    assert says_on_its_label(foods["tempeh"])
    assert not says_on_its_label(foods["cabbage_raw"])
    assert says_on_its_label(replace(foods["cabbage_raw"], allergens=frozenset({UNKNOWN})))
    nobody = Exclusions("Maren")
    eaten = [(CELERY, foods["tempeh"]), (nobody, foods["mustard_smooth"]), (CELERY, foods["cabbage_raw"])]
    assert labels_to_read(eaten) == {"tempeh": (frozenset({"celery"}), ("Oskar",))}


def test_what_took_the_place_of_what_took_a_place() -> None:
    assert resolved({"venison": "beef", "beef": "turkey"}) == {"venison": "turkey", "beef": "turkey"}
    assert resolved({"venison": "beef", "beef": "venison"}) == {}
    assert resolved({"a": "b", "b": "c", "c": "b"})["a"] in {"b", "c"}


def test_a_recipe_takes_as_many_grams_of_something_else() -> None:
    foods = reference_foods()
    lines = tuple(IngredientLine(k, foods[k], amount_of(400.0)) for k in ("venison_raw", "parsnip_raw"))
    stew = Recipe("stew", "Stew", 2, (Component("pot", "stew", lines, cooked_g=600.0),))
    changed = with_instead(stew, {"venison_raw": foods["chicken_thigh_raw"]})
    assert [(x.food.key, x.amount.grams) for x in changed.lines] == [("chicken_thigh_raw", 400), ("parsnip_raw", 400)]
    before, after = (serving_of(r).tally.amount("protein_g").value for r in (stew, changed))
    per_g = [foods[k].composition.get("protein_g") or 0 for k in ("venison_raw", "chicken_thigh_raw")]
    assert after - before == pytest.approx((per_g[1] - per_g[0]) * 4 / 2)
    assert with_instead(stew, {"nothing": foods["tempeh"]}) is stew
