"""Plan: empty slots are filled from the library so that every day keeps to its band, with the least cooking.

The order of the wishes: days in their bands and above their floors (hard here), then fewer batches, then fewer hands-on
minutes, then what the cook asked for (variety, cost). OR-Tools CP-SAT. What is sought, and proven, is among the weeks
of `week_sizes`: a *quick* week of the handiest dishes comes first. A small library is then planned as one. A large one
is taken apart: the *master* chooses batches without any sizes, so its optimum bounds every week, and the *sub* sizes
exactly these; when it cannot, all is planned as one too. That no week can be is said only when a model of all the
weeks, or one with fewer rules, has no answer. A fixed seed, searches that take turns and deterministic limits: the same
problem gives the same week.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import partial

from goodcrate.core.ground.errors import Inconsistent
from goodcrate.core.ground.wording import say
from goodcrate.core.week.plan.week_beside import FOUND, beside
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_conflicts import Said, conflicts_of
from goodcrate.core.week.plan.week_cuts import ChoiceModel
from goodcrate.core.week.plan.week_eased import with_session
from goodcrate.core.week.plan.week_eaters import of_each
from goodcrate.core.week.plan.week_exact import ExactModel, bound_beside
from goodcrate.core.week.plan.week_kitchen import (
    cheapest_in_slots,
    dishes_by_session,
    handiest,
    handiest_in_slots,
    least_by_count,
)
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import BY_CORES, BY_HITTING_SETS, Progress, as_work
from goodcrate.core.week.plan.week_tells import (
    FEW,
    GLANCE_SECONDS,
    are_places_too_few,
    empty_slots,
    is_impossible,
    tells,
)
from goodcrate.core.week.week_faults import check_plan_problem
from goodcrate.core.week.week_problem import (
    LEAST_COOKING,
    LOWEST_COST,
    MOST_VARIETY,
    WITHIN_BUDGET,
    Conflict,
    PlanDay,
    PlanResult,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
)


def plan_week(
    problem: WeekPlanProblem,
    on_better: Progress | None = None,
    base: WeekPlan | None = None,
    *,
    explain: bool = True,
    report: Said | None = None,
) -> PlanResult:
    """Fill the empty slots; answers conflicts when no week keeps the rules, unless nobody wants it explained.

    `report` is told of conflicts as soon as they are known.

    For variety or cost it starts from `base`, the week with the least cooking, which is planned first when not given.

    Raises:
        InvalidInputs: naming every part of the problem that cannot be.
        StoppedEarly: when the clock ran out before the deterministic limit did; `on_better` has had what was found.
    """
    check_plan_problem(problem)
    blocked = tuple(empty_slots(problem))
    if blocked:
        return PlanResult(None, tuple(_reached(problem, conflict) for conflict in blocked))
    if problem.rules.aim != LEAST_COOKING:
        return _checked(problem, _by_aim(problem, on_better, base))
    result = _least_cooking(problem, on_better)
    if result.plan is None and not result.ran_out and explain:
        return PlanResult(None, conflicts_of(problem, tells, report))
    return _checked(problem, result)


def _checked(problem: WeekPlanProblem, result: PlanResult) -> PlanResult:
    """What was found, once somebody who did not solve has held it against every rule."""
    wrong = check_plan(problem, result.plan) if result.plan is not None else []
    if wrong:
        raise Inconsistent(say("The planned week breaks its own rules: {wrong}.", wrong=wrong[0]))
    return result


def _least_cooking(problem: WeekPlanProblem, on_better: Progress | None) -> PlanResult:
    """The least batches and minutes: in parts where the library is large, else, or when those do not do, as one."""
    on_better = _only_checked(problem, on_better)
    best, none_can_be = _quick(problem, on_better)
    if none_can_be:
        return PlanResult(None)
    bound = as_work(least_by_count(problem))
    if sum(len(slot.dishes) for slot in problem.slots) > MOST_CHOICES_AS_ONE and best is not None:
        return PlanResult(_by_sessions(problem, on_better, best, bound))
    if len(problem.dishes) > SMALL_LIBRARY:
        alone, none_can_be, week = _by_eaters(problem, on_better)
        if week is None and not none_can_be:
            bound, none_can_be, week = _in_parts(problem, on_better, max(bound, alone))
        if none_can_be:
            return PlanResult(None)
        if week is not None:
            return PlanResult(week)
    return _as_one(problem, on_better, best, bound)


def _only_checked(problem: WeekPlanProblem, on_better: Progress | None) -> Progress | None:
    """Weeks on the way are shown only once they were held against every rule."""
    if on_better is None:
        return None

    def checked(week: WeekPlan) -> bool:
        return on_better(week) if not check_plan(problem, week) else True

    return checked


def _by_eaters(problem: WeekPlanProblem, on_better: Progress | None) -> tuple[tuple[int, float], bool, WeekPlan | None]:
    """What the eater who needs most needs alone: no week takes less. Whether one of them can have no week; and the week
    where all can eat from that eater's batches."""
    parts = of_each(problem)
    if len(parts) < 2:
        return (0, 0.0), False, None
    alone = list(beside([partial(_in_parts, part, None, polished=False) for part in parts]))
    if any(none_can_be for _, none_can_be, _ in alone):
        return (0, 0.0), True, None
    bound = max(least for least, _, _ in alone)
    place = {s.key: n for n, s in enumerate(problem.sessions)}
    for least, _, week in alone:
        if least == bound and week is not None:
            chosen = {(place[m.session_key], m.dish_key) for m in week.meals if m.session_key}
            chosen |= {(n, slot.fixed[0]) for slot in problem.slots if slot.fixed for n in place.values()}
            return bound, False, _sized(problem, frozenset(chosen), bound, on_better)[0]
    return bound, False, None


