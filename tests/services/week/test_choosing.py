"""Several meals at once: pinned, taken out and put back, copied along their row."""

from datetime import timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.services import kitchen
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.kitchen import Capacity
from goodcrate.services.portion import filling
from goodcrate.services.week import choosing, placing, weeks
from tests.services.kitchen import MONDAY, Kitchen, furnish


@pytest.fixture
def three(household: Caller) -> Kitchen:
    return furnish(household, 1.5, days=3)


def meals(made: Kitchen) -> list[UUID]:
    picture = weeks.week_picture(made.caller, MONDAY)
    assert picture is not None
    return [p.id for p in picture.meals]


def test_meals_are_pinned_and_let_go_together(three: Kitchen) -> None:
    ids = meals(three)
    assert choosing.pin(three.caller, MONDAY, ids[:2], on=True) == 2
    assert choosing.pin(three.caller, MONDAY, ids, on=True) == 1
    picture = weeks.week_picture(three.caller, MONDAY)
    assert picture is not None
    assert [p.is_pinned for p in picture.meals] == [True] * 3
    assert choosing.pin(three.caller, MONDAY, ids[1:], on=False) == 2
    for nothing in ([], [uuid4()]):
        with pytest.raises((InvalidInputs, NotFound)):
            choosing.pin(three.caller, MONDAY, nothing, on=True)


def test_several_go_and_come_back_but_not_over_others(three: Kitchen) -> None:
    ids = meals(three)
    assert choosing.take_out(three.caller, MONDAY, ids[:2]) == ids[:2]
    assert meals(three) == ids[2:]
    typed = placing.PlaceInput(uuid4(), three.eater_id, three.slot_id, three.recipe_id, 1, (MONDAY,))
    placing.place(three.caller, MONDAY, typed)
    assert choosing.put_back(three.caller, MONDAY, ids[:2]) == 1
    assert len(meals(three)) == 3


def test_a_packed_box_keeps_all_chosen_ones_where_they_are(three: Kitchen) -> None:
    picture = weeks.week_picture(three.caller, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
    cooking.start_batch(three.caller, MONDAY, batch_id)
    filling.weigh_pot(three.caller, MONDAY, batch_id, uuid4(), 2200, 400, shortfall="cooked_down")
    filling.weigh_box(three.caller, MONDAY, batch_id, meals(three)[1], uuid4(), 400)
    with pytest.raises(InvalidInputs, match="already packed"):
        choosing.take_out(three.caller, MONDAY, meals(three))
    assert len(meals(three)) == 3


def test_a_meal_is_copied_into_the_gaps_of_its_row_or_over_chosen_days(three: Kitchen) -> None:
    first = meals(three)[0]
    done = choosing.copy_along(three.caller, MONDAY, [first], sent=uuid4())
    assert (len(done.placed), done.gave_way) == (4, ())
    assert len(meals(three)) == 7
    second = meals(three)[1]
    again = choosing.copy_along(three.caller, MONDAY, [first], [MONDAY, MONDAY + timedelta(days=1)], sent=uuid4())
    assert again.gave_way == (second,)
    assert len(again.placed) == 1
    with pytest.raises(InvalidInputs, match="days of this week"):
        choosing.copy_along(three.caller, MONDAY, [first], [MONDAY + timedelta(days=20)], sent=uuid4())


def test_boxes_wait_by_the_households_rule_and_capacity_is_checked(three: Kitchen) -> None:
    def places() -> list[str]:
        picture = weeks.week_picture(three.caller, MONDAY)
        assert picture is not None
        return [picture.stays[str(p.id)].place for p in picture.meals]

    assert places() == ["fridge", "fridge", "freezer"]  # nothing says that it is cooked: two days for raw turkey
    kitchen.save_capacity(three.caller, Capacity(14, 6, "cautious"))
    assert places() == ["fridge", "freezer", "freezer"]
    for odd in (Capacity(-1, 6), Capacity(3, 900), Capacity(keep_rule="forever")):
        with pytest.raises(InvalidInputs):
            kitchen.save_capacity(three.caller, odd)
