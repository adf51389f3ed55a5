"""Planning a week: every answer checked by one who did not solve, the same every time, and conflicts named."""

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from typing import Any

import pytest

from bench.weeks import random_week
from goodcrate.core.ground.errors import InvalidInputs, StoppedEarly
from goodcrate.core.week.plan.week_check import check_plan, day_totals, places_taken
from goodcrate.core.week.plan.week_conflicts import conflicts_of
from goodcrate.core.week.plan.week_eased import eased, with_session
from goodcrate.core.week.plan.week_exact import ExactModel
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import (
    LOWEST_COST,
    MOST_VARIETY,
    Conflict,
    PlanBand,
    PlanDay,
    PlanDish,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlan,
    WeekPlanProblem,
    left_over_g,
)

STEW = PlanDish("stew", "Stew", 1.1, 0.1, 250, 900, batches=1, hands_on_min=20, keeps_days=4, freezes=True)
BOX = PlanDish("box", "Cold box", 1.3, 0.08, 200, 800, batches=2, hands_on_min=15, keeps_days=2, freezes=False)
OATS = PlanDish("oats", "Oats", 1.4, 0.06, 150, 600, batches=1, hands_on_min=10, keeps_days=3, freezes=False)


def small(days: int = 3, **rules: Any) -> WeekPlanProblem:
    """One eater, breakfast, lunch and dinner, one session the day before."""
    slots, bands = [], []
    for day in range(days):
        bands.append(PlanDay("maren", day, "work", 1940, 2060, 120))
        slots += [
            PlanSlot("maren", day, "breakfast", ("oats",)),
            PlanSlot("maren", day, "lunch", ("box", "stew")),
            PlanSlot("maren", day, "dinner", ("stew",)),
        ]
    everything = frozenset((s.eater_key, s.day, s.slot_key) for s in slots)
    return WeekPlanProblem(
        tuple(slots), tuple(bands), (STEW, BOX, OATS), (PlanSession("sunday", -1, everything),), PlanRules(**rules)
    )


def test_the_least_cooking_is_found_and_proven() -> None:
    problem = small(repeats=6)
    result = plan_week(problem)
    assert result.plan is not None
    assert check_plan(problem, result.plan) == []
    assert (result.plan.batches, result.plan.hands_on_min) == (2, 30)  # stew twice a day, oats
    assert result.plan.is_proven_best
    assert all(m.grams % 5 == 0 for m in result.plan.meals)


@pytest.mark.parametrize(("eaters", "recipes", "sessions", "seed"), [(1, 20, 1, 1), (2, 20, 2, 1), (2, 60, 2, 2)])
def test_random_weeks_keep_every_rule_and_repeat(eaters: int, recipes: int, sessions: int, seed: int) -> None:
    problem = random_week(eaters, recipes, sessions, seed)
    firsts: list[WeekPlan] = []

    def keep(week: WeekPlan) -> bool:
        firsts.append(week)
        return True

    result = plan_week(problem, keep)
    assert result.plan is not None
    assert check_plan(problem, result.plan) == []
    assert check_plan(problem, firsts[0]) == []
    assert (result.plan.bound_batches, result.plan.bound_min) <= (result.plan.batches, result.plan.hands_on_min)
    assert plan_week(problem).plan == result.plan


def test_other_aims_start_from_the_least_cooking_and_keep_the_rules() -> None:
    problem = random_week(1, 20, 1, 1)
    base = plan_week(problem).plan
    assert base is not None
    for aim in (MOST_VARIETY, LOWEST_COST):
        asked = replace(problem, rules=replace(problem.rules, aim=aim, limit_seconds=6))
        result = plan_week(asked, base=base)
        assert result.plan is not None
        assert check_plan(asked, result.plan) == []
        assert result.plan.batches <= base.batches * 2
    varied = plan_week(replace(problem, rules=replace(problem.rules, aim=MOST_VARIETY)), base=base).plan
    assert varied is not None
    assert varied.dishes > base.dishes


