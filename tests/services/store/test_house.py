"""Boxes and opened foods: noted, offered, eaten once, planned first, and given back."""

from dataclasses import replace
from datetime import datetime, timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import PlanRules
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.plan import planning
from goodcrate.services.plan.problem import Wishes, problem_of
from goodcrate.services.recipes import library
from goodcrate.services.shop.taking_instead import Swap, take_instead
from goodcrate.services.store import house
from goodcrate.services.store.house import TakenOut, ThingInput
from goodcrate.services.week import eat_first, fitting, moving, placing, weeks
from goodcrate.services.week.weeks import existing_week, load_picture
from tests.services.kitchen import MONDAY, Kitchen, furnish, place


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household, 1.0, days=1)


def boxes(kitchen: Kitchen, count: int = 2, grams: float | None = None, **facts: object) -> UUID:
    thing = ThingInput(uuid4(), "freezer", MONDAY - timedelta(days=7), None, kitchen.recipe_id, count, grams=grams)
    house.put_in(kitchen.caller, replace(thing, **facts))  # type: ignore[arg-type]
    return thing.id


def eat(kitchen: Kitchen, box_id: UUID, day: int, placement_id: UUID | None = None) -> None:
    eat_first.place_box(
        kitchen.caller,
        MONDAY,
        box_id,
        placement_id or uuid4(),
        kitchen.eater_id,
        kitchen.slot_id,
        day=MONDAY + timedelta(days=day),
    )


def test_boxes_and_foods_are_noted_with_the_day_they_keep_until(kitchen: Kitchen) -> None:
    caller = kitchen.caller
    assert house.house(caller) == house.House((), ())
    thing = ThingInput(uuid4(), "fridge", MONDAY, typed="200 g quark")
    house.put_in(caller, thing)
    house.put_in(caller, thing)  # sent twice
    box_id = boxes(kitchen, 2, 320.0)
    there = house.house(caller)
    (opened,), (box,) = there.foods, there.boxes
    assert (opened.open.food_key, opened.open.grams, opened.typed) == ("quark", 200.0, "200 g quark")
    assert opened.open.until is not None
    assert opened.open.until > MONDAY
    assert (box.id, box.count, box.free, box.grams) == (box_id, 2, 2, 320.0)
    serving = library.get_recipe(caller, kitchen.recipe_id).serving.tally
    assert box.kcal == pytest.approx(serving.amount("energy_kcal").value / serving.grams * 320)
    assert box.until > MONDAY + timedelta(days=20)
    assert "frozen" in box.why
    fridge = boxes(kitchen, 1, place="fridge", since=MONDAY)
    assert house.house(caller).boxes[0].id == fridge  # keeps shortest, stands first
    house.take_out(caller, box_id, TakenOut(uuid4()))
    assert [b.id for b in house.house(caller).boxes] == [fridge]
    house.put_back(caller, box_id)
    assert len(house.house(caller).boxes) == 2


@pytest.mark.parametrize(
    ("facts", "field"),
    [
        ({"place": "attic"}, "place"),
        ({"count": 0}, "count"),
        ({"grams": 9000.0}, "grams"),
        ({"until": MONDAY - timedelta(days=30)}, "until"),
        ({"recipe_id": None, "typed": "three unicorns"}, "typed"),
        ({"recipe_id": None, "typed": ""}, "typed"),
        ({"recipe_id": uuid4()}, "recipe_id"),
    ],
)
def test_what_cannot_be_noted_is_named_at_its_field(kitchen: Kitchen, facts: dict[str, object], field: str) -> None:
    with pytest.raises(InvalidInputs) as caught:
        boxes(kitchen, **facts)  # type: ignore[arg-type]
    assert [f.field for f in caught.value.faults] == [field]
    assert house.house(kitchen.caller) == house.House((), ())


