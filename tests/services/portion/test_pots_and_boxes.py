"""Several pots of one batch, boxes with their logs, and what is over packed for nobody yet."""

from datetime import date, timedelta
from uuid import UUID, uuid4

import pytest
from sqlalchemy import delete, select, update
from sqlalchemy.exc import DatabaseError

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.store.box import EATEN, PACKED, TAKEN_OUT, THERE, THROWN_AWAY, UNDONE, Box
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.services.calling import Caller, NotFound, SentOtherwise
from goodcrate.services.cook import cooking
from goodcrate.services.portion import filling, spares
from goodcrate.services.store import boxes, house
from goodcrate.services.store.house import TakenOut
from goodcrate.services.week import eat_first, placing, weeks
from tests.services.kitchen import MONDAY, Kitchen, furnish


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def batch_of(kitchen: Kitchen) -> tuple[UUID, WorkedBatch]:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    worked = picture.outcome.batches[0]
    return cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key), worked


def weigh(kitchen: Kitchen, net_g: float, event: UUID | None = None) -> UUID:
    batch_id, _ = batch_of(kitchen)
    filling.weigh_pot(kitchen.caller, MONDAY, batch_id, event or uuid4(), net_g + 1000, 1000, shortfall=COOKED_DOWN)
    return batch_id


def box_of(kitchen: Kitchen, box_id: UUID) -> Box:
    with kitchen.caller.transaction() as session:
        return boxes.box_in(session, box_id)


def test_a_batch_in_two_pots_is_divided_when_both_are_weighed(kitchen: Kitchen) -> None:
    batch_id, _ = batch_of(kitchen)
    second = uuid4()
    for _ in range(2):  # sent twice
        filling.add_pot(kitchen.caller, MONDAY, batch_id, second)
    first_event = uuid4()
    weigh(kitchen, 500, first_event)
    weigh(kitchen, 500, first_event)  # the same reading, not the second pot's
    assert batch_of(kitchen)[1].outcome.state.pots_g == (500, None)
    assert batch_of(kitchen)[1].outcome.remainder_g == 0
    weigh(kitchen, 400)
    state = batch_of(kitchen)[1].outcome.state
    assert (state.pots_g, state.pot_g) == ((500, 400), 900)
    for _ in range(6):
        filling.add_pot(kitchen.caller, MONDAY, batch_id, uuid4())
    with pytest.raises(InvalidInput, match="than 8 pots"):
        filling.add_pot(kitchen.caller, MONDAY, batch_id, uuid4())
    for _ in range(6):
        filling.leave_pot_out(kitchen.caller, MONDAY, batch_id, uuid4())
    assert batch_of(kitchen)[1].outcome.state.pot_g == 900
    filling.leave_pot_out(kitchen.caller, MONDAY, batch_id, uuid4())
    assert batch_of(kitchen)[1].outcome.state.pots_g == (500,)
    filling.leave_pot_out(kitchen.caller, MONDAY, batch_id, uuid4())  # one pot there always is
    assert batch_of(kitchen)[1].outcome.state.pots_g == (500,)
    with pytest.raises(NotFound):
        filling.weigh_pot(kitchen.caller, MONDAY, batch_id, uuid4(), 1500, 1000, shortfall=COOKED_DOWN, pot_id=second)


def test_packing_makes_the_box_and_taking_it_out_undoes_that(kitchen: Kitchen) -> None:
    batch_id = weigh(kitchen, 900)
    meal = UUID(batch_of(kitchen)[1].outcome.portions[0].placing_key)
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 310)
    box = box_of(kitchen, boxes.own_box_id(meal))
    assert (box.state, box.place, box.for_meal, box.cooked_on) == (THERE, "fridge", str(meal), date(2026, 11, 22))
    (content,) = box.contents
    assert (content.component_key, content.batch_key) == (str(kitchen.component_id), str(batch_id))
    target_g = batch_of(kitchen)[1].outcome.portions[0].target_g
    assert content.actual_g == 310
    assert content.planned_g == pytest.approx(target_g, abs=0.1)
    filling.take_out_box(kitchen.caller, MONDAY, batch_id, meal, uuid4())
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 305)
    box = box_of(kitchen, boxes.own_box_id(meal))
    assert [e.kind for e in box.log] == [PACKED, UNDONE, PACKED]
    assert (box.state, box.grams) == (THERE, 305)


