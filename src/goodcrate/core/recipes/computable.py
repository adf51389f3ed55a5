"""Whether a stored recipe can be computed at all: what got in before there were bounds must not take others with it."""

from math import isfinite

from goodcrate.core.ground.errors import GoodCrateError
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.recipe import Recipe, serving_of

LARGEST_FIGURE = 1e9
"""No serving of a home kitchen holds more of anything, in whatever unit; nor is its doubt larger."""
WHAT_BROKEN_ROWS_RAISE = (GoodCrateError, ArithmeticError, ValueError, LookupError, TypeError, AttributeError)


def why_not_computable(recipe: Recipe) -> str:
    """Why the figures of a recipe mean nothing; empty when they do."""
    try:
        tally = serving_of(recipe).tally
        amounts = [tally.grams, *tally.known, *tally.unknown_g]
        doubts = [abs(part * size) for shape, size in tally.errors.values() for part in shape]
    except WHAT_BROKEN_ROWS_RAISE as error:
        return f"{error}"[:160] or type(error).__name__
    if not all(isfinite(x) and abs(x) <= LARGEST_FIGURE for x in (*amounts, *doubts)):
        return say("A weight, a figure or its error is beyond all bounds.")
    return ""


def empty_recipe(key: str, name: str) -> Recipe:
    """An empty recipe in the place of one that cannot be computed."""
    return Recipe(key, name, 1.0, ())