def test_what_stands_already_stays() -> None:
    problem = small(repeats=6)
    first = replace(problem.slots[1], dishes=(), fixed=("box", 430.0))
    problem = replace(problem, slots=(problem.slots[0], first, *problem.slots[2:]))
    plan = plan_week(problem).plan
    assert plan is not None
    assert check_plan(problem, plan) == []
    assert next(m for m in plan.meals if m.is_fixed).grams == 430


@pytest.mark.parametrize(
    ("problem", "rule"),
    [
        (small(days=6, repeats=12), "sessions"),  # oats keep three days and do not freeze
        (small(repeats=2), "repeats"),
        (replace(small(repeats=6), days=tuple(replace(d, protein_floor_g=400) for d in small().days)), "protein"),
        (
            replace(
                small(repeats=6),
                days=tuple(replace(d, energy_low_kcal=5000, energy_high_kcal=5300) for d in small().days),
            ),
            "energy",
        ),
        (replace(small(), slots=(PlanSlot("maren", 0, "supper", ()), *small().slots)), "dishes"),
        (replace(small(), sessions=(PlanSession("late", 2, frozenset()),)), "sessions"),
    ],
)
def test_when_nothing_fits_the_rule_in_the_way_is_named(problem: WeekPlanProblem, rule: str) -> None:
    result = plan_week(problem)
    assert result.plan is None
    assert rule in {c.rule for c in result.conflicts}
    assert all(c.words for c in result.conflicts)
    assert all(c.is_tried for c in result.conflicts if c.field)


def test_the_usual_days_are_offered_where_they_free_a_week_and_only_there() -> None:
    """Oats kept three days for seven breakfasts, no day free for one more session: five days by the usual guidance do
    for the first, four do not."""
    cautious = small(days=5, repeats=12)
    evenings = tuple(PlanSession(f"day {day}", day, frozenset()) for day in range(4))
    for usual, offered in ((5, True), (4, False), (None, False)):
        dishes = tuple(replace(d, keeps_usually=usual) if d.key == "oats" else d for d in cautious.dishes)
        problem = replace(cautious, dishes=dishes, sessions=(*cautious.sessions, *evenings))
        conflicts = plan_week(problem).conflicts
        assert {c.rule for c in conflicts} == {"keeping"}
        assert [(c.field, c.is_tried) for c in conflicts if c.field] == [("keep_usual", True)] * offered
        assert all(bool(c.change) == offered for c in conflicts)
        if offered:
            freed = plan_week(eased(problem, conflicts[0])).plan
            assert freed is not None
            assert check_plan(eased(problem, conflicts[0]), freed) == []


def test_a_session_that_is_missing_is_offered_once_a_week_was_found_with_it() -> None:
    problem = small(repeats=6)
    late = PlanSession("late", 0, frozenset(k for k in problem.sessions[0].serves if k[1] > 0))
    (session,) = plan_week(replace(problem, sessions=(late,))).conflicts
    assert (session.field, session.value, session.is_tried) == ("session_day", -1, True)
    hungry = tuple(replace(d, protein_floor_g=400) for d in problem.days)
    (session,) = plan_week(replace(problem, sessions=(late,), days=hungry)).conflicts
    assert (session.rule, session.field, session.is_tried) == ("sessions", "", False)


def test_what_cannot_be_planned_is_refused() -> None:
    with pytest.raises(InvalidInputs) as caught:
        plan_week(WeekPlanProblem((), (PlanDay("a", 0, "", -5, 10_000_000, 9999),), (), (), PlanRules(aim="joy")))
    assert {f.field for f in caught.value.faults} == {"slots", "dishes", "aim", "days.0", "days.0.energy_low_kcal"}
    far = replace(small(), slots=(PlanSlot("maren", 60, "lunch", ("stew",)),))
    with pytest.raises(InvalidInputs, match="at most 14 days"):
        plan_week(far)


