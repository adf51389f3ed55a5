"""Which container each box of a week goes into, kept until the plan or the kitchen changes."""

from collections.abc import Mapping, Sequence
from datetime import datetime, time

from goodcrate.core.portion.containers import Packing, ToPack, pack_into
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.placings import Placing, PrepSession, batches_that_follow
from goodcrate.db.changes import Memo

_PACKINGS: Memo[Packing] = Memo(16)


def packing_of(
    meals: Sequence[Meal],
    placings: tuple[Placing, ...],
    recipes: Mapping[str, Recipe],
    sessions: Sequence[PrepSession],
    vessels: Sequence[Vessel],
    *,
    made_of: object,
) -> Packing:
    """The containers of a week's own boxes: each is taken from its session until its meal is eaten.

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
    whole_g: dict[str, float] = {}
    parts: dict[str, int] = {}
    for plan in batches_that_follow(placings, recipes.values()):
        for portion in plan.portions:
            whole_g[portion.placing_key] = whole_g.get(portion.placing_key, 0.0) + portion.grams
            parts[portion.placing_key] = parts.get(portion.placing_key, 0) + 1
    starts = {s.key: s.starts_at.timestamp() for s in sessions}
    meal_of = {str(m.id): m for m in meals}
    boxes = [
        ToPack(
            placing.key,
            whole_g[placing.key],
            parts[placing.key],
            meal_of[placing.key].is_frozen,
            since=starts[placing.session_key],
            until=datetime.combine(meal_of[placing.key].day, time(23, 59)).timestamp(),
        )
        for placing in placings
        if placing.session_key is not None and placing.key in whole_g
    ]
    return pack_into(boxes, vessels)
