"""A session while it is cooked: begun with its sheet, every word said of a step logged once, and how it goes on."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime, timedelta
from uuid import UUID, uuid5

from sqlalchemy import func, select

from goodcrate.core.cook.free_order import in_better_order
from goodcrate.core.cook.running import (
    BACK,
    BEGUN,
    DISMISSED,
    DONE,
    MORE,
    PUT_OFF,
    Replanned,
    StepState,
    Tick,
    in_same_order,
    states_of,
    taken_up,
    worth_of,
)
from goodcrate.core.cook.session_tasks import TaskTold
from goodcrate.core.cook.sheet_problem import Hold, Sheet, SheetKitchen, SheetProblem, Task, Within
from goodcrate.core.cook.weighing_doubts import WeighingDoubt
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.db.cook import BatchRow, WeighingRow
from goodcrate.db.running import CookOrderRow, CookRunRow, CookTickRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.stored import by_name
from goodcrate.db.week import SessionRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, add_once, existing, utc_now
from goodcrate.services.cook.cooking import AskedFirst
from goodcrate.services.cook.run_sheet import SessionSheet, SheetAsked, as_stored, clock_of, session_sheet, sheet_of
from goodcrate.services.week.weeks import WeekPicture, existing_week, load_picture, take_turns

KINDS = (BEGUN, DONE, BACK, MORE, PUT_OFF, DISMISSED)
MOST_MORE_MIN = 24 * 60


@dataclass(frozen=True)
class Running:
    """A session that was begun, as it stands `now` (minutes since): its sheet, what it became, and each step's state.

    `seq` is the number of the last thing said, `changed` the last change of its order, `just_done` the step that was
    ticked off last. `told` and `dishes` name tasks and dishes.
    """

    run_id: UUID
    session_key: str
    begun_at: datetime
    now: int
    seq: int
    problem: SheetProblem
    sheet: Sheet
    told: Mapping[str, TaskTold]
    dishes: Mapping[str, str]
    states: Mapping[str, StepState]
    order: Sheet
    goes_on: Replanned
    changed: "OrderChange | None" = None
    just_done: str = ""

    def at(self, minute: int) -> datetime:
        """When a minute of it is, in UTC."""
        return self.begun_at + timedelta(minutes=minute)

    @property
    def is_over(self) -> bool:
        """Whether every step is done, or will not be."""
        return all(self.states[task.key].is_over for task in self.problem.tasks)


@dataclass(frozen=True)
class OrderChange:
    """The rest goes in another order since `at` (minutes from the beginning); kept, it would have been over at minute
    `kept_min`, with `kept_late_min` too late in all."""

    at: int
    kept_min: int
    kept_late_min: int


def run_id_of(session_id: UUID) -> UUID:
    """The id a session's cooking has: begun twice it is begun once."""
    return uuid5(session_id, "cook_run")


def begin_cooking(caller: Caller, first_day: date, session_id: UUID, asked: SheetAsked) -> UUID:
    """Begin a session by its sheet as it is now; one that was begun goes on by its own.

    Raises:
        NotFound: when the week has no such session.
        InvalidInput: as long as its sheet is not made.
    """
    there = session_sheet(caller, first_day, str(session_id), asked)
    if there.sheet is None:
        raise InvalidInput("sheet", say("Its run sheet is not made yet."), say("Wait until it is, then begin."))
    with caller.transaction() as session:
        take_turns(session, first_day)
        run_id = run_id_of(session_id)
        if session.find(CookRunRow, run_id) is None:
            row = existing(session, SessionRow, session_id, "session")
            made = _as_made(there, there.sheet, help_from(asked))
            run = CookRunRow(id=run_id, week_id=row.week_id, session_id=session_id, begun_at=utc_now(), made=made)
            if add_once(session, run):
                session.flush()
                _take_up(session, caller, _running(session, first_day, session_id), run_id)
        return run_id


