"""Routes of cooking a session step by step: what is now and next, timers, and what is said of each step."""

from asyncio import sleep
from collections.abc import AsyncIterator, Collection
from contextlib import suppress
from dataclasses import dataclass
from datetime import date, datetime
from time import monotonic
from uuid import UUID

from fastapi import Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from fastapi.sse import EventSourceResponse, format_sse_event

from goodcrate.core.cook.running import MORE, Late, Tick, look_key
from goodcrate.core.cook.session_tasks import TaskTold
from goodcrate.core.cook.sheet_problem import OVEN, Task
from goodcrate.core.ground.typed import read_whole
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import wall_clock, weekday_whole
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.steps import EQUIPMENT
from goodcrate.services.calling import NotFound, utc_now
from goodcrate.services.cook import running
from goodcrate.services.cook.cooking import AskedFirst
from goodcrate.services.cook.running import Running
from goodcrate.services.week.weeks import WeekPicture, new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.cook.address import router
from goodcrate.web.cook.routes import event_id
from goodcrate.web.cook.sheet_view import core_words, oven_words, raw_words
from goodcrate.web.cook.view import BatchCard, batch_cards
from goodcrate.web.pages import go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

MORE_MIN = 10
OTHER_MORE_MIN = (5, 20)
UNDONE_FOR_MIN = 10
"""So long a step that was ticked off can be taken back with a tap."""
TOLD_FOR_MIN = 3
"""So long it is said that the rest goes in another order."""
LATE_WORDS = {
    "at_once": Saying("{what} should follow at once: it comes {minutes} min late."),
    "within": Saying("{what} comes {minutes} min too late for the cold: do it before anything else."),
    "look": Saying("Look at {what}: that was due {minutes} min ago."),
}


@dataclass(frozen=True)
class Step:
    """A step as the kitchen shows it: words, dish and place, when it begins and is over by the kitchen's clock.

    `ends_ms` is that end for a countdown, in ms since 1970 by the server; `whole_s` how long it runs in all. `bowls` is
    what is weighed in at it, `missing` what is not in though its pot comes off with it.
    """

    key: str
    words: str
    dish: str
    where: str
    begins: str
    until: str
    minutes: int
    is_hands_on: bool
    ends_ms: int = 0
    whole_s: int = 1
    is_look: bool = False
    bowls: tuple["StepBowl", ...] = ()
    missing: tuple["StepBowl", ...] = ()
    core: str = ""
    raw: str = ""


@dataclass(frozen=True)
class StepBowl:
    """Ingredients of a batch that are not in yet, with the page they are weighed in on."""

    card: BatchCard
    lines: tuple[IngredientLine, ...]


@dataclass(frozen=True)
class Kitchen:
    """What the kitchen shows: what is to do now, what comes next, what runs by itself, and what was put off."""

    now: tuple[Step, ...]
    next: tuple[Step, ...]
    timers: tuple[Step, ...]
    put_off: tuple[Step, ...]
    done: int
    whole: int
    ready: str
    late_min: int
    warnings: tuple[str, ...]
    changed: str = ""
    just_done: Step | None = None


class _View:
    """A running session while it is shown."""

    def __init__(self, there: Running, picture: WeekPicture, session_key: str) -> None:
        self.there, self.starts = there, there.goes_on.sheet.starts
        self.minutes = {task.key: task.minutes for task in there.goes_on.problem.tasks}
        self.picture, self.session_key = picture, session_key
        self.cards = {id(card.worked): card for card in batch_cards(picture)}

    def at(self, minute: int) -> str:
        """A minute by the kitchen's clock."""
        return wall_clock(self.there.at(minute))

    def step(self, task: Task, *, look: int | None = None) -> Step:
        """A step, or a look at one, as it is shown."""
        told: TaskTold = self.there.told[task.key]
        start = self.starts.get(task.key, self.there.now)
        end = start + self.minutes.get(task.key, task.minutes)
        words = told.words if look is None else told.look_words
        ends: datetime = self.there.at(end)
        return Step(
            task.key if look is None else look_key(task.key, look),
            words,
            self.there.dishes.get(task.dish, ""),
            self._where(task),
            begins=self.at(start),
            until=self.at(end),
            minutes=task.minutes,
            is_hands_on=task.is_hands_on,
            ends_ms=round(ends.timestamp() * 1000),
            whole_s=max(1, (end - start) * 60),
            is_look=look is not None,
            bowls=self._bowls(task, told.weighs) if look is None else (),
            missing=self._bowls(task) if look is None and told.comes_off else (),
            core="" if look is not None else core_words(told.core_kind),
            raw=raw_words() if told.is_raw and look is None else "",
        )

    def _bowls(self, task: Task, foods: Collection[str] | None = None) -> tuple[StepBowl, ...]:
        """What is not in yet of a step's batches; of these foods, or all of it."""
        found = []
        for worked in running.batches_of(self.there, self.picture, task.key):
            lines = worked.outcome.state.not_in_yet
            lines = lines if foods is None else tuple(x for x in lines if x.food.key in foods)
            if lines:
                found.append(StepBowl(self.cards[id(worked)], lines))
        return tuple(found)

    def _where(self, task: Task) -> str:
        if task.place == OVEN:
            return oven_words(self.there.sheet, task.key, self.there.told)
        return str(EQUIPMENT[task.place]) if task.place else ""

    def kitchen(self) -> Kitchen:
        """All of it."""
        there, states = self.there, self.there.states
        by_key = there.problem.by_key
        order = sorted(by_key.values(), key=lambda t: (self.starts.get(t.key, 0), not t.is_hands_on, t.key))
        open_ = [t for t in order if states[t.key].begun_at is None and not states[t.key].is_put_off]
        in_hand = [t for t in order if t.is_hands_on and states[t.key].is_running]
        due = [t for t in open_ if self.starts[t.key] <= there.now]
        looks = [
            self.step(by_key[key], look=n)
            for (key, n), at in sorted(there.goes_on.sheet.looks.items(), key=lambda found: found[1])
            if at <= there.now and states[key].is_running
        ]
        timers = [t for t in order if not t.is_hands_on and states[t.key].is_running]
        timers.sort(key=lambda t: self.starts[t.key] + self.minutes[t.key])
        ready = there.goes_on.sheet.minutes
        return Kitchen(
            (*looks, *(self.step(t) for t in (*in_hand, *due))),
            tuple(self.step(t) for t in open_ if t not in due)[:3],
            tuple(self.step(t) for t in timers),
            put_off=tuple(self.step(t) for t in order if states[t.key].is_put_off and not states[t.key].is_dismissed),
            done=sum(states[t.key].is_over for t in order),
            whole=len(order),
            ready=self.at(ready),
            late_min=ready - there.sheet.minutes,
            warnings=tuple(self._late(late) for late in there.goes_on.late),
            changed=self._changed(),
            just_done=self._just_done(),
        )

    def _just_done(self) -> Step | None:
        key = self.there.just_done
        at = self.there.states[key].done_at if key else None
        if at is None or self.there.now - at > UNDONE_FOR_MIN:
            return None
        return self.step(self.there.problem.by_key[key])

    def _changed(self) -> str:
        change, there = self.there.changed, self.there
        if change is None or there.now - change.at >= TOLD_FOR_MIN:
            return ""
        if there.goes_on.sheet.minutes < change.kept_min:
            told = {"at": self.at(there.goes_on.sheet.minutes), "was": self.at(change.kept_min)}
            return say("The rest goes in another order now: ready {at} instead of {was}.", **told)
        return say("The rest goes in another order now, so that less is late.")

    def _late(self, late: Late) -> str:
        return LATE_WORDS[late.rule].format(what=self.there.told[late.task_key].short, minutes=late.minutes)


