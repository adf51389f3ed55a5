"""Foods whose label has to be read at the shelf, because somebody who eats them must not get an allergen."""

from collections.abc import Iterable, Mapping

from goodcrate.core.foods.food import UNKNOWN, Food
from goodcrate.core.targets.excluding import Exclusions

MIXED = frozenset({"condiment", "snack", "spice", "supplement"})
"""Groups of foods that are made of several things whoever makes them: our own choice."""
MADE = frozenset({"canned_drained", "canned_whole", "smoked"})
SEASONED = frozenset({"grain", "soya", "legume", "meat", "poultry", "fish"})
"""Groups whose ready-to-eat foods are seasoned or baked: bread, marinated tofu, sausage."""


def says_on_its_label(food: Food) -> bool:
    """Whether what it holds depends on who made it: it is made of several things, or its allergens are not all known.

    Recipes of bought foods change, and what was packed beside other foods may hold traces of them (Regulation (EU)
    No 1169/2011 has the 14 allergens named on the label).
    """
    is_made = food.group in MIXED or food.state in MADE or (food.state == "ready" and food.group in SEASONED)
    return is_made or UNKNOWN in food.allergens


def labels_to_read(eaten: Iterable[tuple[Exclusions, Food]]) -> Mapping[str, tuple[frozenset[str], tuple[str, ...]]]:
    """By a food's key the allergens that must not be in it, and the names of those who must not get them."""
    found: dict[str, tuple[frozenset[str], tuple[str, ...]]] = {}
    for eater, food in eaten:
        if eater.allergens and says_on_its_label(food):
            allergens, names = found.get(food.key, (frozenset(), ()))
            found[food.key] = (allergens | eater.allergens, tuple(dict.fromkeys((*names, eater.name))))
    return found
