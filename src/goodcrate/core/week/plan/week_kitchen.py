"""The dishes a search begins with: the handiest, the cheapest, those that nothing beats; and what any week cooks."""

from collections.abc import Iterator, Mapping
from math import ceil

from goodcrate.core.week.plan.week_rules import work_worth
from goodcrate.core.week.week_buying import Till
from goodcrate.core.week.week_problem import PlanDish, PlanSlot, WeekPlanProblem


def handiest(problem: WeekPlanProblem, enough: int) -> frozenset[str]:
    """The dishes not beaten in every respect but their figures by `enough` others.

    In a week of at most `enough` dishes, a beaten one can give its places to one that beats it and is not in use yet:
    no more batches, minutes or boxes in the freezer. So the least batches and minutes are the same without it, as long
    as portion sizes do not matter.
    """
    suits: dict[str, set[tuple[str, int, str]]] = {d.key: set() for d in problem.dishes}
    for slot in problem.slots:
        for key in slot.dishes:
            suits[key].add((slot.eater_key, slot.day, slot.slot_key))
    kept = {slot.fixed[0] for slot in problem.slots if slot.fixed is not None}
    kept |= {d.family for d in problem.dishes if d.key in kept and d.family}  # cooked anyway: nothing is handier

    def beats(o: PlanDish, d: PlanDish) -> bool:
        return (
            (o.batches, o.hands_on_min, o.key) < (d.batches, d.hands_on_min, d.key)
            and o.hands_on_min <= d.hands_on_min
            and o.keeps_days >= d.keeps_days
            and o.freezes >= d.freezes
            and suits[o.key] >= suits[d.key]
        )

    kept |= {d.key for d in problem.dishes if sum(beats(o, d) for o in problem.dishes) < enough}
    return frozenset(kept)


def handiest_in_slots(problem: WeekPlanProblem, most: int) -> frozenset[str]:
    """The `most` handiest dishes of every kind of slot."""
    order = sorted(problem.dishes, key=lambda d: (d.batches, d.hands_on_min, d.key))
    chosen = {slot.fixed[0] for slot in problem.slots if slot.fixed is not None}
    chosen |= {d.family for d in problem.dishes if d.key in chosen and d.family}
    for allowed in {frozenset(s.dishes) for s in problem.slots}:
        chosen |= set([d.key for d in order if d.key in allowed][:most])
    return frozenset(chosen)


def cheapest_in_slots(problem: WeekPlanProblem, till: Till, most: int) -> frozenset[str]:
    """The `most` dishes of every kind of slot that give a kcal for least, by the gram."""
    per_g = {food.key: food.about_per_g for food in till.foods}
    costs = {d.key: sum(per_g.get(w.food_key, 0.0) * w.per_g for w in d.weighs) / d.kcal_per_g for d in problem.dishes}
    chosen: set[str] = set()
    for allowed in {frozenset(s.dishes) for s in problem.slots}:
        chosen |= set(sorted(allowed, key=lambda key: (costs[key], key))[:most])
    return frozenset(chosen)


def least_by_count(problem: WeekPlanProblem) -> int:
    """The work, in the model's units, that any week takes at least: each eater's meals of a kind ask for so many dishes
    as no dish may be eaten more often, and no other dishes take less work than the handiest."""
    dishes, most = {d.key: d for d in problem.dishes}, 0
    for eater in {slot.eater_key for slot in problem.slots}:
        needs = 0
        for keys, meals in _kinds(problem, eater):
            fewest = ceil(meals / max(problem.rules.repeats, 1))
            needs += sum(sorted(work_worth(dishes[key]) for key in keys)[:fewest])
        most = max(most, needs)
    return most


def _kinds(problem: WeekPlanProblem, eater: str) -> Iterator[tuple[frozenset[str], int]]:
    """An eater's open meals by the dishes that may stand there, with those that share any; and how many they are."""
    kinds: list[tuple[frozenset[str], int]] = []
    for slot in problem.slots:
        if slot.eater_key != eater or slot.fixed is not None:
            continue
        keys, meals = frozenset(slot.dishes), 1
        for kind in [k for k in kinds if k[0] & keys]:
            kinds.remove(kind)
            keys, meals = keys | kind[0], meals + kind[1]
        kinds.append((keys, meals))
    yield from kinds


def dishes_by_session(problem: WeekPlanProblem, layers: int) -> frozenset[tuple[int, str]]:
    """Dishes for each session (by its place), so many times what its meals need: those that most eaters may have for
    the least work, each cooked once. What stands already is cooked by any."""
    chosen = {(n, s.fixed[0]) for s in problem.slots if s.fixed for n in range(len(problem.sessions))}
    needs: dict[tuple[int, str, frozenset[str]], int] = {}
    for slot in problem.slots:
        place = _own_session(problem, slot)
        if slot.fixed is None and place is not None:
            of = (place, slot.eater_key, frozenset(slot.dishes))
            needs[of] = needs.get(of, 0) + 1
    waits = max((slot.day for slot in problem.slots), default=0)
    left = {d.key: d for d in problem.dishes if d.freezes or d.keeps_days > waits}
    for _ in range(layers):
        open_ = {of: ceil(meals / max(problem.rules.repeats, 1)) for of, meals in needs.items()}
        while best := _most_wanted(left, open_):
            place, key = best
            chosen.add(best)
            del left[key]
            for of, count in open_.items():
                open_[of] = count - 1 if of[0] == place and key in of[2] and count else count
    return frozenset(chosen)


def _own_session(problem: WeekPlanProblem, slot: PlanSlot) -> int | None:
    """The place of the last session that is over before a slot."""
    where = (slot.eater_key, slot.day, slot.slot_key)
    before = [n for n, session in enumerate(problem.sessions) if where in session.serves]
    return max(before, key=lambda n: problem.sessions[n].day, default=None)


def _most_wanted(
    left: Mapping[str, PlanDish], needs: Mapping[tuple[int, str, frozenset[str]], int]
) -> tuple[int, str] | None:
    """The session and the dish that most needs ask for, for its work; None when nothing is needed, or nothing left."""
    wanted: dict[tuple[int, str], int] = {}
    for (place, _, keys), count in needs.items():
        for key in keys & left.keys() if count else ():
            wanted[place, key] = wanted.get((place, key), 0) + 1
    return max(wanted, key=lambda at: (wanted[at] / max(work_worth(left[at[1]]), 1), at), default=None)
