"""Why no week can be: the smallest set of rules that, let go, frees one, and the nearest change that surely does."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from goodcrate.core.week_model import WeekModel
from goodcrate.core.week_problem import Conflict, WeekPlanProblem

_RULES: Mapping[str, tuple[str, str]] = {
    "freezer": ("The freezer is full before every meal that must wait in it is there.", "Allow more boxes in it."),
    "fridge": ("The fridge is full at the end of a session.", "Add a session, or allow more boxes in it."),
    "vessels": ("A batch would be larger than its pots hold at once.", "Let pots be filled in turns."),
    "boxes": ("There are not enough boxes at the end of a session.", "Add a session, or count more boxes."),
    "variety": ("So few different dishes, or so many repeats, leave no choice.", "Allow one more dish in a slot."),
    "keeping": ("A meal would be eaten after its days in the fridge.", "Add a session, or plan to the usual days."),
    "pins": (
        "What is placed already leaves no way into the bands.",
        "Take a placed meal out, or plan all but the pinned.",
    ),
    "protein": ("The protein floor cannot be reached with these dishes.", "Lower the floor, or add richer dishes."),
    "bands": ("Another band of a day cannot be reached with these dishes.", "Widen it, or leave it out."),
    "energy": ("The energy band cannot be reached with these portions.", "Widen the band, or allow larger portions."),
}
TRY_SECONDS = 1.0
"""How long one set of rules, or one change, is tried for a week."""
MOST_MORE = 3
"""So many more dishes in a slot are tried, and twice as many more times of a dish."""


def conflicts_of(problem: WeekPlanProblem) -> tuple[Conflict, ...]:
    """The smallest set of rules that, let go, frees a week: tried one by one, then in pairs.

    A single rule comes with each nearest change of it that surely frees a week.
    """
    names = list(_RULES)
    if not any(d.bands for d in problem.days):
        names.remove("bands")
    if problem.rules.fridge_boxes is None:
        names.remove("fridge")
    if problem.rules.box_count is None:
        names.remove("boxes")
    if all(d.most_g is None for d in problem.dishes):
        names.remove("vessels")
    if not any(slot.fixed and slot.dishes for slot in problem.slots):
        names.remove("pins")
    singles = [frozenset({r}) for r in names]
    pairs = [frozenset({a, b}) for i, a in enumerate(names) for b in names[i + 1 :]]
    for relax in [*singles, *pairs]:
        if _is_free(problem, relax):
            if len(relax) == 1:
                (rule,) = relax
                return tuple(_changes(problem, rule)) or (Conflict(rule, *_RULES[rule]),)
            one, other = sorted(relax)
            return _both(problem, one, other)
    return (Conflict("all", "Several rules stand in each other’s way.", "Plan fewer days, or let rules go."),)


def _both(problem: WeekPlanProblem, one: str, other: str) -> tuple[Conflict, ...]:
    """Two rules that must both give way: the least change of the first while the second is let go, then, with that
    made, the least of the second. Together they surely free a week."""
    first = next(_changes(problem, one, frozenset({other})), Conflict(one, *_RULES[one]))
    eased = _eased(problem, first)
    kept = {one} if eased is problem else set[str]()  # what has no amount is let go altogether
    second = next(_changes(eased, other, frozenset(kept)), Conflict(other, *_RULES[other]))
    return first, second


def _eased(problem: WeekPlanProblem, conflict: Conflict) -> WeekPlanProblem:
    """The problem with a conflict's change made; the same one when that has no amount."""
    rules, value = problem.rules, conflict.value
    if conflict.field in ("freezer_boxes", "fridge_boxes", "box_count", "different", "repeats"):
        changed: dict[str, Any] = {conflict.field: value}
        return replace(problem, rules=replace(rules, **changed))
    if conflict.field == "in_turns":
        return replace(problem, dishes=tuple(replace(d, most_g=None) for d in problem.dishes))
    if conflict.field == "lower_floors_g":
        days = tuple(replace(d, protein_floor_g=max(0.0, d.protein_floor_g - value)) for d in problem.days)
        return replace(problem, days=days)
    if conflict.field == "widen_bands_kcal":
        days = tuple(
            replace(d, energy_low_kcal=max(1.0, d.energy_low_kcal - value), energy_high_kcal=d.energy_high_kcal + value)
            for d in problem.days
        )
        return replace(problem, days=days)
    return problem


def _is_free(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> bool:
    model = WeekModel(problem, sized=True, relax=relax)
    model.m.clear_objective()
    return model.solve(TRY_SECONDS)[0] == "found"


def _changes(problem: WeekPlanProblem, rule: str, let_go: frozenset[str] = frozenset()) -> Iterator[Conflict]:
    """The nearest changes of a rule that surely free a week, with some other rule let go altogether."""
    words, change = _RULES[rule]
    if rule == "variety":
        yield from _more_variety(problem, words, let_go)
    elif rule == "vessels":
        yield Conflict(rule, words, "Pots filled in turns free a week.", "in_turns", 1)
    elif rule in _LEAST:
        field, said = _LEAST[rule]
        model = WeekModel(problem, sized=True, relax=frozenset({rule}) | let_go, measured=rule)
        model.least_of(rule)
        if model.solve(TRY_SECONDS * 2)[0] == "found":
            value = model.least()
            yield Conflict(rule, words, said.format(value), field, value)
    else:
        yield Conflict(rule, words, change)


_LEAST: Mapping[str, tuple[str, str]] = {
    "freezer": ("freezer_boxes", "Room for {} boxes in the freezer frees a week."),
    "fridge": ("fridge_boxes", "Room for {} boxes in the fridge frees a week."),
    "boxes": ("box_count", "{} boxes to fill free a week."),
    "protein": ("lower_floors_g", "Floors lower by {} g free a week."),
    "energy": ("widen_bands_kcal", "Bands wider by {} kcal on both sides free a week."),
}


def _more_variety(problem: WeekPlanProblem, words: str, let_go: frozenset[str]) -> Iterator[Conflict]:
    rules = problem.rules
    for more in range(1, MOST_MORE + 1):
        if _is_free(replace(problem, rules=replace(rules, different=rules.different + more)), let_go):
            value = rules.different + more
            yield Conflict("variety", words, f"{value} different dishes in a slot free a week.", "different", value)
            break
    for more in range(1, MOST_MORE * 2 + 1):
        if _is_free(replace(problem, rules=replace(rules, repeats=rules.repeats + more)), let_go):
            value = rules.repeats + more
            yield Conflict(
                "variety", words, f"One dish up to {value} times for an eater frees a week.", "repeats", value
            )
            break