def test_what_is_over_waits_in_the_house_and_is_eaten_by_another_meal(kitchen: Kitchen) -> None:
    batch_id = weigh(kitchen, 1200)
    spare, event = uuid4(), uuid4()
    for _ in range(2):
        spares.pack_spare(kitchen.caller, MONDAY, batch_id, spare, event, 300)
    with pytest.raises(InvalidInput, match="900 g are left"):
        spares.pack_spare(kitchen.caller, MONDAY, batch_id, uuid4(), uuid4(), 901)
    filling.fill_as_divided(kitchen.caller, MONDAY, batch_id, uuid4())
    outcome = batch_of(kitchen)[1].outcome
    assert [p.grams for p in outcome.portions] == [300, 300, 300]
    assert outcome.left_g == 0
    (there,) = house.house(kitchen.caller).boxes
    assert (there.free_ids, there.grams, there.place, there.since) == ((spare,), 300, "fridge", date(2026, 11, 22))
    day = MONDAY + timedelta(days=3)
    eat_first.place_box(kitchen.caller, MONDAY, there.id, uuid4(), kitchen.eater_id, kitchen.slot_id, day=day)
    assert house.house(kitchen.caller).free_boxes == 0
    with pytest.raises(InvalidInput, match="A meal eats this box"):
        spares.take_out_spare(kitchen.caller, MONDAY, batch_id, spare, uuid4())
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    (eaten,) = [meal for meal in picture.meals if meal.from_box == spare]
    placing.take_out_meal(kitchen.caller, eaten.id)
    spares.take_out_spare(kitchen.caller, MONDAY, batch_id, spare, uuid4())
    assert house.house(kitchen.caller).boxes == ()
    assert batch_of(kitchen)[1].outcome.left_g == 300


def test_a_box_for_nobody_that_was_eaten_is_not_taken_back(kitchen: Kitchen) -> None:
    batch_id, spare = weigh(kitchen, 1200), uuid4()
    spares.pack_spare(kitchen.caller, MONDAY, batch_id, spare, uuid4(), 1200)
    filling.fill_as_divided(kitchen.caller, MONDAY, batch_id, uuid4())  # nothing is left: no box is packed with it
    outcome = batch_of(kitchen)[1].outcome
    assert [(p.grams, p.stage) for p in outcome.portions] == [(0, "divided")] * 3
    boxes.say_what_happened(kitchen.caller, [spare], uuid4(), EATEN)
    with pytest.raises(InvalidInput, match="not in the house any more"):
        spares.take_out_spare(kitchen.caller, MONDAY, batch_id, spare, uuid4())
    assert batch_of(kitchen)[1].outcome.left_g == 0


def test_what_is_in_a_box_for_nobody_cannot_go_into_another(kitchen: Kitchen) -> None:
    batch_id = weigh(kitchen, 1000)
    spares.pack_spare(kitchen.caller, MONDAY, batch_id, uuid4(), uuid4(), 700)
    meal = UUID(batch_of(kitchen)[1].outcome.portions[0].placing_key)
    with pytest.raises(InvalidInput, match="Only 300 g are left"):
        filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 400)
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 250)
    filling.weigh_box(kitchen.caller, MONDAY, batch_id, meal, uuid4(), 300)  # weighed again, its own grams are free
    assert batch_of(kitchen)[1].outcome.left_g == 0
    with pytest.raises(NotFound):
        spares.pack_spare(kitchen.caller, MONDAY, batch_id, boxes.own_box_id(meal), uuid4(), 1)


