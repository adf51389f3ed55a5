"""Same again with fish instead of pork: what a dish mostly is, and which one takes its place."""

import pytest

from goodcrate.core.recipes.exchanging import Dish, kind_of, stand_in
from goodcrate.core.recipes.recipe import Recipe
from tests.core.dishes import component, turkey_pot


def made_of(lines: str) -> Recipe:
    return Recipe("r", "R", 4, (component("c", lines),))


@pytest.mark.parametrize(
    ("lines", "kind"),
    [
        ("trout_raw 400, potato_raw 600", "fish"),
        ("pork_loin_raw 400, chicken_breast_raw 200", "pork"),
        ("lentils_green_dry 300, carrot_raw 500, quark 100", "plants"),
        ("potato_raw 900, chicken_breast_raw 20", "plants"),  # a trace of chicken makes no poultry dish
        ("egg_whole_raw 400, spinach_raw 500", "egg"),
    ],
)
def test_a_recipe_is_what_its_protein_is_made_of(lines: str, kind: str) -> None:
    assert kind_of(made_of(lines)) == kind


def test_turkey_is_poultry() -> None:
    assert kind_of(turkey_pot()) == "poultry"


TROUT = Dish("trout", "Trout", "fish", 500, 40)
HERRING = Dish("herring", "Herring", "fish", 520, 25)
FEAST = Dish("feast", "Fish feast", "fish", 2000, 40)


def test_the_stand_in_gives_the_same_energy_and_comes_nearest_in_protein() -> None:
    assert stand_in("fish", 600, 45, [HERRING, TROUT, FEAST]) == (TROUT, 1.2)
    assert stand_in("fish", 520, 24, [HERRING, TROUT]) == (HERRING, 1.0)
    assert stand_in("pork", 600, 45, [HERRING, TROUT]) is None
    assert stand_in("fish", 600, 45, [FEAST]) is None  # a third of a serving is no portion
