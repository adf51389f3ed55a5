"""Conditions without sizes: they let every choice of dishes through that has portions, and are exact for one day."""

from dataclasses import replace
from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.week.plan.week_check import check_plan
from goodcrate.core.week.plan.week_cuts import conditions
from goodcrate.core.week.plan.week_exact import bound_beside
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.plan.week_sizes import ENERGY, PROTEIN, Portions, Row, portions_of, rows_of
from goodcrate.core.week.week_problem import (
    PlanBand,
    PlanDay,
    PlanDish,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlanProblem,
)

DAY = PlanDay("maren", 0, "work", 1900, 2000, 100)
DENSITIES = st.floats(0.02, 0.2)


def dish(key: str, protein_per_kcal: float, low: int, high: int) -> PlanDish:
    return PlanDish(key, key, 1.0, protein_per_kcal, low, high, batches=1, hands_on_min=10, keeps_days=4, freezes=True)


def spans_of(standing: list[PlanDish], day: PlanDay = DAY) -> list[Portions]:
    found = [portions_of(d, day, 5) for d in standing]
    assert all(found)
    return [p for p in found if p is not None]


def most_protein_g(standing: list[PlanDish], slack: float) -> float | None:
    """The most protein portions of these can have within the day's energy, so much given or taken; None when no
    portions have it. The densest first: with bounds and one sum, that is the optimum."""
    spans = [(p.least * p.unit_g, p.most * p.unit_g) for p in spans_of(standing)]
    least, most = sum(low for low, _ in spans), sum(high for _, high in spans)
    if least > 2000.5 + slack or most < 1899.5 - slack:
        return None
    room, protein = 2000.5 + slack - least, 0.0
    for d, (low, high) in sorted(zip(standing, spans, strict=True), key=lambda pair: -pair[0].protein_per_g):
        extra = min(high - low, max(room, 0.0))
        room -= extra
        protein += d.protein_per_g * (low + extra)
    return protein


def rows(day: PlanDay, dishes: list[PlanDish]) -> dict[str, Row]:
    slots = tuple(PlanSlot("maren", 0, name, tuple(d.key for d in dishes)) for name in ("a", "b", "c"))
    return {row.key: row for row in rows_of(WeekPlanProblem(slots, (day,), tuple(dishes), ()))}


@given(st.lists(st.tuples(DENSITIES, st.integers(10, 100), st.integers(2, 180)), min_size=2, max_size=6))
def test_a_choice_passes_exactly_when_it_has_portions(made: list[tuple[float, int, int]]) -> None:
    dishes = [dish(f"d{n}", protein, 5 * low, 5 * (low + more)) for n, (protein, low, more) in enumerate(made)]
    by_key = rows(DAY, dishes)
    portions = {d.key: (d, spans_of([d])[0]) for d in dishes}
    asked = list(conditions(portions, by_key[ENERGY], by_key[PROTEIN]))
    for standing in product(dishes, repeat=3):
        passes = all(sum(one.worth[d.key] for d in standing) >= one.least for one in asked)
        protein = most_protein_g(list(standing), 0.0)
        if protein is not None and protein >= 99.5:
            assert passes
        near = most_protein_g(list(standing), 0.1)
        if near is None or near < 99.4:
            assert not passes


def test_another_band_is_asked_by_itself() -> None:
    rich = replace(dish("rich", 0.1, 500, 700), others_per_g={"fat_g": 0.1})
    day = PlanDay("maren", 0, "work", 1500, 2100, 0, bands=(PlanBand("fat_g", None, 149.0),))
    by_key = rows(day, [rich])
    portions = {"rich": (rich, spans_of([rich])[0])}
    least = [
        one for one in conditions(portions, by_key[ENERGY], None, [by_key["fat_g"]]) if one.worth["rich"] == -50_000
    ]
    assert [3 * one.worth["rich"] >= one.least for one in least] == [False], "three times 50 g are over 149.5"


def test_whole_blocks_leave_a_dish_without_a_portion_out() -> None:
    blocks = PlanDay("oskar", 0, "work", 1900, 2000, 100, block_sums=(200, 520))
    assert portions_of(dish("a", 0.05, 250, 500), blocks, 5) is None
    assert portions_of(dish("b", 0.05, 150, 600), blocks, 5) == Portions(5.0, (40, 104))
    assert portions_of(dish("c", 0.05, 312, 312), DAY, 5) == Portions(312, (1,)), "no step lies in it: it is what it is"


def test_steps_and_portions_that_may_differ_are_what_the_rules_say() -> None:
    """One dish of 1 kcal/g on two days of one kind: 500 and 600 kcal; then 502 kcal, which no 5 g reach."""
    slots = tuple(PlanSlot("maren", day, "meal", ("a",)) for day in (0, 1))
    served = frozenset((s.eater_key, s.day, s.slot_key) for s in slots)
    one = replace(dish("a", 0.1, 300, 900), freezes=False)
    for kcal, rules, is_there in (
        ((500, 600), PlanRules(), False),
        ((500, 600), PlanRules(alike=False), True),
        ((502, 502), PlanRules(), False),
        ((502, 502), PlanRules(step_g=1), True),
    ):
        days = tuple(PlanDay("maren", n, "work", at, at, 0) for n, at in enumerate(kcal))
        problem = WeekPlanProblem(slots, days, (one,), (PlanSession("sunday", -1, served),), rules)
        plan = plan_week(problem, explain=False).plan
        assert (plan is not None) == is_there, (kcal, rules)
        if plan is not None:
            assert [m.grams for m in plan.meals] == list(kcal)
            for other in (replace(rules, alike=True), replace(rules, step_g=5)):
                would_be_wrong = check_plan(replace(problem, rules=other), plan)
                assert bool(would_be_wrong) == (other != rules), "another rule's week is refused"


def test_a_bound_is_told_in_the_weeks_own_batches() -> None:
    """A batch counts as a thousand minutes: 8 batches and 1,100 min weigh as much as 9 batches and 100 min."""
    assert bound_beside((9, 100.0), 8, 1200.0) == (8, 1100.0)
    assert bound_beside((9, 100.0), 8, 1100.0) == (8, 1100.0)
    assert bound_beside((7, 900.0), 8, 1200.0) == (7, 900.0)
    assert bound_beside((8, 40.0), 8, 45.0) == (8, 40.0)
