"""The run sheet of a prep session: its tasks from the week, the job that makes it, and what it would be otherwise."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime, time, timedelta
from hashlib import sha256
from uuid import UUID

from sqlalchemy import Select, select

from goodcrate.core.cook.session_tasks import (
    PAUSE,
    RICE_COLD_WITHIN_MIN,
    BatchToCook,
    DishToCook,
    SessionTasks,
    SheetWishes,
    session_tasks,
    with_pauses,
)
from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_problem import Sheet, SheetProblem
from goodcrate.core.cook.sheet_solver import dishes_that_fit, one_after_another, shortest_sheet
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import Inconsistent, InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.equipment import Equipment
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.week.placings import PrepSession
from goodcrate.db.jobs import JobRow
from goodcrate.db.stored import by_name
from goodcrate.db.week import WeekRow
from goodcrate.services import kitchen
from goodcrate.services.calling import Caller, NotFound, existing
from goodcrate.services.jobs import process
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.jobs.ledger import DONE, Job, beat, begin, job_of
from goodcrate.services.week.weeks import WeekPicture, load_picture, take_turns, week_picture

RUN_SHEET = "run_sheet"
"""The kind of job."""
RECENT = 40
"""Among so many of a week's newest sheets one is looked for that was made from the same."""
TOGETHER_SECONDS, WHAT_IF_SECONDS, SHEET_SECONDS = 2.0, 2.0, 8.0
"""How long the solver looks, of its own count: for dishes done in less time, for each what-if, for the sheet."""
SHORT_EVENING_MIN = 90


@dataclass(frozen=True)
class SheetAsked:
    """What the cook asks of a session: another beginning, fewer burners, help from a time, pauses, and at most so many
    minutes; as typed, empty where nothing is asked."""

    start: str = ""
    burners: int | None = None
    help_at: str = ""
    pauses: bool = False
    minutes: int | None = None

    def checked(self) -> "SheetAsked":
        """The same, or why it cannot be.

        Raises:
            InvalidInput: for a time or a number out of range.
        """
        for name, typed in (("start", self.start), ("help_at", self.help_at)):
            if typed and clock_of(typed) is None:
                raise InvalidInput(name, say("“{typed}” is no time.", typed=typed[:10]), say("Such as 17:10."))
        if self.burners is not None and not 1 <= self.burners <= 8:
            raise InvalidInput("burners", say("{count} is not possible.", count=self.burners), say("1 to 8."))
        if self.minutes is not None and not 10 <= self.minutes <= 1440:
            raise InvalidInput("minutes", say("{count} min is not possible.", count=self.minutes), say("10 to 1,440."))
        return self


def clock_of(typed: str) -> time | None:
    """A time of day as typed, or None."""
    hours, _, minutes = typed.strip().replace(".", ":").partition(":")
    if not (hours.isdigit() and (minutes or "0").isdigit() and len(hours) <= 2 and len(minutes) <= 2):
        return None
    return time(int(hours), int(minutes or 0)) if int(hours) < 24 and int(minutes or 0) < 60 else None


@dataclass(frozen=True)
class WhatIf:
    """One thing that could be otherwise: what is asked, when all would be done, and which dishes (by key) go in."""

    key: str
    asked: SheetAsked
    minutes: int
    dishes: tuple[str, ...]


@dataclass(frozen=True)
class SessionSheet:
    """A session with its tasks, and the sheet as far as it is made. `dishes` are those that are on it.

    `alone_min` is what the dishes take one after another, None until it is worked out.
    """

    picture: WeekPicture
    session: PrepSession
    starts_at: datetime
    tasks: SessionTasks
    dishes: Mapping[str, DishToCook]
    asked: SheetAsked
    job: Job | None
    sheet: Sheet | None
    alone_min: int | None
    what_ifs: tuple[WhatIf, ...]

    @property
    def problem(self) -> SheetProblem:
        """What the sheet was made for: pauses and dishes left out are in it or not as the sheet has them."""
        if self.sheet is None:
            return self.tasks.problem
        gone = {task.dish for task in self.tasks.problem.tasks if task.key not in self.sheet.starts}
        return self.tasks.problem.without(gone)

    @property
    def pauses(self) -> tuple[int, ...]:
        """The minutes at which pauses begin."""
        starts = {} if self.sheet is None else self.sheet.starts
        return tuple(sorted(at for key, at in starts.items() if key.startswith(PAUSE)))


