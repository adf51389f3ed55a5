"""How a week that is planned from files is bought: foods in packs, what dishes weigh of them, and a budget."""

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.week.week_buying import PlanFood, Till, Weighed
from goodcrate.core.week.week_faults import twice
from goodcrate.formats.compute import Model

Grams = Annotated[float, Field(ge=0, le=100_000)]
Price = Annotated[float, Field(ge=0, le=1_000_000)]
Day = Annotated[int, Field(ge=-30, le=400)]


class WeighedIn(Model):
    """What a gram of a dish takes of a food, in g as bought."""

    food: str = Field(min_length=1, max_length=80)
    per_g: float = Field(ge=0, le=100)
    days_before: int | None = Field(
        None, ge=0, le=1, description="Null: weighed at the session; else so many days before it is eaten."
    )


class PackOnSaleIn(Model):
    """A pack and what it costs."""

    grams: float = Field(ge=1, le=25_000)
    price: Price


class InHouseIn(Model):
    """What is in the house, and the last day of the plan on which it can be used; null for longer."""

    grams: Grams
    until: Day | None = None


class NeededIn(Model):
    """What the week takes anyway, in g as bought."""

    day: Day
    grams: Grams


class FoodOnSaleIn(Model):
    """A food the planner buys, in whole packs, or loose by the gram without any."""

    key: str = Field(min_length=1, max_length=80)
    packs: list[PackOnSaleIn] = Field(default_factory=list, max_length=8)
    price_per_g: float = Field(0, ge=0, le=10_000)
    needed: list[NeededIn] = Field(default_factory=list, max_length=400)
    house: list[InHouseIn] = Field(default_factory=list, max_length=100)
    floor_g: Grams = 0


class TillIn(Model):
    """How food is bought. What is fixed in the plan is no part of it but by `needed`."""

    foods: list[FoodOnSaleIn] = Field(min_length=1, max_length=2000)
    aim: Literal["least_left", "least_cost"] = "least_left"
    spare_pct: float = Field(0, ge=0, le=50)
    budget: Price | None = Field(None, description="What the list may cost, for the aim within_budget.")


def till_given(given: TillIn) -> Till:
    """The same as core takes it."""
    foods = []
    for food in given.foods:
        packs = tuple(Pack(f"{food.key}.{n}", p.grams, p.price) for n, p in enumerate(food.packs))
        needs: dict[int, float] = {}
        for need in food.needed:
            needs[need.day] = needs.get(need.day, 0.0) + need.grams
        stock = tuple((thing.grams, thing.until) for thing in food.house)
        foods.append(PlanFood(food.key, packs, food.price_per_g, needs, stock, food.floor_g))
    return Till(tuple(foods), given.aim, given.spare_pct, given.budget)


def weighs_given(given: Sequence[WeighedIn]) -> tuple[Weighed, ...]:
    """What a dish weighs, as core takes it."""
    return tuple(Weighed(w.food, w.per_g, w.days_before) for w in given)


def till_faults(till: TillIn | None, weighed: Sequence[Sequence[WeighedIn]], aim: str) -> Iterator[InvalidInput]:
    """What cannot be: a food named twice or nowhere, or an aim that needs a budget nobody gave."""
    known = set() if till is None else {food.key for food in till.foods}
    if till is not None:
        yield from twice("plan.till.foods", [food.key for food in till.foods])
    for n, dish in enumerate(weighed):
        for k, w in enumerate(dish):
            if w.food not in known:
                words = f"There is no food “{w.food}” in the till."
                yield InvalidInput(f"plan.dishes.{n}.weighs.{k}.food", words, "Name it in till.foods.")
    if aim == "within_budget" and (till is None or till.budget is None):
        yield InvalidInput("plan.till.budget", "What may the list cost?", "Give a budget, or choose another aim.")
