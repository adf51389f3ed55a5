"""Recipes and components as foods, to be compared beside bought ones: `recipe:` or `component:` and an id."""

from collections.abc import Iterable
from dataclasses import dataclass

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.typed import id_of
from goodcrate.core.recipes.as_food import dish_as_food
from goodcrate.db.recipes import ComponentRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller
from goodcrate.services.recipes.library import RecipeValue, recipe_values

RECIPE, COMPONENT = "recipe:", "component:"


@dataclass(frozen=True)
class OwnDish:
    """A recipe or a component that can be compared, by its key."""

    key: str
    name: str


def own_dishes(caller: Caller) -> list[OwnDish]:
    """What the household can compare: its recipes by name, and the components of those that have several."""
    with caller.transaction() as session:
        ids = set(session.scalars(select(RecipeRow.id).where(RecipeRow.is_archived.is_(False))))
        values = sorted(recipe_values(session, ids).values(), key=lambda v: v.recipe.name)
        return [dish for value in values if not value.broken for dish in _dishes(value)]


def _dishes(value: RecipeValue) -> Iterable[OwnDish]:
    recipe = value.recipe
    yield OwnDish(f"{RECIPE}{recipe.key}", recipe.name)
    own = [part for part in recipe.own_components if part.lines]
    if len(own) > 1:
        yield from (OwnDish(f"{COMPONENT}{part.key}", f"{recipe.name}: {part.name}") for part in own)


def own_dish_foods(caller: Caller, keys: Iterable[str]) -> dict[str, Food]:
    """The dishes of these keys as foods; keys of nothing the household has are left out."""
    wanted = [key for key in keys if key.startswith((RECIPE, COMPONENT))]
    if not wanted:
        return {}
    with caller.transaction() as session:
        found = ((key, _as_food(session, key)) for key in wanted)
        return {key: food for key, food in found if food is not None}


def _as_food(session: HouseholdSession, key: str) -> Food | None:
    kind, _, typed = key.partition(":")
    row_id = id_of(typed)
    if row_id is None:
        return None
    component = session.find(ComponentRow, row_id) if f"{kind}:" == COMPONENT else None
    recipe_id = component.recipe_id if component is not None else row_id
    value = recipe_values(session, {recipe_id}).get(recipe_id)
    if value is None or value.broken:
        return None
    recipe, parts = value.recipe, value.serving.parts
    if component is None:
        return dish_as_food(key, recipe.name, parts, recipe.servings)
    own = [part for part in parts if part.component.key == str(row_id)]
    return dish_as_food(key, f"{recipe.name}: {component.name}", own, recipe.servings)
