"""What a week to be planned buys: what stays in it, what each dish would weigh, and the packs and prices for both."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from statistics import median

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.shop.needs import NIGHT_BEFORE, ON_THE_DAY, BatchToBuyFor, Need, needs_of
from goodcrate.core.shop.shopping_list import Stock, price_kind, prices_by_kind
from goodcrate.core.week.week_buying import PlanFood, Till, Weighed
from goodcrate.core.week.week_problem import PlanDish
from goodcrate.db.session import HouseholdSession
from goodcrate.services.foods.bought_as import raw_by_cooked
from goodcrate.services.foods.packs_known import packs_of
from goodcrate.services.shop.listing import Around, around_of, batches_of, extras_of, with_floors
from goodcrate.services.week.weeks import WeekPicture

DAYS_BEFORE: Mapping[str, int | None] = {"": None, ON_THE_DAY: 0, NIGHT_BEFORE: 1}
"""When a line is weighed: at the session, or so many days before its meal."""


def without_meals(picture: WeekPicture, gone: Collection[str]) -> Iterable[BatchToBuyFor]:
    """The week's batches without the portions of meals that give way."""
    for batch, worked in zip(batches_of(picture), picture.outcome.batches, strict=True):
        grams = [(portion.grams, portion.placing_key in gone) for portion in worked.plan.portions]
        whole, stays = sum(g for g, _ in grams), sum(g for g, is_gone in grams if not is_gone)
        if whole == stays:
            yield batch
        elif stays > 0:
            kept = tuple(p for p, (_, is_gone) in zip(batch.portions, grams, strict=True) if not is_gone)
            yield replace(batch, lines=scaled(batch.lines, stays / whole), portions=kept)


def scaled(lines: Iterable[IngredientLine], times: float) -> tuple[IngredientLine, ...]:
    """Lines of so many times as much."""
    return tuple(replace(line, amount=amount_of(line.amount.grams * times)) for line in lines)


def till_for(
    session: HouseholdSession,
    picture: WeekPicture,
    made: Mapping[str, Recipe],
    gone: Collection[str],
    budget: float | None,
) -> tuple[Till | None, Mapping[str, tuple[Weighed, ...]]]:
    """How a week's list is bought, and what each of these recipes (by dish) weighs of a food; no till where no price of
    anything is known.

    What nothing tells the price of is reckoned at the middle price of all that is known: for nothing it would be
    chosen first.
    """
    around = around_of(session, picture.week.id)
    standing = with_floors(needs_of(without_meals(picture, gone), extras_of(picture), raw_by_cooked()), around)
    dishes = {key: tuple(_weighed(recipe)) for key, recipe in made.items()}
    foods = {need.food.key: need.food for weighed in dishes.values() for need, _ in weighed}
    needs = {need.food.key: need for need in standing}
    every = list({**foods, **{key: need.food for key, need in needs.items()}}.values())
    prices = _Prices.of(every, around)
    if prices is None:
        return None, {}
    first = picture.week.first_day
    bought = tuple(_plan_food(food, needs.get(food.key), around, prices, first) for food in every)
    settings = around.settings
    weighs = {key: tuple(w for _, w in weighed) for key, weighed in dishes.items()}
    return Till(bought, settings.aim, settings.spare_pct, budget), weighs


def with_weights(
    dishes: Iterable[PlanDish], weighs: Mapping[str, tuple[Weighed, ...]], till: Till | None
) -> tuple[PlanDish, ...]:
    """The dishes with what a gram of them takes of each food, and what that costs by the gram."""
    per_g = {food.key: food.about_per_g for food in till.foods} if till is not None else {}
    return tuple(
        replace(d, weighs=weighs[d.key], cost_per_g=sum(per_g[w.food_key] * w.per_g for w in weighs[d.key]))
        if d.key in weighs
        else d
        for d in dishes
    )


def _weighed(recipe: Recipe) -> Iterable[tuple[Need, Weighed]]:
    """What a gram of a recipe takes of each food as bought, by when it is weighed."""
    whole_g = serving_of(recipe).tally.grams * recipe.servings
    for use, days_before in DAYS_BEFORE.items():
        lines = tuple(line for line in recipe.lines if (line.use if line.use in DAYS_BEFORE else "") == use)
        for need in needs_of((BatchToBuyFor(recipe.name, date.min, _at_once(lines), ()),), (), raw_by_cooked()):
            if need.edible_g > 0:
                yield need, Weighed(need.food.key, need.bought_g(need.edible_g) / whole_g, days_before)


def _at_once(lines: Iterable[IngredientLine]) -> tuple[IngredientLine, ...]:
    return tuple(replace(line, use="") for line in lines)


@dataclass(frozen=True)
class _Prices:
    """What a gram costs of foods whose own price nobody knows: by their kind, else in the middle of all."""

    by_kind: Mapping[tuple[str, str, str], float]
    middle: float

    @staticmethod
    def of(foods: Iterable[Food], around: Around) -> "_Prices | None":
        packs = {food.key: packs_of(food, around.packs) for food in foods}
        cheapest = [
            min(prices) for of in packs.values() if (prices := [p.price / p.grams for p in of if p.price is not None])
        ]
        return _Prices(prices_by_kind(packs, foods), median(cheapest)) if cheapest else None


def _plan_food(food: Food, need: Need | None, around: Around, prices: _Prices, first: date) -> PlanFood:
    packs = packs_of(food, around.packs)
    known = [p.price / p.grams for p in packs if p.price is not None]
    per_g = min(known) if known else prices.by_kind.get(price_kind(food), prices.middle)
    priced = tuple(replace(p, price=per_g * p.grams) if p.price is None else p for p in packs)
    needs: dict[int, float] = {}
    for use in need.uses if need else ():
        day = (use.day - first).days
        needs[day] = needs.get(day, 0.0) + Need(food, ()).bought_g(use.grams)
    stock = [_until(s, first) for s in around.stock.values() if s.food_key == food.key]
    floor = around.floors[food.key][1] if food.key in around.floors else 0.0
    return PlanFood(food.key, priced, per_g, needs, tuple(stock), floor)


def _until(stock: Stock, first: date) -> tuple[float, int | None]:
    return stock.grams, None if stock.until is None else (stock.until - first).days