def test_a_part_of_a_dish_is_not_offered_as_the_dish(own_demo: Caller) -> None:
    boat = own_demo
    picture = weeks.week_picture(boat, MONDAY)
    assert picture is not None
    worked = next(w for w in picture.outcome.batches if w.outcome.state.pot_g and w.outcome.left_g > 300)
    batch_id = cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key)
    spares.pack_spare(boat, MONDAY, batch_id, uuid4(), uuid4(), 200)
    there = house.house(boat)
    (mash,) = [b for b in there.boxes if b.part]
    assert (mash.part, mash.free) == ("swede mash", 1)
    maren = picture.eaters[0]
    assert mash not in eat_first.boxes_for(there, maren, mash.since)
    assert all(not b.part for b in eat_first.boxes_for(there, maren, mash.since))
    with pytest.raises(InvalidInputs, match="not for them"):
        eat_first.place_box(boat, MONDAY, mash.id, uuid4(), maren.id, maren.slots[2].id, day=MONDAY + timedelta(days=5))


def test_some_of_a_lot_go_and_come_back(kitchen: Kitchen) -> None:
    caller, lot, event = kitchen.caller, uuid4(), uuid4()
    house.put_in(caller, house.ThingInput(lot, "freezer", MONDAY, None, kitchen.recipe_id, 4, grams=320.0))
    for _ in range(2):  # sent twice
        house.take_out(caller, lot, TakenOut(event, EATEN, 2))
    assert house.house(caller).boxes[0].count == 2
    with pytest.raises(InvalidInput, match="2 are there"):
        house.take_out(caller, lot, TakenOut(uuid4(), EATEN, 3))
    with pytest.raises(InvalidInput, match="Why was it thrown away"):
        house.take_out(caller, lot, TakenOut(uuid4(), THROWN_AWAY, 1))
    with pytest.raises(InvalidInput, match="no way for a box to go"):
        house.take_out(caller, lot, TakenOut(uuid4(), "lent"))
    house.take_out(caller, lot, TakenOut(uuid4(), THROWN_AWAY, 1, "too old"))
    house.put_back(caller, lot, event)
    assert house.house(caller).boxes[0].count == 3
    house.put_back(caller, lot)
    assert house.house(caller).boxes[0].count == 4
    with pytest.raises(NotFound):
        house.take_out(caller, uuid4(), TakenOut(uuid4()))


def test_an_event_of_a_box_is_written_once_and_never_changed(kitchen: Kitchen) -> None:
    caller, lot, event = kitchen.caller, uuid4(), uuid4()
    house.put_in(caller, house.ThingInput(lot, "fridge", MONDAY, None, kitchen.recipe_id, 1, grams=320.0))
    (box_id,) = house.house(caller).boxes[0].free_ids
    for _ in range(2):
        boxes.say_what_happened(caller, [box_id], event, TAKEN_OUT)
    with pytest.raises(SentOtherwise):
        boxes.say_what_happened(caller, [box_id], event, EATEN)
    assert [e.kind for e in box_of(kitchen, box_id).log] == [PACKED, TAKEN_OUT]
    boxes.undo_all(caller, event, [box_id])
    assert box_of(kitchen, box_id).state == THERE
    for statement in (update(BoxEventRow).values(kind=EATEN), delete(BoxEventRow)):
        with pytest.raises(DatabaseError, match="append-only"), caller.transaction() as session:
            session.execute(statement)


def test_a_neighbours_box_is_not_there(kitchen: Kitchen, database: object) -> None:
    house.put_in(kitchen.caller, house.ThingInput(uuid4(), "fridge", MONDAY, None, kitchen.recipe_id, 1, grams=320.0))
    with kitchen.caller.transaction() as session:
        box_id = session.scalars(select(BoxRow.id)).one()
    stranger = Caller(kitchen.caller.database, uuid4())
    with pytest.raises(NotFound):
        boxes.say_what_happened(stranger, [box_id], uuid4(), EATEN)
