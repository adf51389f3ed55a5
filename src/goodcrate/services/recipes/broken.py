"""Recipes with a value that no kitchen has, which cannot be computed: what is stored of them, and taking them away."""

from contextlib import suppress
from uuid import UUID

from sqlalchemy import delete, inspect
from sqlalchemy.exc import IntegrityError

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.db.recipes import RecipePastRow, RecipeRow
from goodcrate.services.calling import Caller, existing
from goodcrate.services.recipes.library import is_broken


def stored(caller: Caller, recipe_id: UUID) -> dict[str, object]:
    """A recipe's rows as they stand, nothing computed: what is left to take out of one that is broken.

    Raises:
        NotFound: when the household has none with this id.
    """

    def plain(row: object) -> dict[str, object]:
        return {c.key: getattr(row, c.key) for c in inspect(type(row)).columns if c.key != "household_id"}

    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        components = [
            {**plain(c), "lines": [{**plain(x), "food": x.food.name} for x in c.lines]} for c in row.all_components
        ]
        return {**plain(row), "components": components}


def remove_broken(caller: Caller, recipe_id: UUID) -> None:
    """Take a recipe that cannot be computed away for good; one that weeks or boxes point to is put aside instead.

    Raises:
        NotFound: when the household has none with this id.
        InvalidInput: when it can be computed: such a recipe is put aside, never removed.
    """
    with caller.transaction() as session:
        row = existing(session, RecipeRow, recipe_id, "recipe")
        if not is_broken(session, row):
            raise InvalidInput(
                "recipe", say("This recipe can be computed."), say("Take it out of the library instead.")
            )
        row.is_archived = True
    with suppress(IntegrityError), caller.transaction() as session:
        session.execute(delete(RecipePastRow).where(RecipePastRow.recipe_id == recipe_id))
        session.execute(delete(RecipeRow).where(RecipeRow.id == recipe_id))  # its components and lines go with it