def test_a_box_is_eaten_once_cooked_by_nobody_and_comes_back(kitchen: Kitchen) -> None:
    caller, box_id, first = kitchen.caller, boxes(kitchen, 1, 320.0), uuid4()
    eat(kitchen, box_id, 3, first)
    eat(kitchen, box_id, 3, first)  # sent twice
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    (eaten,) = [p for p in picture.meals if p.from_box is not None]
    box = picture.outcome.boxes[str(eaten.id)]
    assert box.placing.session_key is None
    assert box.tally.grams == pytest.approx(320, abs=0.1)
    assert all(str(eaten.id) not in {x.placing_key for x in b.plan.portions} for b in picture.outcome.batches)
    assert all(eaten.id not in m.placement_ids for m in fitting.fit(caller, MONDAY).moves)  # packed already
    stay = picture.stays[str(eaten.id)]
    assert (stay.place, stay.thaw_on) == ("freezer", MONDAY + timedelta(days=2))
    with pytest.raises(InvalidInputs, match="no box of it is left"):
        eat(kitchen, box_id, 4)
    moving.move(caller, MONDAY, eaten.id, moving.Place(kitchen.eater_id, kitchen.slot_id, MONDAY + timedelta(days=5)))
    assert house.house(caller).boxes[0].free == 0  # moved, it is still that box
    placing.take_out_meal(caller, eaten.id)
    assert house.house(caller).boxes[0].free == 1
    eat(kitchen, box_id, 4)
    old = boxes(kitchen, 1, place="fridge")  # a week in the fridge
    with pytest.raises(InvalidInputs, match="keeps until"):
        eat(kitchen, old, 0)
    with pytest.raises(NotFound):
        eat(kitchen, uuid4(), 0)


def test_a_box_of_the_house_is_what_it_was_whatever_the_week_takes_instead(kitchen: Kitchen) -> None:
    caller = kitchen.caller
    eat(kitchen, boxes(kitchen, 1), 3)

    def kcal_by_box() -> dict[bool, float]:
        picture = weeks.week_picture(caller, MONDAY)
        assert picture is not None
        boxed = {p.from_box is not None: picture.outcome.boxes[str(p.id)] for p in picture.meals}
        return {is_old: box.tally.amount("energy_kcal").value for is_old, box in boxed.items()}

    before = kcal_by_box()
    take_instead(caller, MONDAY, uuid4(), Swap("turkey_thigh_raw", "pork_shoulder_raw"), MONDAY)
    after = kcal_by_box()
    assert after[True] == before[True]
    assert after[False] > before[False] + 10


def test_a_plan_eats_the_boxes_first_and_cooks_the_rest(own_demo: Caller) -> None:
    """Next week of the boat, with its two boxes of soup in the ice box: they are eaten, and nobody cooks them."""
    boat = own_demo
    first_day = MONDAY + timedelta(days=7)
    weeks.open_week(boat, first_day)
    weeks.add_session(boat, first_day, datetime(2026, 12, 2, 18, 30))
    (soup,) = house.house(boat).boxes
    with boat.transaction() as session:
        picture = load_picture(session, existing_week(session, first_day))
        problem = problem_of(session, picture, Wishes(different=3))
        without = problem_of(session, picture, Wishes(different=3, eat_house=False))
    fixed = [s for s in problem.slots if s.fixed is not None]
    assert len(fixed) == 2
    assert all(s.fixed is None for s in without.slots)
    kinds = {(d.eater_key, d.day): d.kind for d in problem.days}
    plain = {(d.eater_key, d.day): d.kind for d in without.days}
    assert {k for k in kinds if kinds[k] != plain[k]} == {(s.eater_key, s.day) for s in fixed}
    result = plan_week(replace(problem, rules=replace(problem.rules, limit_seconds=5)))
    assert result.plan is not None
    eaten = [m for m in result.plan.meals if m.is_fixed]
    assert {(m.eater_key, m.day, m.slot_key) for m in eaten} == {(s.eater_key, s.day, s.slot_key) for s in fixed}
    assert all(m.session_key == "" for m in eaten)
    stored = planning.as_stored(result.plan, problem, first_day, PlanRules().aim)
    assert len(stored["meals"]) == 56
    assert sum(m["house"] == str(soup.id) for m in stored["meals"]) == 2
    assert all(d["met"] for d in stored["days"])


def test_meals_that_stand_and_no_session_cooks_still_count_in_their_day(kitchen: Kitchen) -> None:
    """Placed before any session is over: the planner keeps it, and its day's sums hold it."""
    caller = kitchen.caller
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    weeks.take_session_out(caller, MONDAY, UUID(picture.sessions[0].key))
    weeks.add_session(caller, MONDAY, picture.sessions[0].starts_at + timedelta(days=2))
    place(kitchen, 3.0, 1)
    with caller.transaction() as session:
        picture = load_picture(session, existing_week(session, MONDAY))
        problem = problem_of(session, picture, Wishes(lower_floors_g=100, widen_bands_kcal=600))
    gaps_later = tuple(s for s in problem.slots if s.fixed is not None or s.day > 2)
    days = tuple(replace(d, energy_low_kcal=500, protein_floor_g=0) for d in problem.days if d.day > 2 or d.day == 0)
    result = plan_week(replace(problem, slots=gaps_later, days=days))
    assert result.plan is not None
    assert [m.session_key for m in result.plan.meals if m.is_fixed] == [""]
