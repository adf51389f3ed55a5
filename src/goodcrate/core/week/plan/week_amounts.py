"""The least amount of a rule with which there is a week: fewer grams, a wider band, one dish, meal or box more."""

from functools import partial
from math import ceil
from typing import Any, Protocol

from goodcrate.core.week.plan.week_beside import FOUND, NONE, UNKNOWN, beside
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_eased import most_of, now_of, with_amount
from goodcrate.core.week.plan.week_eaters import of_each, told_by_eaters
from goodcrate.core.week.plan.week_exact import ExactModel
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import BY_HITTING_SETS
from goodcrate.core.week.week_problem import WeekPlanProblem

SIZES = frozenset({"protein", "energy"})
"""The rules whose amount is of sizes; the others count dishes, meals or boxes."""
PLACES, COUNTS = frozenset({"fridge", "boxes", "freezer"}), frozenset({"different", "repeats"})
MEASURE_SECONDS, LOOK_SECONDS = 0.4, 0.6
"""How long it is looked for what an amount must be at least, and for a week with one, by its sizes."""
MOST_NOT_TOLD = 4
"""So many amounts are asked about that nothing is told of in time."""
SOME_EFFORT = 0.2
"""While an amount is looked for, so much of the effort is spent that tells whether the one that is offered is least."""


class Tells(Protocol):
    """Whether there is a week: found, proven that none can be, or not known in time."""

    def __call__(self, problem: WeekPlanProblem, effort: float = 1.0) -> str:
        """Answers `FOUND`, `NONE` or `UNKNOWN`."""


def as_little(problem: WeekPlanProblem, rule: str, tells: Tells, does: int) -> tuple[int, bool]:
    """The least amount that frees a week, of one with which there is one; and whether none is proven for one less."""
    now = now_of(problem, rule)
    if rule in SIZES:
        answer = _is_there(with_amount(problem, rule, does - 1)) if does - 1 > now else NONE
        if answer != FOUND:
            return does, answer == NONE
        low, found = _measured(problem, rule)
        return _between(problem, rule, tells, (low, min(does - 1, found or does)))
    low, found = _measured(problem, rule)
    does = min(does, found or does)
    if low < does and tells(with_amount(problem, rule, does - 1), SOME_EFFORT) == NONE:
        low = does
    return does, low >= does


def _measured(problem: WeekPlanProblem, rule: str) -> tuple[int, int | None]:
    """What the amount of a rule must be at least, by a model with fewer rules; and one that was seen to free a week,
    where one was. What is not of places is asked of each eater alone: no week needs less."""
    parts = of_each(problem)
    if rule in PLACES or len(parts) < 2:
        return _measured_as_one(problem, rule)
    return max(low for low, _ in beside([partial(_measured_as_one, part, rule) for part in parts])), None


def _measured_as_one(problem: WeekPlanProblem, rule: str) -> tuple[int, int | None]:
    now, with_sizes = now_of(problem, rule), rule not in PLACES  # places are short whatever the sizes, as a rule
    model: Any = (ExactModel if with_sizes else WeekModel)(problem, relax=frozenset({rule}), measured=rule)
    model.m.minimize(model.slack)
    how: dict[str, Any] = {"prove": BY_HITTING_SETS} if rule in COUNTS else {"plain": True}
    status, _ = model.solve(MEASURE_SECONDS, **how)
    if status == "infeasible":
        return most_of(problem, rule) + 1, None
    low = now + max(0, ceil(float(model.solver.best_objective_bound) - 1e-6))
    if status != "found" or not with_sizes:
        return low, None
    value = now + int(model.solver.value(model.slack))
    week = model.answer(0, 0.0, 0.0, proven=False)
    return low, None if check_plan(with_amount(problem, rule, value), week) else value


def least_found(problem: WeekPlanProblem, rule: str, tells: Tells) -> int | None:
    """The least amount of a rule with which a week was found: from what it must be at least upwards."""
    most = most_of(problem, rule)
    low, found = _measured(problem, rule)
    low = max(low, now_of(problem, rule) + 1)
    if found is None:
        value, step = low, 1
        while found is None:
            if low > most:
                return None
            value = min(value, most)
            if _looked(problem, rule, tells, value) == FOUND:
                found = value
            elif value == most:
                return None
            else:
                low, value, step = value + 1, value + step, 2 * step
    elif found > most:
        return None
    return _between(problem, rule, tells, (low, found))[0]


def _between(problem: WeekPlanProblem, rule: str, tells: Tells, ends: tuple[int, int]) -> tuple[int, bool]:
    """The least amount that frees a week, from one below which none can be up to one with which there is one; and
    whether it is proven that one less frees none. What is near the lower end is asked first: there it mostly is; where
    it is not told in time, a few more are asked, and what is enough is enough."""
    low, does = ends
    is_proven, step, not_told = True, 0, 0
    while low < does and not_told < MOST_NOT_TOLD:
        value = (low + does) // 2 if not_told else min(low + step, (low + does) // 2)
        answer = _looked(problem, rule, tells, value)
        not_told += answer == UNKNOWN
        if answer == FOUND:
            does = value
        else:
            low, is_proven = value + 1, answer == NONE
            step = 2 * step + 1
    return does, is_proven and low >= does


def _looked(problem: WeekPlanProblem, rule: str, tells: Tells, value: int) -> str:
    asked = with_amount(problem, rule, value)
    return _is_there(asked) if rule in SIZES else tells(asked, SOME_EFFORT)


def _is_there(problem: WeekPlanProblem) -> str:
    """Whether there is a week, by its sizes: what tells soonest where these are what is short."""
    if (told := told_by_eaters(problem, LOOK_SECONDS / 2)) != UNKNOWN:
        return told
    model = ExactModel(problem)
    model.m.clear_objective()
    status, _ = model.find(LOOK_SECONDS, plain=True)
    if status == "found" and not check_plan(problem, model.answer(0, 0.0, 0.0, proven=False)):
        return FOUND
    return NONE if status == "infeasible" else UNKNOWN
