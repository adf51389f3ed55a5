"""Swaps give what they promise; variants that cannot be are refused."""

from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.recipe import LineChange, Variant
from goodcrate.core.recipes.variants import BY_ENERGY, BY_PROTEIN, BY_WEIGHT, check_variants, swap, swap_grams
from goodcrate.formats.reference import reference_foods
from tests.core.dishes import ingredient

FOODS = [f for f in reference_foods().values() if (f.composition.get("energy_kcal") or 0) > 20 and f.group != "spice"]


@given(st.sampled_from(FOODS), st.sampled_from(FOODS), st.integers(1, 900), st.sampled_from([BY_ENERGY, BY_PROTEIN]))
def test_an_equal_swap_is_equal(a_food: object, b_food: object, grams: int, by: str) -> None:
    from goodcrate.core.foods.food import Food

    assert isinstance(a_food, Food)
    assert isinstance(b_food, Food)
    line = ingredient("line", a_food.key, grams)
    key = "energy_kcal" if by == BY_ENERGY else "protein_g"
    try:
        exact = swap_grams(line, b_food, by)
    except InvalidInput:
        known = b_food.composition.get(key)
        assert not known or line.amount.grams * (a_food.composition.get(key) or 0) / known > 10_000
        return
    mine, theirs = line.food.composition.get(key), b_food.composition.get(key)
    assert mine is not None
    assert theirs is not None
    assert isclose(exact * theirs, grams * mine, rel_tol=1e-9)
    back = swap_grams(ingredient("line", b_food.key, exact), a_food, by) if mine > 0 else grams
    assert isclose(back, grams, rel_tol=1e-9)


def test_a_swap_shows_every_other_shift() -> None:
    quark, feta = ingredient("q", "quark", 200), reference_foods()["tempeh"]
    done = swap(quark, feta, BY_PROTEIN, servings=2)
    shifts = {s.key: s for s in done.shifts}
    assert shifts["protein_g"].change == pytest.approx(0, abs=0.02)
    assert shifts["energy_kcal"].before == pytest.approx(66)
    assert (shifts["fat_g"].change or 0) > 0
    assert (done.gains, done.loses) == (("soya",), ("milk",))
    assert done.diet_note == "dairy becomes plant food"
    assert swap(quark, feta, BY_WEIGHT).grams == 200
    with pytest.raises(InvalidInput, match="no protein"):
        swap(quark, reference_foods()["rapeseed_oil"], BY_PROTEIN)
    with pytest.raises(InvalidInput, match="no way to swap"):
        swap(quark, feta, "taste")


def test_variants_that_cannot_be() -> None:
    good = Variant("a", "without celery", ("oskar",), (LineChange("x"),))
    assert check_variants([good], ["x"]) == ()
    again = Variant("b", "", ("oskar",), (LineChange("gone"), LineChange("x", FOODS[0], 0)))
    empty = Variant("c", "empty", (), ())
    faults = {f.field for f in check_variants([good, again, empty], ["x"])}
    assert faults == {
        "variant-b-name",
        "variant-b-eaters",
        "variant-b-changes",
        "variant-c-eaters",
        "variant-c-changes",
    }
