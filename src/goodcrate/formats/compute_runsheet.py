"""The JSON of `crate compute runsheet`: tasks and a kitchen in; when each starts, how hot the oven is, out."""

from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_problem import Hold, SheetKitchen, SheetProblem, Task, Within
from goodcrate.core.cook.sheet_solver import one_after_another, shortest_sheet, simple_bound
from goodcrate.core.ground.errors import Inconsistent, InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.steps import EQUIPMENT
from goodcrate.formats.compute import Model

Key = Annotated[str, Field(min_length=1, max_length=80)]
Minutes = Annotated[int, Field(ge=0, le=100_000)]
Heat = Annotated[int, Field(ge=30, le=350)]
PLACES = tuple(key for key in EQUIPMENT if key)


class TaskIn(Model):
    """One step of a batch. Without a place it needs hands alone."""

    key: Key
    dish: Key
    minutes: Minutes
    hands_on: bool = True
    place: str = Field("", max_length=20, description=f"One of {', '.join(PLACES)}, or none.")
    low_c: Heat | None = None
    high_c: Heat | None = None
    after: list[Key] = Field(default_factory=list, max_length=40)
    at_once: bool = Field(False, description="Begins as the last of what it waits for ends.")
    checks: list[Minutes] = Field(default_factory=list, max_length=20, description="Looks, minutes after its start.")
    earliest: Minutes = Field(0, description="It starts from this minute on.")
    latest: Minutes | None = Field(None, description="It starts at this minute at the latest.")
    takes: int = Field(1, ge=1, le=20, description="How many places it takes.")
    shares: str = Field(
        "", max_length=80, description="In the oven two tasks that say the same here may stand on one tray."
    )


class HoldIn(Model):
    """A vessel (a place of the kitchen) that is taken from the first to the last of these tasks, and washed after."""

    vessel: str = Field(min_length=1, max_length=40)
    tasks: list[Key] = Field(min_length=1, max_length=40)


class WithinIn(Model):
    """`later` begins at most so many minutes after `earlier` ends: hot food is in the fridge within two hours."""

    earlier: Key
    later: Key
    minutes: Minutes


class KitchenIn(Model):
    """Hands, and how many tasks each place takes at once."""

    hands: int = Field(1, ge=1, le=6)
    places: dict[str, Annotated[int, Field(ge=0, le=20)]] = Field(default_factory=dict)
    preheat_min: int = Field(12, ge=0, le=60)
    reheat_min: int = Field(8, ge=0, le=60)
    wash_min: int = Field(3, ge=0, le=30)
    help_from: Minutes | None = Field(None, description="From this minute on there is one pair of hands more.")


class RunSheetRequest(Model):
    """A session."""

    tasks: list[TaskIn] = Field(min_length=1, max_length=200)
    kitchen: KitchenIn
    within: list[WithinIn] = Field(default_factory=list, max_length=200)
    holds: list[HoldIn] = Field(default_factory=list, max_length=200)
    limit_seconds: float = Field(5.0, ge=0.1, le=60, description="Of the solver's own, repeatable count.")


class StartOut(Model):
    """A task on the sheet, in minutes from the beginning of the session; looks in between, and the oven's heat."""

    task: str
    dish: str
    start: int
    end: int
    looks: list[int]
    heat_c: int | None
    on_tray_with: str | None = Field(None, description="The task that shares its tray.")


class RunSheetResult(Model):
    """The sheet by its starts. No sheet is shorter than `bound`; `one_after_another` adds the dishes up."""

    status: Literal["proven shortest", "best found"]
    minutes: int
    bound: int
    one_after_another: int
    tasks: list[StartOut]


def _problem(request: RunSheetRequest) -> SheetProblem:
    keys = [task.key for task in request.tasks]
    for n, key in enumerate(keys):
        if key in keys[:n]:
            raise InvalidInput(f"tasks.{n}.key", say("“{key}” stands here twice.", key=key), say("Give each its own."))
    for n, pair in enumerate(request.within):
        if missing := [key for key in (pair.earlier, pair.later) if key not in keys]:
            raise InvalidInput(f"within.{n}", say("“{key}” is no task here.", key=missing[0]))
    for n, hold in enumerate(request.holds):
        if missing := [key for key in hold.tasks if key not in keys]:
            raise InvalidInput(f"holds.{n}", say("“{key}” is no task here.", key=missing[0]))
    tasks = tuple(
        Task(
            t.key,
            t.dish,
            t.minutes,
            t.hands_on,
            t.place,
            t.low_c,
            high_c=t.high_c,
            after=tuple(t.after),
            at_once=t.at_once,
            checks=tuple(t.checks),
            earliest=t.earliest,
            latest=t.latest,
            takes=t.takes,
            shares=t.shares,
        )
        for t in request.tasks
    )
    k = request.kitchen
    kitchen = SheetKitchen(k.hands, k.places, k.preheat_min, k.reheat_min, k.wash_min, k.help_from)
    within = tuple(Within(w.earlier, w.later, w.minutes) for w in request.within)
    try:
        return SheetProblem(tasks, kitchen, within, tuple(Hold(h.vessel, tuple(h.tasks)) for h in request.holds))
    except InvalidInputs as found:
        places = {key: f"tasks.{n}" for n, key in enumerate(keys)}
        raise InvalidInputs(InvalidInput(places[f.field], f.problem, f.wanted) for f in found.faults) from None


def compute_runsheet(request: RunSheetRequest) -> RunSheetResult:
    """Make the sheet, held against every rule by somebody who did not make it.

    Raises:
        InvalidInputs: naming the place of what cannot be.
        InvalidInput: the same, or when no sheet keeps every rule.
        Inconsistent: when the sheet breaks a rule.
    """
    problem = _problem(request)
    sheet = shortest_sheet(problem, request.limit_seconds)
    if sheet is None:
        raise InvalidInput(
            "tasks", say("No run sheet that keeps every rule was found."), say("Drop a task, or a limit.")
        )
    if wrong := check_sheet(problem, sheet):
        raise Inconsistent(wrong[0])
    by_start = sorted(problem.tasks, key=lambda t: (sheet.starts[t.key], t.key))
    return RunSheetResult(
        status="proven shortest" if sheet.is_proven_shortest else "best found",
        minutes=sheet.minutes,
        bound=max(sheet.bound, simple_bound(problem)),
        one_after_another=one_after_another(problem),
        tasks=[
            StartOut(
                task=task.key,
                dish=task.dish,
                start=sheet.starts[task.key],
                end=sheet.starts[task.key] + task.minutes,
                looks=[at for (key, _), at in sorted(sheet.looks.items()) if key == task.key],
                heat_c=sheet.heats.get(task.key),
                on_tray_with=sheet.mate_of(task.key) or None,
            )
            for task in by_start
        ],
    )
