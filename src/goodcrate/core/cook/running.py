"""A session while it is cooked: what was begun, done, put off or takes longer, and the rest in the order it had.

The rest is taken up in the order of the sheet, each step as soon as what it waits for is over and hands, place and pot
are free; times move, the order stays. What must follow at once, be looked at or be cold in time is told when it would
be late: food on the heat cannot be unmade.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from goodcrate.core.cook.sheet_problem import BLENDER, CHECK_MIN, CHECK_SLACK_MIN, OVEN, Sheet, SheetProblem, Task

BEGUN, DONE, BACK, MORE, PUT_OFF = "begun", "done", "back", "more", "put_off"
DISMISSED = "dismissed"
"""What is said of a step: it is begun, done, not done after all, takes so many minutes more, is put off, is not done
at all."""


@dataclass(frozen=True, slots=True)
class Tick:
    """Something said of a step (or of a look: `look_key`), `at` so many minutes from the session's beginning by the
    server's clock."""

    task_key: str
    kind: str
    at: int
    minutes: int = 0


@dataclass(frozen=True, slots=True)
class StepState:
    """Where a step stands: begun and done at (minutes from the beginning, None when it is not), and its overrun."""

    begun_at: int | None = None
    done_at: int | None = None
    more_min: int = 0
    is_put_off: bool = False
    is_dismissed: bool = False

    @property
    def is_over(self) -> bool:
        """Whether nothing is to be done of it any more."""
        return self.done_at is not None or self.is_dismissed

    @property
    def is_running(self) -> bool:
        """Begun and not done."""
        return self.begun_at is not None and self.done_at is None


def look_key(task_key: str, n: int) -> str:
    """What the `n`th look at a step is called."""
    return f"{task_key}#{n}"


def states_of(problem: SheetProblem, sheet: Sheet, ticks: Iterable[Tick]) -> Mapping[str, StepState]:
    """Where each step stands after all that was said, in the order it was said; of steps nobody knows nothing is.

    Done twice is done once, at the first time. What was never said to be begun and is done began as late as it could
    have; a step put off is not, once it is begun.
    """
    minutes = {task.key: task.minutes for task in problem.tasks}
    minutes |= {look_key(*look): CHECK_MIN for look in sheet.looks}
    states = {key: StepState() for key in minutes}
    for tick in ticks:
        state = states.get(tick.task_key)
        if state is None:
            continue
        if tick.kind == BEGUN and state.begun_at is None:
            state = replace(state, begun_at=tick.at, is_put_off=False, is_dismissed=False)
        elif tick.kind == DONE and state.done_at is None:
            began = max(0, tick.at - minutes[tick.task_key]) if state.begun_at is None else state.begun_at
            state = replace(state, begun_at=began, done_at=max(tick.at, began), is_put_off=False, is_dismissed=False)
        elif tick.kind == BACK:
            state = StepState(more_min=state.more_min)
        elif tick.kind == MORE and state.done_at is None:
            state = replace(state, more_min=state.more_min + tick.minutes)
        elif tick.kind in (PUT_OFF, DISMISSED) and state.done_at is None:
            is_dismissed = tick.kind == DISMISSED or state.is_dismissed
            state = StepState(more_min=state.more_min, is_put_off=True, is_dismissed=is_dismissed)
        states[tick.task_key] = state
    return states


@dataclass(frozen=True, slots=True)
class Late:
    """Something that would be too late: which step, what it is late for (`at_once`, `within`, `look`), by how much."""

    task_key: str
    rule: str
    minutes: int


@dataclass(frozen=True, slots=True)
class Replanned:
    """The rest of a session in the order it had: `problem` with the minutes steps really take, and its sheet. Steps
    that were put off are not on it."""

    problem: SheetProblem
    sheet: Sheet
    late: tuple[Late, ...]


def in_same_order(problem: SheetProblem, sheet: Sheet, states: Mapping[str, StepState], now: int) -> Replanned:
    """The sheet as it goes on at minute `now`: begun steps stay, the others come as soon as their order lets them.

    A step comes sooner than on the sheet where what is late does not add up to more: not all that can begin should,
    since what is hot has to be cold in time. Of the ways tried the one with the least that is late, then over soonest,
    then with the least waiting.
    """
    ways = ((sooner, cold) for sooner in SOONER_MIN for cold in (sooner, NEVER))
    return min((_Run(problem, sheet, states, now, way).planned() for way in dict.fromkeys(ways)), key=worth_of)


def worth_of(way: Replanned) -> tuple[int, int, int]:
    """Less is better: minutes too late in all, when it is over, and when its steps begin in all."""
    return sum(late.minutes for late in way.late), way.sheet.minutes, sum(way.sheet.starts.values())


