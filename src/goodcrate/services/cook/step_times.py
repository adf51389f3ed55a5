"""The times steps really took over the sessions that were cooked, offered as a recipe's own minutes."""

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.cook.step_times import StepTime, offered_minutes, times_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.steps import LONGEST_STEP_MIN
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.running import CookRunRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.running import running_of
from goodcrate.services.recipes import library, saving
from goodcrate.services.week.weeks import take_new_version

LOOKED_BACK = 20
"""So many sessions are looked back at."""


@dataclass(frozen=True)
class Offer:
    """Minutes a recipe should say of a step by the last times it took, in minutes as the recipe is written."""

    recipe_id: UUID
    recipe_name: str
    step_key: str
    words: str
    written_min: float | None
    minutes: int
    times: tuple[float, ...]


def offers(caller: Caller, recipe_keys: Collection[str]) -> list[Offer]:
    """What is known better of the steps of some recipes than they say; those taken out of the library are left out."""
    wanted = {base_recipe_key(key) for key in recipe_keys}
    with caller.transaction() as session:
        times = [t for t in _times(session) if base_recipe_key(t.recipe_key) in wanted]
        there = {str(row) for row in session.scalars(select(RecipeRow.id).where(RecipeRow.id.in_(map(UUID, wanted))))}
    found = []
    for recipe_id in sorted({base_recipe_key(t.recipe_key) for t in times} & there):
        recipe = library.get_input(caller, UUID(recipe_id))
        for step in recipe.steps:
            own = [t.minutes for t in times if t.step_key == step.key and base_recipe_key(t.recipe_key) == recipe_id]
            minutes = offered_minutes(own, step.duration_min)
            if minutes is not None:
                last = tuple(own[-5:])
                found.append(
                    Offer(
                        recipe.id,
                        recipe.name,
                        step.key,
                        step.text,
                        written_min=step.duration_min,
                        minutes=minutes,
                        times=last,
                    )
                )
    return found


def _times(session: HouseholdSession) -> list[StepTime]:
    """The times of the last sessions, the oldest first."""
    rows = session.scalars(select(CookRunRow).order_by(CookRunRow.begun_at.desc()).limit(LOOKED_BACK)).all()
    found: list[StepTime] = []
    for row in reversed(rows):
        there = running_of(session, row)
        found += times_of(there.problem.tasks, there.told, there.states)
    return found


def say_minutes(caller: Caller, first_day: date, recipe_id: UUID, step_key: str, minutes: int) -> None:
    """Let a recipe say what a step takes, and the week follow it unless the recipe is being cooked. Sent twice it is
    done once.

    Raises:
        NotFound: when the household has no such recipe, or it has no such step.
        InvalidInput, InvalidInputs: for minutes no step takes.
    """
    recipe = library.get_input(caller, recipe_id)
    step = next((s for s in recipe.steps if s.key == step_key), None)
    if step is None:
        raise NotFound("step")
    if not 1 <= minutes <= LONGEST_STEP_MIN:
        told = say("{minutes} min is not possible.", minutes=minutes)
        raise InvalidInput("minutes", told, say("1 to {most} min.", most=shown(LONGEST_STEP_MIN)))
    if step.duration_min != minutes:
        steps = tuple(replace(s, duration_min=float(minutes)) if s.key == step_key else s for s in recipe.steps)
        saving.save_recipe(caller, replace(recipe, steps=steps))
    with suppress(InvalidInput):  # it is being cooked, or the week is closed: it keeps what it has
        take_new_version(caller, first_day, recipe_id)
