"""Which versions of its recipes a week was planned with, and those that were changed since."""

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.week.meals import Week
from goodcrate.db.cook import BatchRow
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import WeekRow
from goodcrate.services.recipes.library import recipe_values


def pinned_versions(week: WeekRow | Week) -> dict[UUID, int]:
    """The versions of recipes a week was planned with."""
    return {UUID(key): version for key, version in week.recipe_versions.items()}


@dataclass(frozen=True)
class NewerRecipe:
    """A recipe that was changed since a week was planned with it: one serving as planned, and as it is now."""

    id: UUID
    name: str
    planned_kcal: float
    now_kcal: float
    is_cooking: bool


def newer_recipes(session: HouseholdSession, week: Week, recipe_ids: set[UUID]) -> list[NewerRecipe]:
    """The recipes of a week that have a newer version than it was planned with, by name."""
    pinned = pinned_versions(week)
    heads = session.execute(select(RecipeRow.id, RecipeRow.version).where(RecipeRow.id.in_(recipe_ids))).all()
    changed = {head.id for head in heads if pinned.get(head.id, head.version) < head.version}
    if not changed:
        return []
    planned, now = recipe_values(session, changed, pinned), recipe_values(session, changed)
    cooking = set(session.scalars(select(BatchRow.recipe_id).where(BatchRow.week_id == week.id)))
    newer = [
        NewerRecipe(
            row_id,
            now[row_id].recipe.name,
            planned[row_id].serving.tally.amount("energy_kcal").value,
            now[row_id].serving.tally.amount("energy_kcal").value,
            row_id in cooking,
        )
        for row_id in changed
        if planned[row_id].recipe != now[row_id].recipe
    ]
    return sorted(newer, key=lambda n: n.name)
