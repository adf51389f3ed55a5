"""Recipes whose foods changed since: what that does to a serving, and which figures count."""

from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.recipes.recipe import Serving, serving_of
from goodcrate.db.changes import Kept
from goodcrate.db.foods import FoodRow
from goodcrate.db.recipes import ComponentRow, LineRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, existing
from goodcrate.services.kitchen import setup_of


@dataclass(frozen=True)
class ChangedFood:
    """A food whose figures changed since a recipe was made: kcal per 100 g before and now, None where unknown."""

    key: str
    name: str
    before_kcal: float | None
    now_kcal: float | None
    changed_at: datetime | None


@dataclass(frozen=True)
class ChangedFigures:
    """What changed under a recipe, and what one serving of it comes to either way."""

    foods: tuple[ChangedFood, ...]
    as_it_was: Serving
    as_it_is: Serving


def changed_figures(caller: Caller, recipe_id: UUID) -> ChangedFigures | None:
    """Foods that changed since the recipe's lines were made with them and nobody has said which figures count.

    None when there are none, or no such recipe.
    """
    with caller.transaction() as session:
        return _CHANGED.get(session, (recipe_id,), lambda: _changed_figures(session, recipe_id))


_CHANGED: Kept[ChangedFigures | None] = Kept(200)


def _changed_figures(session: HouseholdSession, recipe_id: UUID) -> ChangedFigures | None:
    row = session.find(RecipeRow, recipe_id)
    lines = [] if row is None else [line for c in row.components for line in c.lines if line.food_changed]
    if row is None or not lines:
        return None
    foods = {}
    for line in lines:
        before = line.past
        foods[line.food_id] = ChangedFood(
            line.food.key,
            line.food.name,
            None if before is None else before.figures.get("energy_kcal"),
            line.food.energy_kcal,
            line.food.figures_at,
        )
    recipe = setup_of(session).counted(row.value())
    old = {str(line.id): line.food.value(line.past) for line in lines}
    was = replace(
        recipe,
        components=tuple(
            replace(c, lines=tuple(replace(x, food=old.get(x.key, x.food)) for x in c.lines)) for c in recipe.components
        ),
    )
    return ChangedFigures(tuple(foods.values()), serving_of(was), serving_of(recipe))


def settle_changed_figures(caller: Caller, recipe_id: UUID, *, keep: bool) -> None:
    """Say which figures count for a recipe whose foods changed: those it was made with, or the new ones.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        for line in [line for c in row.components for line in c.lines if line.food_changed]:
            line.keeps_figures = keep
            if not keep:
                line.figures_version = line.food.figures_version
            row.version += 1


def take_new_figures(caller: Caller, recipe_id: UUID) -> None:
    """Let a recipe that keeps earlier figures follow its foods again.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        for line in [line for c in row.components for line in c.lines if line.keeps_figures]:
            line.keeps_figures, line.figures_version = False, line.food.figures_version
            row.version += 1


def recipes_with_changed_foods(caller: Caller) -> frozenset[UUID]:
    """Ids of recipes some of whose foods changed since, unanswered."""
    with caller.transaction() as session:
        rows = session.scalars(
            select(ComponentRow.recipe_id)
            .join(LineRow, LineRow.component_id == ComponentRow.id)
            .join(FoodRow, FoodRow.id == LineRow.food_id)
            .where(LineRow.figures_version < FoodRow.figures_version, LineRow.keeps_figures.is_(False))
            .distinct()
        )
        return frozenset(rows)
