"""The thin path through the services, with every way it can go wrong on the way."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import date, datetime
from uuid import UUID, uuid4

import pytest

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.portion.filled_boxes import PLANNED, WEIGHED
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.services.calling import Caller, NotFound, StaleWrite
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling
from goodcrate.services.week import placing, weeks
from goodcrate.services.week.weeks import WeekPicture
from tests.services.kitchen import MONDAY, Kitchen, eater_input, furnish, place, turkey_pot


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def picture_of(kitchen: Kitchen) -> WeekPicture:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return picture


def batch_of(kitchen: Kitchen) -> tuple[UUID, WorkedBatch]:
    picture = picture_of(kitchen)
    (worked,) = picture.outcome.batches
    return cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key), worked


def weigh_the_pot(kitchen: Kitchen, net_g: float) -> UUID:
    batch_id, _ = batch_of(kitchen)
    filling.weigh_pot(kitchen.caller, MONDAY, batch_id, uuid4(), net_g + 1012, 1012, shortfall=COOKED_DOWN)
    return batch_id


def test_from_weighed_ingredients_to_boxes(kitchen: Kitchen) -> None:
    batch_id, worked = batch_of(kitchen)
    assert [line.amount.grams for line in worked.outcome.state.lines] == [600, 450, 20]
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    _, worked = batch_of(kitchen)
    oil = worked.outcome.state.lines[2]
    cooking.weigh_ingredient(kitchen.caller, MONDAY, batch_id, UUID(oil.key), uuid4(), 31)
    weigh_the_pot(kitchen, 901)
    _, worked = batch_of(kitchen)
    assert [p.grams for p in worked.outcome.portions] == [301, 300, 300]
    assert worked.outcome.state.lines[2].amount.grams == 31
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, UUID(worked.outcome.portions[0].placing_key), uuid4(), 311)
    filling.fill_as_divided(kitchen.caller, MONDAY, batch_id, uuid4())
    _, worked = batch_of(kitchen)
    assert [(p.grams, p.stage) for p in worked.outcome.portions] == [(311, WEIGHED), (295, WEIGHED), (295, WEIGHED)]
    total = sum(box.tally.amount("energy_kcal").value for box in picture_of(kitchen).outcome.boxes.values())
    assert total == pytest.approx(600 * 1.14 + 450 * 0.25 + 31 * 8.99)


def test_every_event_can_be_sent_twice(kitchen: Kitchen) -> None:
    batch_id, _ = batch_of(kitchen)
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    event, pot = uuid4(), uuid4()
    line = UUID(batch_of(kitchen)[1].outcome.state.lines[0].key)
    for _ in range(2):
        cooking.weigh_ingredient(kitchen.caller, MONDAY, batch_id, line, event, 612)
        filling.weigh_pot(kitchen.caller, MONDAY, batch_id, pot, 2000, 1000, shortfall=COOKED_DOWN)
    record = batch_of(kitchen)[1].record
    assert [(w.subject, w.net_g) for w in record.log] == [(str(line), 612), (record.pots[0], 1000)]


def test_the_same_form_sent_at_the_same_moment_makes_one_record(kitchen: Kitchen) -> None:
    typed = placing.PlaceInput(
        uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1, (date(2026, 11, 28), date(2026, 11, 29))
    )

    def send(_: int) -> object:
        try:
            return placing.place(kitchen.caller, MONDAY, typed)
        except StaleWrite as error:
            return error

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(send, range(4)))
    assert len(picture_of(kitchen).meals) == 3 + 2


def test_a_light_pot_asks_why_and_a_second_reading_replaces_the_first(kitchen: Kitchen) -> None:
    batch_id, _ = batch_of(kitchen)
    with pytest.raises(InvalidInput, match="lighter than expected"):
        filling.weigh_pot(kitchen.caller, MONDAY, batch_id, uuid4(), 1512, 1012)
    weigh_the_pot(kitchen, 500)
    weigh_the_pot(kitchen, 640)
    assert batch_of(kitchen)[1].outcome.state.pot_g == 640
    filling.take_out_pot(kitchen.caller, MONDAY, batch_id, uuid4())
    assert batch_of(kitchen)[1].outcome.state.pot_g is None


def test_boxes_cannot_hold_more_than_the_pot_nor_come_before_it(kitchen: Kitchen) -> None:
    batch_id, worked = batch_of(kitchen)
    first, second = (UUID(p.placing_key) for p in worked.outcome.portions[:2])
    with pytest.raises(InvalidInput, match="not weighed yet"):
        filling.weigh_box(kitchen.caller, MONDAY, batch_id, first, uuid4(), 300)
    with pytest.raises(InvalidInput, match="not weighed yet"):
        filling.fill_as_divided(kitchen.caller, MONDAY, batch_id, uuid4())
    weigh_the_pot(kitchen, 900)
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, first, uuid4(), 500)
    with pytest.raises(InvalidInput, match="Only 400 g"):
        filling.weigh_box(kitchen.caller, MONDAY, batch_id, second, uuid4(), 401)
    with pytest.raises(InvalidInput, match="hold 500 g already"):
        weigh_the_pot(kitchen, 400)
    with pytest.raises(InvalidInput, match="Take them out first"):
        filling.take_out_pot(kitchen.caller, MONDAY, batch_id, uuid4())
    filling.take_out_box(kitchen.caller, MONDAY, batch_id, first, uuid4())
    assert {p.stage for p in batch_of(kitchen)[1].outcome.portions} == {"divided"}


def test_a_packed_meal_stays_in_its_slot_until_its_weighing_is_taken_out(kitchen: Kitchen) -> None:
    batch_id = weigh_the_pot(kitchen, 900)
    meal = picture_of(kitchen).meals[0].id
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 300)
    with pytest.raises(InvalidInputs, match="already packed"):
        placing.take_out_meal(kitchen.caller, meal)
    filling.take_out_box(kitchen.caller, MONDAY, batch_id, meal, uuid4())
    placing.take_out_meal(kitchen.caller, meal)
    assert len(picture_of(kitchen).meals) == 2
    assert [p.grams for p in batch_of(kitchen)[1].outcome.portions] == [450, 450]
    placing.put_back(kitchen.caller, meal)
    assert len(picture_of(kitchen).meals) == 3


def test_a_new_meal_takes_the_slot_and_the_old_one_cannot_come_back_over_it(kitchen: Kitchen) -> None:
    old = picture_of(kitchen).meals[0].id
    place(kitchen, 2.0, 1)
    assert [p.servings for p in picture_of(kitchen).meals] == [2.0, 1.0, 1.0]
    with pytest.raises(InvalidInputs, match="Another meal"):
        placing.put_back(kitchen.caller, old)


def test_changing_a_stale_meal_is_refused(kitchen: Kitchen) -> None:
    meal = picture_of(kitchen).meals[0]
    placing.change_servings(kitchen.caller, meal.id, 1.5, meal.version)
    with pytest.raises(StaleWrite):
        placing.change_servings(kitchen.caller, meal.id, 1.7, meal.version)
    with pytest.raises(InvalidInputs, match="not possible"):
        placing.change_servings(kitchen.caller, meal.id, 99, meal.version + 1)


def test_what_an_eater_must_not_get_cannot_be_placed(household: Caller) -> None:
    from goodcrate.services.recipes import recipe_input, saving
    from goodcrate.services.targets import household_eaters

    weeks.open_week(household, MONDAY)
    typed = turkey_pot("Celery bake")
    celery = recipe_input.LineInput(uuid4(), "celery_raw", 300)
    pork = recipe_input.LineInput(uuid4(), "pork_loin_raw", 500)
    oskar = eater_input("Oskar", excluded_allergens=("celery",), no_pork=True)
    household_eaters.save_eater(household, oskar)
    for line, word in ((celery, "celery"), (pork, "pork")):
        component = replace(typed.components[0], id=uuid4(), lines=(line,))
        recipe = replace(typed, id=uuid4(), components=(component,))
        saving.save_recipe(household, recipe)
        with pytest.raises(InvalidInputs, match=word):
            placing.place(
                household, MONDAY, placing.PlaceInput(uuid4(), oskar.id, oskar.slots[0].id, recipe.id, 1, (MONDAY,))
            )


def test_sessions_and_weeks_that_cannot_be(kitchen: Kitchen) -> None:
    caller = kitchen.caller
    for days in (0, 60):
        with pytest.raises(InvalidInput, match="not possible"):
            weeks.open_week(caller, date(2026, 12, 7), days)
    with pytest.raises(InvalidInput, match="belong to the week"):
        weeks.open_week(caller, date(2026, 11, 25))
    with pytest.raises(InvalidInput, match="outside the week"):
        weeks.add_session(caller, MONDAY, datetime(2027, 1, 1, 14))
    with pytest.raises(NotFound):
        weeks.add_session(caller, date(2026, 12, 7), datetime(2026, 12, 6, 14))
    for _ in range(2):
        weeks.add_session(caller, MONDAY, datetime(2026, 11, 25, 18, 30))
    sessions = picture_of(kitchen).sessions
    assert len(sessions) == 2
    weeks.take_session_out(caller, MONDAY, UUID(sessions[1].key))
    batch_id, _ = batch_of(kitchen)
    cooking.start_batch(caller, MONDAY, batch_id)
    with pytest.raises(InvalidInput, match="has started"):
        weeks.take_session_out(caller, MONDAY, UUID(sessions[0].key))


def test_days_outside_the_week_are_refused(kitchen: Kitchen) -> None:
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1, (date(2026, 12, 24),))
    with pytest.raises(InvalidInputs, match="days of this week"):
        placing.place(kitchen.caller, MONDAY, typed)


def test_absurd_weights_are_refused_and_leave_no_trace(kitchen: Kitchen) -> None:
    batch_id, _ = batch_of(kitchen)
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    line = UUID(batch_of(kitchen)[1].outcome.state.lines[0].key)
    with pytest.raises(InvalidInputs, match="not possible"):
        cooking.weigh_ingredient(kitchen.caller, MONDAY, batch_id, line, uuid4(), 20_000)
    with pytest.raises(NotFound):
        cooking.weigh_ingredient(kitchen.caller, MONDAY, batch_id, uuid4(), uuid4(), 20)
    assert {box.stage for box in picture_of(kitchen).outcome.boxes.values()} == {PLANNED}
    assert batch_of(kitchen)[1].record.log == ()
