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
    """The ways out: rules each of which, let go, frees a week, with the nearest changes of it that surely do; else the
    fewest that must give way together. Where waiting is what stands in the way, one more session is among them.
    """
    names = _names(problem)
    found: list[str] = []
    for rule in names:
        if len(found) < MOST_RULES and _is_free(problem, frozenset({rule})):
            found.append(rule)
    ways: list[tuple[Conflict, ...]] = []
    if not found or WAITING & set(found):
        ways += _one_more_session(problem)
    ways += [(c,) for rule in found for c in _changes(problem, rule) or [Conflict(rule, *_RULES[rule])]]
    if not ways:
        ways += _session_and_places(problem, names)
        if not ways or len(problem.sessions) > 1:  # a whole week from one session takes places nobody has
            pair = next((pair for pair in combinations(names, 2) if _is_free(problem, frozenset(pair))), None)
            ways += [_both(problem, *pair)] if pair else []
    if not ways:
        ways = [(Conflict("all", "Several rules stand in each other’s way.", "Plan fewer days, or let rules go."),)]
    return tuple(replace(conflict, way=n) for n, way in enumerate(ways, 1) for conflict in way)


def _session_and_places(problem: WeekPlanProblem, names: list[str]) -> Iterator[tuple[Conflict, ...]]:
    """One more session in the middle of the longest wait, with the fewest places besides that free a week then."""
    days = _days_between(problem)
    if not days or days[0][0] >= _longest_wait(problem):
        return
    day = days[0][1]
    helped = with_session(problem, day)
    places = [rule for rule in names if rule in WAITING]
    for rule in places:
        if _is_free(helped, frozenset({rule})):
            yield _session_on(day), *_changes(helped, rule)[:1]
            return
    for pair in combinations(places, 2):
        if _is_free(helped, frozenset(pair)):
            yield _session_on(day), *_both(helped, *pair)
            return


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
    return first, second


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


def _longest_wait(problem: WeekPlanProblem, *more: int) -> int:
    """The most days from one session to the next, or to the end."""
    end = max((slot.day for slot in problem.slots), default=0) + 1
    return max(b - a for a, b in pairwise(sorted([*(s.day for s in problem.sessions), *more, end])))


def _days_between(problem: WeekPlanProblem) -> list[tuple[int, int]]:
    """Days without a session, those that shorten the longest wait most first: (the longest wait then, day)."""
    cooked_on = {s.day for s in problem.sessions}
    last = max((slot.day for slot in problem.slots), default=0)
    return sorted((_longest_wait(problem, day), day) for day in range(last) if day not in cooked_on)


def _session_on(day: int) -> Conflict:
    words = "Boxes wait too long, or too many wait at once."
    return Conflict("sessions", words, "One more session shortens the wait.", "session_day", day)


def _one_more_session(problem: WeekPlanProblem) -> list[tuple[Conflict, ...]]:
    """A day on which one more session frees a week: first tried in the middle of the longest wait."""
    for _, day in _days_between(problem)[:MOST_DAYS]:
        if _is_free(with_session(problem, day)):
            return [(_session_on(day),)]
    return []


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
