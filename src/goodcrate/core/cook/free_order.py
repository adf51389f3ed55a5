"""The rest of a session in another order, where the one it had makes food late or the evening long: by CP-SAT.

What is begun stays, the oven keeps the heats of the sheet. What must follow at once, be looked at or be cold in time
may be late here, each minute at a price: food on the heat cannot be unmade.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from goodcrate.core.cook.running import Replanned, StepState, in_same_order, look_key, worth_of
from goodcrate.core.cook.sheet_problem import BLENDER, CHECK_MIN, CHECK_SLACK_MIN, OVEN, Hold, Sheet, SheetProblem, Task
from goodcrate.core.cook.sheet_solver import SheetModel
from goodcrate.core.ground.errors import InvalidInputs

LATE_WEIGHT = 20
"""A minute too late counts as so many minutes of a longer evening: as measured for re-plans."""
WORTH_MIN = 5
"""The order is kept unless so many minutes are won by another: a cook knows what comes."""
PAST = "past."
"""How the keys of what still occupies a place after it is done begin."""


@dataclass(frozen=True, slots=True)
class _Look:
    """A look that is due: so many minutes after the start of a waiting task, or from now for one that runs."""

    task: str
    number: int
    due: int
    is_from_now: bool


@dataclass
class _Rest:
    """What is left of a session, in minutes from now."""

    problem: SheetProblem
    looks: list[_Look]
    latest: list[tuple[str, int]] = field(default_factory=list)
    """Tasks with the minute they should begin at, at the latest, by what is over already."""
    together: frozenset[tuple[str, str]] = frozenset()
    """Pairs that were to share a tray and still can."""


def in_better_order(
    problem: SheetProblem, sheet: Sheet, states: Mapping[str, StepState], now: int, limit_seconds: float = 0.4
) -> Sheet | None:
    """A sheet by whose order the rest goes on better than by `sheet`'s; None when none was found in a time of the
    solver's own count. Better: less is late for the cold; or as little, and `WORTH_MIN` are won of what is late or at
    the end while the other gets no worse.
    """
    kept = in_same_order(problem, sheet, states, now)
    try:
        rest = _rest_of(problem, sheet, states, kept, now)
    except InvalidInputs:
        return None  # something has run for a day: nothing to order
    if not rest.problem.tasks:
        return None
    found = _solved(rest, kept, now, sheet, limit_seconds)
    if found is None:
        return None
    starts = dict(sheet.starts)
    starts |= {key: now + at for key, at in found.starts.items() if key in starts and states[key].begun_at is None}
    looks = dict(sheet.looks) | {look: now + at for look, at in found.looks.items()}
    other = Sheet(starts, looks, sheet.heats, now + found.minutes, 0, sheet.together)
    return other if _is_better(in_same_order(problem, other, states, now), kept) else None


def _is_better(other: Replanned, kept: Replanned) -> bool:
    hot, late, end = _cost(other)
    was_hot, was_late, was_end = _cost(kept)
    if hot != was_hot:
        return hot < was_hot
    return late <= was_late and (late <= was_late - WORTH_MIN or end <= was_end - WORTH_MIN)


def _cost(way: Replanned) -> tuple[int, int, int]:
    """Minutes too late for the cold, too late in all, and when it is over."""
    late, end, _ = worth_of(way)
    return sum(x.minutes for x in way.late if x.rule == "within"), late, end


def _rest_of(problem: SheetProblem, sheet: Sheet, states: Mapping[str, StepState], kept: Replanned, now: int) -> _Rest:
    minutes = {task.key: task.minutes for task in kept.problem.tasks}
    ends = {key: kept.sheet.starts[key] + minutes[key] for key in kept.sheet.starts}
    done = {key for key in ends if states[key].done_at is not None}
    left = {key for key in ends if key not in done}
    tasks = []
    for task in (t for t in problem.tasks if t.key in left):
        waits = tuple(key for key in task.after if key in left)
        if states[task.key].begun_at is not None:
            takes = max(1, ends[task.key] - now)
            fixed = replace(task, minutes=takes, earliest=0, latest=0, checks=(), after=(), at_once=False)
            tasks.append(fixed)
        else:
            ready = max([0, task.earliest - now, *_oven_ready(task, sheet, problem, done, ends, now)])
            once = task.at_once and bool(waits)
            tasks.append(
                replace(
                    task, minutes=minutes[task.key], earliest=ready, latest=None, checks=(), after=waits, at_once=once
                )
            )
    heats = sheet.heats
    tasks = [replace(t, low_c=heats[t.key], high_c=heats[t.key]) if t.place == OVEN else t for t in tasks]
    past, holds = _past(problem, done, left, ends, now)
    kitchen = problem.kitchen
    warm = max(0, kitchen.preheat_min - now) if not any(problem.by_key[k].place == OVEN for k in done) else 0
    is_baking = any(t.place == OVEN and t.latest == 0 for t in tasks)
    help_from = None if kitchen.help_from is None else max(0, kitchen.help_from - now)
    here = replace(kitchen, preheat_min=0 if is_baking else warm, help_from=help_from)
    within = tuple(w for w in problem.within if {w.earlier, w.later} <= left)
    together = frozenset(pair for pair in sheet.together if {*pair} <= left)
    mates = {key for pair in together for key in pair}
    tasks = [t if t.key in mates else replace(t, shares="") for t in tasks]
    looks = list(_looks(problem, sheet, states, left, now))
    rest = _Rest(SheetProblem((*tasks, *past), here, within, holds), looks, together=together)
    for task in problem.tasks:
        if task.key in left and task.at_once and states[task.key].begun_at is None and set(task.after) <= done:
            rest.latest.append((task.key, 0))
    rest.latest += [
        (w.later, ends[w.earlier] + w.minutes - now)
        for w in problem.within
        if w.earlier in done and w.later in left and states[w.later].begun_at is None
    ]
    return rest


def _oven_ready(
    task: Task, sheet: Sheet, problem: SheetProblem, done: set[str], ends: Mapping[str, int], now: int
) -> Iterator[int]:
    """From when on the oven can be at a task's heat, by what was baked at another."""
    if task.place != OVEN:
        return
    for key in done:
        if problem.by_key[key].place == OVEN and sheet.heats[key] != sheet.heats[task.key]:
            yield ends[key] + problem.kitchen.reheat_min - now


