"""Meals moved and copied between slots: they change places, nothing is lost, and nobody gets what must not be."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.recipes.component import StorageChoice
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.recipes import recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import moving, placing, weeks
from goodcrate.services.week.moving import Place
from tests.services.kitchen import MONDAY, Kitchen, eater_input, furnish, turkey_pot


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, 1.5, days=1)


def standing(kitchen: Kitchen) -> dict[date, tuple[UUID, float]]:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return {p.day: (p.id, p.servings) for p in picture.meals}


def at(kitchen: Kitchen, day: int) -> Place:
    return Place(kitchen.eater_id, kitchen.slot_id, MONDAY + timedelta(days=day))


def put(kitchen: Kitchen, day: int, servings: float) -> UUID:
    days = (MONDAY + timedelta(days=day),)
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, servings, days)
    return placing.place(kitchen.caller, MONDAY, typed)[0]


def test_a_meal_moves_to_a_gap_and_changes_places_with_another(kitchen: Kitchen) -> None:
    ((first, _),) = standing(kitchen).values()
    assert moving.move(kitchen.caller, MONDAY, first, at(kitchen, 2)) == at(kitchen, 0)
    assert standing(kitchen) == {at(kitchen, 2).day: (first, 1.5)}
    second = put(kitchen, 4, 0.8)
    moving.move(kitchen.caller, MONDAY, first, at(kitchen, 4))
    assert standing(kitchen) == {at(kitchen, 4).day: (first, 1.5), at(kitchen, 2).day: (second, 0.8)}
    moving.move(kitchen.caller, MONDAY, first, at(kitchen, 2))  # and back
    assert standing(kitchen) == {at(kitchen, 2).day: (first, 1.5), at(kitchen, 4).day: (second, 0.8)}


def test_a_copy_leaves_the_first_and_what_gave_way_can_come_back(kitchen: Kitchen) -> None:
    ((first, _),) = standing(kitchen).values()
    copied, nothing = moving.copy(kitchen.caller, MONDAY, first, at(kitchen, 1), uuid4())
    assert nothing is None
    assert standing(kitchen) == {MONDAY: (first, 1.5), at(kitchen, 1).day: (copied, 1.5)}
    second = put(kitchen, 3, 0.8)
    again, gave_way = moving.copy(kitchen.caller, MONDAY, first, at(kitchen, 3), uuid4())
    assert gave_way == second
    placing.take_out_meal(kitchen.caller, again)
    placing.put_back(kitchen.caller, second)
    assert standing(kitchen)[at(kitchen, 3).day] == (second, 0.8)


def test_nobody_gets_what_must_not_be_and_the_meal_stays(kitchen: Kitchen) -> None:
    oskar = eater_input("Oskar", excluded_allergens=("celery",))
    household_eaters.save_eater(kitchen.caller, oskar)
    typed = turkey_pot("Celery bake")
    line = recipe_input.LineInput(uuid4(), "celery_raw", 300)
    bake = replace(typed, id=uuid4(), components=(replace(typed.components[0], id=uuid4(), lines=(line,)),))
    saving.save_recipe(kitchen.caller, bake)
    place_it = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, bake.id, 1, (at(kitchen, 5).day,))
    (celery,) = placing.place(kitchen.caller, MONDAY, place_it)
    his = Place(oskar.id, oskar.slots[0].id, MONDAY)
    with pytest.raises(InvalidInputs, match="celery"):
        moving.move(kitchen.caller, MONDAY, celery, his)
    with pytest.raises(InvalidInputs, match="celery"):
        moving.copy(kitchen.caller, MONDAY, celery, his, uuid4())
    pot = put(kitchen, 6, 1)
    moving.move(kitchen.caller, MONDAY, pot, his)
    with pytest.raises(InvalidInputs, match="celery"):  # the other way round: what would come back to him
        moving.move(kitchen.caller, MONDAY, pot, at(kitchen, 5))
    assert standing(kitchen)[at(kitchen, 5).day][0] == celery


def test_places_that_cannot_be(kitchen: Kitchen) -> None:
    ((first, _),) = standing(kitchen).values()
    with pytest.raises(InvalidInputs, match="not in this week"):
        moving.move(kitchen.caller, MONDAY, first, at(kitchen, 9))
    with pytest.raises(NotFound):
        moving.move(kitchen.caller, MONDAY, first, replace(at(kitchen, 1), slot_id=uuid4()))
    with pytest.raises(NotFound):
        moving.copy(kitchen.caller, MONDAY, uuid4(), at(kitchen, 1), uuid4())


@pytest.mark.parametrize("freezes", [True, False])
def test_a_moved_meal_keeps_the_session_it_was_planned_for_while_its_box_keeps(
    kitchen: Kitchen, *, freezes: bool
) -> None:
    caller = kitchen.caller
    weeks.add_session(caller, MONDAY, datetime(2026, 11, 25, 12, 0))
    typed = turkey_pot("Stew")
    component = replace(
        typed.components[0],
        id=uuid4(),
        storage=StorageChoice("", freezes),
        lines=tuple(replace(line, id=uuid4()) for line in typed.components[0].lines),
    )
    stew = replace(typed, id=uuid4(), components=(component,))
    saving.save_recipe(caller, stew)
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    sunday = picture.sessions[0]
    assert sunday.starts_at.date() < MONDAY
    thursday, friday, sunday_after = at(kitchen, 3), at(kitchen, 4), at(kitchen, 6)
    place_it = placing.PlaceInput(
        uuid4(),
        kitchen.eater_id,
        kitchen.slot_id,
        stew.id,
        1,
        (MONDAY + timedelta(days=1),),
        cooked_in=UUID(sunday.key),
    )
    (placed,) = placing.place(caller, MONDAY, place_it)

    def cooked_in() -> str | None:
        shown = weeks.week_picture(caller, MONDAY)
        assert shown is not None
        return shown.outcome.boxes[str(placed)].placing.session_key

    assert cooked_in() == sunday.key
    moving.move(caller, MONDAY, placed, sunday_after)  # a week old: only from the freezer, else from Wednesday
    assert (cooked_in() == sunday.key) == freezes
    moving.move(caller, MONDAY, placed, friday)
    copied, _ = moving.copy(caller, MONDAY, placed, thursday, uuid4())
    shown = weeks.week_picture(caller, MONDAY)
    assert shown is not None
    assert shown.outcome.boxes[str(copied)].placing.session_key == cooked_in()
