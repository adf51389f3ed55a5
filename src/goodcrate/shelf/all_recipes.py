"""All forty recipes of the shelf, by their keys."""

from collections.abc import Mapping

from goodcrate.shelf.breakfasts import BREAKFASTS
from goodcrate.shelf.cold_boxes import COLD_BOXES
from goodcrate.shelf.dinners import DINNERS
from goodcrate.shelf.shelf_recipe import ShelfRecipe
from goodcrate.shelf.snacks_and_sauces import SNACKS_AND_SAUCES

SHELF: Mapping[str, ShelfRecipe] = {r.key: r for r in (*BREAKFASTS, *COLD_BOXES, *DINNERS, *SNACKS_AND_SAUCES)}
"""The starter shelf, breakfasts first."""
