"""Why no week was found: few rules that stand in the way together, and small changes with which there is one."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from itertools import combinations, islice, pairwise
from typing import TypeVar

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.week.plan.week_check import places_taken
from goodcrate.core.week.plan.week_cuts import mg_per_kcal
from goodcrate.core.week.plan.week_exact import ExactModel
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import BY_CORES
from goodcrate.core.week.week_problem import (
    MOST_FILLINGS,
    Conflict,
    PlanDay,
    PlanDish,
    PlanMean,
    PlanSession,
    WeekPlan,
    WeekPlanProblem,
)

_RULES: Mapping[str, tuple[str, str]] = {
    "fridge": (
        Saying("The fridge is full at the end of a session."),
        Saying("Room for {} boxes in the fridge makes it work."),
    ),
    "boxes": (Saying("There are not enough boxes at the end of a session."), Saying("{} boxes in all make it work.")),
    "freezer": (
        Saying("The freezer is too small for the meals that must be frozen."),
        Saying("Room for {} boxes in the freezer makes it work."),
    ),
    "containers": (
        Saying("There are too few large boxes for so many large portions."),
        Saying("Packing large portions into two boxes makes it work."),
    ),
    "vessels": (
        Saying("A batch would be larger than its pots hold at once."),
        Saying("Filling pots more than once makes it work."),
    ),
    "different": (
        Saying("So few different dishes per meal leave no choice."),
        Saying("{} different dishes per meal make it work."),
    ),
    "repeats": (
        Saying("Each dish so few times leaves no choice."),
        Saying("The same dish up to {} times per eater makes it work."),
    ),
    "keeping": (
        Saying("A meal would be eaten after its days in the fridge."),
        Saying("The usual keeping advice makes it work."),
    ),
    "bands": (
        Saying("Another band of a day cannot be reached with these dishes."),
        Saying("Leaving it out this once makes it work."),
    ),
    "protein": (
        Saying("The protein floor cannot be reached with these dishes."),
        Saying("Allowing {} g less protein a day makes it work."),
    ),
    "energy": (
        Saying("The energy band cannot be reached with these portions."),
        Saying("Allowing {} kcal more or less a day makes it work."),
    ),
}
"""In the order in which they are asked to give way, with the words for a cook."""
PINS = Conflict(
    "pins",
    Saying("The meals already placed make the bands impossible."),
    Saying("Take a placed meal out, or plan everything but the pinned meals."),
)
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
_SWITCHES: Mapping[str, tuple[str, int]] = {
    "vessels": ("in_turns", 1),
    "containers": ("in_two", 1),
    "bands": ("leave_bands", 1),
    "keeping": ("keep_usual", 1),
}
"""The rules that are let go altogether, or give way to the usual guidance, by the name of what says so."""
_MOST: Mapping[str, int] = {"protein": 100, "energy": 600}
_FAR: Mapping[str, str] = {
    "protein": Saying("No small change found: it takes more than 100 g less protein a day."),
    "energy": Saying("No small change found: it takes more than 600 kcal more or less a day."),
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
FOUND, NONE, UNKNOWN = "found", "none", "unknown"
Tells = Callable[[WeekPlanProblem], str]
"""Whether there is a week: found, proven that none can be, or not known in time."""
Said = Callable[[tuple[Conflict, ...]], object]
"""Told what is known so far: which rules stand in the way, later with the changes that free a week."""


def conflicts_of(whole: WeekPlanProblem, tells: Tells, report: Said | None = None) -> tuple[Conflict, ...]:
    """The ways out: few rules that give way together, each with a small change.

    Every way that changes something is tried before it is told: `tells` plans the whole library with it. Where waiting
    is what stands in the way, one more session is among them; and what is placed, if a week is found without it.
    """
    problem = _most_different(whole)
    ways: list[tuple[Conflict, ...]] = []

    def tell(*more: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
        numbered = enumerate([*ways, *more], 1)
        known = tuple(replace(conflict, way=n) for n, way in numbered for conflict in way)
        if report is not None and known:
            report(known)
        return known

    if any(slot.fixed and slot.dishes for slot in problem.slots) and _is_free(problem, frozenset({"pins"})):
        ways += _tried(whole, tells, (_one_meal(problem) or PINS,))
    sets = _sets(problem)
    tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    if not sets or any(WAITING & found for found in sets):
        ways += [way for found in _with_one_more_session(problem) for way in _tried(whole, tells, found)]
        tell()
    for found in sets:
        if _is_silly(problem, found, ways):
            continue
        changes = _changes(problem, found)
        if not changes and not ways and (besides := _fewest(problem, [], found)):
            changes = _changes(problem, found | besides)  # sizes stand in the way too
        if changes and not (ways and changes[-1].change in _FAR.values()):
            ways += _tried(whole, tells, changes)
            tell()
    if not ways and sets:
        return tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    if not ways:
        ways = [
            (Conflict("all", say("Several rules contradict each other."), say("Plan fewer days, or drop some rules.")),)
        ]
    return tell()


_MORE: Mapping[str, tuple[int, ...]] = {
    **dict.fromkeys(("freezer_boxes", "fridge_boxes", "box_count", "different", "repeats"), (0, 1, 2, 4)),
    "lower_floors_g": (0, 2, 5, 10),
    "widen_bands_kcal": (0, 10, 25, 50),
}
"""By how much more a change is tried when planning finds no week with the small one."""


def _tried(whole: WeekPlanProblem, tells: Tells, way: tuple[Conflict, ...]) -> list[tuple[Conflict, ...]]:
    """A way out as planning finds a week with it, if it does."""
    if way[-1].change in _FAR.values():
        return [way]  # that there is no small change
    last = way[-1]
    for more in _MORE.get(last.field, (0,)):
        value = last.value + more
        words = _RULES[last.rule][1].format(value) if last.field in _MORE else last.change
        changed = (*way[:-1], replace(last, value=value, change=words))
        freed = whole
        for conflict in changed:
            freed = eased(freed, conflict)
        if tells(freed) == FOUND:
            return [_least(whole, tells, changed)]
    return []


def _least(whole: WeekPlanProblem, tells: Tells, way: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
    """A way that was found to free a week, with the last of its amounts as small as was found to do; it is least when
    with one step less it is proven that no week can be."""
    last, lead = way[-1], tuple(replace(c, is_tried=True) for c in way[:-1])
    if last.field not in _MORE:
        return (*lead, replace(last, is_tried=True))
    eased_so_far = whole
    for conflict in way[:-1]:
        eased_so_far = eased(eased_so_far, conflict)

    def told(value: int) -> str:
        return tells(eased(eased_so_far, replace(last, value=value)))

    does, does_not = last.value, int(getattr(whole.rules, last.field, 0) or 0)
    least_known = does_not  # up to here it is proven that no week can be
    for _ in range(MOST_HALVINGS):
        if does - does_not <= 1:
            break
        middle = (does + does_not) // 2
        answer = told(middle)
        if answer == FOUND:
            does = middle
        else:
            does_not = middle
            least_known = middle if answer == NONE else least_known
    is_least = does - 1 == least_known or (does - does_not <= 1 and told(does - 1) == NONE)
    words = _RULES[last.rule][1].format(does)
    return (*lead, replace(last, value=does, change=words, is_tried=True, is_least=is_least))


MOST_HALVINGS = 8
"""So often a change is halved."""


def _one_meal(problem: WeekPlanProblem) -> Conflict | None:
    """A placed meal that stands in the way by itself: planned anew, it frees a week."""
    placed = [n for n, slot in enumerate(problem.slots) if slot.fixed and slot.dishes]
    for n in placed[:MOST_MEALS]:
        slots = list(problem.slots)
        slots[n] = replace(slots[n], fixed=None, fixed_session="")
        if _is_free(replace(problem, slots=tuple(slots))):
            words = say(
                "{words} on day {day} makes the bands impossible as it is placed.",
                words=slots[n].words,
                day=slots[n].day + 1,
            )
            return Conflict("pins", words, say("Planning it again makes it work."), "free_meal", n)
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
    model = ExactModel(problem, relax=let_go, soft=rules)
    model.fewest_broken({rule: ONE_RULE + n for n, rule in enumerate(rules)}, but_not)
    status, _ = model.solve(FEWEST_SECONDS, prove=BY_CORES)
    return model.broken_rules() if status == "found" else frozenset()


def _rules_of(problem: WeekPlanProblem) -> list[str]:
    """The rules that say anything here."""
    idle = {
        "bands": not any(d.bands for d in problem.days),
        "fridge": problem.rules.fridge_boxes is None,
        "boxes": problem.rules.box_count is None,
        "containers": not problem.rules.containers,
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
    left = [rule for rule in _RULES if rule in rules]
    while left:
        rule, *left = left
        words, change = _RULES[rule]
        if rule in FIELDS:
            model = ExactModel(problem, relax=frozenset({rule, *left}), measured=rule)
            model.start_from(week)
            model.least_slack()
            is_found = model.solve(LEAST_SECONDS, prove=BY_CORES)[0] == "found"
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
            conflict = Conflict(rule, words, change, *_SWITCHES[rule])
            if rule == "keeping" and eased(problem, conflict) == problem:
                return ()  # these are the usual days already
        problem = eased(problem, conflict)
        changes.append(conflict)
    return tuple(changes)


def _taken(problem: WeekPlanProblem, week: WeekPlan, place: str) -> int:
    """The most places or boxes a week takes on an evening."""
    return max(sum(taken[place]) for taken in places_taken(problem, week).values())


def _week_without(problem: WeekPlanProblem, rules: frozenset[str]) -> WeekPlan | None:
    """A week that keeps all but these rules."""
    model = ExactModel(problem, relax=rules)
    model.m.clear_objective()
    found = model.solve(TRY_SECONDS, prove=BY_CORES)[0] == "found"
    return model.answer(0, 0.0, 0.0, proven=False) if found else None


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
    words = say("Boxes wait too long, or too many wait at once.")
    session = Conflict("sessions", words, say("One more session shortens the wait."), "session_day", day)
    helped = with_session(problem, day)
    if _try_without_sizes(helped) == "found" and _is_free(helped):
        return [(session,)]
    return [(session, *changes)] if (changes := _fewest_places(helped)) else []


def _fewest_places(problem: WeekPlanProblem) -> tuple[Conflict, ...]:
    """The changes of one or two places that free a week; none when no such pair does."""
    places = [rule for rule in _rules_of(problem) if rule in WAITING and rule in FIELDS]
    for size in (1, 2):
        for found in map(frozenset, combinations(places, size)):
            if _try_without_sizes(problem, found) == "found" and (changes := _changes(problem, found)):
                return tuple(changes)
    return ()


def _is_free(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> bool:
    return _week_without(problem, relax) is not None


def _try_without_sizes(problem: WeekPlanProblem, relax: frozenset[str] = frozenset()) -> str:
    model = WeekModel(problem, relax=relax)
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
