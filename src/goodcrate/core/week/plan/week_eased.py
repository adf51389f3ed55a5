"""A problem with a change made to it that a cook could make: a band wider, a place more, a session more."""

from collections.abc import Mapping
from dataclasses import replace
from typing import TypeVar

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.wording import say
from goodcrate.core.week.week_problem import MOST_FILLINGS, Conflict, PlanDay, PlanMean, PlanSession, WeekPlanProblem

FIELDS: Mapping[str, str] = {
    "fridge": "fridge_boxes",
    "boxes": "box_count",
    "freezer": "freezer_boxes",
    "different": "different",
    "repeats": "repeats",
    "protein": "lower_floors_g",
    "energy": "widen_bands_kcal",
}
"""The rules that have an amount, and the name of what changes."""
MOST_OF: Mapping[str, int] = {"protein": 100, "energy": 600, "different": 14, "repeats": 56}


def now_of(problem: WeekPlanProblem, rule: str) -> int:
    """The present amount of a rule that has one: boxes, dishes, times; of floors and bands nothing gives way yet."""
    return int(getattr(problem.rules, FIELDS[rule], 0) or 0)


def with_amount(problem: WeekPlanProblem, rule: str, value: int) -> WeekPlanProblem:
    """The problem with so much of what a rule has an amount of."""
    return eased(problem, Conflict(rule, "", "", FIELDS[rule], value))


def most_of(problem: WeekPlanProblem, rule: str) -> int:
    """The largest change of a rule that is asked about: of places and boxes as many more as there are meals."""
    return MOST_OF.get(rule, 0) or now_of(problem, rule) + len(problem.slots)


def eased(problem: WeekPlanProblem, conflict: Conflict) -> WeekPlanProblem:
    """The problem with a conflict's change made; the same one when that has no amount."""
    value, days, slots, dishes = conflict.value, problem.days, problem.slots, problem.dishes
    means = problem.means
    changed: Document = {}
    if conflict.field == "session_day":
        problem = with_session(problem, value)
    elif conflict.field in ("freezer_boxes", "fridge_boxes", "box_count", "different", "repeats"):
        changed = {conflict.field: value}
    elif conflict.field == "in_turns":
        changed = {"fillings": MOST_FILLINGS}
    elif conflict.field == "in_two":
        changed = {"containers": ()}
    elif conflict.field == "keep_usual":
        dishes = tuple(replace(d, keeps_days=max(d.keeps_days, d.keeps_usually or 0)) for d in dishes)
    elif conflict.field == "leave_bands":
        days, means = tuple(replace(d, bands=()) for d in days), tuple(replace(m, bands=()) for m in means)
    elif conflict.field == "lower_floors_g":
        days, means = tuple(_lower(d, value) for d in days), tuple(_lower(m, value) for m in means)
    elif conflict.field == "widen_bands_kcal":
        days, means = tuple(_wider(d, value) for d in days), tuple(_wider(m, value) for m in means)
    elif conflict.rule == "pins":  # the one meal that is named, or all that may be planned anew
        anew = {value} if conflict.field == "free_meal" else set(range(len(slots)))
        slots = tuple(
            replace(s, fixed=None, fixed_session="") if n in anew and s.fixed and s.dishes else s
            for n, s in enumerate(slots)
        )
    rules = replace(problem.rules, **changed)
    return replace(problem, days=days, slots=slots, dishes=dishes, rules=rules, means=means)


_DayOrMean = TypeVar("_DayOrMean", PlanDay, PlanMean)


def _lower(of: _DayOrMean, by_g: float) -> _DayOrMean:
    return replace(of, protein_floor_g=max(0.0, of.protein_floor_g - by_g))


def _wider(of: _DayOrMean, by_kcal: float) -> _DayOrMean:
    low, high = max(1.0, of.energy_low_kcal - by_kcal), of.energy_high_kcal + by_kcal
    return replace(of, energy_low_kcal=low, energy_high_kcal=high)


def with_session(problem: WeekPlanProblem, day: int) -> WeekPlanProblem:
    """The problem with one more session on a day, which serves all later days."""
    later = frozenset((slot.eater_key, slot.day, slot.slot_key) for slot in problem.slots if slot.day > day)
    sessions = sorted(
        [*problem.sessions, PlanSession(say("one more on {day}", day=day), day, later)], key=lambda s: s.day
    )
    return replace(problem, sessions=tuple(sessions))
