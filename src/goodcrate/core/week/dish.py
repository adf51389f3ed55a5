"""A dish: a recipe as the planner may serve it, from what size to what size, and what it takes."""

from collections.abc import Mapping, Sequence

from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.recipes.filling_vessels import most_at_once_g
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.scaling import whole_unit_g
from goodcrate.core.recipes.steps import hands_on_min
from goodcrate.core.recipes.vessels import Vessel, largest_portion_g
from goodcrate.core.targets.day_target import banded_per_g
from goodcrate.core.targets.slot import KINDS_OF_SLOT
from goodcrate.core.week.storing import CAUTIOUS, USUAL, keeping_of
from goodcrate.core.week.week_problem import PlanDish

SMALLEST_SERVINGS, LARGEST_SERVINGS = 0.5, 2.0
"""How far a portion may move from the recipe's own serving, unless the cook sets other limits."""
UNKNOWN_HANDS_ON_MIN = 20.0
"""A recipe whose steps say no minutes is taken at so many: our assumption, told beside the plan."""


PART_KCAL = 200.0
"""What other recipes serve and has less than that a serving is a part of meals, not one: our line."""


def is_part(recipe: Recipe, tags: frozenset[str], used: frozenset[str]) -> bool:
    """Whether a recipe is only a part of meals: others serve it (`used`), it is small, and no tag makes it a meal."""
    is_small = serving_of(recipe).tally.amount("energy_kcal").value < PART_KCAL
    return recipe.key in used and is_small and not tags & set(KINDS_OF_SLOT)


def size_limits_g(serving_g: float, vessels: Sequence[Vessel]) -> tuple[float, float] | None:
    """From what to what a portion of a dish may go, in g: by its own serving, and by the largest box there is.

    None when half a serving goes into no box there is.
    """
    low_g, high_g = SMALLEST_SERVINGS * serving_g, LARGEST_SERVINGS * serving_g
    in_a_box = largest_portion_g(vessels)
    if in_a_box is None:
        return low_g, high_g
    return None if in_a_box < low_g else (low_g, min(high_g, in_a_box))


def dish_of(
    recipe: Recipe, groups: Mapping[str, KeepGroup], keep: str, polyol_share: float, vessels: Sequence[Vessel]
) -> PlanDish | None:
    """A recipe as the planner's dish, kept by the rule `keep`; None for one that gives no energy or fits no box."""
    serving = serving_of(recipe).tally
    kcal = serving.amount("energy_kcal").value
    if serving.grams <= 0 or kcal <= 0:
        return None
    keeping, limits = keeping_of(recipe, groups, keep), size_limits_g(serving.grams, vessels)
    if keeping is None or limits is None:
        return None
    usual = keeping_of(recipe, groups, USUAL) if keep == CAUTIOUS else None
    return PlanDish(
        recipe.key,
        recipe.name,
        kcal / serving.grams,
        serving.amount("protein_g").value / serving.grams,
        *limits,
        batches=len([c for c in recipe.components if c.lines]),
        hands_on_min=hands_on_min(recipe.steps) or UNKNOWN_HANDS_ON_MIN,
        keeps_days=keeping.fridge_days,
        freezes=keeping.freezes,
        own_serving_g=serving.grams,
        others_per_g=banded_per_g(serving, polyol_share),
        most_g=most_at_once_g(recipe, vessels),
        unit_g=whole_unit_g(recipe, serving.grams),
        keeps_dry=keeping.keeps_dry,
        keeps_usually=usual.fridge_days if usual else None,
    )
