"""The times steps really took over the sessions that were cooked, offered as a recipe's own minutes."""

from collections.abc import Collection
from dataclasses import dataclass, replace
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.cook.step_times import StepTime, offered_minutes, times_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.db.running import CookRunRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.calling import Caller
from goodcrate.services.cook.running import running_of
from goodcrate.services.recipes import library, saving

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
    found = []
    for recipe_id in sorted({base_recipe_key(t.recipe_key) for t in times}):
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


def take_minutes(caller: Caller, recipe_id: UUID, step_key: str, minutes: int) -> None:
    """Let a recipe say of a step what it really takes, as it is offered. Sent twice it is done once.

    Raises:
        NotFound: when the household has no such recipe.
        InvalidInput: for minutes that are not what is offered now.
    """
    recipe = library.get_input(caller, recipe_id)
    step = next((s for s in recipe.steps if s.key == step_key), None)
    if step is not None and step.duration_min == minutes:
        return
    offered = next((o for o in offers(caller, {str(recipe_id)}) if o.step_key == step_key), None)
    if step is None or offered is None or offered.minutes != minutes:
        raise InvalidInput("minutes", say("That is not what this step takes now."), say("Reload the page."))
    steps = tuple(replace(s, duration_min=float(minutes)) if s.key == step_key else s for s in recipe.steps)
    saving.save_recipe(caller, replace(recipe, steps=steps))
