"""Compositions and tallies: unknown is not zero, addition, scaling, doubt."""

from math import isclose, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally, energy_by_source, main_energy_source
from tests.core.strategies import compositions, weights

SWEDE = Composition.of({"energy_kcal": 37, "protein_g": 1.1, "sodium_mg": 12})


def test_a_figure_left_out_is_unknown_and_stays_so() -> None:
    tally = Tally.of(SWEDE, 200)
    iron = tally.amount("iron_mg")
    assert iron.is_unknown
    assert iron.is_at_least
    assert iron.unknown_share == 1.0
    assert not tally.amount("energy_kcal").is_at_least


def test_a_sum_over_an_unknown_says_at_least_and_how_much_is_missing() -> None:
    known = Composition.of({"iron_mg": 2.0})
    iron = (Tally.of(SWEDE, 300) + Tally.of(known, 100)).amount("iron_mg")
    assert iron.value == 2.0
    assert iron.is_at_least
    assert not iron.is_unknown
    assert iron.unknown_share == 0.75


def test_a_true_zero_is_known() -> None:
    water = Tally.of(Composition.of({"iron_mg": 0.0}), 500).amount("iron_mg")
    assert (water.value, water.is_at_least) == (0.0, False)


@pytest.mark.parametrize("figure", [-0.1, float("inf"), float("nan")])
def test_impossible_figures_are_refused(figure: float) -> None:
    with pytest.raises(InvalidInput, match="protein_g"):
        Composition.of({"protein_g": figure})


def test_a_word_that_is_no_nutrient_is_refused_by_name() -> None:
    with pytest.raises(InvalidInput, match="protien_g"):
        Composition.of({"protien_g": 3})
    with pytest.raises(InvalidInput, match="joy"):
        Tally().amount("joy")


@given(st.lists(st.tuples(compositions, weights), max_size=6), st.randoms())
def test_order_of_adding_does_not_matter(parts: list[tuple[Composition, float]], random: object) -> None:
    tallies = [Tally.of(c, g, 0.6, str(n)) for n, (c, g) in enumerate(parts)]
    forward, backward = Tally.sum(tallies), Tally.sum(reversed(tallies))
    for key in KEYS:
        a, b = forward.amount(key), backward.amount(key)
        assert isclose(a.value, b.value, rel_tol=1e-12, abs_tol=1e-9)
        assert isclose(a.standard_error, b.standard_error, rel_tol=1e-12, abs_tol=1e-12)
        assert isclose(a.unknown_g, b.unknown_g, rel_tol=1e-12, abs_tol=1e-9)


@given(compositions, weights, st.floats(0, 20))
def test_scaling_scales_everything(composition: Composition, grams: float, factor: float) -> None:
    whole = Tally.of(composition, grams, 1.5, "scale")
    part = whole.scaled(factor)
    for key in KEYS:
        a, b = whole.amount(key), part.amount(key)
        assert isclose(b.value, a.value * factor, rel_tol=1e-12, abs_tol=1e-9)
        assert isclose(b.standard_error, a.standard_error * factor, rel_tol=1e-12, abs_tol=1e-12)
        assert isclose(b.unknown_g, a.unknown_g * factor, rel_tol=1e-12, abs_tol=1e-9)


def test_different_doubts_add_in_quadrature_and_the_same_doubt_straight() -> None:
    oil = Composition.of({"energy_kcal": 900})
    apart = Tally.of(oil, 10, 3, "first spoon") + Tally.of(oil, 10, 4, "second spoon")
    assert isclose(apart.amount("energy_kcal").standard_error, sqrt(27**2 + 36**2))
    half = Tally.of(oil, 10, 3, "the pot").scaled(0.5)
    assert isclose((half + half).amount("energy_kcal").standard_error, 27)


def test_the_largest_doubt_is_named_first() -> None:
    oil, meat = Composition.of({"energy_kcal": 900}), Composition.of({"energy_kcal": 114})
    tally = Tally.of(meat, 1200, 0.6, "meat") + Tally.of(oil, 40, 14, "oil by eye")
    shares = tally.doubt_shares("energy_kcal")
    assert shares[0][0] == "oil by eye"
    assert isclose(sum(share for _, share in shares), 1)


@pytest.mark.parametrize(
    ("figures", "grams", "texture"),
    [
        ({"protein_g": 20, "fat_g": 4, "carbohydrate_g": 0}, 100, "protein"),
        ({"protein_g": 3, "fat_g": 1, "carbohydrate_g": 25, "fibre_g": 3}, 100, "carbohydrate"),
        ({"protein_g": 0, "fat_g": 90}, 100, "fat"),
        ({"protein_g": 1, "carbohydrate_g": 4, "fibre_g": 2}, 100, "fibre"),
        ({}, 0, "fibre"),
    ],
)
def test_texture_follows_what_a_food_mostly_gives(figures: dict[str, float], grams: float, texture: str) -> None:
    assert main_energy_source(figures, grams) == texture


def test_energy_factors_take_fibre_out_of_carbohydrate() -> None:
    energy = energy_by_source({"protein_g": 10, "fat_g": 10, "carbohydrate_g": 30, "fibre_g": 10, "alcohol_g": 1})
    assert energy == {"protein": 40, "fat": 90, "carbohydrate": 80, "fibre": 20, "alcohol": 7}


def test_all_amounts_at_once_are_those_asked_one_by_one() -> None:
    tally = Tally.of(SWEDE, 120.0) + Tally.of(Composition.of({"energy_kcal": 62}), 80.0)
    for key, amount in zip(KEYS, tally.amounts(), strict=True):
        alone = tally.amount(key)
        assert (amount.value, amount.unknown_g, amount.grams) == (alone.value, alone.unknown_g, alone.grams)
        assert (amount.is_at_least, amount.is_unknown) == (alone.is_at_least, alone.is_unknown)