def tick(
    caller: Caller, first_day: date, session_id: UUID, event_id: UUID, said: Tick, *, is_sure: bool = True
) -> None:
    """Log what was said of a step, at the server's own time. The same event sent twice is one.

    What then comes next for a pair of hands is begun with it: its minutes run.

    Raises:
        AskedFirst: when a pot would come off the heat while something is not in yet, and nobody is sure.
        NotFound: when the session was never begun, or has no such step.
        InvalidInput: for something nobody says, or a number of minutes that cannot be.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        before = _running(session, first_day, session_id)
        if said.task_key not in before.states:
            raise NotFound("step")
        _check(said)
        if said.kind == DONE and not is_sure and session.find(CookTickRow, event_id) is None:
            _ask_what_is_missing(load_picture(session, existing_week(session, first_day)), before, said.task_key)
        row = CookTickRow(
            id=event_id,
            run_id=before.run_id,
            task_key=said.task_key,
            kind=said.kind,
            minutes=said.minutes,
            user_id=caller.user_id,
            happened_at=utc_now(),
        )
        if not add_once(session, row):
            return
        session.flush()
        there = _running(session, first_day, session_id)
        if said.kind != BEGUN and (order := in_better_order(there.problem, there.order, there.states, there.now)):
            late, end, _ = worth_of(there.goes_on)
            made: Document = {"sheet": as_stored(order), "kept_min": end, "kept_late_min": late}
            order_id = uuid5(event_id, "order")
            add_once(session, CookOrderRow(id=order_id, run_id=there.run_id, made=made, happened_at=utc_now()))
            session.flush()
            there = _running(session, first_day, session_id)
        _take_up(session, caller, there, event_id)


def batches_of(there: Running, picture: WeekPicture, task_key: str) -> tuple[WorkedBatch, ...]:
    """The batches that a step is about, as the week has them now: its component's, else all of its dish."""
    told = there.told[task_key]
    dish = there.problem.by_key[task_key].dish
    plans = {w.plan.component_key: w for w in picture.outcome.batches if w.plan.recipe_key == dish}
    parts = picture.recipes[dish].components if dish in picture.recipes else ()
    mine = (part for part in parts if told.component in ("", part.name) and part.key in plans)
    return tuple(plans[part.key] for part in mine if plans[part.key].plan.session_key == there.session_key)


def _ask_what_is_missing(picture: WeekPicture, there: Running, task_key: str) -> None:
    if not there.told.get(task_key, NO_TASK).comes_off:
        return
    missing = [x for w in batches_of(there, picture, task_key) for x in w.outcome.state.not_in_yet]
    if missing:
        names = ", ".join(line.food.name.split(",")[0].lower() for line in missing)
        raise AskedFirst(WeighingDoubt(say("Not in yet: {names}.", names=names)), "step")


NO_TASK = TaskTold("", "")


def _check(said: Tick) -> None:
    if said.kind not in KINDS:
        raise InvalidInput("kind", say("“{kind}” is nothing that is said of a step.", kind=said.kind[:20]))
    if not 0 <= said.minutes <= MOST_MORE_MIN:
        raise InvalidInput("minutes", say("{count} min is not possible.", count=said.minutes), say("1 to 1,440."))


def _take_up(session: HouseholdSession, caller: Caller, there: Running, event_id: UUID) -> None:
    """Whoever has nothing in hand begins what comes now."""
    for key in taken_up(there.problem, there.states, there.goes_on, there.now):
        row = CookTickRow(
            id=uuid5(event_id, f"begun:{key}"),
            run_id=there.run_id,
            task_key=key,
            kind=BEGUN,
            minutes=0,
            user_id=caller.user_id,
            happened_at=utc_now(),
        )
        add_once(session, row)


def running(caller: Caller, first_day: date, session_id: UUID) -> Running:
    """A session as it stands.

    Raises:
        NotFound: when it was never begun.
    """
    with caller.transaction() as session:
        return _running(session, first_day, session_id)


STILL_HOURS = 12
"""A session begun so long ago is not what somebody opens the kitchen for: our line."""


def now_cooking(caller: Caller) -> tuple[date, UUID] | None:
    """The week and the session that is being cooked: begun last, within twelve hours, and not over."""
    with caller.transaction() as session:
        recent = CookRunRow.begun_at > utc_now() - timedelta(hours=STILL_HOURS)
        row = session.scalar(select(CookRunRow).where(recent).order_by(CookRunRow.begun_at.desc()).limit(1))
        if row is None:
            return None
        first_day = existing(session, WeekRow, row.week_id, "week").first_day
        over = _running(session, first_day, row.session_id).is_over
        return None if over else (first_day, row.session_id)


def last_said(caller: Caller, session_id: UUID) -> tuple[int, int]:
    """How far the logs of a session have come: of its steps, and of what is weighed in its batches and pots.

    What a device shows is old when one of the two is another.
    """
    batches = select(BatchRow.id).where(BatchRow.session_id == session_id)
    with caller.transaction() as session:
        ticks = session.scalar(select(func.max(CookTickRow.seq)).where(CookTickRow.run_id == run_id_of(session_id)))
        weighed = session.scalar(select(func.max(WeighingRow.seq)).where(WeighingRow.batch_id.in_(batches)))
        return ticks or 0, weighed or 0


