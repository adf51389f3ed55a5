"""What leaves the pot, what pots teach, and components served twice."""

from dataclasses import replace
from datetime import datetime
from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.portion.week_outcome import week_outcome
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.cooked_weight import LEARNED, expected_cooked_weight
from goodcrate.core.recipes.recipe import Recipe, batch_of, serving_of
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.core.week.placings import Placing, PrepSession, batches_that_follow, with_shared_components
from tests.core.dishes import component, ingredient, turkey_pot
from tests.core.strategies import lines


@given(lines(), st.lists(st.tuples(st.floats(0, 1), st.booleans()), min_size=6, max_size=6))
def test_what_went_in_is_what_stays_and_what_was_taken_out(
    inside: tuple[IngredientLine, ...], fates: list[tuple[float, bool]]
) -> None:
    marked = [replace(x, uptake=share, is_discarded=gone) for x, (share, gone) in zip(inside, fates, strict=False)]
    kept_g = sum(x.kept_g for x in marked)
    batch = batch_of(marked, max(kept_g, 1.0))
    assert isclose(batch.ingredient_g, kept_g + batch.taken_out_g, rel_tol=1e-9)
    left = Tally.sum(
        Tally.of(x.food.composition, x.amount.grams * (1 - x.kept_share)) for x in marked
    )  # what was taken out, by another way
    whole = Tally.sum(Tally.of(x.food.composition, x.amount.grams) for x in marked)
    for key in KEYS:
        a, b, c = (t.amount(key).value for t in (batch.tally, left, whole))
        assert isclose(a + b, c, rel_tol=1e-9, abs_tol=1e-9)


def test_poured_off_fat_takes_its_calories_along() -> None:
    meat, fat = ingredient("meat", "lamb_mince_raw", 500), ingredient("fat", "lard", 30)
    off = replace(fat, is_poured_off=True)
    kept, poured = batch_of([meat], 380), batch_of([meat, off], 350)
    fat_kcal = fat.tally.amount("energy_kcal").value
    assert poured.tally.amount("energy_kcal").value == pytest.approx(kept.tally.amount("energy_kcal").value - fat_kcal)
    assert (poured.ingredient_g, poured.taken_out_g) == (500, 30)
    assert poured.water_g == pytest.approx(-120)
    assert poured.tally.amount("protein_g").value == pytest.approx(kept.tally.amount("protein_g").value)
    with pytest.raises(InvalidInput, match="More energy is poured off"):
        batch_of([ingredient("x", "cabbage_raw", 500), off], 350)


def test_an_unknown_amount_that_is_poured_off_leaves_no_at_least() -> None:
    meat = ingredient("meat", "turkey_thigh_raw", 500)
    broth = ingredient("broth", "vegetable_stock_ready", 200)
    figures = broth.food.composition.as_mapping() | {"iron_mg": None}
    dull = replace(broth, food=replace(broth.food, composition=Composition.of(figures)), is_poured_off=True)
    left = batch_of([meat, replace(broth, key="in"), dull], 420).tally.amount("iron_mg")
    assert left.is_unknown
    assert not left.value
    known = batch_of([meat, replace(broth, key="in"), replace(broth, is_poured_off=True)], 420).tally.amount("iron_mg")
    assert not known.is_at_least


def test_a_yield_is_learned_from_the_last_five_pots() -> None:
    assert learned_yield([]) is None
    learned = learned_yield([9.0, 0.8, 0.82, 0.9, 0.84, 0.7])
    assert learned is not None
    assert (learned.factor, learned.low, learned.high, learned.pots) == (0.82, 0.7, 0.9, 5)
    mash = replace(component("mash", "swede_raw 800, potato_raw 200"), learned=learned)
    expected = expected_cooked_weight(mash)
    assert expected.grams == pytest.approx(820)
    assert expected.basis == LEARNED
    assert expected_cooked_weight(replace(mash, cooked_g=900.0)).grams == 900