def session_sheet(caller: Caller, first_day: date, session_key: str, asked: SheetAsked) -> SessionSheet:
    """A session's sheet as far as it is made; asks for nothing.

    Raises:
        NotFound: when the week has no such session.
        InvalidInputs: naming each step this kitchen cannot do.
    """
    picture = week_picture(caller, first_day)
    if picture is None:
        raise NotFound("week")
    asked = asked.checked()
    session = _session_of(picture, session_key)
    equipment = kitchen.who_and_what(caller).equipment
    dishes = dishes_of(picture, session_key)
    tasks = _tasks_of(dishes, picture, equipment, session, asked)
    with caller.transaction() as reading:
        job = _made_before(reading.scalars(_recent(picture.week.id)).all(), _made_of(tasks, asked))
    found = _stored(job)
    return SessionSheet(
        picture,
        session,
        _starts_at(session, asked),
        tasks,
        dishes={dish.key: dish for dish in dishes},
        asked=asked,
        job=job,
        sheet=None if found is None else sheet_of(found),
        alone_min=None if job is None else job.result.get("alone_min"),
        what_ifs=() if job is None else tuple(_what_ifs_of(job.result)),
    )


def ask_for_sheet(caller: Caller, first_day: date, job_id: UUID, session_key: str, asked: SheetAsked) -> UUID:
    """Have a session's sheet made outside this request; one that was made from the same, or is being made, stays.

    Raises:
        NotFound: when the week has no such session.
        InvalidInput, InvalidInputs: for what cannot be asked, or naming each step this kitchen cannot do.
    """
    there = session_sheet(caller, first_day, session_key, asked)
    if not there.tasks.problem.tasks:
        raise InvalidInput("session", say("This session cooks nothing."), say("Place meals in the week first."))
    with caller.transaction() as session:
        take_turns(session, first_day)
        made_of = _made_of(there.tasks, asked)
        before = _made_before(session.scalars(_recent(there.picture.week.id)).all(), made_of)
        if before is not None:
            process.send_again(caller, RUN_SHEET, before.id)
            return before.id
        said = {"session": session_key, "asked": asdict(asked), "made_of": made_of}
        begin(session, job_id, RUN_SHEET, there.picture.week.id, said)
    process.launch(caller, RUN_SHEET, job_id)
    return job_id


def dishes_of(picture: WeekPicture, session_key: str) -> tuple[DishToCook, ...]:
    """What a session cooks, dish by dish."""
    found: dict[str, list[BatchToCook]] = {}
    boxes: dict[str, set[str]] = {}
    for worked in picture.outcome.batches:
        plan = worked.plan
        if plan.session_key != session_key:
            continue
        recipe = picture.recipes[plan.recipe_key]
        component = next(c for c in recipe.components if c.key == plan.component_key)
        found.setdefault(plan.recipe_key, []).append(BatchToCook(component, plan.factor, plan.cooked_g))
        boxes.setdefault(plan.recipe_key, set()).update(p.placing_key for p in plan.portions)
    return tuple(_dish(picture.recipes[key], tuple(batches), len(boxes[key])) for key, batches in sorted(found.items()))