def test_the_checker_sees_broken_rules() -> None:
    problem = small(repeats=6)
    plan = plan_week(problem).plan
    assert plan is not None
    heavy = replace(plan.meals[0], grams=5000.0)
    assert any("has no portion" in said for said in check_plan(problem, replace(plan, meals=(heavy, *plan.meals[1:]))))
    assert any("is empty" in said for said in check_plan(problem, replace(plan, meals=plan.meals[1:])))


def lunches(dishes: tuple[PlanDish, ...], floor_g: float, **rules: Any) -> WeekPlanProblem:
    """One lunch on each of seven days."""
    keys = tuple(d.key for d in dishes)
    slots = tuple(PlanSlot("maren", day, "lunch", keys) for day in range(7))
    bands = tuple(PlanDay("maren", day, "work", 570, 630, floor_g) for day in range(7))
    all_of_them = frozenset(("maren", day, "lunch") for day in range(7))
    return WeekPlanProblem(slots, bands, dishes, (PlanSession("sunday", -1, all_of_them),), PlanRules(**rules))


def quicker_and_quicker(count: int, protein_per_g: float) -> tuple[PlanDish, ...]:
    return tuple(
        PlanDish(
            f"d{n}",
            f"Dish {n}",
            1.2,
            protein_per_g,
            200,
            900,
            batches=1,
            hands_on_min=10 + n,
            keeps_days=8,
            freezes=True,
        )
        for n in range(count)
    )


def test_dishes_that_others_beat_are_used_when_each_may_come_once_only() -> None:
    problem = lunches(quicker_and_quicker(9, 0.1), 30, repeats=1, different=7)
    plan = plan_week(problem).plan
    assert plan is not None
    assert {m.dish_key for m in plan.meals} == {f"d{n}" for n in range(7)}
    assert plan.is_proven_best


def test_a_dish_beaten_by_many_is_used_when_only_it_has_the_protein() -> None:
    rich = PlanDish("rich", "Rich", 1.2, 0.2, 200, 900, batches=1, hands_on_min=40, keeps_days=8, freezes=True)
    problem = lunches((*quicker_and_quicker(8, 0.02), rich), 60, repeats=7)
    plan = plan_week(problem).plan
    assert plan is not None
    assert {m.dish_key for m in plan.meals} == {"rich"}
    assert (plan.batches, plan.hands_on_min) == (1, 40)


def test_a_dish_too_often_is_seen() -> None:
    problem = lunches(quicker_and_quicker(9, 0.1), 30, repeats=7)
    plan = plan_week(problem).plan
    assert plan is not None
    strict = replace(problem, rules=replace(problem.rules, repeats=2))
    assert any("7 times" in said for said in check_plan(strict, plan))


def test_what_stands_already_is_kept_counted_and_its_dish_costs_no_further_batch() -> None:
    dishes = (
        *quicker_and_quicker(4, 0.1),
        PlanDish(
            "old@1",
            "Dish 3 as placed",
            1.2,
            0.1,
            500,
            500,
            batches=0,
            hands_on_min=0,
            keeps_days=8,
            freezes=True,
            family="d3",
        ),
    )
    problem = lunches(dishes, 30, repeats=7)
    pinned = replace(problem.slots[0], fixed=("old@1", 500.0), fixed_session="sunday")
    others = tuple(replace(s, dishes=("d0", "d1", "d2", "d3")) for s in problem.slots[1:])
    problem = replace(problem, slots=(pinned, *others))
    plan = plan_week(problem).plan
    assert plan is not None
    assert {m.dish_key for m in plan.meals} == {"old@1", "d3"}  # d0 is quicker, but d3 is cooked anyway
    assert (plan.batches, plan.hands_on_min) == (1, 13)
    assert [(m.dish_key, m.grams) for m in plan.meals if m.is_fixed] == [("old@1", 500.0)]


