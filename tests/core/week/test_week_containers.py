"""Planning with as many large boxes as there are: no more large portions wait at once, held against every week."""

from dataclasses import replace
from itertools import product
from typing import Any

import pytest

from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import (
    PlanDay,
    PlanDish,
    PlannedMeal,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
)

THIN = PlanDish("thin", "Soup", 0.8, 0.06, 250, 800, batches=1, hands_on_min=10, keeps_days=6, freezes=False)
DENSE = PlanDish("dense", "Bulgur box", 1.9, 0.12, 150, 500, batches=1, hands_on_min=25, keeps_days=6, freezes=False)


def week(days: int = 2, sessions: int = 1, **rules: Any) -> WeekPlanProblem:
    """One eater, lunch and dinner of either dish, each day 1,000 to 1,200 kcal."""
    slots = tuple(
        PlanSlot("maren", day, slot, ("thin", "dense")) for day in range(days) for slot in ("lunch", "dinner")
    )
    bands = tuple(PlanDay("maren", day, "work", 1000, 1200, 60) for day in range(days))
    cooked = tuple(
        PlanSession(f"s{n}", n - 1, frozenset(("maren", s.day, s.slot_key) for s in slots if s.day >= n))
        for n in range(sessions)
    )
    return WeekPlanProblem(slots, bands, (THIN, DENSE), cooked, PlanRules(repeats=9, **rules))


def every_week(problem: WeekPlanProblem) -> list[WeekPlan]:
    """All weeks that keep every rule: each choice of dishes and sessions, each energy of lunch and of dinner."""
    dishes = {d.key: d for d in problem.dishes}
    sessions = [[s.key for s in problem.sessions if ("maren", p.day, p.slot_key) in s.serves] for p in problem.slots]
    found = []
    for choice in product(*(p.dishes for p in problem.slots)):
        for cooked in product(*sessions):
            made = {(s, d) for s, d in zip(cooked, choice, strict=True)}
            minutes = sum(dishes[d].hands_on_min for _, d in made)
            for lunch, dinner in product(range(200, 960, 20), repeat=2):
                meals = []
                for p, key, s in zip(problem.slots, choice, cooked, strict=True):
                    d = dishes[key]
                    g = round((lunch if p.slot_key == "lunch" else dinner) / d.kcal_per_g / 5) * 5.0
                    meals.append(
                        PlannedMeal(
                            "maren",
                            p.day,
                            p.slot_key,
                            key,
                            min(max(g, d.low_g), d.high_g),
                            session_key=s,
                            is_frozen=False,
                            is_fixed=False,
                        )
                    )
                plan = WeekPlan(tuple(meals), len(made), minutes, 0, 0.0, is_proven_best=False, deterministic_time=0.0)
                if not check_plan(problem, plan):
                    found.append(plan)
    return found


@pytest.mark.parametrize("most", [4, 2, 0])
def test_the_least_cooking_within_the_large_boxes_is_the_least_of_every_week(most: int) -> None:
    problem = week(containers=((505.0, most),))
    least = min((w.batches, w.hands_on_min) for w in every_week(problem))
    result = plan_week(problem).plan
    assert result is not None
    assert result.is_proven_best
    assert (result.batches, result.hands_on_min) == least
    assert sum(m.grams > 505 for m in result.meals) <= most
    assert check_plan(problem, result) == []


def test_one_large_box_for_a_week_of_large_portions_takes_the_dearer_dish() -> None:
    free = plan_week(week()).plan
    assert free is not None
    assert {m.dish_key for m in free.meals} == {"thin"}
    tight = week(containers=((505.0, 0),))
    plan = plan_week(tight).plan
    assert plan is not None
    assert "dense" in {m.dish_key for m in plan.meals}
    wrong = check_plan(tight, replace(free, bound_batches=0, bound_min=0.0))
    assert any("portions of more than 505 g for 0 boxes" in fault for fault in wrong)


def test_boxes_are_free_again_for_a_later_session() -> None:
    """One portion over 505 g at a time: two in the week where each day is cooked by itself, and none at once."""
    other = replace(THIN, key="other", name="Other thin")  # each in its own slot: one dish has one size a day
    thin_only = replace(week(2, 2, containers=((505.0, 1),)), dishes=(THIN, other))
    by_slot = {"lunch": ("thin",), "dinner": ("other",)}
    thin_only = replace(thin_only, slots=tuple(replace(s, dishes=by_slot[s.slot_key]) for s in thin_only.slots))
    plan = plan_week(thin_only).plan
    assert plan is not None
    assert sum(m.grams > 505 for m in plan.meals) == 2
    once = replace(thin_only, sessions=thin_only.sessions[:1])
    result = plan_week(once)
    assert result.plan is None
    assert ("containers", "in_two") in [(c.rule, c.field) for c in result.conflicts]


def test_large_portions_that_stand_already_are_no_fault_but_let_no_other_in() -> None:
    """Two large soups stand and there is no large box: what is planned beside them is small, as in every such week."""
    standing = {("lunch", 0): ("thin", 700.0), ("lunch", 1): ("thin", 700.0)}
    free = week(containers=((505.0, 0),))
    slots = tuple(replace(s, fixed=standing.get((s.slot_key, s.day))) for s in free.slots)
    plan = plan_week(replace(free, slots=slots)).plan
    assert plan is not None
    assert [m.grams > 505 for m in plan.meals if not m.is_fixed] == [False, False]
    assert check_plan(replace(free, slots=slots), plan) == []
    larger = tuple(m if m.is_fixed else replace(m, dish_key="thin", grams=600.0) for m in plan.meals)
    wrong = check_plan(replace(free, slots=slots), replace(plan, meals=larger))
    assert any("portions of more than 505 g for 0 boxes" in fault for fault in wrong)
