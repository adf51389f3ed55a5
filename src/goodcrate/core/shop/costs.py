"""What the dishes of a week cost as they are eaten, and how that and the till come together."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from goodcrate.core.shop.shopping_list import ShoppingList


@dataclass(frozen=True, slots=True)
class DishCost:
    """What all of a dish costs as eaten, in the household's money; what of it is estimated; `is_at_least` where an
    ingredient has no price and nothing to estimate it by."""

    dish: str
    cost: float
    estimated: float
    is_at_least: bool


def cost_by_dish(shopping: ShoppingList) -> tuple[DishCost, ...]:
    """Each dish's share of what its ingredients cost, the dearest first: grams as bought at the price of their pack."""
    found: dict[str, tuple[float, float, bool]] = {}
    for line in shopping.lines:
        for use in line.need.uses:
            cost, estimated, unknown = found.get(use.dish, (0.0, 0.0, False))
            part = None if line.per_g is None else line.need.bought_g(use.grams) * line.per_g
            found[use.dish] = (
                cost + (part or 0.0),
                estimated + (part or 0.0) * line.is_price_estimated,
                unknown or part is None,
            )
    dearest_first = sorted(found.items(), key=lambda f: (-f[1][0], f[0]))
    return tuple(DishCost(dish, *figures) for dish, figures in dearest_first)


@dataclass(frozen=True, slots=True)
class Eaten:
    """A dish eaten on a day: so many servings of it."""

    dish: str
    day: date
    servings: float


@dataclass(frozen=True, slots=True)
class DayCost:
    """What the food of a day costs as eaten; `is_at_least` as with a dish."""

    day: date
    cost: float
    is_at_least: bool


def cost_by_day(shopping: ShoppingList, eaten: Iterable[Eaten], days: Iterable[date]) -> tuple[DayCost, ...]:
    """What each day costs: of every dish its share by servings, of what is eaten besides its own day's uses.

    The days together are what all dishes cost (`cost_by_dish`), as long as every dish is eaten on one of them.
    """
    eaten = list(eaten)
    whole: dict[str, float] = {}
    for meal in eaten:
        whole[meal.dish] = whole.get(meal.dish, 0.0) + meal.servings
    dishes = {cost.dish: cost for cost in cost_by_dish(shopping)}
    found: dict[date, tuple[float, bool]] = dict.fromkeys(days, (0.0, False))

    def add(day: date, part: float | None) -> None:
        if day in found:
            found[day] = (found[day][0] + (part or 0.0), found[day][1] or part is None)

    for meal in eaten:
        if (cost := dishes.get(meal.dish)) is not None and whole[meal.dish] > 0:
            add(meal.day, cost.cost * meal.servings / whole[meal.dish])
            if cost.is_at_least:
                add(meal.day, None)
    for line in shopping.lines:
        for use in line.need.uses:
            if use.dish not in whole:
                add(use.day, None if line.per_g is None else line.need.bought_g(use.grams) * line.per_g)
    return tuple(DayCost(day, *figures) for day, figures in found.items())


@dataclass(frozen=True, slots=True)
class Till:
    """How the till and what is eaten come together: `eaten` = `paid` − `in_packs` + `from_house`.

    `in_packs` is what is carried home and not eaten this week: the rest of packs, the usual loss, what is always kept.
    """

    paid: float
    in_packs: float
    from_house: float

    @property
    def eaten(self) -> float:
        """What the week's food costs as eaten."""
        return self.paid - self.in_packs + self.from_house


def till_of(shopping: ShoppingList) -> Till:
    """The sums of a list, over the lines whose price is known or estimated."""
    priced = [line for line in shopping.lines if line.per_g is not None]
    paid = sum(line.price or 0.0 for line in priced)
    over = sum((line.bought_g + line.house_g - line.needed_g) * (line.per_g or 0.0) for line in priced)
    house = sum(line.house_g * (line.per_g or 0.0) for line in priced)
    return Till(round(paid, 4), round(over, 4), round(house, 4))