def test_a_full_fridge_sends_boxes_to_the_freezer_and_is_named_when_that_is_full_too() -> None:
    problem = lunches(quicker_and_quicker(2, 0.1), 30, repeats=7, fridge_boxes=4, freezer_boxes=3)
    plan = plan_week(problem).plan
    assert plan is not None
    assert check_plan(problem, plan) == []
    assert sum(m.is_frozen for m in plan.meals) == 3
    full = replace(problem, rules=replace(problem.rules, fridge_boxes=3))
    assert any("places of the fridge" in said for said in check_plan(full, plan))
    result = plan_week(full)
    assert result.plan is None
    assert {c.rule: c.value for c in result.conflicts} == {"sessions": 3, "fridge": 4, "freezer": 4}


def test_a_pinned_meal_that_breaks_the_day_is_named() -> None:
    dishes = (
        *quicker_and_quicker(2, 0.1),
        PlanDish(
            "old@1", "Feast", 1.2, 0.1, 900, 900, batches=0, hands_on_min=0, keeps_days=8, freezes=True, family="d1"
        ),
    )
    problem = lunches(dishes, 30, repeats=7)
    slots = list(problem.slots)
    slots[0] = replace(slots[0], fixed=("old@1", 900.0), dishes=("d0", "d1"))
    supper = replace(slots[0], slot_key="supper", fixed=None)
    session = replace(problem.sessions[0], serves=problem.sessions[0].serves | {("maren", 0, "supper")})
    days = (replace(problem.days[0], kind="two meals"), *problem.days[1:])
    pinned = replace(problem, slots=(*slots, supper), days=days, sessions=(session,))
    result = plan_week(pinned)
    assert result.plan is None
    first = result.conflicts[0]
    assert (first.rule, first.field, first.value) == ("pins", "free_meal", 0)
    freed = replace(pinned, slots=(replace(slots[0], fixed=None), *slots[1:], supper))
    assert plan_week(freed).plan is not None


def test_boxes_come_in_whole_blocks_for_whom_eats_in_them() -> None:
    problem = small(repeats=6)
    days = tuple(replace(d, block_sums=(400, 600, 800, 1000)) for d in problem.days)
    blocks = replace(problem, days=days)
    plan = plan_week(blocks).plan
    assert plan is not None
    assert check_plan(blocks, plan) == []
    assert any(
        "no whole blocks" in said
        for said in check_plan(
            blocks, replace(plan, meals=(replace(plan.meals[0], grams=plan.meals[0].grams + 40), *plan.meals[1:]))
        )
    )


def test_other_bands_decide_which_dish_stands_and_are_named_when_none_can() -> None:
    lean, rich = (
        replace(d, others_per_g={"fibre_g": f}) for d, f in zip(quicker_and_quicker(2, 0.1), (0.01, 0.06), strict=True)
    )
    problem = lunches((lean, rich), 30, repeats=7)
    days = tuple(replace(d, bands=(PlanBand("fibre_g", 25, None, 3.0),)) for d in problem.days)
    wanted = replace(problem, days=days)
    plan = plan_week(wanted).plan
    assert plan is not None
    assert {m.dish_key for m in plan.meals} == {"d1"}  # not the quicker one
    assert check_plan(wanted, plan) == []
    base = plan_week(problem).plan
    assert base is not None
    assert any("of fibre_g" in said for said in check_plan(wanted, base))
    too_much = replace(problem, days=tuple(replace(d, bands=(PlanBand("fibre_g", 90, None),)) for d in problem.days))
    assert [(c.rule, c.field, c.value) for c in plan_week(too_much).conflicts] == [("bands", "leave_bands", 1)]


