"""A week as a CP-SAT model: which dish stands where, which session cooks it, and how much energy each slot gives.

One worker, a fixed seed and deterministic limits: the same problem gives the same week.
"""

from collections.abc import Callable, Iterable, Mapping
from math import ceil
from typing import Any

from goodcrate.core.ground.errors import StoppedEarly
from goodcrate.core.ground.wording import say
from goodcrate.core.week.plan.week_rules import (
    BATCH_WORTH_MIN,
    BY_CORES,
    BY_HITTING_SETS,
    COST_WORTH,
    FAVOURITE_WORTH,
    LEFT_WORTH,
    MOST_SLACK,
    OFF_WORTH,
    STEP_KCAL,
    Progress,
    WeekRules,
)
from goodcrate.core.week.plan.week_till import MILLI, till_in
from goodcrate.core.week.week_problem import (
    LEAST_COOKING,
    PlanDish,
    PlannedMeal,
    PlanSlot,
    WeekPlan,
    left_over_g,
    till_of,
    work_of,
)

TILL_WORTH = 100
"""What a thousandth of the household's money weighs against work where the lowest price is looked for."""


class WeekModel(WeekRules):
    """The model with its search: for the least work, for the fewest rules broken, and for better sizes."""

    def polish(self) -> None:
        """nothing_left_over, then cost, then favourites, then portions_near_the_slots_share or the recipes own serving.

        One weighed sum, for a set of batches that is settled already.
        """
        worth: list[Any] = []
        for (n, key, _), x in self.place.items():
            slot, dish = self.problem.slots[n], self.dish[key]
            energy = self._energy_at(slot)
            if slot.fixed is not None or energy is None:
                continue
            serving_kcal = round(slot.wanted_kcal or dish.serving_g * dish.kcal_per_g)
            off = self.m.new_int_var(0, 6000, "")
            self.m.add(off >= energy - serving_kcal).only_enforce_if(x)
            self.m.add(off >= serving_kcal - energy).only_enforce_if(x)
            worth.append(OFF_WORTH * off)
            if dish.is_favourite:
                worth.append(-FAVOURITE_WORTH * x)
        for key, share in ((key, share) for mine in self.shares.values() for key, share in mine.items()):
            dish = self.dish[key]
            worth.append(round(COST_WORTH * (dish.cost_per_g or 0.0) / dish.kcal_per_g) * share)
        for (key, _), batch in self._batches(lambda d: d.unit_g is not None).items():
            dish = self.dish[key]
            unit = max(round((dish.unit_g or 0.0) * dish.kcal_per_g), 1)
            units = self.m.new_int_var(0, 200, "")
            left = units * unit - sum(batch.shares) - sum(kcal * x for kcal, x in batch.standing)
            self.m.add(left >= 0)
            worth.append(LEFT_WORTH * left)
        self.m.minimize(sum(worth))

    def gap_pct(self) -> float:
        """How far the last answer is at most from the best of its objective, in %."""
        reached, bound = float(self.solver.objective_value), float(self.solver.best_objective_bound)
        return max(0.0, reached - bound) / max(abs(reached), 1.0) * 100

    def _energy_at(self, slot: PlanSlot) -> Any:
        kind = next((d.kind for d in self.problem.days if (d.eater_key, d.day) == (slot.eater_key, slot.day)), "")
        return self.energy.get((slot.eater_key, kind, slot.slot_key))

    def least_slack(self) -> None:
        """the_least_by_which_the_measured_rule_gives_way: boxes, dishes, times, g or kcal."""
        self.m.minimize(self.slack)

    def least(self) -> int:
        """What `least_slack` came to."""
        return int(self.solver.value(self.slack))

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
        self.m.add(self._cost <= self.scale * (BATCH_WORTH_MIN * work[0] + round(work[1])))

    def cheapest(self) -> None:
        """lowest_price_of_the_list, then less work: a cent counts as a batch."""
        if self.problem.till is not None:
            self.m.minimize(TILL_WORTH * till_in(self, self.problem.till) + self._cost)

    def list_costs_at_most(self, most: float) -> None:
        """the_list_costs_at_most_so_much, in the household's money."""
        if self.problem.till is not None:
            self.m.add(till_in(self, self.problem.till) <= round(most * MILLI))

    def at_most_batches(self, most: float) -> None:
        """no_more_batches_than."""
        self.m.add(sum(c * self.dish[key].batches for (_, key), c in self.cook.items()) <= int(most))

    def start_from(self, plan: WeekPlan) -> None:
        """A complete hint: the meals of a week that keeps the rules already (or all but those that give way)."""
        meals = {(m.eater_key, m.day, m.slot_key): m for m in plan.meals}
        sessions = [s.key for s in self.problem.sessions]
        cooked, energies = set(), dict[int, int]()
        for (n, key, s), x in self.place.items():
            slot = self.problem.slots[n]
            meal = meals.get(self._where(slot))
            here = meal is not None and (meal.dish_key, meal.session_key) == (key, sessions[s])
            self.m.add_hint(x, here)
            if (n, key, s) in self.frozen and self.frozen[n, key, s].index != x.index:
                self.m.add_hint(self.frozen[n, key, s], here and meal is not None and meal.is_frozen)
            if here and meal is not None and slot.fixed is None:
                cooked.add((s, key))
                energy = self._energy_at(slot)
                if energy is not None and energy.index not in energies:
                    energies[energy.index] = round(meal.grams * self.dish[key].kcal_per_g / STEP_KCAL) * STEP_KCAL
                    self.m.add_hint(energy, energies[energy.index])
        for n, mine in self.shares.items():
            slot = self.problem.slots[n]
            meal, energy = meals.get(self._where(slot)), self._energy_at(slot)
            for key, share in mine.items():
                stands = meal is not None and meal.dish_key == key
                self.m.add_hint(share, energies.get(energy.index, 0) if stands and energy is not None else 0)
        for place, c in self.cook.items():
            self.m.add_hint(c, place in cooked)
        if self.measured:
            self.m.add_hint(self.slack, MOST_SLACK)

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

        self.solver = cp_model.CpSolver()
        p = self.solver.parameters
        p.num_workers, p.random_seed = 1, self.problem.rules.seed
        p.max_deterministic_time, p.max_time_in_seconds = seconds, clock_limit_s(seconds)
        p.linearization_level = 2  # sizes are linear: this is what tells at once that no week can be
        if (
            not self.sized and not plain
        ):  # one of these is quick where the other is not: they take turns, the same every time
            _take_turns(p, BY_CORES, BY_HITTING_SETS)
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

    def bound(self) -> tuple[int, float]:
        """The least batches, and minutes with those, that any week can have."""
        if self.problem.rules.aim != LEAST_COOKING:
            return 0, 0.0
        least = float(ceil(max(0.0, float(self.solver.best_objective_bound)) / self.scale - 1e-6))
        return int(least // BATCH_WORTH_MIN), round(least % BATCH_WORTH_MIN)

    def batches_cooked(self) -> set[tuple[int, str]]:
        """What is cooked, by place of the session and dish."""
        return {key for key, c in self.cook.items() if self.solver.value(c)}

    def answer(self, bound_batches: int, bound_min: float, spent: float, *, proven: bool) -> WeekPlan:
        """The week of the last solution."""
        return self.week_of(self.solver.value, bound_batches, bound_min, spent, proven=proven)

    def week_of(
        self, value: Callable[[Any], int], bound_batches: int, bound_min: float, spent: float, *, proven: bool
    ) -> WeekPlan:
        """The week of a solution, portions in 5 g steps."""
        meals = []
        kinds = {(d.eater_key, d.day): d.kind for d in self.problem.days}
        for (n, key, s), x in self.place.items():
            if not value(x):
                continue
            slot, dish = self.problem.slots[n], self.dish[key]
            session = self.problem.sessions[s]
            grams = slot.fixed[1] if slot.fixed else self._grams(value, kinds, slot, dish)
            freezing = self.frozen.get((n, key, s))
            frozen = slot.fixed is None and freezing is not None and bool(value(freezing))
            meals.append(
                PlannedMeal(
                    slot.eater_key,
                    slot.day,
                    slot.slot_key,
                    key,
                    grams,
                    session.key,
                    is_frozen=frozen,
                    is_fixed=slot.fixed is not None,
                )
            )
        for n, slot in enumerate(self.problem.slots):
            if slot.fixed is not None and n not in self.stands and not ("pins" in self.relax and slot.dishes):
                key, grams = slot.fixed  # it stands, and no session here cooks it
                meals.append(
                    PlannedMeal(slot.eater_key, slot.day, slot.slot_key, key, grams, "", is_frozen=False, is_fixed=True)
                )
        meals.sort(key=lambda m: (m.eater_key, m.day, m.slot_key))
        batches, minutes, again = work_of(meals, self.dish)
        bound_batches, bound_min = min((bound_batches, bound_min), (batches, minutes))
        left_g = left_over_g(meals, self.dish)
        return WeekPlan(
            tuple(meals),
            batches,
            minutes,
            bound_batches,
            bound_min,
            proven,
            deterministic_time=spent,
            left_over_g=left_g,
            polish_gap_pct=None,
            fillings_again=again,
            till=till_of(self.problem, meals),
        )

    def _grams(
        self, value: Callable[[Any], int], kinds: Mapping[tuple[str, int], str], slot: PlanSlot, dish: PlanDish
    ) -> float:
        kind = kinds.get((slot.eater_key, slot.day))
        energy = self.energy.get((slot.eater_key, str(kind), slot.slot_key)) if self.sized else None
        if energy is None:
            return round((dish.low_g + dish.high_g) / 10) * 5.0
        grams = round(value(energy) / dish.kcal_per_g / 5) * 5.0
        return min(max(grams, dish.low_g), dish.high_g)


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


def _watch(model: WeekModel, on_better: Progress, bound: tuple[int, float], proven: bool) -> Any:
    from ortools.sat.python import cp_model

    class Watcher(cp_model.CpSolverSolutionCallback):  # type: ignore[misc]
        def on_solution_callback(self) -> None:
            week = model.week_of(self.value, *bound, 0.0, proven=proven)
            if not on_better(week):
                self.stop_search()

    return Watcher()
