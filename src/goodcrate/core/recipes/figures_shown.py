"""Which figures a household wants to see beside the headline ones."""

from collections.abc import Iterable
from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.component import IngredientLine


@dataclass(frozen=True, slots=True)
class FiguresShown:
    """Net carbohydrate beside carbohydrate, with `polyol_share` of the polyols left out (0 to 1); the spread as foods
    vary beside the doubt of weighing."""

    polyol_share: float = 0.5
    net_carbohydrate: bool = False
    spread: bool = True


USUAL_FIGURES = FiguresShown()


def contents_of(lines: Iterable[IngredientLine], share: float = 1.0) -> list[tuple[Food, float]]:
    """Foods with the grams of each that count, of a share of these lines: what `spread_of` takes."""
    return [(line.food, line.kept_g * share) for line in lines if not line.is_uncounted]
