"""The week: which prep session serves which slot, and which batches follow from what was placed."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up, week_start
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.recipe import Recipe, portion_g
from goodcrate.core.recipes.variants import base_recipe_key

LONGEST_WEEK_DAYS = 14
USUAL_LENGTH_MIN = 120
"""How long a session takes as long as nobody said: our assumption until a run sheet computes it."""
LONGEST_SESSION_MIN = 24 * 60


def week_dates(first_day: date, days: int) -> tuple[date, ...]:
    """The dates of a plan, in order.

    Raises:
        InvalidInput: when the plan is not 1 to 14 days long.
    """
    if not 1 <= days <= LONGEST_WEEK_DAYS:
        raise InvalidInput(
            "days",
            say("A plan of {days} days is not possible.", days=days),
            say("Give 1 to {LONGEST_WEEK_DAYS} days.", LONGEST_WEEK_DAYS=LONGEST_WEEK_DAYS),
        )
    return tuple(first_day + timedelta(days=n) for n in range(days))


@dataclass(frozen=True, slots=True)
class PrepSession:
    """A dated block of cooking, by the household's clock. `ready` is when its food can be eaten, where that is known;
    else it is when the session is over."""

    key: str
    starts_at: datetime
    length_min: int = USUAL_LENGTH_MIN
    ready: datetime | None = None

    @property
    def ready_at(self) -> datetime:
        """When its food can be eaten."""
        return self.ready or self.starts_at + timedelta(minutes=self.length_min)

    def serves(self, day: date, slot_time: time) -> bool:
        """Whether its food can be eaten in a slot. Slots after midnight belong to the date they are eaten on."""
        return self.ready_at <= datetime.combine(day, slot_time)


def serving_session(sessions: Iterable[PrepSession], day: date, slot_time: time) -> PrepSession | None:
    """The session that cooks for a slot: the latest whose food is ready by then, or None when there is none."""
    before = [s for s in sessions if s.serves(day, slot_time)]
    return max(before, key=lambda s: s.starts_at) if before else None


COOKS_AT = time(14, 0)


def first_session(first_day: date, today: date) -> datetime:
    """When a week that is started cooks first: the afternoon before it, or today's when that is over already."""
    return datetime.combine(max(first_day - timedelta(days=1), today), COOKS_AT)


FEWEST_DAYS_LEFT = 3
"""A week that is begun today still begins tomorrow when so many of its days are left, in weeks from Monday until
Thursday; else it is the next one: our line."""
SECOND_SESSION_FROM_DAYS = 5
"""A week this long is begun with two prep sessions, since few boxes keep longer than three or four days."""
SECOND_SESSION_AT = time(18, 30)
"""When one more session begins; the cook may remove it and add it at another time."""


def days_from_now(today: date) -> tuple[date, int]:
    """First day and length of a week that somebody begins today: tomorrow to the week's end, or the whole next week."""
    begins_next = week_start(today) + timedelta(days=7)
    left = (begins_next - today).days - 1
    return (today + timedelta(days=1), left) if left >= FEWEST_DAYS_LEFT else (begins_next, 7)


def second_session(first_day: date, days: int) -> datetime | None:
    """When a week that is begun cooks once more: on its third evening; None when one session serves it."""
    if days < SECOND_SESSION_FROM_DAYS:
        return None
    return datetime.combine(first_day + timedelta(days=2), SECOND_SESSION_AT)


PAST_WEIGHS = 1.5


def session_at_hand(starts: Iterable[datetime], today: date) -> datetime | None:
    """The session somebody most likely cooks or portions now: the nearest day, one to come before one that is over.

    A past day weighs one and a half: our line. None without sessions.
    """

    def far(start: datetime) -> tuple[float, datetime]:
        days = (start.date() - today).days
        return (days if days >= 0 else -PAST_WEIGHS * days), start

    return min(starts, key=far, default=None)


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
    """One component to be cooked in one session. `factor` scales the recipe's ingredient weights.

    `cooked_g` is the sum of its portions, `cooked_error_g` the standard error of what the pot will weigh.
    """

    session_key: str
    recipe_key: str
    component_key: str
    factor: float
    cooked_g: float
    portions: tuple[PlannedPortion, ...]
    cooked_error_g: float | None = None


def batches_that_follow(placings: Sequence[Placing], recipes: Iterable[Recipe]) -> tuple[PlannedBatch, ...]:
    """The batches a week's placings ask for: one per component and session, sized to the sum of its portions.

    A component that several recipes (or a recipe and its variant) serve is cooked once. Order: by session and recipe as
    first met, then by the recipe's own order of components. Placings that no session serves, and components without
    ingredients, give none. The recipe of a batch is the one its component belongs to, when that is known.
    """
    by_key = {recipe.key: recipe for recipe in recipes}
    found: dict[tuple[str, str], tuple[Component, str, list[PlannedPortion]]] = {}
    groups: dict[tuple[str, str], list[Placing]] = {}
    for placing in placings:
        if placing.session_key is not None and placing.recipe_key in by_key:
            groups.setdefault((placing.session_key, placing.recipe_key), []).append(placing)
    for (session_key, recipe_key), group in groups.items():
        recipe = by_key[recipe_key]
        for component in recipe.components:
            if not component.lines:
                continue
            serving_g = portion_g(recipe, component, expected_cooked_weight(component).grams)
            owner = _owner(component, recipe_key, by_key)
            portions = found.setdefault((session_key, component.key), (component, owner, []))[2]
            portions += [PlannedPortion(p.key, p.servings * serving_g) for p in group]
    return tuple(_batch(session_key, *asked) for (session_key, _), asked in found.items())


def _batch(session_key: str, component: Component, owner: str, portions: Sequence[PlannedPortion]) -> PlannedBatch:
    """A component as it is cooked once for these portions."""
    expected, asked_g = expected_cooked_weight(component), sum(p.grams for p in portions)
    factor = asked_g / expected.grams if expected.grams > 0 else 0.0
    error_g = expected.standard_error_g * factor
    return PlannedBatch(session_key, owner, component.key, factor, asked_g, tuple(portions), cooked_error_g=error_g)


def _owner(component: Component, recipe_key: str, recipes: Mapping[str, Recipe]) -> str:
    """The recipe a batch is filed under: the component's own when it is known, else the one that asks for it."""
    if component.variant_of:
        return recipe_key
    own = component.used_from or base_recipe_key(recipe_key)
    return own if own in recipes else recipe_key


def with_shared_components(recipes: Mapping[str, Recipe]) -> dict[str, Recipe]:
    """Recipes that serve each other's components, each with the very component the other one has here.

    A week keeps its versions: a component served twice is then cooked from one version of its lines.
    """
    own = {c.key: c for recipe in recipes.values() for c in recipe.own_components}
    joined = {}
    for key, recipe in recipes.items():
        if any(c.is_used and c.key in own for c in recipe.components):
            components = tuple(
                replace(own[c.key], used_from=c.used_from, serving_g=c.serving_g) if c.is_used and c.key in own else c
                for c in recipe.components
            )
            joined[key] = replace(recipe, components=components)
        else:
            joined[key] = recipe
    return joined


SERVINGS_PLACES = 14


def kept_servings(servings: float) -> float:
    """Servings as a week keeps them: to so many places that a portion planned in whole grams stays that."""
    return round(servings, SERVINGS_PLACES)


def planned_line_g(recipe_line_g: float, factor: float) -> float:
    """An ingredient's planned weight in a batch: whole grams, or tenths under 10 g, as a scale can show it."""
    grams = recipe_line_g * factor
    return round_half_up(grams, 1 if grams < 10 else 0)