def _by_sessions(
    problem: WeekPlanProblem, on_better: Progress | None, best: WeekPlan, bound: tuple[int, float]
) -> WeekPlan:
    """A week of dishes that each session cooks once, then parts of it sought anew: what a problem too large for one
    model, or for one of its eaters, is planned by. It is best where no count of meals allows less."""
    least = bound_beside(bound, best.batches, best.hands_on_min)
    best = replace(best, bound_batches=least[0], bound_min=least[1])
    place = {s.key: n for n, s in enumerate(problem.sessions)}
    only = dishes_by_session(problem, LAYERS)
    for how, seconds in (({"prove": BY_HITTING_SETS}, LAYERS_SECONDS), ({"from_hint": True}, 1.5 * LAYERS_SECONDS)):
        if (best.batches, best.hands_on_min) == bound:
            break
        if "from_hint" in how:
            only |= {(place[m.session_key], m.dish_key) for m in best.meals if m.session_key}
        model = ExactModel(problem, only=only)
        model.no_less_work_than(bound)
        if "from_hint" in how:
            model.start_from(best)
        status, spent = model.find(seconds, on_better=on_better, bound=bound, **how)
        if status == "found":
            week = model.answer(*bound, spent, proven=False)
            best = min((best, week), key=lambda w: (w.batches, w.hands_on_min))
    return replace(best, is_proven_best=(best.batches, best.hands_on_min) == bound)


def _in_parts(
    problem: WeekPlanProblem, on_better: Progress | None, bound: tuple[int, float] = (0, 0.0), *, polished: bool = True
) -> tuple[tuple[int, float], bool, WeekPlan | None]:
    """Which batches any week needs at least, whatever its sizes; whether none can be; and the week of those.

    The bound holds for the whole library. First nothing is asked of sizes, and the handiest dishes are looked at as
    long as that is no loss (`handiest`); when no sizes do with what that chooses, with what each day asks of the
    dishes, and each set of batches that has no sizes is ruled out before the next.
    """
    left = problem.rules.limit_seconds * MASTER_SHARE
    first, none_can_be, week, spent = _without_sizes(problem, on_better, left, bound, polished=polished)
    if none_can_be or week is not None:
        return first, none_can_be, week
    bound, left = max(bound, first), problem.rules.limit_seconds * CHOICE_SHARE
    master = ChoiceModel(problem)
    master.no_less_work_than(bound)
    while left > 0:
        status, spent = master.solve(left)
        left -= spent
        if status == "infeasible":
            return bound, True, None
        bound = max(bound, master.bound()) if status == "found" else bound
        if status == "unknown" or not master.is_optimal:
            break
        chosen = frozenset(master.batches_cooked())
        week, status, spent = _sized(problem, chosen, bound, on_better, polished=polished)
        left -= spent
        if week is not None:
            return bound, False, week
        if status != "infeasible":
            break
        master.one_beside(chosen)
    return bound, False, None


