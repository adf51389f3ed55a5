"""Which container each box of a week goes into, kept until the plan or the kitchen changes."""

from collections.abc import Mapping, Sequence
from datetime import datetime, time

from goodcrate.core.portion.containers import Packing, ToPack, apart_key, pack_into
from goodcrate.core.recipes.keeping import APART, storage_of
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.placings import Placing, PrepSession, batches_that_follow
from goodcrate.db.changes import Memo
from goodcrate.formats.reference import keep_groups

_PACKINGS: Memo[Packing] = Memo(64)


def packing_of(
    meals: Sequence[Meal],
    placings: tuple[Placing, ...],
    recipes: Mapping[str, Recipe],
    sessions: Sequence[PrepSession],
    vessels: Sequence[Vessel],
    *,
    made_of: object,
) -> Packing:
    """The containers of a week's own boxes: each is taken from its session until its meal is eaten. What is kept apart
    (a dressing) has a pot of its own.

    `made_of` is all that the recipes depend on.
    """
    kinds = tuple((v.key, v.volume_ml, v.count, v.compartments, v.stands) for v in vessels)
    same = (placings, made_of, tuple((m.id, m.day, m.is_frozen) for m in meals), tuple(sessions), kinds)
    known = _PACKINGS.find(same)
    return known if known is not None else _PACKINGS.put(same, _packing(meals, placings, recipes, sessions, vessels))


def _packing(
    meals: Sequence[Meal],
    placings: Sequence[Placing],
    recipes: Mapping[str, Recipe],
    sessions: Sequence[PrepSession],
    vessels: Sequence[Vessel],
) -> Packing:
    meal_of = {str(m.id): m for m in meals}
    starts = {s.key: s.starts_at.timestamp() for s in sessions}
    served_by = {placing.key: placing.session_key for placing in placings}
    apart = _kept_apart(recipes)
    whole_g: dict[tuple[str, str], float] = {}
    parts: dict[tuple[str, str], int] = {}
    for plan in batches_that_follow(placings, recipes.values()):
        for portion in plan.portions:
            into = (portion.placing_key, plan.component_key if plan.component_key in apart else "")
            whole_g[into] = whole_g.get(into, 0.0) + portion.grams
            parts[into] = parts.get(into, 0) + 1
    boxes = [
        ToPack(
            apart_key(key, component) if component else key,
            grams,
            parts[key, component],
            meal_of[key].is_frozen,
            since=starts[session_key],
            until=datetime.combine(meal_of[key].day, time(23, 59)).timestamp(),
            is_small=bool(component),
        )
        for (key, component), grams in whole_g.items()
        if (session_key := served_by[key]) is not None
    ]
    return pack_into(boxes, vessels)


def _kept_apart(recipes: Mapping[str, Recipe]) -> frozenset[str]:
    """The components that go into a small pot of their own; what is the only one of its dish does not."""
    return frozenset(
        component.key
        for recipe in recipes.values()
        for component in recipe.components
        if component.lines
        and len(recipe.components) > 1
        and storage_of(component, recipe.steps, keep_groups()).container == APART
    )