def _dish(recipe: Recipe, batches: tuple[BatchToCook, ...], boxes: int) -> DishToCook:
    foods = [line.food for batch in batches for line in batch.component.lines]
    has_rice = any(f.keep_group == "cooked_rice" or f.cooks_like == "rice" for f in foods)
    dish = DishToCook(recipe.key, recipe.name, tuple(recipe.steps), batches, boxes)
    return replace(dish, cold_within_min=RICE_COLD_WITHIN_MIN) if has_rice else dish


def _session_of(picture: WeekPicture, session_key: str) -> PrepSession:
    found = next((s for s in picture.sessions if s.key == session_key), None)
    if found is None:
        raise NotFound("session")
    return found


def _starts_at(session: PrepSession, asked: SheetAsked) -> datetime:
    at = clock_of(asked.start) if asked.start else None
    return session.starts_at if at is None else datetime.combine(session.starts_at.date(), at)


def _tasks_of(
    dishes: Sequence[DishToCook], picture: WeekPicture, equipment: Equipment, session: PrepSession, asked: SheetAsked
) -> SessionTasks:
    """The tasks as they are asked for; pauses are added once it is known how long it takes."""
    helped, begins = clock_of(asked.help_at) if asked.help_at else None, _starts_at(session, asked)
    help_from = None
    if helped is not None:
        after = datetime.combine(begins.date(), helped) - begins
        help_from = max(0, round(after.total_seconds() / 60) % (24 * 60))
    wishes = SheetWishes(asked.burners, help_from)
    return session_tasks(dishes, equipment, picture.vessels, wishes)


def _made_of(tasks: SessionTasks, asked: SheetAsked) -> str:
    """What a sheet depends on, as something to know it by. Where it begins only moves it."""
    said = (tasks.problem, asked.pauses, asked.minutes)
    return sha256(repr(said).encode()).hexdigest()


def _recent(week_id: UUID) -> Select[JobRow]:
    here = select(JobRow).where(JobRow.kind == RUN_SHEET, JobRow.week_id == week_id)
    return here.order_by(JobRow.started_at.desc()).limit(RECENT)


def _made_before(rows: Sequence[JobRow], made_of: str) -> Job | None:
    """The newest job of the same that is at it, has something, or found that there is nothing."""
    jobs = (job_of(row) for row in rows if row.input.get("made_of") == made_of)
    return next((job for job in jobs if job.is_running or job.best or job.status == DONE), None)


def _stored(job: Job | None) -> ReadDocument | None:
    return job.best[0] if job is not None and job.best else None


def as_stored(sheet: Sheet) -> Document:
    """A sheet as it is kept."""
    looks = [[key, n, at] for (key, n), at in sheet.looks.items()]
    return {
        "starts": dict(sheet.starts),
        "looks": looks,
        "heats": dict(sheet.heats),
        "minutes": sheet.minutes,
        "bound": sheet.bound,
        "together": [list(pair) for pair in sheet.together],
    }


def sheet_of(stored: ReadDocument) -> Sheet:
    """The sheet that was kept."""
    looks = {(key, n): at for key, n, at in stored["looks"]}
    together = tuple((one, other) for one, other in stored.get("together", ()))
    return Sheet(stored["starts"], looks, stored["heats"], stored["minutes"], stored["bound"], together)


def _what_ifs_of(result: ReadDocument) -> Iterator[WhatIf]:
    for stored in result.get("what_ifs", ()):
        asked = by_name(SheetAsked, stored["asked"])
        yield WhatIf(stored["key"], asked, stored["minutes"], tuple(stored["dishes"]))