def _without_sizes(
    problem: WeekPlanProblem, on_better: Progress | None, left: float, bound: tuple[int, float], *, polished: bool
) -> tuple[tuple[int, float], bool, WeekPlan | None, float]:
    """The least work of any choice of dishes, whether there is none, and the week of it where sizes do."""
    enough, all_of_it = ENOUGH_BETTER, left
    while left > 0:
        looks_at_all = enough >= len(problem.dishes)
        master = WeekModel(problem, kitchen=None if looks_at_all else handiest(problem, enough))
        status, spent = master.solve(left)
        left -= spent
        if status == "infeasible":
            if looks_at_all:
                return bound, True, None, all_of_it - left
            enough = len(problem.dishes)
            continue
        if status == "unknown":
            break
        chosen = frozenset(master.batches_cooked())
        most_dishes = sum(max(d.batches, 1) for d in problem.dishes for _, key in chosen if key == d.key)
        if not looks_at_all and most_dishes > enough:
            enough = most_dishes
            continue
        bound = max(bound, master.bound())
        week = _sized(problem, chosen, bound, on_better, polished=polished)[0] if master.is_optimal else None
        return bound, False, week, all_of_it - left
    return bound, False, None, all_of_it - left


def _sized(
    problem: WeekPlanProblem,
    chosen: frozenset[tuple[int, str]],
    bound: tuple[int, float],
    on_better: Progress | None,
    *,
    polished: bool = True,
) -> tuple[WeekPlan | None, str, float]:
    """The week of a set of batches that no week can do with less than, polished; or why there is none."""
    sub = ExactModel(problem, only=chosen)
    sub.no_more_work_than(bound)
    sub.m.clear_objective()
    status, spent = sub.find(SIZING_SECONDS, prove=BY_CORES)
    if status != "found":
        return None, status, spent
    week = sub.answer(*bound, spent, proven=True)
    if on_better is not None:
        on_better(week)
    if not polished:
        return week, status, spent
    sub = ExactModel(problem, only=chosen)
    sub.no_more_work_than(bound)
    sub.start_from(week)
    return _polished(sub, on_better, bound, proven=True) or week, status, spent


def _quick(problem: WeekPlanProblem, on_better: Progress | None) -> tuple[WeekPlan | None, bool]:
    """The first week in which every day is in its band, from the handiest dishes; and whether none can be of all."""
    for most in (FEW, 2 * FEW, 6 * FEW, len(problem.dishes)):
        kitchen = handiest_in_slots(problem, most)
        model = ExactModel(problem, kitchen=kitchen)
        model.m.clear_objective()
        status, spent = model.find(QUICK_SECONDS, prove=BY_CORES)
        if status == "found":
            week = model.answer(0, 0.0, spent, proven=False)
            if on_better is not None:
                on_better(week)
            return week, False
        looks_at_all = len(kitchen) == len(problem.dishes)
        if status == "infeasible" and (looks_at_all or (most == FEW and _none_can_be(problem))):
            return None, True
        if looks_at_all:
            break
    return None, False


def _none_can_be(problem: WeekPlanProblem) -> bool:
    """Whether places are too few for any choice, a day by itself cannot be, or no week whatever the sizes: all are seen
    sooner than everything at once."""
    if are_places_too_few(problem):
        return True
    kinds = {(d.eater_key, d.kind): d for d in reversed(problem.days)}
    for d in kinds.values():
        slots = tuple(s for s in problem.slots if (s.eater_key, s.day) == (d.eater_key, d.day))
        if slots and is_impossible(ExactModel(_alone(problem, slots, d)), GLANCE_SECONDS):
            return True
    return is_impossible(ChoiceModel(problem), GLANCE_SECONDS * 3)


