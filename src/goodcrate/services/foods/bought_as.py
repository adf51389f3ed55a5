"""As what a food is bought: raw when it is weighed cooked, with its peel and bone."""

from collections.abc import Mapping
from functools import cache

from goodcrate.core.foods.food import Food, bought_for
from goodcrate.formats.reference import reference_foods


@cache
def raw_by_cooked() -> Mapping[str, Food]:
    """By a cooked food's key the raw one it comes from, where the table knows just one."""
    from_raw: dict[str, list[Food]] = {}
    for food in reference_foods().values():
        if food.cooked_key and food.cooked_yield:
            from_raw.setdefault(food.cooked_key, []).append(food)
    return {key: raws[0] for key, raws in from_raw.items() if len(raws) == 1}


def as_bought(food: Food, edible_g: float) -> tuple[Food, float]:
    """The food that is bought for so many edible g of one, and what it weighs then, in g."""
    raw = raw_by_cooked().get(food.key)
    if raw is not None:
        food, edible_g = raw, edible_g / (raw.cooked_yield or 1.0)
    weight = bought_for(food, edible_g)
    return food, edible_g if weight is None else weight