@pytest.mark.parametrize(
    ("problem", "field"),
    [
        (lunches(quicker_and_quicker(9, 0.1), 30, repeats=1, different=2), "repeats"),
        (lunches(quicker_and_quicker(9, 0.1), 30, repeats=2, different=3), "different"),
        (
            lunches(tuple(replace(d, keeps_days=2) for d in quicker_and_quicker(2, 0.1)), 30, freezer_boxes=1),
            "freezer_boxes",
        ),
        (lunches(quicker_and_quicker(2, 0.1), 30, fridge_boxes=2, freezer_boxes=2), "freezer_boxes"),
        (
            lunches(tuple(replace(d, freezes=False) for d in quicker_and_quicker(2, 0.1)), 30, fridge_boxes=2),
            "fridge_boxes",
        ),
    ],
)
def test_the_change_that_is_offered_frees_a_week_and_one_less_does_not(problem: WeekPlanProblem, field: str) -> None:
    conflicts = {c.field: c.value for c in plan_week(problem).conflicts}
    assert field in conflicts

    def with_value(value: int) -> WeekPlanProblem:
        return replace(problem, rules=replace(problem.rules, **{field: value}))  # type: ignore[arg-type]

    freed = plan_week(with_value(conflicts[field])).plan
    assert freed is not None
    assert check_plan(with_value(conflicts[field]), freed) == []
    assert plan_week(with_value(conflicts[field] - 1)).plan is None


def test_floors_lower_and_bands_wider_by_what_is_said_free_a_week() -> None:
    dishes = quicker_and_quicker(3, 0.05)
    conflict, other = plan_week(lunches(dishes, 40, repeats=7)).conflicts
    assert (conflict.rule, conflict.field) == ("protein", "lower_floors_g")
    assert other.field == "widen_bands_kcal"  # larger portions bring the protein too
    assert plan_week(lunches(dishes, 40 - conflict.value, repeats=7)).plan is not None
    assert plan_week(lunches(dishes, 40 - conflict.value + 1, repeats=7)).plan is None
    big = lunches(tuple(replace(d, low_g=700.0) for d in dishes), 10, repeats=7)  # nothing under 840 kcal
    (conflict,) = plan_week(big).conflicts
    assert (conflict.rule, conflict.field) == ("energy", "widen_bands_kcal")
    wider = tuple(replace(d, energy_high_kcal=d.energy_high_kcal + conflict.value) for d in big.days)
    assert plan_week(replace(big, days=wider)).plan is not None


def made_g(plan: WeekPlan, dish: str, session: str) -> float:
    return sum(m.grams for m in plan.meals if (m.dish_key, m.session_key) == (dish, session))


def test_a_batch_goes_into_its_pot_at_once_where_that_is_asked() -> None:
    """Stew twice a day is least cooking; with a pot for three portions each session, lunches must be cold boxes."""
    problem = small(days=2, repeats=6, fillings=1)
    whole = plan_week(problem).plan
    assert whole is not None
    stewed = made_g(whole, "stew", "sunday")
    assert {m.dish_key for m in whole.meals} == {"stew", "oats"}
    tight = replace(problem, dishes=(replace(STEW, most_g=stewed * 0.6), BOX, OATS))
    plan = plan_week(tight).plan
    assert plan is not None
    assert made_g(plan, "stew", "sunday") <= stewed * 0.6
    assert {m.dish_key for m in plan.meals} == {"stew", "box", "oats"}
    assert any("in 2 fillings" in fault for fault in check_plan(tight, whole))
    wednesday = PlanSession("monday", 0, frozenset(k for k in problem.sessions[0].serves if k[1] == 1))
    twice = replace(tight, sessions=(*problem.sessions, wednesday))
    plan = plan_week(twice).plan
    assert plan is not None
    assert check_plan(twice, plan) == []
    assert all(made_g(plan, "stew", s.key) <= stewed * 0.6 for s in twice.sessions)
    never = replace(problem, dishes=(replace(STEW, most_g=300), BOX, OATS))
    conflicts = plan_week(never).conflicts
    assert [(c.rule, c.field, c.value) for c in conflicts] == [("vessels", "in_turns", 1)]