def _alone(problem: WeekPlanProblem, slots: tuple[PlanSlot, ...], d: PlanDay) -> WeekPlanProblem:
    """A day by itself: less is asked of it than of it in its week."""
    return replace(problem, slots=slots, days=(d,), means=())


QUICK_SECONDS = 1.0
"""How long a first week is looked for among so many dishes."""


def _by_aim(problem: WeekPlanProblem, on_better: Progress | None, base: WeekPlan | None) -> PlanResult:
    """Variety or cost: polished from the least cooking on, never proven."""
    if base is None:
        found = plan_week(replace(problem, rules=replace(problem.rules, aim=LEAST_COOKING)), on_better)
        if found.plan is None:
            return found
        base = found.plan
    if problem.rules.aim == WITHIN_BUDGET:
        return PlanResult(_within_budget(problem, on_better, base))
    model = _beside(problem, base)
    model.at_most_batches(base.batches * MOST_BATCHES[problem.rules.aim])
    by_list = problem.rules.aim == LOWEST_COST and problem.till is not None
    if by_list:
        model.cheapest()
    seconds = problem.rules.limit_seconds * (LIST_SHARE if by_list else POLISH_SHARE)
    status, spent = model.find(seconds, on_better=on_better, polish=not by_list, from_hint=by_list)
    if status != "found":
        return PlanResult(base)
    week = model.answer(base.bound_batches, base.bound_min, spent, proven=False)
    if problem.rules.aim == LOWEST_COST and week.till is not None and base.till is not None and week.till >= base.till:
        return PlanResult(base)
    return PlanResult(week)


def _beside(problem: WeekPlanProblem, base: WeekPlan) -> ExactModel:
    """The model from a week on, of its dishes and the handiest and the cheapest of each slot."""
    kitchen = handiest_in_slots(problem, 24) | {m.dish_key for m in base.meals}
    if problem.rules.aim != MOST_VARIETY and problem.till is not None:
        kitchen |= cheapest_in_slots(problem, problem.till, 12)
    model = ExactModel(problem, kitchen=kitchen)
    model.start_from(base)
    return model


def _within_budget(problem: WeekPlanProblem, on_better: Progress | None, base: WeekPlan) -> WeekPlan | None:
    """The least cooking whose list costs no more than the budget; None when no such week was found.

    The price of its list is rounded in the model: where it is more than the budget after all, it is looked for again
    with so much less.
    """
    if problem.till is None or problem.till.budget is None or base.till is None:
        return None
    most = budget = problem.till.budget
    for _ in range(BUDGET_TRIES):
        model = _beside(problem, base)
        model.list_costs_at_most(most)
        keeps_to_it = base.till <= most
        seconds = problem.rules.limit_seconds * (LIST_SHARE if keeps_to_it else POLISH_SHARE)
        status, spent = model.find(seconds, polish=not keeps_to_it, from_hint=keeps_to_it)
        if status != "found":
            return None
        week = model.answer(base.bound_batches, base.bound_min, spent, proven=False)
        if week.till is not None and week.till <= budget:
            if on_better is not None:
                on_better(week)
            return week
        most -= (week.till or 0.0) - budget
    return None


BUDGET_TRIES = 3
"""How often a week within a budget is looked for."""
MOST_BATCHES: Mapping[str, float] = {MOST_VARIETY: 2.0, LOWEST_COST: 1.3}
"""How many times the least batches a week of another aim may cook."""
POLISH_SHARE = 0.15
"""How much of its time the planner gives to variety, to the price by the gram, and to a budget without a week in it."""
LIST_SHARE = 0.3
"""And to what the list costs in whole packs."""


