"""What a session asks for before it begins: what is soaked by when, and what comes out of the freezer."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, time, timedelta

from goodcrate.core.ground.clocks import minutes_later
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.week.storing import FREEZER
from goodcrate.services.calling import Caller
from goodcrate.services.cook.run_sheet import SessionSheet
from goodcrate.services.foods.bought_as import as_bought
from goodcrate.services.store.pantry import food_kept

EVENING = time(20, 0)
"""When things come out of the freezer and are soaked: our assumption, a calendar moves it."""


@dataclass(frozen=True)
class Beforehand:
    """Something to do before a session, at the latest at a moment by the wall; what it is for."""

    at: datetime
    words: str
    about: str


def beforehand(caller: Caller, there: SessionSheet) -> list[Beforehand]:
    """All of it, in its order."""
    found = [
        Beforehand(minutes_later(there.starts_at, -step.minutes), step.words, step.dish) for step in there.tasks.before
    ]
    return sorted([*found, *_frozen(caller, there)], key=lambda b: (b.at, b.words))


def _frozen(caller: Caller, there: SessionSheet) -> Iterator[Beforehand]:
    """Foods of the house's freezer that the session cooks: as much as it needs, or all there is."""
    used: dict[str, set[str]] = {}
    needed: dict[str, float] = {}
    for dish in there.dishes.values():
        for line in (line for batch in dish.batches for line in batch.component.times(batch.factor).lines):
            own_g = line.amount.grams
            bought, bought_g = as_bought(line.food, own_g)
            for key, grams in {line.food.key: own_g, bought.key: bought_g}.items():
                used.setdefault(key, set()).add(dish.name)
                needed[key] = needed.get(key, 0.0) + grams
    evening = datetime.combine(there.starts_at.date() - timedelta(days=1), EVENING)
    with caller.transaction() as session:
        kept = [(food.name, thing) for row, food, thing in food_kept(session) if row.place == FREEZER]
    for name, thing in kept:
        if thing.food_key in used:
            told = {"grams": shown(min(thing.grams, needed[thing.food_key])), "food": name.split(",")[0].lower()}
            words = say("{grams} g {food} out of the freezer, to thaw in the fridge", **told)
            yield Beforehand(evening, words, ", ".join(sorted(used[thing.food_key])))
