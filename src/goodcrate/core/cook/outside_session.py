"""Steps of a recipe that are not done in its session: what soaks before it, and what is for the meal's own day."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil

from goodcrate.core.foods.line.words import NIGHT_BEFORE, ON_THE_DAY
from goodcrate.core.recipes.steps import Step, in_order


@dataclass(frozen=True, slots=True)
class Before:
    """Something a session needs done before it begins, so many minutes before at the latest: soaking above all."""

    dish: str
    words: str
    minutes: int


OVERNIGHT_MIN = 8 * 60
"""A night, of a step that says no minutes."""
LONG_WAIT_MIN = 120
"""What stands so long by itself, cold, before anything else is done with it is begun before the session: our line."""


def before_session(steps: Sequence[Step]) -> Mapping[str, tuple[Step, int]]:
    """The steps that are done before the session, by key: what others wait for and soaks or thaws so long, or is said
    to be for the night before. Each with how many minutes before the session it begins, at the latest."""
    found: dict[str, tuple[Step, int]] = {}
    keys = {s.key for s in steps}
    waited = {key for s in steps for key in s.after}
    for step in in_order(steps):
        stands = not step.is_hands_on and not step.heats and step.equipment != "cooling"
        is_long = stands and (step.duration_min or 0) >= LONG_WAIT_MIN
        is_said = NIGHT_BEFORE.search(step.text.lower()) is not None
        is_first = all(key in found for key in step.after if key in keys)
        if step.key in waited and (is_long or is_said) and is_first:
            found[step.key] = (step, ceil(step.duration_min or OVERNIGHT_MIN))
    ahead = dict(found)
    for step in reversed(in_order(steps)):
        if step.key in found:
            later = [ahead[s.key][1] for s in steps if step.key in s.after and s.key in ahead]
            ahead[step.key] = (step, found[step.key][1] + max(later, default=0))
    return ahead


def is_later(step: Step) -> bool:
    """Whether a step is for the night before a meal, or its day: nothing of the session."""
    words = step.text.lower()
    return bool(ON_THE_DAY.search(words) or NIGHT_BEFORE.search(words))
