"""What a week takes instead of a food its recipes say: noted at the shelf, undone by one tap."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.foods.food import Food
from goodcrate.core.recipes.instead import resolved, with_instead
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.shop import InsteadRow
from goodcrate.services.calling import Caller
from goodcrate.services.foods.shelf import foods_of


def instead_of(session: HouseholdSession, week_id: UUID) -> Mapping[str, Food]:
    """By the key of a food the one that a week takes instead."""
    rows = session.scalars(select(InsteadRow).where(InsteadRow.week_id == week_id, InsteadRow.live == 1)).all()
    if not rows:
        return {}
    ids = {row.food_id for row in rows} | {row.instead_id for row in rows}
    keys = {food.id: food.key for food in session.scalars(select(FoodRow).where(FoodRow.id.in_(ids)))}
    last = resolved({keys[row.food_id]: keys[row.instead_id] for row in rows})
    foods = foods_of(session, set(last.values()))
    return {key: foods[taken] for key, taken in last.items() if taken in foods}


def instead_in(caller: Caller, week_id: UUID) -> Mapping[str, Food]:
    """By the key of a food the one that a week takes instead."""
    with caller.transaction() as session:
        return instead_of(session, week_id)


def recipes_instead(recipes: Mapping[str, Recipe], instead: Mapping[str, Food]) -> dict[str, Recipe]:
    """The recipes of a week as it cooks them."""
    return {key: with_instead(recipe, instead) for key, recipe in recipes.items()}


def cooked_in(session: HouseholdSession, week_id: UUID, recipe: Recipe) -> Recipe:
    """A recipe as a week cooks it: whoever must not get what it takes instead must not get the recipe there."""
    return with_instead(recipe, instead_of(session, week_id))


@dataclass(frozen=True)
class Instead:
    """A food that a week takes in the place of another."""

    id: UUID
    food: Food
    taken: Food


def list_instead(session: HouseholdSession, week_id: UUID) -> tuple[Instead, ...]:
    """Every food a week takes instead of another, by the name of the one that is not taken."""
    rows = session.scalars(select(InsteadRow).where(InsteadRow.week_id == week_id, InsteadRow.live == 1)).all()
    ids = {row.food_id for row in rows} | {row.instead_id for row in rows}
    foods = {f.id: f.value() for f in session.scalars(select(FoodRow).where(FoodRow.id.in_(ids)))} if ids else {}
    found = (Instead(row.id, foods[row.food_id], foods[row.instead_id]) for row in rows)
    return tuple(sorted(found, key=lambda i: i.food.name))
