"""Two app processes on one database: what one writes, the other shows at once, whatever either keeps in memory."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.db.foods import FoodRow
from goodcrate.db.server import EmbeddedServer
from goodcrate.db.session import Database
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, Kitchen, furnish


@pytest.fixture
def other(household: Caller, server: EmbeddedServer) -> Iterator[Caller]:
    """The same household through a second engine, as another process has it."""
    database = Database(server.url)
    yield Caller(database, household.household_id, household.user_id)
    database.close()


def energy(caller: Caller) -> float:
    """All boxes of the week together."""
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    return sum(box.tally.amount("energy_kcal").value for box in picture.outcome.boxes.values())


def batch_id(caller: Caller) -> UUID:
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    return cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def test_a_week_keeps_its_version_until_somebody_takes_the_new_one(kitchen: Kitchen, other: Caller) -> None:
    before = energy(other)
    saved = library.get_recipe(kitchen.caller, kitchen.recipe_id)
    component = saved.recipe.components[0]
    lines = tuple(
        recipe_input.LineInput(UUID(x.key), x.food.key, x.amount.grams * 2, x.amount.measure) for x in component.lines
    )
    typed = recipe_input.RecipeInput(
        kitchen.recipe_id,
        saved.recipe.name,
        saved.recipe.servings,
        (recipe_input.ComponentInput(kitchen.component_id, component.name, lines),),
        version=saved.version,
    )
    saving.save_recipe(kitchen.caller, typed)
    assert energy(other) == energy(kitchen.caller) == before
    weeks.take_new_version(kitchen.caller, MONDAY, kitchen.recipe_id)
    assert energy(other) == energy(kitchen.caller) == pytest.approx(before * 2)


def test_a_changed_food_changes_the_others_week(kitchen: Kitchen, other: Caller) -> None:
    before = energy(other)
    with kitchen.caller.transaction() as session:
        row = session.find(FoodRow, FoodRow.id_for_reference(session.household_id, "rapeseed_oil"))
        assert row is not None
        row.energy_kcal = 0.0
    assert energy(other) == pytest.approx(before - 20 * 8.99)


def test_a_weighing_and_taking_it_out_show_at_the_others(kitchen: Kitchen, other: Caller) -> None:
    before = energy(other)
    pot = batch_id(other)
    cooking.start_batch(kitchen.caller, MONDAY, pot)
    picture = weeks.week_picture(other, MONDAY)
    assert picture is not None
    oil = UUID(picture.outcome.batches[0].outcome.state.lines[2].key)
    cooking.weigh_ingredient(kitchen.caller, MONDAY, pot, oil, uuid4(), 30)
    assert energy(other) == pytest.approx(before + 10 * 8.99)
    cooking.weigh_ingredient(other, MONDAY, pot, oil, uuid4(), None)
    assert energy(kitchen.caller) == pytest.approx(before)
    filling.weigh_pot(other, MONDAY, pot, uuid4(), 900, 0, shortfall=COOKED_DOWN)
    for caller in (kitchen.caller, other):
        picture = weeks.week_picture(caller, MONDAY)
        assert picture is not None
        assert [p.grams for p in picture.outcome.batches[0].outcome.portions] == [300, 300, 300]


def test_a_start_that_was_rolled_back_leaves_nothing_behind(kitchen: Kitchen, other: Caller) -> None:
    """A light pot begins the batch, asks why, and takes everything back; the week may change before the next try."""
    pot = batch_id(other)
    with pytest.raises(InvalidInput, match="lighter"):
        filling.weigh_pot(other, MONDAY, pot, uuid4(), 500, 0)
    picture = weeks.week_picture(other, MONDAY)
    assert picture is not None
    meal = picture.meals[2].id
    placing.take_out_meal(other, meal)
    cooking.start_batch(other, MONDAY, pot)  # fixed for two boxes
    placing.put_back(other, meal)
    picture = weeks.week_picture(other, MONDAY)
    assert picture is not None
    assert picture.outcome.batches[0].outcome.state.lines[0].amount.grams == 400


def test_two_cooks_taking_from_one_pot_cannot_take_more_than_it_holds(kitchen: Kitchen, other: Caller) -> None:
    pot = batch_id(other)
    filling.weigh_pot(kitchen.caller, MONDAY, pot, uuid4(), 900, 0, shortfall=COOKED_DOWN)
    picture = weeks.week_picture(other, MONDAY)
    assert picture is not None
    first, second, _ = (p.id for p in picture.meals)
    filling.weigh_box(kitchen.caller, MONDAY, pot, first, uuid4(), 600)
    with pytest.raises(InvalidInput, match="Only 300 g"):
        filling.weigh_box(other, MONDAY, pot, second, uuid4(), 400)


def test_taking_the_last_grams_at_the_same_moment(kitchen: Kitchen, other: Caller) -> None:
    pot = batch_id(other)
    filling.weigh_pot(kitchen.caller, MONDAY, pot, uuid4(), 900, 0, shortfall=COOKED_DOWN)
    picture = weeks.week_picture(other, MONDAY)
    assert picture is not None
    ids = [p.id for p in picture.meals]

    def take(n: int) -> str:
        try:
            filling.weigh_box((kitchen.caller, other)[n % 2], MONDAY, pot, ids[n], uuid4(), 600)
        except InvalidInput as error:
            return error.message
        return "taken"

    with ThreadPoolExecutor(3) as pool:
        said = sorted(pool.map(take, range(3)))
    assert said[1:] == [said[1], "taken"]
    assert all("Only 300 g" in words for words in said[:2])


def test_an_unchanged_save_keeps_the_version(kitchen: Kitchen) -> None:
    saved = library.get_recipe(kitchen.caller, kitchen.recipe_id)
    component = saved.recipe.components[0]
    lines = tuple(
        recipe_input.LineInput(UUID(x.key), x.food.key, x.amount.grams, x.amount.measure) for x in component.lines
    )
    typed = recipe_input.RecipeInput(
        kitchen.recipe_id,
        saved.recipe.name,
        saved.recipe.servings,
        (recipe_input.ComponentInput(kitchen.component_id, component.name, lines),),
        version=saved.version,
    )
    assert saving.save_recipe(kitchen.caller, typed) == saved.version
    assert saving.save_recipe(kitchen.caller, replace(typed, name="Renamed")) == saved.version + 1
