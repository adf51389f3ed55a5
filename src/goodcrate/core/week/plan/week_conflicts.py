"""Why no week was found: few rules that stand in the way together, and small changes with which there is one."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import partial
from itertools import combinations, islice, pairwise

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.week.plan.week_amounts import SOME_EFFORT, Tells, as_little, least_found
from goodcrate.core.week.plan.week_beside import FOUND, beside
from goodcrate.core.week.plan.week_cuts import mg_per_kcal
from goodcrate.core.week.plan.week_eased import FIELDS, eased, most_of, with_amount, with_session
from goodcrate.core.week.plan.week_exact import ExactModel
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import BY_CORES
from goodcrate.core.week.week_problem import Conflict, PlanDish, WeekPlanProblem

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
_SWITCHES: Mapping[str, tuple[str, int]] = {
    "vessels": ("in_turns", 1),
    "containers": ("in_two", 1),
    "bands": ("leave_bands", 1),
    "keeping": ("keep_usual", 1),
}
"""The rules that are let go altogether, or give way to the usual guidance, by the name of what says so."""
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
FEWEST_SECONDS, TRY_SECONDS = 0.8, 0.3
"""How long the fewest rules are looked for, and a week tried without one."""
MOST_WAYS = 2
"""So many sets of rules are told."""
MOST_MEALS = 14
"""So many placed meals are tried one by one."""
ENOUGH_DISHES = 40
"""A larger library is looked at by its most different dishes: what frees a week with them does so with all."""
OF_EACH_KIND = 3
Said = Callable[[tuple[Conflict, ...]], object]
"""Told what is known so far: which rules stand in the way, later with the changes that free a week."""


def conflicts_of(whole: WeekPlanProblem, tells: Tells, report: Said | None = None) -> tuple[Conflict, ...]:
    """The ways out: few rules that give way together, each with a small change.

    Every way that changes something is tried before it is told: a week was found with it, of the library's most
    different dishes or of all. Where waiting is what stands in the way, one more session is among them; and what is
    placed, if a week is found without it.
    """
    problem = _most_different(whole)
    ways: list[tuple[Conflict, ...]] = []

    def tell(*more: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
        numbered = enumerate([*ways, *more], 1)
        known = tuple(replace(conflict, way=n) for n, way in numbered for conflict in way)
        if report is not None and known:
            report(known)
        return known

    if any(slot.fixed and slot.dishes for slot in problem.slots) and tells(eased(problem, PINS)) == FOUND:
        ways.append((replace(_one_meal(problem, tells) or PINS, is_tried=True),))
    sets = _sets(problem)
    tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    waits = not sets or any(WAITING & found for found in sets)
    one_more = [partial(_by_one_more_session, whole, problem, tells)] if waits else []
    found_ways = beside([*one_more, *(partial(_way, whole, problem, found, tells) for found in sets)])
    if waits and (way := next(found_ways)):
        ways.append(way)
        tell()
    silly = [found for found in sets if _is_silly(problem, found, ways)]
    for found, way in zip(sets, found_ways, strict=True):
        if found in silly:
            continue
        if not way and not ways and (besides := _fewest(problem, [], found)):
            way = _way(whole, problem, found | besides, tells)  # noqa: PLW2901 — sizes stand in the way too
        if way and not (ways and _is_far(way)):
            ways.append(way)
            tell()
    if not ways and sets:
        return tell(*(tuple(Conflict(rule, _RULES[rule][0], "") for rule in found) for found in sets))
    if not ways:
        ways = [
            (Conflict("all", say("Several rules contradict each other."), say("Plan fewer days, or drop some rules.")),)
        ]
    return tell()


def _way(whole: WeekPlanProblem, problem: WeekPlanProblem, rules: frozenset[str], tells: Tells) -> tuple[Conflict, ...]:
    """What frees a week by some rules, looked for with few dishes and made as little as all of them let it be."""
    changes = _changes(problem, rules, tells)
    return changes if not changes or _is_far(changes) else _least(whole, tells, changes)


def _is_far(way: tuple[Conflict, ...]) -> bool:
    """Whether it only says that there is no small change."""
    return way[-1].change in _FAR.values()


def _least(whole: WeekPlanProblem, tells: Tells, way: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
    """A way that frees a week, with the last of its amounts as small as the whole library lets it be; it is least when
    with one step less it is proven that no week can be."""
    last, lead = way[-1], tuple(replace(c, is_tried=True) for c in way[:-1])
    if last.field not in FIELDS.values():
        return (*lead, replace(last, is_tried=True))
    base = whole
    for conflict in way[:-1]:
        base = eased(base, conflict)
    value, is_least = as_little(base, last.rule, tells, last.value)
    words = _RULES[last.rule][1].format(value)
    return (*lead, replace(last, value=value, change=words, is_tried=True, is_least=is_least))


def _one_meal(problem: WeekPlanProblem, tells: Tells) -> Conflict | None:
    """A placed meal that stands in the way by itself: planned anew, it frees a week."""
    placed = [n for n, slot in enumerate(problem.slots) if slot.fixed and slot.dishes]
    for n in placed[:MOST_MEALS]:
        slots = list(problem.slots)
        slots[n] = replace(slots[n], fixed=None, fixed_session="")
        if tells(replace(problem, slots=tuple(slots))) == FOUND:
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


def _changes(problem: WeekPlanProblem, rules: frozenset[str], tells: Tells) -> tuple[Conflict, ...]:
    """The least change of each rule in turn, with those before it made and those after it let go: together they free
    a week. Empty when none was found."""
    changes: list[Conflict] = []
    is_found = False
    left = [rule for rule in _RULES if rule in rules]
    while left:
        rule, *left = left
        words, change = _RULES[rule]
        free = problem
        for other in left:
            free = _let_go(free, other)
        if rule in FIELDS:
            if changes and tells(free, SOME_EFFORT) == FOUND:
                continue  # the others do
            value = least_found(free, rule, tells)
            if value is None:
                return (Conflict(rule, words, _FAR[rule]),) if rule in _FAR else ()
            conflict = Conflict(rule, words, change.format(value), FIELDS[rule], value)
            is_found = not left
        else:
            conflict, is_found = Conflict(rule, words, change, *_SWITCHES[rule]), False
            if rule == "keeping" and eased(problem, conflict) == problem:
                return ()  # these are the usual days already
        problem = eased(problem, conflict)
        changes.append(conflict)
    return tuple(changes) if is_found or tells(problem) == FOUND else ()


def _let_go(problem: WeekPlanProblem, rule: str) -> WeekPlanProblem:
    """The problem with a rule changed as far as it is ever asked to."""
    if rule in FIELDS:
        return with_amount(problem, rule, most_of(problem, rule))
    return eased(problem, Conflict(rule, "", "", *_SWITCHES[rule]))


def _by_one_more_session(whole: WeekPlanProblem, problem: WeekPlanProblem, tells: Tells) -> tuple[Conflict, ...]:
    """One more session as a way out; empty when it is none."""
    way = _with_one_more_session(problem, tells)
    return _least(whole, tells, way) if way else ()


def _with_one_more_session(problem: WeekPlanProblem, tells: Tells) -> tuple[Conflict, ...]:
    """One more session in the middle of the longest wait, with the fewest places besides that free a week then."""
    end = max((slot.day for slot in problem.slots), default=0) + 1
    cooked_on = [s.day for s in problem.sessions]

    def longest(*more: int) -> int:
        return max(b - a for a, b in pairwise(sorted([*cooked_on, *more, end])))

    days = sorted((longest(day), day) for day in range(end - 1) if day not in cooked_on)
    if not days or days[0][0] >= longest():
        return ()
    day = days[0][1]
    words = say("Boxes wait too long, or too many wait at once.")
    session = Conflict("sessions", words, say("One more session shortens the wait."), "session_day", day)
    helped = with_session(problem, day)
    if tells(helped) == FOUND:
        return (session,)
    return (session, *changes) if (changes := _fewest_places(helped, tells)) else ()


def _fewest_places(problem: WeekPlanProblem, tells: Tells) -> tuple[Conflict, ...]:
    """The changes of one or two places that free a week; none when no such pair does."""
    places = [rule for rule in _rules_of(problem) if rule in WAITING and rule in FIELDS]
    for size in (1, 2):
        for found in map(frozenset, combinations(places, size)):
            if _try_without_sizes(problem, found) == "found" and (changes := _changes(problem, found, tells)):
                return tuple(changes)
    return ()


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
