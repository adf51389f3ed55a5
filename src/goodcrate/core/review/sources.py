"""Where a nutrient came from: which foods brought how much of it, of all that was eaten."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.nutrients import KEYS, Tally

TELL_SHARE, MOST_TOLD = 0.5, 3
"""Foods are named until they brought half of it, three at most: our line."""


@dataclass(frozen=True, slots=True)
class FromFoods:
    """Something that was eaten, and the foods it was made of: by name, with what of each went in. What was eaten shares
    the foods' nutrients as they went in; of a nutrient none of them has, it is nobody's."""

    eaten: Tally
    foods: tuple[tuple[str, Tally], ...]


@dataclass(frozen=True, slots=True)
class Source:
    """A food with what it brought of a nutrient, in its unit, and its share of all that is known, 0 to 1."""

    food: str
    amount: float
    share: float


def sources_of(eaten: Iterable[FromFoods], nutrient: str) -> list[Source]:
    """The foods that brought a nutrient, the largest first; their amounts are all that is known of it."""
    place, brought = KEYS.index(nutrient), dict[str, float]()
    for one in eaten:
        whole = sum(tally.known[place] for _, tally in one.foods)
        if whole > 0:
            share = one.eaten.known[place] / whole
            for food, tally in one.foods:
                brought[food] = brought.get(food, 0.0) + tally.known[place] * share
        elif one.eaten.known[place] > 0:
            brought[""] = brought.get("", 0.0) + one.eaten.known[place]
    known = sum(brought.values())
    found = [Source(food, amount, amount / known) for food, amount in brought.items() if amount > 0]
    return sorted(found, key=lambda s: (-s.amount, s.food))


def main_sources(sources: Sequence[Source]) -> list[Source]:
    """Those worth naming: until they are half of it, three at most."""
    told: list[Source] = []
    for source in sources:
        if source.food and len(told) < MOST_TOLD and sum(s.share for s in told) < TELL_SHARE:
            told.append(source)
    return told


@dataclass(frozen=True, slots=True)
class Together:
    """Of an eater's meals with much of one nutrient, how many hold enough of another as well."""

    meals: int
    with_other: int


IRON_MG, VITAMIN_C_MG, CALCIUM_MG = 3.0, 25.0, 300.0
"""A meal with much iron, with enough vitamin C beside it, and with so much calcium that it holds iron back: our lines.
That the one helps and the other hinders: NIH Office of Dietary Supplements, Iron: fact sheet for health professionals.
"""


def iron_beside(meals: Iterable[Tally]) -> tuple[Together, Together]:
    """Of the meals with much iron, those with vitamin C, and those with much calcium."""
    rich = [meal for meal in meals if meal.amount("iron_mg").value >= IRON_MG]
    with_c = sum(meal.amount("vitamin_c_mg").value >= VITAMIN_C_MG for meal in rich)
    with_calcium = sum(meal.amount("calcium_mg").value >= CALCIUM_MG for meal in rich)
    return Together(len(rich), with_c), Together(len(rich), with_calcium)


@dataclass(frozen=True, slots=True)
class Helps:
    """A food with what a portion of it holds of a nutrient, in its unit."""

    food: str
    amount: float


PORTION_G, PORTION_KCAL = 150.0, 200.0
"""What counts as a portion of a food: 150 g, or what 200 kcal are of it. Our lines."""
HELPS_SHARE = 0.1
"""A food helps when a portion brings a tenth of what is asked a day: our line."""


def helping(foods: Iterable[tuple[str, float | None, float | None]], wanted: float) -> list[Helps]:
    """Which foods, each with its nutrient (in its unit) and its kcal per 100 g, would help where so much is asked a
    day, the best first, two at most. Unknown helps nobody."""
    found = []
    for name, per_100_g, kcal in foods:
        if per_100_g and kcal is not None:
            portion_g = min(PORTION_G, 100 * PORTION_KCAL / kcal) if kcal > 0 else PORTION_G
            found.append(Helps(name, per_100_g * portion_g / 100))
    helps = (one for one in found if one.amount >= HELPS_SHARE * wanted)
    return sorted(helps, key=lambda h: (-h.amount, h.food))[:2]
