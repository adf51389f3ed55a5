"""How long steps really took, and what a recipe's own minutes should be by it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from statistics import median

from goodcrate.core.cook.running import StepState
from goodcrate.core.cook.session_tasks import TaskTold
from goodcrate.core.cook.sheet_problem import Task

LEAST_SESSIONS, LEARN_FROM = 3, 5
"""Minutes are offered after three sessions, and are the middle of the last five."""
TELL_FROM_MIN, TELL_FROM_SHARE = 2, 0.15
"""Differences below two minutes, or 15 %, are the tap and the day: our line."""


@dataclass(frozen=True, slots=True)
class StepTime:
    """How long a step took once, in minutes as its recipe is written: what it took, over what it was planned to take,
    times the recipe's minutes. `recipe_key` is the one that was cooked, also a variant's."""

    recipe_key: str
    step_key: str
    minutes: float


def times_of(
    tasks: Iterable[Task], told: Mapping[str, TaskTold], states: Mapping[str, StepState]
) -> Iterable[StepTime]:
    """The steps of a session that were begun and done, each with its time."""
    for task in tasks:
        about, state = told[task.key], states[task.key]
        if about.step_key and about.written_min and state.begun_at is not None and state.done_at is not None:
            took = max(1, state.done_at - state.begun_at)
            yield StepTime(task.dish, about.step_key, took / task.minutes * about.written_min)


def offered_minutes(times: Iterable[float], written_min: float | None) -> int | None:
    """What a recipe should say of a step by its times, the last one last; None while it is not known better.

    `written_min` is what it says, None where it says nothing: then anything is better.
    """
    last = list(times)[-LEARN_FROM:]
    if len(last) < LEAST_SESSIONS:
        return None
    own = max(1, round(median(last)))
    if written_min is None:
        return own
    is_near = abs(own - written_min) < max(TELL_FROM_MIN, TELL_FROM_SHARE * written_min)
    return None if is_near else own
