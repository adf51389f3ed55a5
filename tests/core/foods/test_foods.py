"""Checks a food's row must pass."""

import pytest

from goodcrate.core.foods.food import Food, check_food, energy_from_macros_kcal, largest_plausible_g
from goodcrate.core.ground.nutrients import Composition
from goodcrate.formats.reference import reference_foods

GOOD = {"energy_kcal": 345.0, "protein_g": 9.9, "fat_g": 1.2, "carbohydrate_g": 77.7, "fibre_g": 15.6, "sugars_g": 0.8}


def food(figures: dict[str, float | None] | None = None, **facts: object) -> Food:
    made = {"key": "barley", "name": "Pearl barley", "state": "dry", "group": "grain"} | facts
    return Food(composition=Composition.of(GOOD | (figures or {})), **made)  # type: ignore[arg-type]


def test_a_good_row_passes_and_unknown_macros_are_not_judged() -> None:
    assert check_food(food()) == ()
    assert energy_from_macros_kcal(Composition.of({"energy_kcal": 50, "protein_g": 1})) is None
    assert check_food(food({"fat_g": None, "energy_kcal": 10})) == ()


@pytest.mark.parametrize(
    ("figures", "facts", "field"),
    [
        ({"energy_kcal": 145.0}, {}, "energy_kcal"),
        ({"energy_kcal": 950.0}, {}, "energy_kcal"),
        ({"sugars_g": 90.0}, {}, "sugars_g"),
        ({"fibre_g": 80.0}, {}, "fibre_g"),
        ({"saturated_g": 2.0}, {}, "saturated_g"),
        ({"protein_g": 60.0}, {}, "protein_g"),
        ({}, {"state": "melted"}, "state"),
        ({}, {"diet": "sunlight"}, "diet"),
        ({}, {"allergens": frozenset({"dust"})}, "allergens"),
        ({}, {"cooked_yield": 40.0}, "cooked_yield"),
        ({}, {"density_g_per_ml": 9.0}, "density_g_per_ml"),
    ],
)
def test_impossible_rows_are_named_at_their_field(
    figures: dict[str, float | None], facts: dict[str, object], field: str
) -> None:
    assert field in {fault.field for fault in check_food(food(figures, **facts))}


def test_salt_is_used_by_the_gram() -> None:
    assert largest_plausible_g(food(key="salt", group="condiment")) == 500
    assert largest_plausible_g(food()) == 10_000


def test_what_only_begins_like_water_is_none() -> None:
    """Watercress that is boiled and drained is not poured away with its water."""
    named = {key: f.is_water for key, f in reference_foods().items() if key.startswith("water")}
    waters = {"water_tap", "water_tap_fdc", "water_well", "water_bottled"}
    assert {key for key, is_water in named.items() if is_water} == waters
    assert len(named) > 8
