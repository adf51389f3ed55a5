"""A week planned by what its list costs in whole packs: against every week there is, and against the list itself."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.packs import LEAST_COST, LEAST_LEFT, Pack
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.shop.needs import Need, Use
from goodcrate.core.shop.shopping_list import ShopRules, Stock, shopping_list
from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.plan.week_till import steps_of
from goodcrate.core.week.week_buying import PlanFood, Till, Weighed
from goodcrate.core.week.week_problem import (
    LOWEST_COST,
    WITHIN_BUDGET,
    PlanDay,
    PlanDish,
    PlannedMeal,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
    till_of,
)

DAYS, MONDAY = 3, date(2026, 11, 23)
TURKEY_THIGH = Food("turkey", "Turkey thigh", "raw", "meat", Composition((None,) * len(KEYS)))
PLANNED = {"is_frozen": False, "is_fixed": False}
FENNEL = PlanFood("fennel", (Pack("fennel", 500, 2.0),))
TURKEY = PlanFood("turkey", (Pack("small", 400, 4.0), Pack("large", 1000, 8.5)))
LENTILS = PlanFood("lentils", (Pack("lentils", 500, 1.2),), stock=((200, None),))
OATS = PlanFood("oats", (), per_g=0.002)
FOODS = (FENNEL, TURKEY, LENTILS, OATS)


def dish(key: str, minutes: float, **per_g: float) -> PlanDish:
    """A dish of 1 kcal a gram."""
    weighs = tuple(Weighed(food, grams) for food, grams in per_g.items())
    sizes = {"low_g": 300, "high_g": 900, "keeps_days": 4, "freezes": True}
    return PlanDish(key, key, 1.0, 0.1, batches=1, hands_on_min=minutes, weighs=weighs, **sizes)  # type: ignore[arg-type]


DISHES = (
    dish("roast", 10, turkey=0.5, fennel=0.3),
    dish("stew", 20, lentils=0.4, fennel=0.2),
    dish("soup", 30, lentils=0.2, oats=0.1),
)


def small(budget: float | None = None, aim: str = LEAST_LEFT, **rules: object) -> WeekPlanProblem:
    """Lunch and dinner of one eater on three days, cooked the evening before."""
    keys = tuple(d.key for d in DISHES)
    slots = tuple(PlanSlot("maren", day, slot, keys) for day in range(DAYS) for slot in ("lunch", "dinner"))
    days = tuple(PlanDay("maren", day, "work", 1180, 1220, 60) for day in range(DAYS))
    session = PlanSession("sunday", -1, frozenset((s.eater_key, s.day, s.slot_key) for s in slots))
    return WeekPlanProblem(slots, days, DISHES, (session,), PlanRules(**rules), Till(FOODS, aim, budget=budget))  # type: ignore[arg-type]


def all_weeks(problem: WeekPlanProblem) -> Iterator[tuple[float, int]]:
    """The price and the batches of every week, portions in steps of 10 g, alike on all days."""
    for lunch_g in range(300, 910, 10):
        for dinner_g in (e - lunch_g for e in (1200,)):
            if not 300 <= dinner_g <= 900:
                continue
            for keys in product([d.key for d in DISHES], repeat=2 * DAYS):
                meals = [
                    PlannedMeal("maren", n // 2, "", key, (lunch_g, dinner_g)[n % 2], "sunday", **PLANNED)
                    for n, key in enumerate(keys)
                ]
                price = till_of(problem, meals)
                assert price is not None
                yield price, len(set(keys))


def planned(problem: WeekPlanProblem, aim: str, base: WeekPlan | None = None) -> WeekPlan | None:
    """A week by an aim, held against every rule."""
    asked = replace(problem, rules=replace(problem.rules, aim=aim))
    plan = plan_week(asked, base=base).plan
    if plan is not None:
        assert check_plan(asked, plan) == []
        assert plan.till == till_of(problem, plan.meals)
    return plan


@pytest.mark.parametrize("aim", [LEAST_LEFT, LEAST_COST])
def test_the_lowest_price_is_as_low_as_that_of_any_week_tried(aim: str) -> None:
    problem = small(aim=aim)
    plan = planned(problem, LOWEST_COST)
    assert plan is not None
    assert plan.till is not None
    assert plan.till <= min(price for price, _ in all_weeks(problem))


def test_within_a_budget_is_cooked_as_little_as_any_week_tried_within_it() -> None:
    base = plan_week(small()).plan
    assert base is not None
    assert base.till is not None
    weeks = list(all_weeks(small()))
    fewest = []
    for budget in (3.5, 5.0, 8.0, base.till):
        plan = planned(small(budget), WITHIN_BUDGET, base)
        assert plan is not None
        assert plan.till is not None
        assert plan.till <= budget
        assert plan.batches <= min(batches for price, batches in weeks if price <= budget)
        fewest.append((plan.batches, plan.hands_on_min))
    assert fewest[0] > fewest[-1]  # a low budget takes more work
    assert planned(small(2.0), WITHIN_BUDGET, base) is None


def test_a_week_over_its_budget_is_refused_by_the_checker() -> None:
    problem = small(8.0)
    base = plan_week(problem).plan
    assert base is not None
    assert base.till is not None
    assert base.till > 8
    within = replace(problem, rules=replace(problem.rules, aim=WITHIN_BUDGET))
    assert check_plan(within, base) == [f"its list costs {base.till:.2f}, for a budget of 8.00"]
    assert check_plan(problem, replace(base, till=1.0)) == [f"its list costs {base.till:.2f}"]


def test_between_two_steps_the_packs_are_those_that_leave_least() -> None:
    steps = list(steps_of(TURKEY, LEAST_LEFT))
    assert steps[:5] == [(400_000, 4.0), (800_000, 8.0), (1_000_000, 8.5), (1_200_000, 12.0), (1_400_000, 12.5)]
    totals = [upto for upto, _ in steps]
    assert totals == sorted(set(totals))
    assert totals[-1] >= 6_000_000


@given(
    needs=st.dictionaries(st.integers(-1, 6), st.integers(1, 900), max_size=4),
    stock=st.lists(st.tuples(st.integers(0, 900), st.none() | st.integers(-3, 7)), max_size=3),
    floor=st.sampled_from([0, 0, 300]),
    spare=st.sampled_from([0, 10]),
    aim=st.sampled_from([LEAST_LEFT, LEAST_COST]),
)
def test_a_plan_buys_what_the_list_says(
    needs: dict[int, int], stock: list[tuple[int, int | None]], floor: int, spare: int, aim: str
) -> None:
    uses = tuple(Use("stew", grams, MONDAY + timedelta(days=day)) for day, grams in sorted(needs.items()))
    there = [
        Stock(TURKEY_THIGH.key, g, until=None if day is None else MONDAY + timedelta(days=day)) for g, day in stock
    ]
    rules = ShopRules({TURKEY_THIGH.key: TURKEY.packs}, {}, aim=aim, spare_pct=spare, floors={TURKEY_THIGH.key: floor})
    listed = shopping_list([Need(TURKEY_THIGH, uses)], there, rules)
    bought = replace(TURKEY, stock=tuple(stock), floor_g=floor)
    assert Till((bought,), aim, spare).price((TURKEY.key, *use) for use in needs.items()) == pytest.approx(listed.price)