def two_meals() -> tuple[Recipe, Recipe]:
    """The turkey pot, and a stew that serves 150 g of its mash."""
    turkey = turkey_pot()
    borrowed = replace(turkey.components[1], used_from="turkey", serving_g=150.0)
    stew = Recipe("stew", "Venison stew", 4, (component("venison", "venison_raw 700, carrot_raw 300", 900), borrowed))
    return turkey, stew


def test_a_component_served_in_two_meals_is_cooked_once() -> None:
    turkey, stew = two_meals()
    placings = [Placing("a", "turkey", 2.0, "sunday"), Placing("b", "stew", 3.0, "sunday")]
    batches = {b.component_key: b for b in batches_that_follow(placings, [stew, turkey])}
    mash = batches["mash"]
    assert (mash.recipe_key, len(batches)) == ("turkey", 3)
    assert mash.cooked_g == pytest.approx(2 * 1100 / 6 + 3 * 150)
    assert mash.factor == pytest.approx(mash.cooked_g / 1100)
    outcome = week_outcome(placings, [turkey, stew], {})
    parts = {part.name: part.grams for part in outcome.boxes["b"].parts}
    assert parts["swede mash"] == pytest.approx(450)
    whole = sum(w.outcome.state.batch.tally.amount("energy_kcal").value for w in outcome.batches)
    boxed = sum(box.tally.amount("energy_kcal").value for box in outcome.boxes.values())
    assert boxed == pytest.approx(whole, rel=0.01)  # planned lines are in whole grams


def test_recipes_that_share_take_the_version_the_week_has() -> None:
    turkey, stew = two_meals()
    richer = turkey.components[1].with_lines([*turkey.components[1].lines, ingredient("cream", "butter_salted", 60)])
    joined = with_shared_components(
        {"turkey": replace(turkey, components=(turkey.components[0], richer)), "stew": stew}
    )
    assert joined["stew"].components[1].lines == richer.lines
    assert joined["stew"].components[1].serving_g == 150
    assert serving_of(joined["stew"]).parts[1].grams == 150
    with pytest.raises(InvalidInput, match="twice"):
        Recipe("odd", "Odd", 2, (richer, richer))


def test_a_variant_shares_what_it_does_not_change() -> None:
    from goodcrate.core.recipes.recipe import LineChange, Variant

    turkey = turkey_pot()
    oil = ingredient("", "olive_oil", 1).food
    mild = Variant(
        "9f0f5a4e-7b0e-4c39-9a0e-3a7b1d6a0001",
        "without onion",
        ("oskar",),
        (LineChange("pot.2"), LineChange("pot.4", oil, 35)),
    )
    recipe = replace(turkey, variants=(mild,))
    assert for_eater(recipe, "maren") is recipe
    his = for_eater(recipe, "oskar")
    assert [c.key == d.key for c, d in zip(his.components, recipe.components, strict=True)] == [False, True]
    assert [x.food.key for x in his.components[0].lines] == [
        "turkey_thigh_raw",
        "cabbage_raw",
        "caraway_seed",
        "olive_oil",
        "salt",
    ]
    assert his.components[0].cooked_g == pytest.approx(1930 * his.components[0].kept_g / turkey.components[0].kept_g)
    assert his.steps[0].component_key == his.components[0].key
    placings = [Placing("a", "turkey", 3.0, "sunday"), Placing("b", his.key, 3.0, "sunday")]
    batches = batches_that_follow(placings, [recipe, his])
    assert sorted(b.factor for b in batches) == pytest.approx([0.5, 0.5, 1.0])
    assert {b.recipe_key for b in batches if b.component_key == "mash"} == {"turkey"}


def test_sessions_keep_shared_batches_apart() -> None:
    turkey, stew = two_meals()
    sessions = [PrepSession(day, datetime(2026, 11, n, 14)) for n, day in ((22, "sunday"), (25, "wednesday"))]
    placings = [Placing("a", "turkey", 2.0, sessions[0].key), Placing("b", "stew", 3.0, sessions[1].key)]
    mashes = [b for b in batches_that_follow(placings, [turkey, stew]) if b.component_key == "mash"]
    assert [(b.session_key, round(b.cooked_g)) for b in mashes] == [("sunday", 367), ("wednesday", 450)]