def _as_one(
    problem: WeekPlanProblem, on_better: Progress | None, best: WeekPlan | None, bound: tuple[int, float]
) -> PlanResult:
    """Choice and sizes in one model, from the best week on; then that week polished."""
    if best is not None and len(problem.dishes) > SMALL_LIBRARY:
        best = _better_soon(problem, best, on_better, bound)
    for way, share in WHOLE_SHARES.items():  # one is quick where the other is not
        model = ExactModel(problem)
        model.no_less_work_than(bound)
        if best is not None:
            model.start_from(best)
        seconds = problem.rules.limit_seconds * share
        status, spent = model.find(seconds, on_better=on_better, bound=bound, prove=way)
        if status == "infeasible":
            return PlanResult(None)
        bound = max(bound, model.bound())
        if status == "found":
            week = model.answer(*bound, spent, proven=model.is_optimal)
            if best is None or (week.batches, week.hands_on_min) <= (best.batches, best.hands_on_min):
                best = week
            if model.is_optimal:
                break
    if best is None:
        return PlanResult(None, (), ran_out=True)
    least = bound_beside(bound, best.batches, best.hands_on_min)
    best = replace(best, bound_batches=least[0], bound_min=least[1])
    if on_better is not None and not on_better(best):
        return PlanResult(best)
    place = {s.key: n for n, s in enumerate(problem.sessions)}
    only = frozenset((place[m.session_key], m.dish_key) for m in best.meals if m.session_key)
    sub = ExactModel(problem, only=only)
    sub.start_from(best)
    sub.no_more_work_than((best.batches, best.hands_on_min))
    return PlanResult(_polished(sub, on_better, bound, proven=best.is_proven_best) or best)


def _better_soon(
    problem: WeekPlanProblem, best: WeekPlan, on_better: Progress | None, bound: tuple[int, float]
) -> WeekPlan:
    """Less work of the handier dishes, parts of the week sought anew; nothing is proven by it."""
    model = ExactModel(problem, kitchen=handiest_in_slots(problem, 6 * FEW) | {m.dish_key for m in best.meals})
    model.start_from(best)
    seconds = problem.rules.limit_seconds * MASTER_SHARE
    status, spent = model.find(seconds, on_better=on_better, bound=bound, from_hint=True)
    week = model.answer(*bound, spent, proven=False) if status == "found" else best
    return min((best, week), key=lambda w: (w.batches, w.hands_on_min))


def _polished(
    sub: ExactModel, on_better: Progress | None, bound: tuple[int, float], *, proven: bool
) -> WeekPlan | None:
    """The same batches with less left over, more favourites, and portions nearer to the recipes' own servings."""
    sub.polish()
    status, spent = sub.find(SIZING_SECONDS, on_better=on_better, bound=bound, proven=proven)
    if status != "found":
        return None
    return replace(sub.answer(*bound, spent, proven=proven), polish_gap_pct=round(sub.gap_pct(), 1))


MASTER_SHARE, CHOICE_SHARE = 0.15, 0.3
"""How much of its time the planner gives to choosing batches without sizes, and with what each day asks of them."""
WHOLE_SHARES: Mapping[str, float] = {BY_CORES: 0.2, BY_HITTING_SETS: 0.2}
"""And to each way of planning all as one."""
MOST_CHOICES_AS_ONE = 30_000
"""So many dishes for all slots together are planned as one, or by eaters."""
LAYERS, LAYERS_SECONDS = 4, 1.5
"""How many dishes for each that is needed a large problem is planned from, and how long."""
SMALL_LIBRARY = 40
"""So many dishes are planned as one from the start."""
SIZING_SECONDS = 0.5
"""How long portions are pulled towards the recipes' own servings, once a set of batches is chosen."""
ENOUGH_BETTER = 6
"""Where the search for the least cooking begins: see `handiest`."""


def _reached(problem: WeekPlanProblem, conflict: Conflict) -> Conflict:
    """A session that is missing, tried; where no week is found with it, it is said and not offered."""
    if conflict.rule != "sessions":
        return conflict
    if tells(with_session(problem, conflict.value)) == FOUND:
        return replace(conflict, is_tried=True)
    return replace(conflict, field="", value=0)
