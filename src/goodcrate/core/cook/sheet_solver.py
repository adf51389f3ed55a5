"""The shortest run sheet, by CP-SAT (OR-Tools), with simple bounds of our own.

One interval a task, a cumulative resource for hands and each place, a heat for each oven task; two oven tasks are at
one heat, or apart by the time the oven takes.
"""

from collections.abc import Iterable, Sequence
from itertools import combinations
from typing import Any

from goodcrate.core.cook.sheet_problem import (
    BLENDER,
    CHECK_MIN,
    CHECK_SLACK_MIN,
    HEAT_STEP_C,
    LONGEST_MIN,
    OVEN,
    Sheet,
    SheetProblem,
    Task,
    heats_of,
    longest_chain,
)


def simple_bound(problem: SheetProblem) -> int:
    """Minutes no sheet can do without: the longest chain, hands-on work over the hands, each place's load over it."""
    tasks, kitchen = problem.tasks, problem.kitchen
    warm = max((chain + kitchen.preheat_min for chain in _oven_chains(tasks)), default=0)
    chain = max(longest_chain(tasks).values(), default=0)
    looks = sum(CHECK_MIN * len(task.checks) for task in tasks if not task.is_hands_on)
    busy = sum(task.minutes for task in tasks if task.is_hands_on) + looks
    bounds = [chain, warm, -(-busy // kitchen.hands)]
    for place, count in kitchen.places.items():
        load = sum(task.minutes for task in tasks if task.place == place)
        bounds.append(-(-load // count) + (kitchen.preheat_min if place == OVEN and load else 0) if count else 0)
    return max(bounds)


def _oven_chains(tasks: Sequence[Task]) -> Iterable[int]:
    chains = longest_chain(tasks)
    return (chains[task.key] for task in tasks if task.place == OVEN)


class SheetModel:
    """A run sheet as a CP-SAT model: when each task starts, when somebody looks, how hot the oven is."""

    def __init__(self, problem: SheetProblem, most: int) -> None:
        from ortools.sat.python import cp_model

        self.problem, self.most = problem, most
        self.m: Any = cp_model.CpModel()
        self.start = {task.key: self.m.new_int_var(0, most - task.minutes, "") for task in problem.tasks}
        self.look: dict[tuple[str, int], Any] = {}
        self.heat: dict[str, Any] = {}
        self.end: Any = self.m.new_int_var(simple_bound(problem), most, "")
        self._order()
        self._hands()
        self._places()
        self._oven()
        self.m.minimize(self.end)

    def _order(self) -> None:
        """after_what_it_waits_for, at_once_where_it_must, within_the_time_food_may_stand."""
        minutes = {task.key: task.minutes for task in self.problem.tasks}
        for task in self.problem.tasks:
            start = self.start[task.key]
            ends = [self.start[key] + minutes[key] for key in task.after]
            for end in ends:
                self.m.add(start >= end)
            if task.at_once and ends:
                last = self.m.new_int_var(0, self.most, "")
                self.m.add_max_equality(last, ends)
                self.m.add(start == last)
            self.m.add(self.end >= start + task.minutes)
        for pair in self.problem.within:
            self.m.add(self.start[pair.later] <= self.start[pair.earlier] + minutes[pair.earlier] + pair.minutes)

    def _hands(self) -> None:
        """no_more_work_at_once_than_hands: hands-on tasks, and the looks in between of the others."""
        busy = []
        for task in self.problem.tasks:
            if task.is_hands_on:
                busy.append(self._interval(self.start[task.key], task.minutes))
                continue
            for n, due in enumerate(task.checks):
                at = self.m.new_int_var(0, self.most, "")
                self.m.add(at >= self.start[task.key] + due - CHECK_SLACK_MIN)
                self.m.add(at <= self.start[task.key] + due + CHECK_SLACK_MIN)
                self.m.add(at >= self.start[task.key])
                self.m.add(at + CHECK_MIN <= self.start[task.key] + task.minutes)
                self.look[task.key, n] = at
                busy.append(self._interval(at, CHECK_MIN))
        self._at_most(busy, self.problem.kitchen.hands)

    def _places(self) -> None:
        """no_more_in_a_place_than_it_takes; the blender is washed after each use."""
        for place, count in self.problem.kitchen.places.items():
            after = self.problem.kitchen.wash_min if place == BLENDER else 0
            there = [task for task in self.problem.tasks if task.place == place]
            self._at_most([self._interval(self.start[t.key], t.minutes + after) for t in there], count)

    def _oven(self) -> None:
        """one_heat_at_a_time: two tasks in the oven agree in heat, or the oven has time to change it between them."""
        kitchen = self.problem.kitchen
        there = [task for task in self.problem.tasks if task.place == OVEN]
        for task in there:
            heats = heats_of(task)
            self.heat[task.key] = self.m.new_int_var(heats[0] // HEAT_STEP_C, heats[-1] // HEAT_STEP_C, "")
            self.m.add(self.start[task.key] >= kitchen.preheat_min)
        for one, other in combinations(there, 2):
            same, first, second = (self.m.new_bool_var("") for _ in range(3))
            a, b = self.start[one.key], self.start[other.key]
            self.m.add(self.heat[one.key] == self.heat[other.key]).only_enforce_if(same)
            self.m.add(a + one.minutes + kitchen.reheat_min <= b).only_enforce_if(first)
            self.m.add(b + other.minutes + kitchen.reheat_min <= a).only_enforce_if(second)
            self.m.add_bool_or([same, first, second])

    def _interval(self, start: Any, minutes: int) -> Any:
        return self.m.new_fixed_size_interval_var(start, minutes, "")

    def _at_most(self, intervals: Sequence[Any], count: int) -> None:
        if count == 1:
            self.m.add_no_overlap(intervals)
        elif intervals:
            self.m.add_cumulative(intervals, [1] * len(intervals), count)

    def start_from(self, sheet: Sheet) -> None:
        """Begin with a sheet that is there already."""
        for key, at in sheet.starts.items():
            self.m.add_hint(self.start[key], at)
        for look, at in sheet.looks.items():
            self.m.add_hint(self.look[look], at)
        for key, heat in sheet.heats.items():
            self.m.add_hint(self.heat[key], heat // HEAT_STEP_C)
        self.m.add_hint(self.end, sheet.minutes)

    def solve(self, limit_seconds: float) -> Sheet | None:
        """The shortest sheet found within a time of the solver's own count; None when none was found."""
        from ortools.sat.python import cp_model

        solver: Any = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        solver.parameters.max_deterministic_time = limit_seconds
        status = solver.solve(self.m)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        return Sheet(
            {key: int(solver.value(at)) for key, at in self.start.items()},
            {look: int(solver.value(at)) for look, at in self.look.items()},
            {key: int(solver.value(heat)) * HEAT_STEP_C for key, heat in self.heat.items()},
            int(solver.value(self.end)),
            int(solver.value(self.end)) if status == cp_model.OPTIMAL else round(solver.best_objective_bound),
        )


def shortest_sheet(problem: SheetProblem, limit_seconds: float = 5.0) -> Sheet | None:
    """The run sheet that is over soonest, as far as it is found in `limit_seconds` of the solver's own count; None when
    no sheet was found that keeps every rule."""
    if not problem.tasks:
        return Sheet({}, {}, {}, 0, 0)
    most = min(LONGEST_MIN * 2, sum(t.minutes + problem.kitchen.reheat_min for t in problem.tasks) + 120)
    model = SheetModel(problem, most)
    return model.solve(limit_seconds)


def one_after_another(problem: SheetProblem) -> int:
    """How long the dishes take one after another, each by its own shortest sheet: what planning is measured against."""
    whole = 0
    for dish in dict.fromkeys(task.dish for task in problem.tasks):
        own = tuple(task for task in problem.tasks if task.dish == dish)
        keys = {task.key for task in own}
        alone = SheetProblem(own, problem.kitchen, tuple(w for w in problem.within if {w.earlier, w.later} <= keys))
        sheet = shortest_sheet(alone)
        whole += 0 if sheet is None else sheet.minutes
    return whole