@router.get("/{first_day}/now/{session_id}")
def show_now(request: Request, visitor: Signed, first_day: Day, session_id: UUID) -> Response:
    """The kitchen: now, next, timers."""
    there = running.running(visitor.caller, first_day, session_id)
    return _kitchen_page(request, visitor, first_day, session_id, there)


LISTENS_S, LOOKS_EVERY_S = 300.0, 0.4
"""A device that listens is answered so long, then asks anew; so often is looked whether something was said."""


@router.get("/{first_day}/now/{session_id}/changes")
async def changes(request: Request, visitor: Signed, first_day: Day, session_id: UUID) -> Response:
    """Server-sent events: one at once, then one whenever something is said or weighed, on whichever device, and
    whenever a minute is over."""
    there = await run_in_threadpool(running.running, visitor.caller, first_day, session_id)
    return EventSourceResponse(_changes(request, visitor, there), headers={"cache-control": "no-store"})


async def _changes(request: Request, visitor: Visitor, there: Running) -> AsyncIterator[bytes]:
    until, shown = monotonic() + LISTENS_S, None
    while monotonic() < until and not await request.is_disconnected():
        said = await run_in_threadpool(running.last_said, visitor.caller, UUID(there.session_key))
        mark = (*said, int((utc_now() - there.begun_at).total_seconds() // 60))
        if mark != shown:
            shown = mark
            yield format_sse_event(data_str=" ".join(map(str, mark)), retry=1000)
        await sleep(LOOKS_EVERY_S)


def _kitchen_page(request: Request, visitor: Visitor, first_day: date, session_id: UUID, there: Running) -> Response:
    picture = week_picture(visitor.caller, first_day)
    if picture is None:
        raise NotFound("week")
    session = next(s for s in picture.sessions if s.key == str(session_id))
    kitchen = _View(there, picture, str(session_id)).kitchen()
    return page(
        request,
        visitor,
        "cook/now.html",
        "cook",
        first_day=first_day,
        there=there,
        kitchen=kitchen,
        progress=say("{done} of {whole} steps done", done=kitchen.done, whole=kitchen.whole),
        ready=_ready(there, kitchen),
        here=_now(first_day, session_id),
        sheet=f"/cook/{first_day}/sheet/{session_id}",
        day=weekday_whole(session.starts_at.date()),
        clock_ms=round(utc_now().timestamp() * 1000),
        time_now=wall_clock(utc_now()),
        new_id=new_id,
        more_min=MORE_MIN,
        other_more=OTHER_MORE_MIN,
    )


def _ready(there: Running, kitchen: Kitchen) -> str:
    if there.is_over:
        return say("all done")
    if kitchen.late_min <= 0:
        return say("ready {at}", at=kitchen.ready)
    return say("ready {at}, {minutes} min late", at=kitchen.ready, minutes=kitchen.late_min)


@router.post("/{first_day}/now/{session_id}/steps")
def say_of_step(request: Request, visitor: Signed, form: Posted, first_day: Day, session_id: UUID) -> Response:
    """A step is begun, done, put off, or takes longer."""
    kind = text(form, "kind")
    minutes = read_whole(text(form, "minutes") or str(MORE_MIN), "minutes", largest=24 * 60) if kind == MORE else 0
    said = Tick(text(form, "step")[:160], kind, 0, minutes)
    event, is_sure = event_id(text(form, "event")), bool(text(form, "sure"))
    with suppress(AskedFirst):  # it is asked at the step
        running.tick(visitor.caller, first_day, session_id, event, said, is_sure=is_sure)
    return go(_now(first_day, session_id))


def _now(first_day: date, session_id: UUID) -> str:
    return f"/cook/{first_day}/now/{session_id}"