def test_a_pot_is_filled_again_where_that_takes_less_than_another_dish_and_its_minutes_count() -> None:
    problem = small(days=2, repeats=6)
    whole = plan_week(problem).plan
    assert whole is not None
    stewed = made_g(whole, "stew", "sunday")
    tight = replace(problem, dishes=(replace(STEW, most_g=stewed * 0.6), BOX, OATS))
    again = plan_week(tight).plan
    assert again is not None
    assert check_plan(tight, again) == []
    assert (again.batches, again.hands_on_min, again.fillings_again) == (2, 50, 1)  # 20 min of stew twice, 10 of oats
    assert again.is_proven_best
    assert (again.bound_batches, again.bound_min) == (2, 50)
    lied = replace(again, hands_on_min=30.0, fillings_again=0)
    assert any("fillings after the first" in fault for fault in check_plan(tight, lied))


def test_a_box_of_the_house_holds_its_place_until_it_is_eaten() -> None:
    """Two sessions, a freezer for one box, and one in it already: it is free for the second session once that is eaten.

    Lunches keep one day, so each session must freeze what is eaten later.
    """
    dish = PlanDish("soup", "Soup", 1.2, 0.1, 200, 900, batches=1, hands_on_min=10, keeps_days=1, freezes=True)
    old = PlanDish(
        "old",
        "Soup of last week",
        1.2,
        0.1,
        500,
        500,
        batches=0,
        hands_on_min=0,
        keeps_days=0,
        freezes=True,
        waits_in="freezer",
    )
    days = tuple(PlanDay("maren", day, f"day {day}", 570, 630, 30) for day in range(4))

    def week(eaten_on: int, later: int) -> WeekPlanProblem:
        slots = tuple(
            PlanSlot("maren", d, "lunch", () if d == eaten_on else ("soup",), ("old", 500.0) if d == eaten_on else None)
            for d in range(4)
        )
        everything = frozenset(("maren", d, "lunch") for d in range(4) if d != eaten_on)
        eaten = frozenset([("maren", eaten_on, "lunch")])
        first = PlanSession("first", -1, everything | eaten)
        second = PlanSession("second", later, frozenset(k for k in everything | eaten if k[1] > later))
        return WeekPlanProblem(slots, days, (dish, old), (first, second), PlanRules(freezer_boxes=1))

    free = week(eaten_on=1, later=1)
    plan = plan_week(free).plan
    assert plan is not None
    assert check_plan(free, plan) == []
    assert [m.day for m in plan.meals if m.is_frozen] == [3]
    taken = week(eaten_on=3, later=-1)  # both sessions before: day 1 and 2 must be frozen, and nothing is free
    assert [c.value for c in plan_week(taken).conflicts if c.field == "freezer_boxes"] == [2, 3]  # with a session more
    everywhere = replace(free, rules=replace(free.rules, freezer_taken=1))
    assert plan_week(everywhere).plan is None
    assert any("1 from before" in said for said in check_plan(everywhere, plan))


def test_a_box_that_thaws_for_tomorrow_is_in_the_fridge() -> None:
    soup = PlanDish(
        "soup", "Soup", 1.2, 0.1, 200, 900, batches=1, hands_on_min=10, keeps_days=1, freezes=True
    )  # keeps a day: the later lunches are frozen
    problem = lunches((soup,), 30, repeats=7, fridge_boxes=1)
    plan = plan_week(problem).plan
    assert plan is not None
    taken = places_taken(problem, plan)
    assert [taken[day]["fridge"] for day in range(-1, 7)] == [(1, 0)] * 7 + [(0, 0)]
    assert [taken[day]["freezer"] for day in range(-1, 6)] == [(6 - n, 0) for n in range(7)]
    two_a_day = replace(problem, rules=replace(problem.rules, fridge_taken=1))
    assert any("1 boxes and 1 from before for 1 places of the fridge" in said for said in check_plan(two_a_day, plan))


