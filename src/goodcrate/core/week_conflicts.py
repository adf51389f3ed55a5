"""Why no week can be: the smallest sets of rules that, let go, free one, and the nearest changes that surely do."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import combinations, pairwise
from typing import Any

from goodcrate.core.week_model import WeekModel
from goodcrate.core.week_problem import MOST_FILLINGS, Conflict, PlanSession, WeekPlanProblem

_RULES: Mapping[str, tuple[str, str]] = {
    "fridge": ("The fridge is full at the end of a session.", "Add a session, or allow more boxes in it."),
    "boxes": ("There are not enough boxes at the end of a session.", "Add a session, or count more boxes."),
    "freezer": ("The freezer is full before every meal that must wait in it is there.", "Allow more boxes in it."),
    "vessels": ("A batch would be larger than its pots hold at once.", "Let pots be filled in turns."),
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
WAITING = frozenset({"fridge", "boxes", "freezer", "keeping"})
"""The rules about boxes that wait: one more session shortens the wait."""
TRY_SECONDS = 1.0
"""How long one set of rules, or one change, is tried for a week."""
MOST_MORE = 3
"""So many more dishes in a slot are tried, and twice as many more times of a dish."""
MOST_RULES, MOST_DAYS = 2, 3
"""So many rules in the way are told with their changes, and so many days tried for one more session."""


def conflicts_of(problem: WeekPlanProblem) -> tuple[Conflict, ...]:
    """The rules each of which, let go, frees a week; else two that must both give way.

    Each comes with the nearest changes of it that surely free a week; before them, if waiting is what stands in the
    way, with one more session that does.
    """
    names = _names(problem)
    found: list[str] = []
    for rule in names:
        if len(found) < MOST_RULES and _is_free(problem, frozenset({rule})):
            found.append(rule)
    if found:
        session = _one_more_session(problem) if WAITING & set(found) else ()
        changes = [c for rule in found for c in _changes(problem, rule) or [Conflict(rule, *_RULES[rule])]]
        return (*session, *changes)
    if session := _one_more_session(problem):
        return session
    for one, other in combinations(names, 2):
        if _is_free(problem, frozenset({one, other})):
            return _both(problem, one, other)
    return (Conflict("all", "Several rules stand in each other’s way.", "Plan fewer days, or let rules go."),)


def _names(problem: WeekPlanProblem) -> list[str]:
    """The rules that say anything here."""
    idle = {
        "bands": not any(d.bands for d in problem.days),
        "fridge": problem.rules.fridge_boxes is None,
        "boxes": problem.rules.box_count is None,
        "vessels": all(d.most_g is None for d in problem.dishes) or problem.rules.fillings > 1,
        "pins": not any(slot.fixed and slot.dishes for slot in problem.slots),
    }
    return [rule for rule in _RULES if not idle.get(rule)]


def _both(problem: WeekPlanProblem, one: str, other: str) -> tuple[Conflict, ...]:
    """Two rules that must both give way: the least change of the first while the second is let go, then, with that
    made, the least of the second. Together they surely free a week."""
    first = next(iter(_changes(problem, one, frozenset({other}))), Conflict(one, *_RULES[one]))
    eased = _eased(problem, first)
    kept = {one} if eased is problem else set[str]()  # what has no amount is let go altogether
    second = next(iter(_changes(eased, other, frozenset(kept))), Conflict(other, *_RULES[other]))
    return replace(first, together=True), replace(second, together=True)


def _eased(problem: WeekPlanProblem, conflict: Conflict) -> WeekPlanProblem:
    """The problem with a conflict's change made; the same one when that has no amount."""
    rules, value = problem.rules, conflict.value
    if conflict.field in ("freezer_boxes", "fridge_boxes", "box_count", "different", "repeats"):
        changed: dict[str, Any] = {conflict.field: value}
        return replace(problem, rules=replace(rules, **changed))
    if conflict.field == "in_turns":
        return replace(problem, rules=replace(rules, fillings=MOST_FILLINGS))
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


def with_session(problem: WeekPlanProblem, day: int) -> WeekPlanProblem:
    """The problem with one more session on a day, which serves all later days."""
    later = frozenset(
        (slot.eater_key, slot.day, slot.slot_key) for slot in problem.slots if slot.day > day
    )  # fmt: skip
    sessions = sorted([*problem.sessions, PlanSession(f"one more on {day}", day, later)], key=lambda s: s.day)
    return replace(problem, sessions=tuple(sessions))


def _one_more_session(problem: WeekPlanProblem) -> tuple[Conflict, ...]:
    """A day on which one more session frees a week: first tried in the middle of the longest wait."""
    last = max((slot.day for slot in problem.slots), default=0)
    cooked_on = sorted(s.day for s in problem.sessions)

    def longest(day: int) -> int:
        days = sorted([*cooked_on, day, last + 1])
        return max(b - a for a, b in pairwise(days))

    free = [day for day in range(last) if day not in cooked_on]
    for day in sorted(free, key=lambda day: (longest(day), day))[:MOST_DAYS]:
        if _is_free(with_session(problem, day)):
            words = "Boxes wait too long, or too many wait at once."
            return (Conflict("sessions", words, "One more session frees a week.", "session_day", day),)
    return ()


def _is_free(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> bool:
    model = WeekModel(problem, sized=True, relax=relax)
    model.m.clear_objective()
    return model.solve(TRY_SECONDS)[0] == "found"


def _changes(problem: WeekPlanProblem, rule: str, let_go: frozenset[str] = frozenset()) -> list[Conflict]:
    """The nearest changes of a rule that surely free a week, with some other rule let go altogether."""
    words, change = _RULES[rule]
    if rule == "variety":
        return list(_more_variety(problem, words, let_go))
    if rule == "vessels":
        return [Conflict(rule, words, "Pots filled in turns free a week.", "in_turns", 1)]
    if rule not in _LEAST:
        return [Conflict(rule, words, change)]
    field, said = _LEAST[rule]
    model = WeekModel(problem, sized=True, relax=frozenset({rule}) | let_go, measured=rule)
    model.least_slack()
    if model.solve(TRY_SECONDS * 2)[0] != "found":
        return []
    value = model.least()
    return [Conflict(rule, words, said.format(value), field, value)]


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