def is_begun(caller: Caller, session_id: UUID) -> bool:
    """Whether a session was begun."""
    with caller.transaction() as session:
        return session.find(CookRunRow, run_id_of(session_id)) is not None


def _running(session: HouseholdSession, first_day: date, session_id: UUID) -> Running:
    row = session.find(CookRunRow, run_id_of(session_id))
    if row is None or row.week_id != existing_week(session, first_day).id:
        raise NotFound("session")
    return running_of(session, row)


def running_of(session: HouseholdSession, row: CookRunRow) -> Running:
    """A session that was begun, by its row, inside the caller's transaction."""
    ticks = session.scalars(select(CookTickRow).where(CookTickRow.run_id == row.id).order_by(CookTickRow.seq)).all()
    problem, sheet = _problem_of(row.made), sheet_of(row.made["sheet"])
    orders = select(CookOrderRow).where(CookOrderRow.run_id == row.id).order_by(CookOrderRow.seq.desc()).limit(1)
    last = session.scalar(orders)
    order = sheet if last is None else sheet_of(last.made["sheet"])
    said = [Tick(t.task_key, t.kind, _minutes(t.happened_at - row.begun_at), t.minutes) for t in ticks]
    states, now = states_of(problem, sheet, said), _minutes(utc_now() - row.begun_at)
    told = {key: by_name(TaskTold, value) for key, value in row.made["told"].items()}
    return Running(
        row.id,
        str(row.session_id),
        row.begun_at,
        now,
        ticks[-1].seq if ticks else 0,
        problem=problem,
        sheet=sheet,
        told=told,
        dishes=row.made["dishes"],
        states=states,
        order=order,
        goes_on=in_same_order(problem, order, states, now),
        changed=None if last is None else _change_of(last, row.begun_at),
        just_done=_just_done(ticks, states),
    )


def _just_done(ticks: Sequence[CookTickRow], states: Mapping[str, StepState]) -> str:
    """The step that was ticked off last and still is; empty when there is none. Looks are none."""
    done = (t.task_key for t in reversed(ticks) if t.kind == DONE and "#" not in t.task_key)
    return next((key for key in done if key in states and states[key].done_at is not None), "")


def _change_of(row: CookOrderRow, begun_at: datetime) -> OrderChange:
    return OrderChange(_minutes(row.happened_at - begun_at), row.made["kept_min"], row.made["kept_late_min"])


def _minutes(passed: timedelta) -> int:
    return max(0, int(passed.total_seconds() // 60))


def help_from(asked: SheetAsked) -> int | None:
    """In how many minutes help comes, from now on; one that was to be there in the last half day is there."""
    helped = clock_of(asked.help_at) if asked.help_at else None
    if helped is None:
        return None
    here = utc_now().astimezone()
    minutes = (helped.hour - here.hour) * 60 + helped.minute - here.minute
    return max(0, (minutes + HALF_DAY_MIN) % (2 * HALF_DAY_MIN) - HALF_DAY_MIN)


HALF_DAY_MIN = 12 * 60


def _as_made(there: SessionSheet, sheet: Sheet, help_from: int | None) -> Document:
    """A sheet with everything it was made from, as it is kept."""
    problem, told = there.problem, there.tasks.told
    if help_from is not None:
        problem = replace(problem, kitchen=replace(problem.kitchen, help_from=help_from))
    return {
        "tasks": [asdict(task) for task in problem.tasks],
        "kitchen": asdict(problem.kitchen),
        "within": [asdict(pair) for pair in problem.within],
        "holds": [asdict(hold) for hold in problem.holds],
        "told": {task.key: asdict(told[task.key]) for task in problem.tasks},
        "dishes": {key: dish.name for key, dish in there.dishes.items()},
        "sheet": as_stored(_without_pauses(sheet, problem)),
    }


def _without_pauses(sheet: Sheet, problem: SheetProblem) -> Sheet:
    keys = {task.key for task in problem.tasks}
    starts = {key: at for key, at in sheet.starts.items() if key in keys}
    return replace(sheet, starts=starts)


def _problem_of(made: ReadDocument) -> SheetProblem:
    tasks = tuple(
        Task(**{**task, "after": tuple(task["after"]), "checks": tuple(task["checks"])}) for task in made["tasks"]
    )
    holds = tuple(Hold(hold["vessel"], tuple(hold["tasks"])) for hold in made["holds"])
    within = tuple(Within(**pair) for pair in made["within"])
    return SheetProblem(tasks, SheetKitchen(**made["kitchen"]), within, holds)