def test_what_one_more_session_frees_is_told_with_its_day() -> None:
    """Stew alone, kept three days and not frozen, for seven lunches after one session."""
    problem = lunches((replace(STEW, keeps_days=4, freezes=False),), 30, repeats=7)
    first, *others = plan_week(problem).conflicts
    assert (first.rule, first.field, first.value) == ("sessions", "session_day", 3)
    assert others == []  # no other guidance keeps it longer
    freed = with_session(problem, first.value)
    plan = plan_week(freed).plan
    assert plan is not None
    assert check_plan(freed, plan) == []


def test_boxes_to_fill_are_counted_where_that_is_asked() -> None:
    """Three days of three meals wait in nine boxes after the one session; with two sessions, in fewer."""
    problem = small(repeats=6, box_count=8)
    session, boxes = plan_week(problem).conflicts
    assert session.field == "session_day"
    assert (boxes.rule, boxes.field, boxes.value) == ("boxes", "box_count", 9)
    freed = replace(problem, rules=replace(problem.rules, box_count=9))
    assert plan_week(freed).plan is not None
    second = PlanSession("tuesday", 0, frozenset(k for k in problem.sessions[0].serves if k[1] > 0))
    twice = replace(problem, sessions=(*problem.sessions, second))
    plan = plan_week(twice).plan
    assert plan is not None
    assert check_plan(twice, plan) == []
    assert any(
        "places of the boxes" in fault for fault in check_plan(replace(twice, rules=PlanRules(box_count=2)), plan)
    )


def test_opened_foods_decide_among_weeks_of_the_same_work() -> None:
    """Two stews alike in all but what they use up: the one with the opened cream is cooked, and the proof stays."""
    for opened in ("stew", "other"):
        twins = [replace(STEW, opened=int(opened == "stew")), replace(STEW, key="other", opened=int(opened == "other"))]
        problem = small(repeats=6)
        slots = tuple(replace(s, dishes=("other", *s.dishes)) if "stew" in s.dishes else s for s in problem.slots)
        result = plan_week(replace(problem, slots=slots, dishes=(*twins, BOX, OATS)))
        assert result.plan is not None
        assert {m.dish_key for m in result.plan.meals} == {opened, "oats"}
        assert (result.plan.batches, result.plan.bound_batches, result.plan.is_proven_best) == (2, 2, True)
        assert (result.plan.hands_on_min, result.plan.bound_min) == (30, 30)


def test_two_rules_in_the_way_together_come_with_a_change_of_each_that_frees_a_week() -> None:
    """Too few boxes for three days, and a floor out of reach: neither change alone helps, both together do."""
    problem = small(repeats=6, box_count=8)
    high = replace(problem, days=tuple(replace(d, protein_floor_g=190) for d in problem.days))
    conflicts = plan_week(high).conflicts
    conflicts = tuple(c for c in conflicts if c.way == conflicts[-1].way)
    assert [c.field for c in conflicts] == ["box_count", "lower_floors_g"]
    boxes, floors = (c.value for c in conflicts)
    assert boxes == 9
    assert floors > 0

    def with_more(box_count: int, lower_g: float) -> WeekPlanProblem:
        days = tuple(replace(d, protein_floor_g=d.protein_floor_g - lower_g) for d in high.days)
        return replace(high, days=days, rules=replace(high.rules, box_count=box_count))

    assert plan_week(with_more(boxes, floors)).plan is not None
    for box_count, lower_g in ((boxes - 1, floors), (boxes, floors - 1), (8, floors), (boxes, 0)):
        assert plan_week(with_more(box_count, lower_g)).plan is None


