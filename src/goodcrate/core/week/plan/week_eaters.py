"""A week taken apart by its eaters: what one of them cannot have, no week has; and weeks of each, put together, are one
where pots and places allow it. Each is far smaller than the whole."""

from dataclasses import replace
from functools import partial
from typing import Any

from goodcrate.core.week.plan.week_beside import FOUND, NONE, UNKNOWN, beside
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_exact import ExactModel, week_with
from goodcrate.core.week.week_problem import WeekPlan, WeekPlanProblem

SHARED = ("freezer_boxes", "fridge_boxes", "box_count")


def of_each(problem: WeekPlanProblem) -> list[WeekPlanProblem]:
    """What a problem asks of each eater's meals alone: less than of all together, for of the others' boxes nothing is
    asked."""
    parts = []
    for eater in dict.fromkeys(slot.eater_key for slot in problem.slots):
        slots = tuple(slot for slot in problem.slots if slot.eater_key == eater)
        keys = {key for slot in slots for key in (*slot.dishes, *((slot.fixed[0],) if slot.fixed else ()))}
        keys |= {dish.family for dish in problem.dishes if dish.key in keys}
        days = tuple(day for day in problem.days if day.eater_key == eater)
        dishes = tuple(dish for dish in problem.dishes if dish.key in keys)
        means = tuple(mean for mean in problem.means if mean.eater_key == eater)
        parts.append(replace(problem, slots=slots, days=days, dishes=dishes, means=means, till=None))
    return parts


def told_by_eaters(problem: WeekPlanProblem, seconds: float) -> str:
    """Whether there is a week, as far as its eaters tell by themselves."""
    parts = of_each(problem)
    if len(parts) < 2:
        return UNKNOWN
    found = list(beside([partial(_told, problem, part, seconds) for part in parts]))
    if any(status == NONE for status, _ in found):
        return NONE
    meals = [meal for _, week in found if week is not None for meal in week.meals]
    if any(week is None for _, week in found) or check_plan(problem, week_with(problem, meals)):
        return UNKNOWN
    return FOUND


def _told(problem: WeekPlanProblem, part: WeekPlanProblem, seconds: float) -> tuple[str, WeekPlan | None]:
    """A week of one eater with a share of the places; or whether there is none with all of them."""
    shared = _with_a_share(problem, part)
    status, week = _solved(shared, seconds)
    if status == NONE and shared != part:
        status = _solved(part, seconds)[0]
    return (status if status == NONE else UNKNOWN if week is None else FOUND), week


def _solved(problem: WeekPlanProblem, seconds: float) -> tuple[str, WeekPlan | None]:
    model = ExactModel(problem)
    model.m.clear_objective()
    status, spent = model.find(seconds, plain=True)
    if status == "infeasible":
        return NONE, None
    return (FOUND, model.answer(0, 0.0, spent, proven=False)) if status == "found" else (UNKNOWN, None)


def _with_a_share(problem: WeekPlanProblem, part: WeekPlanProblem) -> WeekPlanProblem:
    """An eater's problem with as large a share of each place as of the meals."""
    rules, share = part.rules, len(part.slots) / len(problem.slots)
    places: dict[str, Any] = {name: int(room * share) for name in SHARED if (room := getattr(rules, name)) is not None}
    return replace(part, rules=replace(rules, **places))
