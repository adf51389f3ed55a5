"""What a week needs of each food: what its batches weigh in, what is added at packing and on the day, daily extras."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta

from goodcrate.core.foods.food import TAP_WATER, Food, bought_for
from goodcrate.core.recipes.component import IngredientLine

ON_THE_DAY, NIGHT_BEFORE = "on_the_day", "night_before"


@dataclass(frozen=True, slots=True)
class Use:
    """Part of a need: so many edible grams, for which dish, and the day they are weighed or eaten."""

    dish: str
    grams: float
    day: date


@dataclass(frozen=True, slots=True)
class Need:
    """What is needed of one food, use by use, the earliest first. `some_for` are dishes that want some of it, and
    nobody said how much."""

    food: Food
    uses: tuple[Use, ...]
    some_for: tuple[str, ...] = ()

    @property
    def edible_g(self) -> float:
        """All of it without its waste, in g."""
        return sum(use.grams for use in self.uses)

    @property
    def dishes(self) -> tuple[str, ...]:
        """The dishes that share it, in the order they use it."""
        return tuple(dict.fromkeys((*(use.dish for use in self.uses), *self.some_for)))

    @property
    def waiting(self) -> Use | None:
        """What another dish weighs later of what the first one opens: all of that dish's on its first day; None where
        no two dishes share it on different days."""
        if not self.uses:
            return None
        first = self.uses[0]
        later = next((use for use in self.uses if use.day > first.day and use.dish != first.dish), None)
        if later is None:
            return None
        grams = sum(use.grams for use in self.uses if (use.dish, use.day) == (later.dish, later.day))
        return replace(later, grams=grams)

    @property
    def is_waste_known(self) -> bool:
        """Whether peel, bone or liquid is counted; else what is bought is what is eaten."""
        return self.food.refuse_pct is not None

    def bought_g(self, edible_g: float) -> float:
        """What edible grams weigh as bought, in g."""
        weight = bought_for(self.food, edible_g)
        return edible_g if weight is None else weight


@dataclass(frozen=True, slots=True)
class BatchToBuyFor:
    """A batch as far as it is not weighed in: its dish, the day it is cooked, the lines still open, and its portions,
    each with the day it is eaten and its grams."""

    dish: str
    cooked_on: date
    lines: tuple[IngredientLine, ...]
    portions: tuple[tuple[date, float], ...]


def needs_of(
    batches: Iterable[BatchToBuyFor], extras: Iterable[tuple[Food, Use]] = (), raw_of: Mapping[str, Food] | None = None
) -> tuple[Need, ...]:
    """What is needed of each food, in the order of their names.

    `extras` are foods that are eaten besides. Water comes from the tap. `raw_of` gives, by the key of a cooked food,
    the food it is cooked from: that is what is bought, by its cooked yield.
    """
    found: dict[str, tuple[Food, list[Use]]] = {}
    some: dict[str, list[str]] = {}

    def add(food: Food, use: Use) -> None:
        raw = (raw_of or {}).get(food.key)
        if raw is not None and raw.cooked_yield:
            food, use = raw, replace(use, grams=use.grams / raw.cooked_yield)
        if use.grams > 0 and food.key not in TAP_WATER:
            found.setdefault(food.key, (food, []))[1].append(use)

    for batch in batches:
        for line in batch.lines:
            if line.is_to_taste and line.amount.grams == 0:
                found.setdefault(line.food.key, (line.food, []))
                some.setdefault(line.food.key, []).append(batch.dish)
            for day, grams in _when(line, batch):
                add(line.food, Use(batch.dish, grams, day))
    for food, use in extras:
        add(food, use)
    by_name = sorted(found.values(), key=lambda f: (f[0].name, f[0].key))
    return tuple(
        Need(food, tuple(sorted(uses, key=lambda u: (u.day, u.dish))), tuple(dict.fromkeys(some.get(food.key, ()))))
        for food, uses in by_name
    )


def _when(line: IngredientLine, batch: BatchToBuyFor) -> Iterable[tuple[date, float]]:
    """The days a line is weighed on, with the grams of each: at the session, or by portions as they are eaten."""
    total = sum(grams for _, grams in batch.portions)
    if line.use not in (ON_THE_DAY, NIGHT_BEFORE) or total <= 0:
        yield batch.cooked_on, line.weighed_in_g
        return
    before = timedelta(days=1 if line.use == NIGHT_BEFORE else 0)
    for day, grams in batch.portions:
        yield day - before, line.weighed_in_g * grams / total
