"""How a day came from what was planned to what was eaten: steps that sum exactly, each with its reason.

Each meal goes through the same stations: planned (its recipe for so many servings), cooked (its planned share of what
was really cooked), packed (its box as it was filled), on the plate (the box that stood there, with what was weighed at
the table), eaten. A step is the difference between two stations, so their sum is what was eaten less what was planned.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from math import floor

from goodcrate.core.ground.nutrients import KEYS, Tally
from goodcrate.core.store.at_table import OffPlan

STOVE, PORTION, SWAP, TABLE, NOT_EATEN, TO_COME, BESIDES = (
    "stove",
    "portion",
    "swap",
    "table",
    "not_eaten",
    "to_come",
    "besides",
)
"""Changed at the stove; more or less in the box; another box; weighed otherwise at the table; not, or not all, eaten;
still to be eaten; eaten besides."""


@dataclass(frozen=True, slots=True)
class MealStory:
    """A meal at its stations. `with_weighed` is what stood on the plate with what was weighed at the table; of a meal
    that `is_open` nothing is known yet of whether it is eaten."""

    meal_key: str
    planned: Tally
    cooked: Tally
    packed: Tally
    on_plate: Tally
    with_weighed: Tally
    eaten: Tally
    is_open: bool = False


@dataclass(frozen=True, slots=True)
class Step:
    """Why a day has so much more or less of something, in its unit; of a meal, or of food besides by its key. `grams`
    is how much more or less food that is."""

    kind: str
    key: str
    amount: float
    grams: float = 0.0


@dataclass(frozen=True, slots=True)
class DayStory:
    """A day's sums of one nutrient, in its unit, and the steps between what was planned and what was eaten."""

    planned: float
    packed: float
    eaten: float
    steps: tuple[Step, ...] = field(default=())


SMALLEST = 1e-9
"""A step smaller than that is none."""


def day_story(meals: Iterable[MealStory], besides: Iterable[OffPlan], extras: Tally, nutrient: str) -> DayStory:
    """A day by one nutrient: the usual extras are planned and eaten alike."""
    steps, place = list[Step](), KEYS.index(nutrient)
    planned = packed = eaten = extras.amount(nutrient).value
    for meal in meals:
        stations = (meal.planned, meal.cooked, meal.packed, meal.on_plate, meal.with_weighed, meal.eaten)
        at = [station.known[place] for station in stations]
        planned, packed, eaten = planned + at[0], packed + at[2], eaten + at[5]
        last = TO_COME if meal.is_open else NOT_EATEN
        for n, kind in enumerate((STOVE, PORTION, SWAP, TABLE, last)):
            if abs(at[n + 1] - at[n]) > SMALLEST:
                grams = stations[n + 1].grams - stations[n].grams
                steps.append(Step(kind, meal.meal_key, at[n + 1] - at[n], grams))
    for food in besides:
        amount = food.tally.amount(nutrient).value
        eaten += amount
        if abs(amount) > SMALLEST:
            steps.append(Step(BESIDES, food.key, amount, food.tally.grams))
    return DayStory(planned, packed, eaten, tuple(steps))


def whole_steps(amounts: Sequence[float], before: float, after: float) -> list[int]:
    """Steps in whole units that lead from the one rounded figure to the other: each rounded down or up, those nearest
    to the next one up, so that what is shown sums to the last digit. For tenths all is given ten times as large."""
    wanted = floor(after + 0.5) - floor(before + 0.5)
    low = [floor(amount) for amount in amounts]
    order = sorted(range(len(amounts)), key=lambda n: low[n] - amounts[n])
    left = wanted - sum(low)
    for n in order:
        step = (left > 0) - (left < 0)
        low[n] += step
        left -= step
    return low
