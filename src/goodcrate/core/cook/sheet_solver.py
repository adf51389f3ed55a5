"""The shortest run sheet, by CP-SAT (OR-Tools), with simple bounds of our own.

One interval a task, a cumulative resource for hands and each place, a heat for each oven task; two oven tasks are at
one heat, or apart by the time the oven takes. First the shortest sheet; then, as short, the one whose dishes are each
done in the least time.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import combinations
from math import ceil
from typing import Any

from goodcrate.core.cook.sheet_problem import (
    BLENDER,
    CHECK_MIN,
    CHECK_SLACK_MIN,
    HEAT_STEP_C,
    LONGEST_MIN,
    OVEN,
    Sheet,
    SheetKitchen,
    SheetProblem,
    Task,
    heats_of,
    longest_chain,
    may_share,
)


def simple_bound(problem: SheetProblem) -> int:
    """Minutes no sheet can do without: the longest chain, hands-on work over the hands, each place's load over it."""
    tasks, kitchen = problem.tasks, problem.kitchen
    warm = max((chain + kitchen.preheat_min for chain in _oven_chains(tasks)), default=0)
    chain = max(longest_chain(tasks).values(), default=0)
    looks = sum(CHECK_MIN * len(task.checks) for task in tasks if not task.is_hands_on)
    busy = sum(task.minutes for task in tasks if task.is_hands_on) + looks
    bounds = [chain, warm, _work_over_hands(busy, kitchen)]
    for place, count in kitchen.places.items():
        load = ceil(sum(_least_load(task) for task in tasks if task.place == place))
        bounds.append(-(-load // count) + (kitchen.preheat_min if place == OVEN and load else 0) if count else 0)
    return max(bounds)


def _least_load(task: Task) -> float:
    """Minutes of a place that a task takes at least: two that share a tray take the longer one's, or more."""
    return task.minutes * task.takes / (2 if task.shares else 1)


def _work_over_hands(busy: int, kitchen: SheetKitchen) -> int:
    """Minutes that so much work takes at least, with help from its minute on."""
    alone = -(-busy // kitchen.hands)
    if kitchen.help_from is None or alone <= kitchen.help_from:
        return alone
    return kitchen.help_from + -(-(busy - kitchen.hands * kitchen.help_from) // kitchen.most_hands)


def _oven_chains(tasks: Sequence[Task]) -> Iterable[int]:
    chains = longest_chain(tasks)
    return (chains[task.key] for task in tasks if task.place == OVEN)


class SheetModel:
    """A run sheet as a CP-SAT model: when each task starts, when somebody looks, how hot the oven is.

    With `worth` (by dish) every dish may be left out, and as much worth as can be is done within `most` minutes.
    """

    def __init__(self, problem: SheetProblem, most: int, worth: Mapping[str, int] | None = None) -> None:
        from ortools.sat.python import cp_model

        self.problem, self.most = problem, most
        self.m: Any = cp_model.CpModel()
        dishes = dict.fromkeys(task.dish for task in problem.tasks)
        self.there: dict[str, Any] = {
            dish: True if worth is None or dish not in worth else self.m.new_bool_var("") for dish in dishes
        }
        self.start = {t.key: self.m.new_int_var(t.earliest, max(t.earliest, _last(t, most)), "") for t in problem.tasks}
        self.look: dict[tuple[str, int], Any] = {}
        self.heat: dict[str, Any] = {}
        self.end: Any = self.m.new_int_var(simple_bound(problem) if worth is None else 0, most, "")
        self.share: dict[tuple[str, str], Any] = {}
        self.span: dict[tuple[str, str], tuple[Any, Any]] = {}
        self.alone: dict[str, Any] = {}
        self._order()
        self._share()
        self._hands()
        self._places()
        self._holds()
        self._oven()
        if worth is None:
            self.m.minimize(self.end)
        else:
            self.m.maximize(sum(worth[dish] * there for dish, there in self.there.items() if dish in worth))

    def _order(self) -> None:
        """after_what_it_waits_for, at_once_where_it_must, within_the_time_food_may_stand."""
        minutes = {task.key: task.minutes for task in self.problem.tasks}
        for task in self.problem.tasks:
            start = self.start[task.key]
            ends = [self.start[key] + minutes[key] for key in task.after]
            for end in ends:
                self._if_there(task, start >= end)
            if task.at_once and ends:
                last = self.m.new_int_var(0, self.most * 2, "")
                self.m.add_max_equality(last, ends)
                self._if_there(task, start == last)
            self._if_there(task, self.end >= start + task.minutes)
        by_key = self.problem.by_key
        for pair in self.problem.within:
            latest = self.start[pair.earlier] + minutes[pair.earlier] + pair.minutes
            self._if_there(by_key[pair.later], self.start[pair.later] <= latest)

    def _if_there(self, task: Task, rule: Any) -> None:
        made = self.m.add(rule)
        if self.there[task.dish] is not True:
            made.only_enforce_if(self.there[task.dish])

    def _hands(self) -> None:
        """no_more_work_at_once_than_hands: hands-on tasks, and the looks in between of the others."""
        busy = []
        for task in self.problem.tasks:
            if task.is_hands_on:
                busy.append(self._interval(task, self.start[task.key], task.minutes))
                continue
            for n, due in enumerate(task.checks):
                at = self.m.new_int_var(0, self.most, "")
                start = self.start[task.key]
                self._if_there(task, at >= start + max(0, due - CHECK_SLACK_MIN))
                self._if_there(task, at <= start + due + CHECK_SLACK_MIN)
                self._if_there(task, at + CHECK_MIN <= start + task.minutes)
                self.look[task.key, n] = at
                busy.append(self._interval(task, at, CHECK_MIN))
        helped = self.problem.kitchen.help_from
        if helped:
            busy.append(self.m.new_fixed_size_interval_var(0, helped, ""))  # the help is not there yet
        self._at_most(busy, self.problem.kitchen.most_hands)

    def may_share(self, one: Task, other: Task) -> bool:
        """Whether two tasks may stand on one tray."""
        return may_share(one, other)

    def _share(self) -> None:
        """two_on_one_tray_at_most: which pairs share one, from the first one in to the last one out."""
        mates: dict[str, list[Any]] = {}
        for one, other in combinations((t for t in self.problem.tasks if t.shares), 2):
            if not self.may_share(one, other):
                continue
            pair, shares = (one.key, other.key), self.m.new_bool_var("")
            a, b = self.start[one.key], self.start[other.key]
            self.m.add(a < b + other.minutes).only_enforce_if(shares)
            self.m.add(b < a + one.minutes).only_enforce_if(shares)
            first, last = (self.m.new_int_var(0, self.most * 2, "") for _ in range(2))
            self.m.add_min_equality(first, [a, b])
            self.m.add_max_equality(last, [a + one.minutes, b + other.minutes])
            self.share[pair], self.span[pair] = shares, (first, last)
            for task in (one, other):
                mates.setdefault(task.key, []).append(shares)
        by_key = self.problem.by_key
        for key, shares in mates.items():
            self.alone[key] = self.m.new_bool_var("")
            self.m.add(self.alone[key] + sum(shares) == self.there[by_key[key].dish])

    def _shared_interval(self, pair: tuple[str, str], after: int = 0) -> Any:
        """The tray of a pair, and what it takes to wash it."""
        first, last = self.span[pair]
        size = self.m.new_int_var(0, self.most * 3, "")
        return self.m.new_optional_interval_var(first, size, last + after, self.share[pair], "")

    def _places(self) -> None:
        """no_more_in_a_place_than_it_takes; the blender is washed after each use."""
        for place, count in self.problem.kitchen.places.items():
            after = self.problem.kitchen.wash_min if place == BLENDER else 0
            there = [task for task in self.problem.tasks if task.place == place]
            held = [self._in_place(t, after) for t in there]
            shared = [self._shared_interval(pair) for pair in self.share] if place == OVEN else []
            self._at_most([*held, *shared], count, [*(t.takes for t in there), *(1 for _ in shared)])

    def _holds(self) -> None:
        """no_more_pots_than_there_are: each from the first of what is cooked in it to the last, and washed."""
        by_key, by_vessel = self.problem.by_key, dict[str, list[Any]]()
        for hold in self.problem.holds:
            first, last, size = (self.m.new_int_var(0, self.most * 2, "") for _ in range(3))
            for key in hold.tasks:
                self.m.add(first <= self.start[key])
                self.m.add(last >= self.start[key] + by_key[key].minutes + self.problem.kitchen.wash_min)
            there = self.there[by_key[hold.tasks[0]].dish]
            if len(hold.tasks) == 1:
                there = self.alone.get(hold.tasks[0], there)
            by_vessel.setdefault(hold.vessel, []).append(self.m.new_optional_interval_var(first, size, last, there, ""))
        for pair in self.share:
            for vessel in {hold.vessel for hold in self.problem.holds if hold.tasks in ((pair[0],), (pair[1],))}:
                by_vessel[vessel].append(self._shared_interval(pair, self.problem.kitchen.wash_min))
        for vessel, held in by_vessel.items():
            self._at_most(held, self.problem.kitchen.places[vessel])

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
            if (one.key, other.key) in self.share:
                self.m.add_implication(self.share[one.key, other.key], same)
            self.m.add(a + one.minutes + kitchen.reheat_min <= b).only_enforce_if(first)
            self.m.add(b + other.minutes + kitchen.reheat_min <= a).only_enforce_if(second)
            gone = [self.there[t.dish].negated() for t in (one, other) if self.there[t.dish] is not True]
            self.m.add_bool_or([same, first, second, *gone])

    def _interval(self, task: Task, start: Any, minutes: int) -> Any:
        return self.m.new_optional_fixed_size_interval_var(start, minutes, self.there[task.dish], "")

    def _in_place(self, task: Task, after: int) -> Any:
        """The time in which a task has a place of its own."""
        there = self.alone.get(task.key, self.there[task.dish])
        return self.m.new_optional_fixed_size_interval_var(self.start[task.key], task.minutes + after, there, "")

    def _at_most(self, intervals: Sequence[Any], count: int, takes: Sequence[int] = ()) -> None:
        if count == 1:
            self.m.add_no_overlap(intervals)
        elif intervals:
            self.m.add_cumulative(intervals, list(takes) or [1] * len(intervals), count)

    def start_from(self, sheet: Sheet) -> None:
        """Begin with a sheet that is there already."""
        for key, at in sheet.starts.items():
            self.m.add_hint(self.start[key], at)
        for look, at in sheet.looks.items():
            self.m.add_hint(self.look[look], at)
        for key, heat in sheet.heats.items():
            self.m.add_hint(self.heat[key], heat // HEAT_STEP_C)
        for pair, shares in self.share.items():
            self.m.add_hint(shares, pair in sheet.together)
        self.m.add_hint(self.end, sheet.minutes)

    def solve(self, limit_seconds: float, on_better: Callable[[Sheet], bool] | None = None) -> Sheet | None:
        """The shortest sheet found within a time of the solver's own count; None when none was found. `on_better` is
        told each sheet on the way, and answers whether to go on."""
        from ortools.sat.python import cp_model

        self.solver = solver = _solver(limit_seconds)
        watcher = None if on_better is None else _watcher(self, on_better)
        status = solver.solve(self.m) if watcher is None else solver.solve(self.m, watcher)
        if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        minutes = int(solver.value(self.end))
        bound = minutes if status == cp_model.OPTIMAL else round(solver.best_objective_bound)
        return self.sheet_of(solver.value, bound)

    def sheet_of(self, value: Callable[[Any], int], bound: int) -> Sheet:
        """The sheet of a solution."""
        return Sheet(
            {key: int(value(at)) for key, at in self.start.items()},
            {look: int(value(at)) for look, at in self.look.items()},
            {key: int(value(heat)) * HEAT_STEP_C for key, heat in self.heat.items()},
            int(value(self.end)),
            bound,
            tuple(pair for pair, shares in self.share.items() if value(shares)),
        )

    def dishes_done(self) -> tuple[str, ...]:
        """The dishes of the last solution."""
        return tuple(dish for dish, there in self.there.items() if there is True or self.solver.value(there))

    def closer_together(self, sheet: Sheet, limit_seconds: float) -> Sheet:
        """As short, with each dish done in less time, all added up: from its first task to its last. The same when
        nothing better was found."""
        solution = list(self.solver.response_proto.solution)
        self.m.clear_hints()
        spans = []
        self.m.add(self.end <= sheet.minutes)
        ends: list[tuple[Any, int]] = []
        for dish in dict.fromkeys(task.dish for task in self.problem.tasks):
            tasks = [task for task in self.problem.tasks if task.dish == dish]
            first, last = self.m.new_int_var(0, self.most, ""), self.m.new_int_var(0, self.most, "")
            for task in tasks:
                self.m.add(first <= self.start[task.key])
                self.m.add(last >= self.start[task.key] + task.minutes)
            ends += [
                (first, min(sheet.starts[t.key] for t in tasks)),
                (last, max(sheet.starts[t.key] + t.minutes for t in tasks)),
            ]
            spans.append(last - first)
        for index, at in enumerate(solution):  # a hint that is not whole leads to a worse sheet
            self.m.add_hint(self.m.get_int_var_from_proto_index(index), at)
        for var, at in ends:
            self.m.add_hint(var, at)
        self.m.minimize(sum(spans))
        better = self.solve(limit_seconds)
        if better is None or _flow(self.problem, better) >= _flow(self.problem, sheet):
            return sheet
        return replace(better, bound=sheet.bound)


def _last(task: Task, most: int) -> int:
    """The last minute a task may start at."""
    return most - task.minutes if task.latest is None else min(task.latest, most - task.minutes)


def _solver(limit_seconds: float) -> Any:
    from ortools.sat.python import cp_model

    solver: Any = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 1
    solver.parameters.max_deterministic_time = limit_seconds
    return solver


def _watcher(model: SheetModel, on_better: Callable[[Sheet], bool]) -> Any:
    from ortools.sat.python import cp_model

    class Watcher(cp_model.CpSolverSolutionCallback):  # type: ignore[misc]
        def on_solution_callback(self) -> None:
            if not on_better(model.sheet_of(self.value, round(self.best_objective_bound))):
                self.stop_search()

    return Watcher()


def _flow(problem: SheetProblem, sheet: Sheet) -> int:
    """Minutes from the first to the last task of each dish, added up."""
    found: dict[str, tuple[int, int]] = {}
    for task in problem.tasks:
        start, end = sheet.starts[task.key], sheet.starts[task.key] + task.minutes
        first, last = found.get(task.dish, (start, end))
        found[task.dish] = min(first, start), max(last, end)
    return sum(last - first for first, last in found.values())


def shortest_sheet(
    problem: SheetProblem,
    limit_seconds: float = 5.0,
    *,
    together_seconds: float = 0.0,
    on_better: Callable[[Sheet], bool] | None = None,
) -> Sheet | None:
    """The run sheet that is over soonest, as far as it is found in `limit_seconds` of the solver's own count; None when
    no sheet was found that keeps every rule. For `together_seconds` more it is looked for one as short whose dishes are
    each done in less time."""
    if not problem.tasks:
        return Sheet({}, {}, {}, 0, 0)
    model = SheetModel(problem, _horizon(problem))
    sheet = model.solve(limit_seconds, on_better)
    if sheet is None:
        return None
    sheet = replace(sheet, bound=max(sheet.bound, simple_bound(problem)))
    return model.closer_together(sheet, together_seconds) if together_seconds else sheet


def _horizon(problem: SheetProblem) -> int:
    """Minutes in which all tasks can be done one after the other."""
    kitchen = problem.kitchen
    whole = sum(t.minutes + max(kitchen.reheat_min, kitchen.wash_min) for t in problem.tasks)
    return min(LONGEST_MIN * 2, max((t.earliest for t in problem.tasks), default=0) + whole + kitchen.preheat_min + 60)


def dishes_that_fit(
    problem: SheetProblem, minutes: int, worth: Mapping[str, int], limit_seconds: float = 3.0
) -> tuple[str, ...]:
    """The dishes that can be done within so many minutes, worth most together, as far as found; those without a worth
    are always done. Empty when not even they can be."""
    model = SheetModel(problem, minutes + max((t.minutes for t in problem.tasks), default=0), worth)
    model.m.add(model.end <= minutes)
    return () if model.solve(limit_seconds) is None else model.dishes_done()


def one_after_another(problem: SheetProblem) -> int:
    """How long the dishes take one after another, each by its own shortest sheet: what planning is measured against."""
    whole, dishes = 0, list(dict.fromkeys(task.dish for task in problem.tasks))
    for dish in dishes:
        sheet = shortest_sheet(problem.without([other for other in dishes if other != dish]))
        whole += 0 if sheet is None else sheet.minutes
    return whole
