"""What the planner may put where: no part of other meals by itself, plain foods where wished, and tags that lack."""

from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import pytest
from sqlalchemy import select

from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.week.dish import PART_KCAL, is_part
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import WeekPlanProblem
from goodcrate.db.recipes import RecipeRow
from goodcrate.services.calling import Caller
from goodcrate.services.plan.problem import Wishes, problem_of
from goodcrate.services.recipes import library
from goodcrate.services.week import plain_meal, weeks
from goodcrate.web.week.plan_ways import _elsewhere
from tests.conftest import MONDAY

NEXT = MONDAY + timedelta(days=7)


@pytest.fixture
def boat(own_demo: Caller) -> Caller:
    weeks.open_week(own_demo, NEXT)
    return own_demo


def asked(caller: Caller, wishes: Wishes) -> WeekPlanProblem:
    picture = weeks.week_picture(caller, NEXT)
    assert picture is not None
    with caller.transaction() as session:
        return problem_of(session, picture, wishes)


def test_a_missing_tag_is_named_with_the_recipes_it_would_help(boat: Caller) -> None:
    with boat.transaction() as session:
        for row in session.scalars(select(RecipeRow)):
            row.tags = [tag for tag in row.tags if tag != "snack"]
    problem = asked(boat, Wishes())
    snacks = [slot for slot in problem.slots if slot.label == "Maren’s snack"]
    assert all(slot.dishes == () and "snack" in slot.lacks and slot.would_do for slot in snacks)
    said = next(c for c in plan_week(problem).conflicts if "Maren’s snack" in c.words)
    assert "would do with the tag" in said.change
    words, to = _elsewhere({"rule": said.rule, "lacks": said.lacks})
    assert words == "To the recipes it would help"
    assert to == f"/recipes?lacks={'.'.join(snacks[0].lacks)}"


def test_a_plain_food_is_a_snack_only_where_that_is_wished(boat: Caller) -> None:
    maren = next(e for e in weeks.week_picture(boat, MONDAY).eaters if e.name.startswith("Maren"))  # type: ignore[union-attr]
    snack = next(s for s in maren.slots if s.name == "snack")
    plain_meal.place_plain(boat, NEXT, uuid4(), maren.id, snack.id, NEXT, typed="160 g pear")
    for wishes, is_there in ((Wishes(), False), (Wishes(plain=1), True)):
        problem = asked(boat, wishes)
        pears = {d.key: d for d in problem.dishes if d.name == "Pear" and not d.family}
        may = {slot.label for slot in problem.slots for key in slot.dishes if key in pears}
        assert may == ({"Maren’s snack"} if is_there else set())
        assert not is_there or all(d.hands_on_min == 0 for d in pears.values())
    assert plain_meal.count_plain(boat) == 1


def test_a_small_recipe_that_others_serve_is_no_meal(demo: Caller) -> None:
    recipe = next(p.recipe for p in library.list_recipes(demo) if p.recipe.name.startswith("Venison"))
    kcal = serving_of(recipe).tally.amount("energy_kcal").value
    used, none = frozenset({recipe.key}), frozenset[str]()
    assert kcal > PART_KCAL
    small = replace(recipe, servings=recipe.servings * kcal / (PART_KCAL - 1))
    assert is_part(small, none, used)
    assert not is_part(recipe, none, used), "a large one is a meal too"
    assert not is_part(small, none, none), "nobody else serves it"
    assert not is_part(small, frozenset({"snack"}), used), "its cook says that it is one"
