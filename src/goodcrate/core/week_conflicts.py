"""Why no week can be: the smallest sets of rules that, let go, free one, and the nearest changes that surely do."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from itertools import combinations, islice, pairwise
from typing import Any

from goodcrate.core.week_check import places_taken
from goodcrate.core.week_cuts import mg_per_kcal
from goodcrate.core.week_model import BY_CORES, WeekModel
from goodcrate.core.week_problem import MOST_FILLINGS, Conflict, PlanDish, PlanSession, WeekPlan, WeekPlanProblem

_RULES: Mapping[str, tuple[str, str]] = {
    "fridge": ("The fridge is full at the end of a session.", "Room for {} boxes in the fridge frees a week."),
    "boxes": ("There are not enough boxes at the end of a session.", "{} boxes in all free a week."),
    "freezer": (
        "The freezer is full before every meal that must wait in it is there.",
        "Room for {} boxes in the freezer frees a week.",
    ),
    "vessels": ("A batch would be larger than its pots hold at once.", "Pots filled in turns free a week."),
    "different": ("So few different dishes in a slot leave no choice.", "{} different dishes in a slot free a week."),
    "repeats": ("So few times for one dish leave no choice.", "One dish up to {} times for an eater frees a week."),
    "keeping": ("A meal would be eaten after its days in the fridge.", "Add a session, or plan to the usual days."),
    "bands": ("Another band of a day cannot be reached with these dishes.", "Left out for once, a week is free."),
    "protein": ("The protein floor cannot be reached with these dishes.", "Floors lower by {} g free a week."),
    "energy": (
        "The energy band cannot be reached with these portions.",
        "Bands wider by {} kcal on both sides free a week.",
    ),
}
"""In the order in which they are asked to give way, with the words for a cook."""
PINS = Conflict(
    "pins",
    "What is placed already leaves no way into the bands.",
    "Take a placed meal out, or plan all but the pinned.",
)
FIELDS: Mapping[str, str] = {
    "fridge": "fridge_boxes", "boxes": "box_count", "freezer": "freezer_boxes", "different": "different",
    "repeats": "repeats", "protein": "lower_floors_g", "energy": "widen_bands_kcal",
}  # fmt: skip
"""The rules that have an amount, and the name of what changes."""
_SWITCHES: Mapping[str, tuple[str, int]] = {"vessels": ("in_turns", 1), "bands": ("leave_bands", 1)}
"""The rules that are let go altogether, by the name of what says so."""
_MOST: Mapping[str, int] = {"protein": 100, "energy": 600}
_FAR: Mapping[str, str] = {
    "protein": "No dishes come near it: lower the floor, or add richer dishes.",
    "energy": "No portions come near it: change the target, or allow larger portions.",
}
"""Floors lower by more g and bands wider by more kcal are no small change: they are not offered."""
WAITING = frozenset({"fridge", "boxes", "freezer", "keeping"})
"""The rules about boxes that wait: one more session shortens the wait."""
UNSIZED = ("fridge", "boxes", "freezer", "keeping", "different", "repeats")
"""The rules that say nothing of sizes: whether they leave a week is seen without any, which is quick."""
ONE_RULE = 1000
"""A rule more counts more than which rules they are."""
FEWEST_SECONDS, TRY_SECONDS, LEAST_SECONDS = 0.8, 0.3, 0.3
"""How long the fewest rules are looked for, a week tried without one, and the least change of one."""
MOST_WAYS = 2
"""So many sets of rules are told."""
MOST_MEALS = 14
"""So many placed meals are tried one by one."""
ENOUGH_DISHES = 40
"""A larger library is looked at by its most different dishes: what frees a week with them does so with all."""
OF_EACH_KIND = 3
Said = Callable[[tuple[Conflict, ...]], object]
"""Told what is known so far: which rules stand in the way, later with the changes that free a week."""


def conflicts_of(problem: WeekPlanProblem, say: Said | None = None) -> tuple[Conflict, ...]:
    """The ways out: the fewest rules that must give way, each with the nearest change that surely frees a week.

    Where waiting is what stands in the way, one more session is among them; and what is placed, if a week can be
    without it.
    """
    problem = _most_different(problem)
    ways: list[tuple[Conflict, ...]] = []

    def tell(*more: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
        numbered = enumerate([*ways, *more], 1)
        known = tuple(replace(conflict, way=n) for n, way in numbered for conflict in way)
        if say is not None and known:
            say(known)
        return known

    if any(slot.fixed and slot.dishes for slot in problem.slots) and _is_free(problem, frozenset({"pins"})):
        ways.append((_one_meal(problem) or PINS,))
    sets = _sets(problem)
    tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    if not sets or any(WAITING & found for found in sets):
        ways += _with_one_more_session(problem)
        tell()
    for found in sets:
        if _is_silly(problem, found, ways):
            continue
        changes = _changes(problem, found)
        if not changes and not ways and (besides := _fewest(problem, [], found)):
            changes = _changes(problem, found | besides)  # sizes stand in the way too
        if changes and not (ways and changes[-1].change in _FAR.values()):
            ways.append(changes)
            tell()
    if not ways and sets:
        return tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    if not ways:
        ways = [(Conflict("all", "Several rules stand in each other’s way.", "Plan fewer days, or let rules go."),)]
    return tell()


def _one_meal(problem: WeekPlanProblem) -> Conflict | None:
    """A placed meal that stands in the way by itself: planned anew, it frees a week."""
    placed = [n for n, slot in enumerate(problem.slots) if slot.fixed and slot.dishes]
    for n in placed[:MOST_MEALS]:
        slots = list(problem.slots)
        slots[n] = replace(slots[n], fixed=None, fixed_session="")
        if _is_free(replace(problem, slots=tuple(slots))):
            words = f"{slots[n].words} on day {slots[n].day + 1} leaves no way into the bands as it is placed."
            return Conflict("pins", words, "Planned anew, it frees a week.", "free_meal", n)
    return None


def _is_silly(problem: WeekPlanProblem, found: frozenset[str], ways: list[tuple[Conflict, ...]]) -> bool:
    """A whole week from one session takes places nobody has: not said beside a session more."""
    return len(found) > 1 and len(problem.sessions) == 1 and found <= WAITING and bool(ways)


def _sets(problem: WeekPlanProblem) -> list[frozenset[str]]:
    """The smallest sets of rules that, let go, free a week, as far as that is seen in time."""
    rules = _rules_of(problem)
    if _try_without_sizes(problem) == "infeasible":
        unsized = [rule for rule in rules if rule in UNSIZED]
        for size in (1, 2, 3):
            sets = islice(
                (
                    found
                    for found in map(frozenset, combinations(unsized, size))
                    if _try_without_sizes(problem, found) == "found"
                ),
                MOST_WAYS,
            )
            if known := list(sets):
                return known
        return []
    first = _fewest(problem, [])
    second = _fewest(problem, [first]) if first else frozenset()
    return [found for found in (first, second) if found and len(found) == len(first)]


def _fewest(
    problem: WeekPlanProblem, but_not: list[frozenset[str]], let_go: frozenset[str] = frozenset()
) -> frozenset[str]:
    """The fewest rules that must give way together, none of the sets before; empty when that was not found in time."""
    rules = [rule for rule in _rules_of(problem) if rule not in let_go]
    model = WeekModel(problem, sized=True, relax=let_go, soft=rules)
    model.fewest_broken({rule: ONE_RULE + n for n, rule in enumerate(rules)}, but_not)
    status, _ = model.solve(FEWEST_SECONDS, prove=BY_CORES)
    return model.broken_rules() if status == "found" else frozenset()


def _rules_of(problem: WeekPlanProblem) -> list[str]:
    """The rules that say anything here."""
    idle = {
        "bands": not any(d.bands for d in problem.days),
        "fridge": problem.rules.fridge_boxes is None,
        "boxes": problem.rules.box_count is None,
        "vessels": all(d.most_g is None for d in problem.dishes) or problem.rules.fillings > 1,
    }
    return [rule for rule in _RULES if not idle.get(rule)]


def _changes(problem: WeekPlanProblem, rules: frozenset[str]) -> tuple[Conflict, ...]:
    """The least change of each rule in turn, with those before it made and those after it let go: together they free
    a week. Each begins from a week without the rules; empty when none was found."""
    week = _week_without(problem, rules)
    if week is None:
        return ()
    changes: list[Conflict] = []
    left, kept = [rule for rule in _RULES if rule in rules], frozenset[str]()  # kept: what has no amount is let go
    while left:
        rule, *left = left
        words, change = _RULES[rule]
        if rule in FIELDS:
            model = WeekModel(problem, sized=True, relax=frozenset({rule, *left}) | kept, measured=rule)
            model.start_from(week)
            model.least_slack()
            is_found = model.solve(LEAST_SECONDS)[0] == "found"
            if not is_found and rule not in WAITING:
                return ()
            week = model.answer(0, 0.0, 0.0, proven=False) if is_found else week
            now = getattr(problem.rules, FIELDS[rule], 0) or 0
            value = now + model.least() if is_found and rule not in WAITING else _taken(problem, week, rule)
            if value <= now:
                continue  # the others do
            if value > _MOST.get(rule, value):
                return (Conflict(rule, words, _FAR[rule]),)
            conflict = Conflict(rule, words, change.format(value), FIELDS[rule], value)
        else:
            conflict = Conflict(rule, words, change, *_SWITCHES.get(rule, ()))
            kept |= {rule} if rule not in _SWITCHES else set()
        problem = _eased(problem, conflict)
        changes.append(conflict)
    return tuple(changes)


def _taken(problem: WeekPlanProblem, week: WeekPlan, place: str) -> int:
    """The most places or boxes a week takes on an evening."""
    return max(sum(taken[place]) for taken in places_taken(problem, week).values())


def _week_without(problem: WeekPlanProblem, rules: frozenset[str]) -> WeekPlan | None:
    """A week that keeps all but these rules."""
    model = WeekModel(problem, sized=True, relax=rules)
    model.m.clear_objective()
    found = model.solve(TRY_SECONDS, plain=True)[0] == "found"
    return model.answer(0, 0.0, 0.0, proven=False) if found else None


def _eased(problem: WeekPlanProblem, conflict: Conflict) -> WeekPlanProblem:
    """The problem with a conflict's change made; the same one when that has no amount."""
    rules, value = problem.rules, conflict.value
    if conflict.field in ("freezer_boxes", "fridge_boxes", "box_count", "different", "repeats"):
        changed: dict[str, Any] = {conflict.field: value}
        return replace(problem, rules=replace(rules, **changed))
    if conflict.field == "in_turns":
        return replace(problem, rules=replace(rules, fillings=MOST_FILLINGS))
    if conflict.field == "leave_bands":
        return replace(problem, days=tuple(replace(d, bands=()) for d in problem.days))
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


