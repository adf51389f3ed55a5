"""Random weeks for the planner: seeded, realistic in their numbers."""

import random

from goodcrate.core.week.week_problem import PlanDay, PlanDish, PlanRules, PlanSession, PlanSlot, WeekPlanProblem

SLOTS = ("breakfast", "lunch", "snack", "dinner")
SHARES = {"breakfast": 0.24, "lunch": 0.31, "snack": 0.12, "dinner": 0.33}


def random_week(eaters: int, recipes: int, sessions: int, seed: int, days_long: int = 7) -> WeekPlanProblem:
    """A problem of so many days and four slots for so many eaters, recipes and sessions."""
    rng = random.Random(seed)
    dishes, suits = [], dict[str, set[str]]()
    for n in range(recipes):
        kind = rng.choice(("breakfast", "main", "main", "main", "snack"))
        kcal = {"breakfast": rng.uniform(1.0, 1.8), "main": rng.uniform(0.9, 1.7), "snack": rng.uniform(1.5, 4.0)}[kind]
        serving = {"breakfast": 450, "main": 560, "snack": 240}[kind] / kcal
        protein = kcal * rng.uniform(0.05, 0.11)
        dishes.append(
            PlanDish(
                f"r{n}",
                f"dish {n}",
                kcal,
                protein,
                round(serving * 0.5, 1),
                round(serving * 2.0, 1),
                batches=rng.choice((1, 1, 2, 2, 3)),
                hands_on_min=rng.randint(8, 45),
                keeps_days=rng.choice((2, 3, 3, 4)),
                freezes=rng.random() < 0.6,
                cost_per_g=rng.uniform(0.003, 0.012),
                unit_g=round(serving * 2, 1) if n % 3 == 0 else None,
            )
        )
        suits[f"r{n}"] = {"breakfast": {"breakfast"}, "main": {"lunch", "dinner"}, "snack": {"snack"}}[kind]
    slots, days = [], []
    for e in range(eaters):
        base = rng.choice((1900, 2100, 2400))
        barred = {d.key for d in dishes if rng.random() < 0.1}
        for day in range(days_long):
            kind = "training" if day % 3 == 0 else "rest"
            kcal = base + (250 if kind == "training" else 0)
            days.append(PlanDay(f"e{e}", day, kind, kcal * 0.97, kcal * 1.03, round(kcal * 0.058)))
            for slot in SLOTS:
                fits = tuple(d.key for d in dishes if slot in suits[d.key] and d.key not in barred)
                slots.append(PlanSlot(f"e{e}", day, slot, fits))
    all_slots = frozenset((s.eater_key, s.day, s.slot_key) for s in slots)
    made = [PlanSession("first", -1, all_slots)]
    if sessions == 2:
        second = days_long // 2 - 1
        later = frozenset(key for key in all_slots if key[1] > second)
        made.append(PlanSession("second", second, later))
    return WeekPlanProblem(
        tuple(slots),
        tuple(days),
        tuple(dishes),
        tuple(made),
        PlanRules(different=3, repeats=7, freezer_boxes=14 * eaters),
    )
