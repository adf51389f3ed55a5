"""Foods whose label has to be read at the shelf, because somebody who eats them must not get an allergen."""

from collections.abc import Iterable, Mapping

from goodcrate.core.foods.food import UNKNOWN, Food
from goodcrate.core.targets.excluding import Exclusions

GROWN = frozenset({"vegetable", "fruit", "herb", "egg"})
"""Groups of foods that are sold as they grew, when they are raw."""


def says_on_its_label(food: Food) -> bool:
    """Whether what it holds depends on who made it: it is made or packed food, or its allergens are not all known.

    Recipes of bought foods change, and what was packed beside other foods may hold traces of them (Regulation (EU)
    No 1169/2011 has the 14 allergens named on the label).
    """
    return UNKNOWN in food.allergens or not (food.state == "raw" and food.group in GROWN)


def labels_to_read(eaten: Iterable[tuple[Exclusions, Food]]) -> Mapping[str, tuple[frozenset[str], tuple[str, ...]]]:
    """By a food's key the allergens that must not be in it, and the names of those who must not get them."""
    found: dict[str, tuple[frozenset[str], tuple[str, ...]]] = {}
    for eater, food in eaten:
        if eater.allergens and says_on_its_label(food):
            allergens, names = found.get(food.key, (frozenset(), ()))
            found[food.key] = (allergens | eater.allergens, tuple(dict.fromkeys((*names, eater.name))))
    return found
