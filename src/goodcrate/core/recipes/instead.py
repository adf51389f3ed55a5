"""Another food in the place of one, in every recipe of a week: what the shop did not have."""

from collections.abc import Mapping
from dataclasses import replace

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.recipe import Recipe


def resolved(instead: Mapping[str, str]) -> Mapping[str, str]:
    """By the key of a food the one that is taken in the end, where that one was replaced too. A circle ends where it
    began, and replaces nothing."""
    found = {}
    for key in instead:
        last, seen = instead[key], {key}
        while last in instead and last not in seen:
            seen.add(last)
            last = instead[last]
        if last != key:
            found[key] = last
    return found


def with_instead(recipe: Recipe, instead: Mapping[str, Food]) -> Recipe:
    """The recipe with as many g of another food in each line that holds one of these keys; itself when none does.

    A typed cooked weight follows at the same yield.
    """
    if not any(line.food.key in instead for line in recipe.lines):
        return recipe
    components = tuple(
        c.with_lines([replace(x, food=instead.get(x.food.key, x.food)) for x in c.lines]) for c in recipe.components
    )
    return replace(recipe, components=components)
