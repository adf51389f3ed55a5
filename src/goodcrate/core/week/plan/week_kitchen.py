"""The dishes a search begins with: the handiest, the cheapest, those that nothing beats."""

from goodcrate.core.week.week_buying import Till
from goodcrate.core.week.week_problem import PlanDish, WeekPlanProblem


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