def test_a_polished_week_leaves_little_over_and_prefers_favourites() -> None:
    """Stew comes by the tin of 1,200 g; sizes move so that whole tins are eaten up, where the bands allow it."""
    problem = small(repeats=6)
    loose = plan_week(problem).plan
    by_tin = replace(problem, dishes=(replace(STEW, unit_g=1200.0), BOX, OATS))
    tinned = plan_week(by_tin).plan
    assert loose is not None
    assert tinned is not None
    assert check_plan(by_tin, tinned) == []
    assert (tinned.batches, tinned.hands_on_min) == (loose.batches, loose.hands_on_min)
    stewed = made_g(loose, "stew", "sunday")
    assert left_over_g(loose.meals, {d.key: d for d in by_tin.dishes}) == pytest.approx(-stewed % 1200, abs=1)
    assert tinned.left_over_g < -stewed % 1200
    assert tinned.polish_gap_pct is not None

    either = tuple(replace(s, dishes=("box", "stew")) if "stew" in s.dishes else s for s in problem.slots)
    for favourite, times in (("stew", 4), ("box", 3)):  # a day of two boxes lacks protein
        dishes = tuple(replace(d, is_favourite=d.key == favourite, keeps_days=4) for d in (STEW, BOX))
        asked = replace(problem, slots=either, dishes=(*dishes, OATS), rules=replace(problem.rules, repeats=4))
        liked = plan_week(asked).plan
        assert liked is not None
        eaten = [m.dish_key for m in liked.meals if m.slot_key != "breakfast"]
        assert eaten.count(favourite) == times


def test_a_way_out_that_is_offered_was_planned_and_one_that_leads_nowhere_is_not() -> None:
    """Whatever is told to be a way out is held against the planner itself; here for each rule that has an amount."""
    hungry = tuple(replace(d, protein_floor_g=190) for d in small().days)
    wide = tuple(replace(d, energy_low_kcal=3900, energy_high_kcal=4000) for d in small().days)
    for problem in (
        small(repeats=2),
        small(repeats=6, box_count=8),
        replace(small(repeats=6), days=hungry),
        replace(small(repeats=6), days=wide),
    ):
        ways: dict[int, list[Conflict]] = {}
        for conflict in plan_week(problem).conflicts:
            ways.setdefault(conflict.way, []).append(conflict)
        tried = [way for way in ways.values() if all(c.is_tried for c in way)]
        assert all(c.is_tried or not c.field for way in ways.values() for c in way)
        for way in tried:
            freed = problem
            for conflict in way:
                freed = eased(freed, conflict)
            plan = plan_week(freed).plan
            assert plan is not None
            assert check_plan(freed, plan) == []
    leads_nowhere = conflicts_of(small(repeats=6, box_count=8), lambda *_, **__: "none")
    assert leads_nowhere == (Conflict("boxes", "There are not enough boxes at the end of a session.", "", way=1),)


def test_a_day_placed_wholly_by_hand_is_left_out_of_the_judgement() -> None:
    """Three placed meals of 300 kcal in all: the cook made it so, and the other days are planned all the same."""
    problem = small(repeats=6)
    placed = [replace(s, dishes=(), fixed=("stew", 90.0)) if s.day == 1 else s for s in problem.slots]
    problem = replace(problem, slots=tuple(placed))
    plan = plan_week(problem).plan
    assert plan is not None
    assert check_plan(problem, plan) == []
    assert [t.is_placed for t in day_totals(problem, plan)] == [False, True, False]
    assert not day_totals(problem, plan)[1].keeps_band
    open_day = replace(problem, slots=tuple(replace(s, fixed=None) if s.slot_key == "lunch" else s for s in placed))
    assert any("day 1" in fault for fault in check_plan(open_day, plan))


def test_the_same_week_comes_on_a_busy_machine_and_the_clock_is_told_of() -> None:
    problem = random_week(1, 20, 1, 4)
    quiet = plan_week(problem)
    with ProcessPoolExecutor(2) as busy:
        work = [busy.submit(sum, range(30_000_000)) for _ in range(4)]
        assert plan_week(problem) == quiet
        for done in work:
            done.cancel()
    model = ExactModel(small(repeats=6))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("goodcrate.core.week.plan.week_model.clock_limit_s", lambda _: 0.0)
        with pytest.raises(StoppedEarly, match="stopped early by the clock"):
            model.solve(5)