def make_sheet(caller: Caller, job_id: UUID) -> None:
    """Make a sheet, then look what it would be otherwise."""
    with caller.transaction() as session:
        job = existing(session, JobRow, job_id, "sheet")
        asked, session_key = by_name(SheetAsked, job.input["asked"]), str(job.input["session"])
        picture = load_picture(session, existing(session, WeekRow, job.week_id or job_id, "week"))
        equipment = kitchen.setup_of(session).equipment
    making = _Making(caller, job_id, picture, equipment, _session_of(picture, session_key))
    sheet = making.sheet(asked, tell=True)
    if sheet is None:
        beat(caller, job_id, status=DONE, said=say("We found no order that keeps every rule."))
        return
    problem = making.tasks(asked).problem
    result: Document = {"alone_min": one_after_another(problem), "what_ifs": []}
    go_on = beat(caller, job_id, best=[as_stored(sheet)], result=result)
    for key, other in _others(making.session, sheet) if asked == replace(SheetAsked(), start=asked.start) else ():
        if not go_on:
            break
        found = making.sheet(other)
        if found is not None:
            dishes = dict.fromkeys(t.dish for t in problem.tasks if t.key in found.starts)
            said = {"key": key, "asked": asdict(other), "minutes": found.minutes, "dishes": list(dishes)}
            result = {**result, "what_ifs": [*result["what_ifs"], said]}
            go_on = beat(caller, job_id, result=result)
    beat(caller, job_id, status=DONE, said="")


def _others(session: PrepSession, sheet: Sheet) -> Iterator[tuple[str, SheetAsked]]:
    """What is looked at beside the sheet itself."""
    if sheet.minutes > SHORT_EVENING_MIN:
        yield "minutes", SheetAsked(minutes=SHORT_EVENING_MIN)
    yield "burners", SheetAsked(burners=2)
    halfway = session.starts_at + timedelta(minutes=round(sheet.minutes / 2, -1))
    yield "help", SheetAsked(help_at=f"{halfway:%H:%M}")
    yield "pauses", SheetAsked(pauses=True)


@dataclass
class _Making:
    """A session while its sheets are made."""

    caller: Caller
    job_id: UUID
    picture: WeekPicture
    equipment: Equipment
    session: PrepSession

    def tasks(self, asked: SheetAsked) -> SessionTasks:
        """The tasks as they are asked for, without pauses."""
        dishes = dishes_of(self.picture, self.session.key)
        return _tasks_of(dishes, self.picture, self.equipment, self.session, asked)

    def sheet(self, asked: SheetAsked, *, tell: bool = False) -> Sheet | None:
        """The sheet as it is asked for, held against every rule; None when none was found."""
        tasks = self.tasks(asked)
        problem, seconds = tasks.problem, SHEET_SECONDS if tell else WHAT_IF_SECONDS
        if asked.minutes is not None:
            boxes = {dish.key: max(1, dish.boxes) for dish in dishes_of(self.picture, self.session.key)}
            fits = dishes_that_fit(problem, asked.minutes, boxes, seconds)
            problem = problem.without({task.dish for task in problem.tasks} - set(fits))
            if not problem.tasks:
                return None
        sheet = self._solved(problem, seconds, tell=tell and not asked.pauses)
        if sheet is None or not asked.pauses:
            return sheet
        paused = with_pauses(problem, sheet.minutes)
        return self._solved(paused, seconds, tell=tell)

    def _solved(self, problem: SheetProblem, seconds: float, *, tell: bool) -> Sheet | None:
        def better(sheet: Sheet) -> bool:
            return beat(self.caller, self.job_id, best=[as_stored(sheet)], said=say("Looking for a shorter order"))

        together = TOGETHER_SECONDS if tell else 0.0
        sheet = shortest_sheet(problem, seconds, together_seconds=together, on_better=better if tell else None)
        if sheet is not None and (wrong := check_sheet(problem, sheet)):
            raise Inconsistent(wrong[0])
        return sheet


def _load_solver() -> None:
    import ortools.sat.python.cp_model  # noqa: F401 (takes seconds, better while nobody waits)


RUN_SHEET_KIND = JobKind(
    RUN_SHEET,
    make_sheet,
    _load_solver,
    Saying("Stopped. The best order by then is below."),
    Saying("The best order found is below."),
    Saying("Making the run sheet failed. Your week is unchanged."),
)
"""What the worker knows of run sheets."""