def taken_up(problem: SheetProblem, states: Mapping[str, StepState], goes_on: Replanned, now: int) -> tuple[str, ...]:
    """The hands-on steps that begin now, for whoever has nothing in hand."""
    starts = goes_on.sheet.starts
    hands = [task for task in problem.tasks if task.is_hands_on and task.key in starts]
    free = problem.kitchen.most_hands - sum(states[task.key].is_running for task in hands)
    due = [task.key for task in hands if states[task.key].begun_at is None and starts[task.key] <= now]
    return tuple(sorted(due, key=lambda key: (starts[key], key))[: max(0, free)])


@dataclass(frozen=True, slots=True)
class _Item:
    """What is taken up: a step, or a look at one (`look` is its number)."""

    task: Task
    planned: int
    look: int | None = None

    @property
    def key(self) -> str:
        return self.task.key if self.look is None else look_key(self.task.key, self.look)


NEVER = 10**6
SOONER_MIN = (0, 5, 10, 20, 40, NEVER)
"""By how many minutes steps may come before their time on the sheet: each is tried, also with work by hand alone (on
no heat) as soon as it can be, and the best is taken."""


class _Run:
    """One pass: what is begun stands, the others are taken up in their order."""

    def __init__(
        self, problem: SheetProblem, sheet: Sheet, states: Mapping[str, StepState], now: int, sooner: tuple[int, int]
    ) -> None:
        self.problem, self.sheet, self.states, self.now = problem, sheet, states, now
        self.sooner, self.sooner_by_hand = sooner
        kitchen = problem.kitchen
        self.tasks = {t.key: t for t in problem.tasks if not states[t.key].is_put_off}
        self.minutes = {key: self._takes(task) for key, task in self.tasks.items()}
        self.starts: dict[str, int] = {}
        self.looks: dict[tuple[str, int], int] = {}
        self.hands = [0] * kitchen.hands + ([kitchen.help_from] if kitchen.help_from is not None else [])
        vessels = {hold.vessel for hold in problem.holds}
        self.units = {place: [0] * count for place, count in kitchen.places.items() if place not in vessels}
        self.vessels = {place: [0] * kitchen.places[place] for place in vessels}
        self.held: dict[int, int] = {}
        self.shelf: dict[str, int] = {}
        self.mates = dict((*sheet.together, *((b, a) for a, b in sheet.together)))
        self.together: list[tuple[str, str]] = []
        self.late: list[Late] = []

    def _takes(self, task: Task) -> int:
        state = self.states[task.key]
        if state.begun_at is None:
            return task.minutes + state.more_min
        if state.done_at is not None:
            return max(1, state.done_at - state.begun_at)
        return max(task.minutes + state.more_min, self.now - state.begun_at + 1)

    def _end(self, key: str) -> int:
        return self.starts[key] + self.minutes[key]

    def planned(self) -> Replanned:
        """The rest of the session."""
        waiting = self._items()
        while waiting:
            item = next((i for i in waiting if self._can(i)), waiting[0])
            waiting.remove(item)
            self._take_up(item)
        self._tell_late()
        kept = self.problem.without_tasks(self.problem.by_key.keys() - self.tasks.keys())
        tasks = tuple(replace(t, minutes=self.minutes[t.key], earliest=0, latest=None, checks=()) for t in kept.tasks)
        whole = max((self._end(key) for key in self.tasks), default=0)
        heats = {key: heat for key, heat in self.sheet.heats.items() if key in self.tasks}
        made = Sheet(self.starts, self.looks, heats, whole, 0, tuple(self.together))
        return Replanned(replace(kept, tasks=tasks), made, tuple(self.late))

    def _items(self) -> list[_Item]:
        items = [_Item(task, self.sheet.starts[key]) for key, task in self.tasks.items()]
        for (key, n), at in self.sheet.looks.items():
            state = self.states[look_key(key, n)]
            if key in self.tasks and self.states[key].done_at is None and state.done_at is None:
                items.append(_Item(self.tasks[key], at, n))

        def first(item: _Item) -> tuple[bool, int, str]:
            begun = self.states[item.key].begun_at if item.look is None else None
            return begun is None, item.planned if begun is None else begun, item.key

        return sorted(items, key=first)

    def _can(self, item: _Item) -> bool:
        """Whether all it waits for is placed, and a pot it needs is not held by what is not placed yet."""
        if item.look is not None:
            return item.task.key in self.starts
        if self.states[item.key].begun_at is not None:
            return True
        if any(key in self.tasks and key not in self.starts for key in item.task.after):
            return False
        return all(min(self.vessels[self.problem.holds[n].vessel]) < NEVER for n in self._new_holds(item.task))

    def _new_holds(self, task: Task) -> list[int]:
        return [n for n, hold in enumerate(self.problem.holds) if task.key in hold.tasks and n not in self.held]

    def _take_up(self, item: _Item) -> None:
        if item.look is not None:
            due = self.starts[item.task.key] + item.task.checks[item.look]
            at = max(self.now, due - CHECK_SLACK_MIN, self.starts[item.task.key], min(self.hands))
            self._occupy(self.hands, 1, at, at + CHECK_MIN)
            self.looks[item.task.key, item.look] = at
            last = min(due + CHECK_SLACK_MIN, self._end(item.task.key) - CHECK_MIN)
            if at > last:
                self.late.append(Late(item.task.key, "look", at - last))
            return
        task, begun = item.task, self.states[item.key].begun_at
        at = self._earliest(task) if begun is None else begun
        self.starts[task.key], end = at, at + self.minutes[task.key]
        if task.is_hands_on:
            self._occupy(self.hands, 1, at, end)
        mate = self._on_tray(task, at)
        if mate:
            self.together.append((mate, task.key))
            self.shelf[task.key] = self.shelf[mate]
            self.units[OVEN][self.shelf[mate]] = max(end, self._end(mate))
        elif task.place in self.units:
            wash = self.problem.kitchen.wash_min if task.place == BLENDER else 0
            self.shelf[task.key] = self._occupy(self.units[task.place], task.takes, at, end + wash)
        self._hold(task, at, mate)

    def _on_tray(self, task: Task, at: int) -> str:
        """With whom a task goes on a tray at a minute: its mate, while that is in and nobody else comes after it on its
        shelf and in its tray; empty otherwise."""
        mate = self.mates.get(task.key, "")
        if mate not in self.starts or not self.starts[mate] <= at < self._end(mate):
            return ""
        free = [self.units[OVEN][self.shelf[mate]] == self._end(mate)]
        for n, hold in enumerate(self.problem.holds):
            if hold.tasks == (mate,):
                unit = self.vessels[hold.vessel][self.held[n]]
                free.append(unit == self._end(mate) + self.problem.kitchen.wash_min)
        return mate if all(free) else ""

    def _earliest(self, task: Task) -> int:
        by_hand = task.is_hands_on and not task.place
        sooner = self.sooner_by_hand if by_hand else self.sooner
        ready = [self.now, task.earliest, self.sheet.starts[task.key] - sooner]
        ready += [*(self._end(key) for key in task.after if key in self.starts)]
        if task.is_hands_on:
            ready.append(min(self.hands))
        if task.place == OVEN:
            ready.append(self.problem.kitchen.preheat_min)
            heat, change = self.sheet.heats[task.key], self.problem.kitchen.reheat_min
            other = (k for k in self.starts if self.tasks[k].place == OVEN and self.sheet.heats[k] != heat)
            ready += [self._end(key) + change for key in other]
        if self._on_tray(task, max(ready)):
            return max(ready)
        if task.place in self.units:
            ready.append(sorted(self.units[task.place])[task.takes - 1])
        ready += [min(self.vessels[self.problem.holds[n].vessel]) for n in self._new_holds(task)]
        return max(ready)

    @staticmethod
    def _occupy(units: list[int], count: int, at: int, until: int) -> int:
        """Take so many units: of those that are free by then the ones that were free last, else the first to be.
        Answers the first of them."""
        order = sorted(range(len(units)), key=lambda n: (units[n] > at, -units[n] if units[n] <= at else units[n]))
        for n in order[:count]:
            units[n] = max(units[n], until)
        return order[0] if order else 0

    def _hold(self, task: Task, at: int, mate: str) -> None:
        """Take the pots a step is the first to need, and free those it was the last in; a tray is its mate's."""
        there = {h.vessel: self.held[n] for n, h in enumerate(self.problem.holds) if mate and h.tasks == (mate,)}
        for n in self._new_holds(task):
            if self.problem.holds[n].tasks == (task.key,) and self.problem.holds[n].vessel in there:
                self.held[n] = there[self.problem.holds[n].vessel]
                continue
            units = self.vessels[self.problem.holds[n].vessel]
            free = [k for k, until in enumerate(units) if until <= at]
            self.held[n] = max(free, key=lambda k: units[k]) if free else min(range(len(units)), key=units.__getitem__)
            units[self.held[n]] = NEVER
        for n, hold in enumerate(self.problem.holds):
            own = [key for key in hold.tasks if key in self.tasks]
            if task.key in own and all(key in self.starts for key in own):
                last = max(self._end(key) for key in (*own, *([mate] if mate else [])))
                self.vessels[hold.vessel][self.held[n]] = last + self.problem.kitchen.wash_min

    def _tell_late(self) -> None:
        for task in self.tasks.values():
            ends = [self._end(key) for key in task.after if key in self.starts]
            if task.at_once and ends and (by := self.starts[task.key] - max(ends)) > 0:
                self.late.append(Late(task.key, "at_once", by))
        for pair in self.problem.within:
            if pair.later in self.starts and pair.earlier in self.starts:
                by = self.starts[pair.later] - self._end(pair.earlier) - pair.minutes
                if by > 0:
                    self.late.append(Late(pair.later, "within", by))
