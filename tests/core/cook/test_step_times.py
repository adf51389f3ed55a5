"""How long steps took, as their recipes are written, and what is offered by it."""

import pytest

from goodcrate.core.cook.running import StepState
from goodcrate.core.cook.session_tasks import TaskTold
from goodcrate.core.cook.sheet_problem import Task
from goodcrate.core.cook.step_times import StepTime, offered_minutes, times_of


def test_a_time_is_told_at_the_size_of_the_recipe() -> None:
    """Chopping is written with 10 min; the double batch was planned with 16 and took 24: as written, 15."""
    tasks = (Task("pot/chop", "pot", 16), Task("pot/stir", "pot", 5), Task("pot/box", "pot", 4))
    told = {
        "pot/chop": TaskTold("Chop", "chop", step_key="chop", written_min=10),
        "pot/stir": TaskTold("Stir", "stir", step_key="stir", written_min=5),
        "pot/box": TaskTold("Box", "box"),
    }
    states = {"pot/chop": StepState(3, 27), "pot/stir": StepState(27), "pot/box": StepState(30, 34)}
    assert list(times_of(tasks, told, states)) == [StepTime("pot", "chop", 15.0)]


@pytest.mark.parametrize(
    ("times", "written", "offered"),
    [
        ((15, 16), 10, None),  # two sessions are no habit
        ((15, 16, 14), 10, 15),
        ((15, 16, 14), None, 15),
        ((40, 40, 15, 16, 14, 15, 16), 10, 15),  # the last five
        ((11, 11, 12), 10, None),  # a minute is the tap and the day
        ((66, 67, 68), 60, None),  # within 15 %
        ((70, 71, 72), 60, 71),
    ],
)
def test_minutes_are_offered_after_three_sessions(
    times: tuple[float, ...], written: float | None, offered: int | None
) -> None:
    assert offered_minutes(times, written) == offered