def _past(
    problem: SheetProblem, done: set[str], left: set[str], ends: Mapping[str, int], now: int
) -> tuple[list[Task], tuple[Hold, ...]]:
    """What is over and still occupies something: pots with food in them, pots and a blender that are being washed."""
    past: list[Task] = []

    def stands(key: str, place: str = "") -> str:
        past.append(Task(f"{PAST}{key}", f"{PAST}{key}", 1, is_hands_on=False, place=place, latest=0))
        return past[-1].key

    holds = []
    wash = problem.kitchen.wash_min
    for n, hold in enumerate(problem.holds):
        here = tuple(key for key in hold.tasks if key in left)
        over = [ends[key] for key in hold.tasks if key in done]
        if here:
            holds.append(Hold(hold.vessel, (*here, stands(f"pot.{n}")) if over else here))
        elif over and max(over) + wash > now:
            holds.append(Hold(hold.vessel, (stands(f"pot.{n}"),)))
    for key in done:
        if problem.by_key[key].place == BLENDER and ends[key] + wash > now:
            stands(key, BLENDER)
    return past, tuple(holds)


def _looks(
    problem: SheetProblem, sheet: Sheet, states: Mapping[str, StepState], left: set[str], now: int
) -> Iterator[_Look]:
    for key, n in sheet.looks:
        if key in left and states[look_key(key, n)].done_at is None:
            begun, due = states[key].begun_at, problem.by_key[key].checks[n]
            yield _Look(key, n, due, is_from_now=False) if begun is None else _Look(key, n, begun + due - now, True)


class _RestModel(SheetModel):
    """The same rules for the rest of a session, with a price for what comes too late."""

    def __init__(self, rest: _Rest, most: int) -> None:
        self.rest = rest
        self.late: list[Any] = []
        super().__init__(rest.problem, most)
        self.m.minimize(self.end + LATE_WEIGHT * sum(self.late))

    def may_share(self, one: Task, other: Task) -> bool:
        """Only those that were to: what stands on a tray stays on it."""
        return {(one.key, other.key), (other.key, one.key)} & self.rest.together != set()

    def _lateness(self, by: Any) -> None:
        late = self.m.new_int_var(0, self.most * 4, "")
        self.m.add(late >= by)
        self.late.append(late)

    def _order(self) -> None:
        minutes = {task.key: task.minutes for task in self.problem.tasks}
        for task in self.problem.tasks:
            start = self.start[task.key]
            ends = [self.start[key] + minutes[key] for key in task.after]
            for end in ends:
                self.m.add(start >= end)
            if task.at_once:
                last = self.m.new_int_var(0, self.most * 2, "")
                self.m.add_max_equality(last, ends)
                self._lateness(start - last)
            self.m.add(self.end >= start + task.minutes)
        for pair in self.problem.within:
            self._lateness(self.start[pair.later] - self.start[pair.earlier] - minutes[pair.earlier] - pair.minutes)
        for key, latest in self.rest.latest:
            self._lateness(self.start[key] - latest)

    def _hands(self) -> None:
        busy = [self._interval(t, self.start[t.key], t.minutes) for t in self.problem.tasks if t.is_hands_on]
        for look in self.rest.looks:
            at = self.m.new_int_var(0, self.most, "")
            due = look.due if look.is_from_now else self.start[look.task] + look.due
            self.m.add(at >= due - CHECK_SLACK_MIN)
            self._lateness(at - due - CHECK_SLACK_MIN)
            self.look[look.task, look.number] = at
            busy.append(self.m.new_fixed_size_interval_var(at, CHECK_MIN, ""))
        if self.problem.kitchen.help_from:
            busy.append(self.m.new_fixed_size_interval_var(0, self.problem.kitchen.help_from, ""))
        self._at_most(busy, self.problem.kitchen.most_hands)


def _solved(rest: _Rest, kept: Replanned, now: int, sheet: Sheet, limit_seconds: float) -> Sheet | None:
    tasks = rest.problem.tasks
    known = {task.key: task for task in tasks}
    most = max(kept.sheet.minutes - now, 1) + sum(t.minutes for t in tasks if t.is_hands_on) + 60
    model = _RestModel(rest, most)
    own = {key: max(0, at - now) for key, at in kept.sheet.starts.items() if key in known}
    looks = {look: max(0, at - now) for look, at in kept.sheet.looks.items() if look in model.look}
    heats = {key: sheet.heats[key] for key in model.heat}
    model.start_from(Sheet(own, looks, heats, max(0, kept.sheet.minutes - now), 0, kept.sheet.together))
    return model.solve(limit_seconds)
