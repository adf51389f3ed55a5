"""Whether there is a week at all: a way out is tried by it. Two searches race, one is quick where the other is not."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.core.week.plan.week_beside import FOUND, NONE, UNKNOWN, beside
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_cuts import ChoiceModel
from goodcrate.core.week.plan.week_eaters import told_by_eaters
from goodcrate.core.week.plan.week_exact import ExactModel
from goodcrate.core.week.plan.week_kitchen import handiest_in_slots
from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_rules import BY_CORES
from goodcrate.core.week.storing import FREEZER, FRIDGE
from goodcrate.core.week.week_problem import (
    ALL_PLACES,
    LEAST_COOKING,
    Conflict,
    WeekPlanProblem,
    evenings_of,
    standing_in,
)

FEW = 4
"""So many of the handiest dishes of a slot are tried first."""
GLANCE_SECONDS = 0.1
"""How long is looked for a reason why no week can be."""
TELL_SECONDS = 1.5
"""How long, by each of two searches, whether there is a week at all."""


def tells(problem: WeekPlanProblem, effort: float = 1.0) -> str:
    """Whether there is a week: `found` when one was, held against every rule; `none` when it is proven that none can
    be; else `unknown`. With less `effort`, more often unknown."""
    if any(empty_slots(problem)):
        return NONE
    asked = replace(problem, rules=replace(problem.rules, aim=LEAST_COOKING))
    if are_places_too_few(asked):
        return NONE
    if (told := told_by_eaters(asked, GLANCE_SECONDS * 3)) != UNKNOWN:
        return told
    if is_impossible(ChoiceModel(asked), GLANCE_SECONDS * 5 * effort):
        return NONE
    if raced(asked, handiest_in_slots(asked, 2 * FEW), GLANCE_SECONDS * 3) == FOUND:
        return FOUND
    return raced(asked, None, TELL_SECONDS * effort)


def raced(problem: WeekPlanProblem, kitchen: frozenset[str] | None, seconds: float) -> str:
    """What the first of two searches tells of a problem, with all its dishes or some. What it tells does not depend on
    which is first: both are limited by what they do, not by the clock."""
    models = [ExactModel(problem, kitchen=kitchen) for _ in _SEARCHES]

    def run(n: int) -> str:
        model = models[n]
        model.m.clear_objective()
        status, _ = model.find(seconds, **_SEARCHES[n])
        if status == "found" and check_plan(problem, model.answer(0, 0.0, 0.0, proven=False)):
            return UNKNOWN
        if status in ("found", "infeasible"):
            for other in models:
                other.stop()
        return status

    said = list(beside([partial(run, n) for n in range(len(models))]))
    if "found" in said:
        return FOUND
    return NONE if "infeasible" in said else UNKNOWN


_SEARCHES: tuple[dict[str, object], ...] = ({"plain": True}, {"prove": BY_CORES})


def are_places_too_few(problem: WeekPlanProblem) -> bool:
    """Whether, on an evening, the meals that no later session can cook have too few boxes or places."""
    rules, dry = problem.rules, {d.key for d in problem.dishes if d.keeps_dry}
    for evening in evenings_of(problem):
        later = {at for s in problem.sessions if s.key not in evening.over for at in s.serves}
        waiting = [
            slot
            for slot in problem.slots
            if slot.fixed is None and evening.waits(slot)
            if (slot.eater_key, slot.day, slot.slot_key) not in later
        ]
        room = None if rules.box_count is None else rules.box_count - standing_in(problem, ALL_PLACES, evening)
        if room is not None and len(waiting) > max(0, room):
            return True
        if rules.fridge_boxes is not None:
            places = max(0, rules.fridge_boxes - standing_in(problem, FRIDGE, evening))
            places += max(0, rules.freezer_boxes - standing_in(problem, FREEZER, evening))
            if sum(not dry.intersection(slot.dishes) for slot in waiting) > places:
                return True
    return False


def is_impossible(model: WeekModel, seconds: float) -> bool:
    """Whether a model has no answer, seen in so much effort."""
    model.m.clear_objective()
    return model.solve(seconds, plain=not model.sized, prove=BY_CORES if model.sized else "")[0] == "infeasible"


def empty_slots(problem: WeekPlanProblem) -> Iterator[Conflict]:
    """Slots that no recipe may stand in, and one that no session is over in time for: nothing can be planned there."""
    seen: set[object] = set()
    served = {key for s in problem.sessions for key in s.serves}
    unreached = [
        slot for slot in problem.slots if slot.fixed is None and (slot.eater_key, slot.day, slot.slot_key) not in served
    ]
    for slot in problem.slots:
        here = (slot.eater_key, slot.slot_key)
        if slot.fixed is None and not slot.dishes and here not in seen:
            seen.add(here)
            words = say("No recipe may stand in {words}.", words=slot.words)
            if slot.lacks:
                tags = ", ".join(f"“{tag}”" for tag in slot.lacks)
                change = say("{some} would do with the tags {tags}.", some=many(slot.would_do, "recipe"), tags=tags)
                if len(slot.lacks) == 1:
                    change = say("{some} would do with the tag {tag}.", some=many(slot.would_do, "recipe"), tag=tags)
                yield Conflict("dishes", words, change, lacks=".".join(slot.lacks))
                continue
            yield Conflict("dishes", words, say("Let fewer conditions hold there, or add a recipe that keeps them."))
    if unreached:
        slot = min(unreached, key=lambda slot: slot.day)
        words = say("No prep session is over before {words} on day {day}.", words=slot.words, day=slot.day + 1)
        yield Conflict(
            "sessions", words, say("A session on the evening before reaches it."), "session_day", slot.day - 1
        )
