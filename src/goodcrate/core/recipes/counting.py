"""Two schools of counting: every gram, or without the traces; with the second, how much was left out is said."""

from dataclasses import replace

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.recipe import Recipe

MOST_TRACE_KCAL = 15.0
"""A line that gives a serving more energy than this is no trace, whatever it is: our assumption."""


def traces_out(recipe: Recipe) -> Recipe:
    """The recipe with its traces marked as not counted; their grams stay, and so does their sodium."""
    components = tuple(
        replace(c, lines=tuple(_marked(line, recipe.servings) for line in c.lines)) for c in recipe.components
    )
    return replace(recipe, components=components)


def _marked(line: IngredientLine, servings: float) -> IngredientLine:
    energy = (line.food.composition.get("energy_kcal") or 0.0) / 100 * abs(line.kept_g) / max(servings, 1e-9)
    return replace(line, is_uncounted=line.food.is_trace_kind and energy <= MOST_TRACE_KCAL)


def left_out(recipe: Recipe) -> Tally:
    """What one serving holds in traces that are not counted; nothing when everything is."""
    whole = Tally.sum(
        replace(line, is_uncounted=False).tally
        for c in recipe.components
        for line in c.lines
        if line.is_uncounted and line.kept_g > 0
    )
    return whole.scaled(1 / recipe.servings)
