"""Earlier versions of recipes: listing them, undo, and bringing one back."""

from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy import delete, select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.db.changes import Kept
from goodcrate.db.recipes import RecipePastRow, RecipeRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import WeekRow
from goodcrate.services.calling import Caller, NotFound, existing
from goodcrate.services.recipes.recipe_input import check_recipe, of_document
from goodcrate.services.recipes.saving import KEEP_PAST, put_recipe


@dataclass(frozen=True)
class PastVersion:
    """An earlier version of a recipe: until when it stood, and how many weeks were planned with it."""

    version: int
    until: datetime
    name: str
    servings: float
    lines: int
    weeks: int


def past_versions(caller: Caller, recipe_id: UUID) -> list[PastVersion]:
    """The kept versions of a recipe, newest first.

    Raises:
        NotFound: when the household has no such recipe.
    """
    with caller.transaction() as session:
        return _PAST.get(session, (recipe_id,), lambda: _past_versions(session, recipe_id))


_PAST: Kept[list[PastVersion]] = Kept(200)


def _past_versions(session: HouseholdSession, recipe_id: UUID) -> list[PastVersion]:
    if session.scalar(select(RecipeRow.id).where(RecipeRow.id == recipe_id)) is None:
        raise NotFound("recipe")
    planned = _planned(session, recipe_id)
    rows = session.scalars(
        select(RecipePastRow).where(RecipePastRow.recipe_id == recipe_id).order_by(RecipePastRow.version.desc())
    ).all()
    return [
        PastVersion(
            row.version,
            row.saved_at,
            row.document["name"],
            row.document["servings"],
            sum(len(c["lines"]) for c in row.document["components"]),
            planned.count(row.version),
        )
        for row in rows
    ]


def _planned(session: HouseholdSession, recipe_id: UUID) -> list[int]:
    """The versions of a recipe weeks were planned with, one per week."""
    return [v[str(recipe_id)] for v in session.scalars(select(WeekRow.recipe_versions)) if str(recipe_id) in v]


def undo(caller: Caller, recipe_id: UUID) -> int:
    """Bring a recipe back to how it was before the last save, and return its new version. Undone twice is redone.

    Raises:
        NotFound: when the household has no such recipe.
        InvalidInput: when there is nothing to undo.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        newest = session.scalar(
            select(RecipePastRow).where(RecipePastRow.recipe_id == recipe_id).order_by(RecipePastRow.version.desc())
        )
        if newest is None:
            raise InvalidInput("version", say("There is nothing to undo."), say("This is the first version."))
        return _bring_back(session, row, newest)


def restore(caller: Caller, recipe_id: UUID, version: int) -> int:
    """Make an earlier version the present one, and return its new version. What stands now is kept too.

    Raises:
        NotFound: when the household has no such recipe, or that version was not kept.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        past = session.scalar(
            select(RecipePastRow).where(RecipePastRow.recipe_id == recipe_id, RecipePastRow.version == version)
        )
        if past is None:
            raise NotFound("version")
        return _bring_back(session, row, past)


def _bring_back(session: HouseholdSession, row: RecipeRow, past: RecipePastRow) -> int:
    typed = replace(of_document(past.document), version=row.version)
    check_recipe(typed)
    version = put_recipe(session, typed)
    _prune(session, row.id)
    return version


def _prune(session: HouseholdSession, recipe_id: UUID) -> None:
    """Forget versions beyond the last `KEEP_PAST` that no week was planned with."""
    planned = set(_planned(session, recipe_id))
    versions = session.scalars(
        select(RecipePastRow.version)
        .where(RecipePastRow.recipe_id == recipe_id)
        .order_by(RecipePastRow.version.desc())
        .offset(KEEP_PAST)
        .limit(1000)
    ).all()
    # A week planned with version 7 is answered with the first kept one from 7 on: that one stays.
    kept = {min((v for v in versions if v >= p), default=None) for p in planned}
    gone = [v for v in versions if v not in kept]
    if gone:
        session.execute(
            delete(RecipePastRow).where(RecipePastRow.recipe_id == recipe_id, RecipePastRow.version.in_(gone))
        )
