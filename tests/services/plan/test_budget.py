"""A week is looked for within a budget: the list decides, and what is not found is said with the lowest there was."""

from dataclasses import replace
from uuid import uuid4

import pytest

from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.services.calling import Caller
from goodcrate.services.foods import packs_known
from goodcrate.services.plan import planning, run
from goodcrate.services.plan.costs import PlanCost, plan_costs
from goodcrate.services.plan.problem import Wishes, problem_of
from goodcrate.services.recipes import recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import weeks
from tests.services.kitchen import MONDAY, eater_input, planner_job, turkey_pot

LENTILS = "green_or_brown_lentils_dry"
PACKS = (("turkey_thigh_raw", 500, 6.0), ("cabbage_raw", 900, 1.4), ("rapeseed_oil", 915, 3.0), (LENTILS, 1000, 2.5))


@pytest.fixture
def larder(household: Caller) -> Caller:
    """A turkey pot of one batch, lentils of two that cost less, and a week to fill."""
    saving.save_recipe(household, replace(turkey_pot(), servings=3))
    lentils = recipe_input.ComponentInput(uuid4(), "lentils", (recipe_input.LineInput(uuid4(), LENTILS, 600),))
    oil = recipe_input.ComponentInput(uuid4(), "oil", (recipe_input.LineInput(uuid4(), "rapeseed_oil", 40),))
    saving.save_recipe(household, recipe_input.RecipeInput(uuid4(), "Lentil pot", 3, (lentils, oil)))
    maren = eater_input(energy_kcal=1300)
    household_eaters.save_eater(household, replace(maren, day_types=(replace(maren.day_types[0], protein_floor_g=60),)))
    weeks.open_week(household, MONDAY)
    for key, grams, price in PACKS:
        packs_known.add_pack(household, uuid4(), key, Pack(key, grams, price), "", MONDAY)
    return household


def plan(caller: Caller, **wishes: float) -> tuple[planning.Planning, dict[str, PlanCost]]:
    """Plan here and now, as a worker would."""
    with caller.transaction() as session:
        job = planner_job(weeks.existing_week(session, MONDAY).id, status="running")
        job.input = {"wishes": {"freezer_boxes": 20, **wishes}, "opened": []}
        job_id = job.id
        session.add(job)
    run.plan_as_asked(caller, job_id)
    state = planning.newest_planning(caller, MONDAY)
    assert state is not None
    return state, dict(plan_costs(caller, MONDAY))


def test_within_the_budget_the_list_costs_no_more_and_takes_more_work(larder: Caller) -> None:
    state, costs = plan(larder, budget=45.0)

    least, within = state.plans[:2]
    assert (least["aim"], within["aim"]) == ("least_cooking", "within_budget")
    assert costs["least_cooking"].over is not None
    assert costs["least_cooking"].over > 0
    assert costs["within_budget"].price <= 45.0
    assert costs["least_cooking"].more == 0
    assert costs["within_budget"].more == costs["within_budget"].price - costs["least_cooking"].price < 0
    assert within["batches"] > least["batches"]
    assert state.said == ""
    assert all(day["met"] for day in within["days"])


def test_a_budget_no_week_keeps_to_is_said_with_the_lowest_there_was(larder: Caller) -> None:
    state, costs = plan(larder, budget=3.0)
    lowest = min(cost.price for cost in costs.values())
    assert state.said == f"We found no week whose list costs 3.00 ¤ or less: the lowest we found is {lowest:.2f} ¤."
    assert "within_budget" not in costs


def test_a_budget_above_what_the_least_cooking_costs_changes_nothing(larder: Caller) -> None:
    state, costs = plan(larder, budget=500.0)
    assert "within_budget" not in costs
    assert state.said == ""


def test_without_any_price_no_week_is_the_cheapest(household: Caller) -> None:
    saving.save_recipe(household, turkey_pot())
    weeks.open_week(household, MONDAY)
    with household.transaction() as session:
        picture = weeks.load_picture(session, weeks.existing_week(session, MONDAY))
        assert problem_of(session, picture, Wishes(budget=10.0)).till is None
    with pytest.raises(InvalidInput, match="budget"):
        Wishes(budget=-1).checked()
