"""The check of a planned week: for each rule an answer that breaks it, and a planner that miscounts its evenings."""

from dataclasses import replace

import pytest

from goodcrate.core.week import week_problem
from goodcrate.core.week.plan import week_plan
from goodcrate.core.week.plan.week_check import check_plan, places_taken
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import PlanBand, PlanDish, PlannedMeal, PlanRules, WeekPlan, WeekPlanProblem
from tests.core.week.test_week_plan import lunches

SOUP = PlanDish("soup", "Soup", 1.2, 0.1, 200, 900, batches=1, hands_on_min=10, keeps_days=1, freezes=True)
"""Keeps a day: later lunches are frozen."""


def planned(problem: WeekPlanProblem) -> WeekPlan:
    plan = plan_week(problem).plan
    assert plan is not None
    assert check_plan(problem, plan) == []
    return plan


def test_an_answer_that_breaks_one_rule_is_rejected_for_that_rule() -> None:
    stew = PlanDish(
        "stew",
        "Stew",
        1.25,
        0.1,
        200,
        900,
        batches=1,
        hands_on_min=20,
        keeps_days=9,
        freezes=False,
        others_per_g={"fibre_g": 0.02},
    )
    dishes = (SOUP, stew)
    problem = lunches(dishes, 30, repeats=7, freezer_boxes=6, fridge_boxes=7, box_count=7)
    plan = planned(problem)
    meal, late = plan.meals[0], plan.meals[-1]

    def with_meal(old: PlannedMeal, **change: object) -> WeekPlan:
        meals = tuple(replace(m, **change) if m is old else m for m in plan.meals)  # type: ignore[arg-type]
        return replace(plan, meals=meals)

    def ruled(**rules: object) -> WeekPlanProblem:
        return replace(problem, rules=replace(problem.rules, **rules))  # type: ignore[arg-type]

    def day_as(**change: object) -> WeekPlanProblem:
        return replace(problem, days=(replace(problem.days[0], **change), *problem.days[1:]))  # type: ignore[arg-type]

    only_soup = replace(problem, slots=tuple(replace(s, dishes=("soup",)) for s in problem.slots))
    fixed = replace(problem, slots=(replace(problem.slots[0], fixed=("stew", 111.0)), *problem.slots[1:]))
    early = replace(problem, sessions=(replace(problem.sessions[0], serves=frozenset()),))
    shallow = replace(
        problem, dishes=tuple(replace(d, most_g=1500.0) for d in dishes), rules=PlanRules(repeats=7, fillings=1)
    )
    assert {m.dish_key for m in plan.meals} == {"soup"}
    breaks = {
        "is empty": (problem, replace(plan, meals=plan.meals[1:])),
        "may not stand": (only_soup, with_meal(meal, dish_key="stew")),
        "was fixed": (fixed, plan),
        "no session cooks": (problem, with_meal(meal, session_key="", is_frozen=False)),
        "is eaten before its session": (early, plan),
        "does not freeze": (problem, with_meal(late, dish_key="stew")),
        "is too old": (problem, with_meal(late, is_frozen=False)),
        "has no portion": (problem, with_meal(meal, grams=1000.0)),
        "places of the freezer": (ruled(freezer_boxes=2), plan),
        "places of the fridge": (ruled(fridge_boxes=0), plan),
        "places of the boxes": (ruled(box_count=3), plan),
        "fillings of": (shallow, plan),
        "fillings after the first": (problem, replace(plan, hands_on_min=plan.hands_on_min - 1)),
        "it takes": (problem, replace(plan, batches=plan.batches + 1)),
        " kcal": (day_as(energy_low_kcal=700.0, energy_high_kcal=800.0), plan),
        "g of protein": (day_as(protein_floor_g=400.0), plan),
        "of fibre_g": (day_as(bands=(PlanBand("fibre_g", 30, None),)), plan),
        "no whole blocks": (day_as(block_sums=(100,)), plan),
        "different dishes": (ruled(different=1), with_meal(meal, dish_key="stew")),
        "7 times": (ruled(repeats=6), plan),
    }
    for sentence, (asked, wrong) in breaks.items():
        assert any(sentence in said for said in check_plan(asked, wrong)), sentence


def test_a_planner_that_miscounts_its_evenings_is_caught(monkeypatch: pytest.MonkeyPatch) -> None:
    """It takes every frozen box for one that thaws: the freezer seems empty, and is overfilled."""
    problem = lunches((SOUP,), 30, repeats=7, freezer_boxes=3)
    assert plan_week(problem).plan is None
    monkeypatch.setattr(week_problem.Evening, "is_thawing", lambda *_: True)
    monkeypatch.setattr(week_plan, "check_plan", lambda *_: [])  # the planner asks it too, and would not answer
    plan = plan_week(problem).plan
    assert plan is not None
    assert "6 boxes and 0 from before for 3 places of the freezer on day -1" in check_plan(problem, plan)
    assert places_taken(problem, plan)[0]["freezer"] == (5, 0)