def _with_one_more_session(problem: WeekPlanProblem) -> list[tuple[Conflict, ...]]:
    """One more session in the middle of the longest wait, with the fewest places besides that free a week then."""
    end = max((slot.day for slot in problem.slots), default=0) + 1
    cooked_on = [s.day for s in problem.sessions]

    def longest(*more: int) -> int:
        return max(b - a for a, b in pairwise(sorted([*cooked_on, *more, end])))

    days = sorted((longest(day), day) for day in range(end - 1) if day not in cooked_on)
    if not days or days[0][0] >= longest():
        return []
    day = days[0][1]
    words = "Boxes wait too long, or too many wait at once."
    session = Conflict("sessions", words, "One more session shortens the wait.", "session_day", day)
    helped = with_session(problem, day)
    if _try_without_sizes(helped) == "found" and _is_free(helped):
        return [(session,)]
    places = [rule for rule in _rules_of(helped) if rule in WAITING and rule in FIELDS]
    for size in (1, 2):
        for found in map(frozenset, combinations(places, size)):
            if _try_without_sizes(helped, found) == "found" and (changes := _changes(helped, found)):
                return [(session, *changes)]
    return []


def _is_free(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> bool:
    return _week_without(problem, relax) is not None


def _try_without_sizes(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> str:
    model = WeekModel(problem, sized=False, relax=relax)
    model.m.clear_objective()
    return model.solve(TRY_SECONDS, plain=True)[0]


def _most_different(problem: WeekPlanProblem) -> WeekPlanProblem:
    """The problem with its most different dishes: of every kind of slot the handiest, the richest and leanest, the
    largest and smallest, those that keep longest."""
    if len(problem.dishes) <= ENOUGH_DISHES:
        return problem
    by_key = {d.key: d for d in problem.dishes}
    kept = {slot.fixed[0] for slot in problem.slots if slot.fixed is not None}
    kept |= {by_key[key].family for key in kept}
    for allowed in {slot.dishes for slot in problem.slots}:
        here = [by_key[key] for key in allowed]
        for order in (_work, _richness, _largest, _smallest, _keeping):
            kept |= {d.key for d in sorted(here, key=lambda d, order=order: (order(d), d.key))[:OF_EACH_KIND]}  # type: ignore[misc]
    slots = tuple(replace(s, dishes=tuple(key for key in s.dishes if key in kept)) for s in problem.slots)
    return replace(problem, slots=slots, dishes=tuple(d for d in problem.dishes if d.key in kept))


def _work(d: PlanDish) -> float:
    return d.batches * ONE_RULE + d.hands_on_min


def _richness(d: PlanDish) -> float:
    return -mg_per_kcal(d)


def _largest(d: PlanDish) -> float:
    return -d.high_g * d.kcal_per_g


def _smallest(d: PlanDish) -> float:
    return d.low_g * d.kcal_per_g


def _keeping(d: PlanDish) -> float:
    return -d.keeps_days - 100 * d.freezes
