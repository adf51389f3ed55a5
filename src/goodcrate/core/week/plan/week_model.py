"""The search of a week's CP-SAT model: for the least work, and for the fewest rules that give way.

One worker, a fixed seed and deterministic limits: the same problem gives the same week.
"""

from collections.abc import Iterable, Mapping
from math import ceil
from typing import Any

from goodcrate.core.ground.errors import StoppedEarly
from goodcrate.core.ground.wording import say
from goodcrate.core.week.plan.week_rules import (
    BATCH_WORTH,
    BY_CORES,
    BY_HITTING_SETS,
    Progress,
    WeekRules,
    as_work,
    hundredths,
)
from goodcrate.core.week.week_problem import LEAST_COOKING


class WeekModel(WeekRules):
    """The model with its search: for the least work, for the fewest rules broken, and for better sizes."""

    def gap_pct(self) -> float:
        """How far the last answer is at most from the best of its objective, in %."""
        reached, bound = float(self.solver.objective_value), float(self.solver.best_objective_bound)
        return max(0.0, reached - bound) / max(abs(reached), 1.0) * 100

    def fewest_broken(self, worth: Mapping[str, int], but_not: Iterable[frozenset[str]]) -> None:
        """the_fewest_rules_give_way, and not all of a set that was found before."""
        for before in but_not:
            self.m.add_bool_or([self.broken[rule].negated() for rule in before])
        self.m.minimize(sum(worth[rule] * broken for rule, broken in self.broken.items()))

    def broken_rules(self) -> frozenset[str]:
        """The soft rules that the last solution breaks."""
        return frozenset(rule for rule, broken in self.broken.items() if self.solver.value(broken))

    def no_more_work_than(self, work: tuple[int, float]) -> None:
        """no_more_batches_nor_minutes_than_are_settled."""
        self.m.add(self._cost <= self.scale * (BATCH_WORTH * work[0] + hundredths(work[1])))

    def no_less_work_than(self, work: tuple[int, float]) -> None:
        """no_less_batches_nor_minutes_than_any_week_takes: told, it need not be proven anew."""
        opened = len(self.problem.sessions) * sum(d.opened for d in self.problem.dishes) if self.scale > 1 else 0
        self.m.add(self._cost >= self.scale * (BATCH_WORTH * work[0] + hundredths(work[1])) - opened)

    def one_beside(self, chosen: frozenset[tuple[int, str]]) -> None:
        """not_these_batches_alone: at least one beside them is cooked."""
        self.m.add_bool_or([cooked for place, cooked in self.cook.items() if place not in chosen])

    def at_most_batches(self, most: float) -> None:
        """no_more_batches_than."""
        self.m.add(sum(c * self.dish[key].batches for (_, key), c in self.cook.items()) <= int(most))

    def solve(
        self,
        seconds: float,
        on_better: Progress | None = None,
        bound: tuple[int, float] = (0, 0.0),
        *,
        polish: bool = False,
        from_hint: bool = False,
        prove: str = "",
        proven: bool = False,
        plain: bool = False,
    ) -> tuple[str, float]:
        """`found`, `infeasible` or `unknown`, with the deterministic time spent; weeks on the way count as `proven`.

        Raises:
            StoppedEarly: when the clock ran out first, so that another run might answer otherwise.
        """
        from ortools.sat.python import cp_model

        if self.is_stopped:
            return "unknown", 0.0
        self.solver = cp_model.CpSolver()
        p = self.solver.parameters
        p.num_workers, p.random_seed = 1, self.problem.rules.seed
        p.max_deterministic_time, p.max_time_in_seconds = seconds, clock_limit_s(seconds)
        p.linearization_level = 2  # sizes are linear: this is what tells at once that no week can be
        if not self.sized and not plain and not prove:  # one is quick where the other is not; they take turns, and
            _take_turns(p, BY_CORES, BY_HITTING_SETS)  # never beside a proof by cores: together they proved what is not
        if prove:  # the conditions of each day say what its linear programme would
            p.linearization_level = 0
            setattr(p, prove, True)
        if polish:
            p.num_workers, p.interleave_search = 6, True
        if from_hint:  # a long list of packs: parts of a good week are sought anew, nothing is proven
            p.num_workers, p.interleave_search, p.use_lns_only = 4, True, True
        watcher = _watch(self, on_better, bound, proven) if on_better is not None and self.sized else None
        status = self.solver.solve(self.m, watcher) if watcher is not None else self.solver.solve(self.m)
        self.is_optimal = status == cp_model.OPTIMAL
        if status != cp_model.OPTIMAL and self.solver.wall_time >= p.max_time_in_seconds:
            raise StoppedEarly(say("The machine was too busy to plan in time: stopped early by the clock."))
        if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return "found", float(self.solver.response_proto.deterministic_time)
        spent = float(self.solver.response_proto.deterministic_time)
        return ("infeasible" if status == cp_model.INFEASIBLE else "unknown"), spent

    def stop(self) -> None:
        """End the search that is at it, from another thread, and begin no other."""
        self.is_stopped = True
        if self.solver is not None:
            self.solver.stop_search()

    def bound(self) -> tuple[int, float]:
        """The least batches, and minutes with those, that any week can have."""
        if self.problem.rules.aim != LEAST_COOKING:
            return 0, 0.0
        least = float(ceil(max(0.0, float(self.solver.best_objective_bound)) / self.scale - 1e-6))
        return as_work(least)

    def batches_cooked(self) -> set[tuple[int, str]]:
        """What is cooked, by place of the session and dish."""
        return {key for key, c in self.cook.items() if self.solver.value(c)}


def clock_limit_s(deterministic_s: float) -> float:
    """Seconds by the clock after which a search is given up, far beyond what its deterministic limit takes."""
    return deterministic_s * 60 + 60


def _take_turns(parameters: Any, *ways: str) -> None:
    """Searches without linear programmes, each by a way of its own, on two cores and still reproducible."""
    parameters.num_workers, parameters.interleave_search = 2, True
    for way in ways:
        own = type(parameters)()
        own.name, own.linearization_level = way, 0
        setattr(own, way, True)
        parameters.subsolver_params.append(own)
    parameters.subsolvers.extend(list(ways))


def _watch(model: Any, on_better: Progress, bound: tuple[int, float], proven: bool) -> Any:
    from ortools.sat.python import cp_model

    class Watcher(cp_model.CpSolverSolutionCallback):  # type: ignore[misc]
        def on_solution_callback(self) -> None:
            week = model.week_of(self.value, *bound, 0.0, proven=proven)
            if not on_better(week):
                self.stop_search()

    return Watcher()
