"""The week: which prep session serves which slot, and which batches follow from what was placed."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from goodcrate.core.amounts import round_half_up
from goodcrate.core.errors import InvalidInput
from goodcrate.core.recipes import Recipe, expected_cooked_weight

LONGEST_WEEK_DAYS = 14
SESSION_LENGTH = timedelta(hours=2)
"""How long after its start a session's food counts as ready: our assumption until a run sheet computes it."""


def week_dates(first_day: date, days: int) -> tuple[date, ...]:
    """The dates of a plan, in order.

    Raises:
        InvalidInput: when the plan is not 1 to 14 days long.
    """
    if not 1 <= days <= LONGEST_WEEK_DAYS:
        raise InvalidInput("days", f"A plan of {days} days is not possible.", f"Give 1 to {LONGEST_WEEK_DAYS} days.")
    return tuple(first_day + timedelta(days=n) for n in range(days))


@dataclass(frozen=True, slots=True)
class PrepSession:
    """A dated block of cooking, by the household's clock."""

    key: str
    starts_at: datetime


def serving_session(sessions: Iterable[PrepSession], day: date, slot_time: time) -> PrepSession | None:
    """The session that cooks for a slot: the latest that is over by then, or None when there is none.

    Slots after midnight belong to the date they are eaten on.
    """
    eaten_at = datetime.combine(day, slot_time)
    before = [s for s in sessions if s.starts_at + SESSION_LENGTH <= eaten_at]
    return max(before, key=lambda s: s.starts_at) if before else None


@dataclass(frozen=True, slots=True)
class Placing:
    """A recipe put in one slot of one eater on one day, in so many servings."""

    key: str
    recipe_key: str
    servings: float
    session_key: str | None


@dataclass(frozen=True, slots=True)
class PlannedPortion:
    """Grams of one component meant for one placing."""

    placing_key: str
    grams: float


@dataclass(frozen=True, slots=True)
class PlannedBatch:
    """One component to be cooked in one session. `factor` scales the recipe's ingredient weights."""

    session_key: str
    recipe_key: str
    component_key: str
    factor: float
    cooked_g: float
    portions: tuple[PlannedPortion, ...]


def batches_that_follow(placings: Sequence[Placing], recipes: Iterable[Recipe]) -> tuple[PlannedBatch, ...]:
    """The batches a week's placings ask for: one per component and session, sized to the sum of its servings.

    Order: by session as first met, then by recipe, then by the recipe's own order of components. Placings that no
    session serves, and components without ingredients, give none.
    """
    by_key = {recipe.key: recipe for recipe in recipes}
    groups: dict[tuple[str, str], list[Placing]] = {}
    for placing in placings:
        if placing.session_key is not None and placing.recipe_key in by_key:
            groups.setdefault((placing.session_key, placing.recipe_key), []).append(placing)
    batches = []
    for (session_key, recipe_key), group in groups.items():
        recipe = by_key[recipe_key]
        factor = sum(p.servings for p in group) / recipe.servings
        for component in recipe.components:
            if not component.lines:
                continue
            cooked_g = expected_cooked_weight(component).grams
            per_serving_g = cooked_g / recipe.servings
            portions = tuple(PlannedPortion(p.key, p.servings * per_serving_g) for p in group)
            batches.append(PlannedBatch(session_key, recipe_key, component.key, factor, cooked_g * factor, portions))
    return tuple(batches)


def planned_line_g(recipe_line_g: float, factor: float) -> float:
    """An ingredient's planned weight in a batch: whole grams, or tenths under 10 g, as a scale can show it."""
    grams = recipe_line_g * factor
    return round_half_up(grams, 1 if grams < 10 else 0)
