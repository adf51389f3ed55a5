"""At the shelf: ticked once whoever ticks, in the house and out of it again, prices seen, something else taken."""

from datetime import timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.shop.shelf import BOUGHT, OPEN, ShelfEvent
from goodcrate.services.at_table import off_plan
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.plan.costs import plan_costs
from goodcrate.services.shop import habits, shelf
from goodcrate.services.shop.listing import WeekShopping, shopping_of
from goodcrate.services.shop.taking_instead import Swap, take_instead, told_of, undo_instead
from goodcrate.services.store.house import FoodInHouse, house
from goodcrate.services.store.pantry import Put, put_right
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import moving, placing
from goodcrate.services.week.weeks import week_picture
from tests.conftest import MONDAY
from tests.services.kitchen import eater_input, furnish, planner_job

CABBAGE = "cabbage_raw"


@pytest.fixture
def galley(household: Caller) -> Caller:
    """A week that needs turkey and white cabbage."""
    furnish(household, 2, days=4)
    return household


def listed(caller: Caller) -> WeekShopping:
    week = shopping_of(caller, MONDAY)
    assert week is not None
    return week


def there(caller: Caller, key: str = CABBAGE) -> list[FoodInHouse]:
    return [f for f in house(caller).foods if f.open.food_key == key]


def bought(caller: Caller, grams: float, key: str = CABBAGE, price: float | None = None, **more: UUID) -> None:
    event = ShelfEvent(key, BOUGHT, grams, price)
    shelf.note(caller, MONDAY, more.get("event", uuid4()), event, MONDAY)


def test_what_two_phones_tick_is_bought_once(galley: Caller) -> None:
    before = listed(galley)
    event = uuid4()
    for _ in range(2):
        bought(galley, 1800, event=event)
    bought(galley, 1800)
    (cabbage,) = there(galley)
    assert (cabbage.open.grams, cabbage.is_open, cabbage.place) == (1800, False, "fridge")
    after = listed(galley)
    assert after.bought.keys() == {CABBAGE}
    assert after.still[CABBAGE].buy_g == 0
    assert after.shopping.price == before.shopping.price, "the list is what it was"
    bought(galley, 900)
    assert [f.open.grams for f in there(galley)] == [900]
    shelf.note(galley, MONDAY, uuid4(), ShelfEvent(CABBAGE, OPEN), MONDAY)
    assert there(galley) == []
    assert listed(galley).still[CABBAGE].buy_g > 0


def test_what_others_said_since(galley: Caller) -> None:
    bought(galley, 900)
    first = shelf.news_since(galley, MONDAY, 0)
    assert first.foods == {CABBAGE: ShelfEvent(CABBAGE, BOUGHT, 900)}
    assert shelf.news_since(galley, MONDAY, first.seq).foods == {}
    shelf.note(galley, MONDAY, uuid4(), ShelfEvent(CABBAGE, OPEN), MONDAY)
    assert [e.kind for e in shelf.news_since(galley, MONDAY, first.seq).foods.values()] == [OPEN]


def test_nobody_knows_the_food_or_the_week(galley: Caller) -> None:
    with pytest.raises(NotFound):
        bought(galley, 900, "no_such_food")
    with pytest.raises(NotFound):
        shelf.note(galley, MONDAY + timedelta(days=700), uuid4(), ShelfEvent(CABBAGE, BOUGHT, 900), MONDAY)


def test_a_food_that_left_the_list_still_comes_into_the_house(galley: Caller) -> None:
    bought(galley, 250, "butternut_squash_raw")
    assert [f.open.grams for f in there(galley, "butternut_squash_raw")] == [250]
    assert "butternut_squash_raw" not in {line.food.key for line in listed(galley).shopping.lines}


def test_what_is_weighed_in_leaves_the_house_and_is_put_right_by_one_tap(household: Caller) -> None:
    furnish(household)
    picture = week_picture(household, MONDAY)
    assert picture is not None
    (worked,) = picture.outcome.batches[:1]
    batch_id = cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key)
    cooking.start_batch(household, MONDAY, batch_id)
    started = week_picture(household, MONDAY)
    assert started is not None
    line = cooking.worked_batch(started, batch_id).record.lines[0]
    bought(household, 2000, line.food.key)
    event = uuid4()
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), event, 400)
    (thing,) = there(household, line.food.key)
    assert thing.open.grams == pytest.approx(2000 - 400 / (1 - (line.food.refuse_pct or 0) / 100), abs=0.1)
    assert thing.is_open
    assert thing.open.until is not None
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), None)
    assert there(household, line.food.key)[0].open.grams == 2000, "what was taken out again was not used"
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), 400)
    put_right(household, thing.id, Put(1500, "freezer", is_first=True))
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), 420)
    corrected = 20 / (1 - (line.food.refuse_pct or 0) / 100)
    assert there(household, line.food.key)[0].open.grams == pytest.approx(1500 - corrected, abs=0.1), (
        "only what it adds"
    )
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), 400)
    (thing,) = there(household, line.food.key)
    assert (thing.open.grams, thing.place, thing.is_first) == (1500, "freezer", True)
    put_right(household, thing.id, Put(0, "freezer"))
    assert there(household, line.food.key) == []
    with pytest.raises(InvalidInputs):
        put_right(household, thing.id, Put(-1, "shed"))


def test_what_was_eaten_before_it_was_counted_anew_counts_no_more(household: Caller) -> None:
    kitchen = furnish(household)
    bought(household, 500, "quark")
    (thing,) = there(household, "quark")
    off_plan.note_from_house(household, kitchen.eater_id, MONDAY, uuid4(), thing.id, 60)
    assert there(household, "quark")[0].open.grams == 440
    put_right(household, thing.id, Put(300, "fridge"))
    assert there(household, "quark")[0].open.grams == 300
    off_plan.note_from_house(household, kitchen.eater_id, MONDAY, uuid4(), thing.id, 50)
    assert there(household, "quark")[0].open.grams == 250


def test_what_a_pack_cost_is_seen_by_what_was_paid(galley: Caller) -> None:
    packs.add_pack(galley, uuid4(), "quark", Pack("quark", 500, 2.05), "lock shop", MONDAY - timedelta(days=7))
    bought(galley, 1000, "quark", 4.30)
    seen = packs.food_on_sale(galley, "quark").packs[-1]
    assert (seen.grams, seen.price, seen.day) == (500, 2.15, MONDAY)
    bought(galley, 330, "quark", 1.50)
    assert [(p.grams, p.price) for p in packs.food_on_sale(galley, "quark").packs][-1] in {(330, 1.5), (500, 2.15)}
    assert {p.grams for p in packs.food_on_sale(galley, "quark").packs} == {500, 330}
    packs.remove_pack(galley, seen.id)
    assert seen.id not in {p.id for p in packs.food_on_sale(galley, "quark").packs}


def test_what_is_always_kept_comes_on_the_list(galley: Caller) -> None:
    key = "lentils_red_dry" if "lentils_red_dry" not in {x.food.key for x in listed(galley).shopping.lines} else "salt"
    habits.keep_always(galley, key, 500)
    line = next(x for x in listed(galley).shopping.lines if x.food.key == key)
    assert line.floor_g == 500
    assert line.bought_g >= 500
    habits.keep_always(galley, key, 0)
    assert key not in {x.food.key for x in listed(galley).shopping.lines}
    with pytest.raises(InvalidInput):
        habits.keep_always(galley, key, -1)


def test_something_else_is_in_the_recipes_of_this_week_until_it_is_undone(own_demo: Caller) -> None:
    demo = own_demo
    before = week_picture(demo, MONDAY)
    assert before is not None
    meal = next(m for m in before.meals if before.recipes[str(m.recipe_id)].name.startswith("Venison"))
    turkey = packs.food_on_sale(demo, "turkey_thigh_raw").food
    told = told_of(before, "venison_raw", turkey)
    row_id = uuid4()
    for _ in range(2):
        take_instead(demo, MONDAY, row_id, Swap("venison_raw", turkey.key), MONDAY)
    after = week_picture(demo, MONDAY)
    assert after is not None
    kcal = [
        sum(
            p.outcome.boxes[str(m.id)].tally.amount("energy_kcal").value
            for m in p.meals
            if m.recipe_id == meal.recipe_id
        )
        for p in (before, after)
    ]
    assert told.energy_kcal is not None
    assert kcal[1] - kcal[0] == pytest.approx(told.energy_kcal, abs=1)
    assert "venison_raw" not in {x.food.key for x in listed(demo).shopping.lines}
    undo_instead(demo, MONDAY, row_id, MONDAY)
    again = week_picture(demo, MONDAY)
    assert again is not None
    assert again.recipes == before.recipes
    with pytest.raises(InvalidInput, match="pork"):
        take_instead(demo, MONDAY, uuid4(), Swap("venison_raw", "pork_shoulder_raw"), MONDAY)
    with pytest.raises(InvalidInput, match="same food"):
        take_instead(demo, MONDAY, uuid4(), Swap("venison_raw", "venison_raw"), MONDAY)


def test_how_a_household_shops_is_saved_or_told_what_cannot_be(galley: Caller) -> None:
    habits.save_settings(galley, habits.ShopSettings(("dairy", "vegetables"), 10.0, "least_cost", 120.0))
    week = listed(galley)
    assert week.settings.aisles == ("dairy", "vegetables")
    cabbage = next(x for x in week.shopping.lines if x.food.key == CABBAGE)
    assert cabbage.spare_g == pytest.approx(cabbage.needed_g / 10)
    with pytest.raises(InvalidInputs) as refused:
        habits.save_settings(galley, habits.ShopSettings(("x" * 40,), 60, "cheapest", -1))
    assert {fault.field for fault in refused.value.faults} == {"aisles", "spare_pct", "aim", "week_budget"}


def test_the_weeks_that_were_found_cost_what_their_lists_would(galley: Caller) -> None:
    picture = week_picture(galley, MONDAY)
    assert picture is not None
    meal, (session,) = picture.meals[0], picture.sessions
    same = {"recipe": str(meal.recipe_id), "eater": str(meal.eater_id), "servings": 2.0, "grams": 500, "house": ""}
    days = [{"day": str(MONDAY + timedelta(days=n)), "session": session.key} for n in (4, 5)]
    plan = {"aim": "least_cooking", "meals": [same | day for day in days]}
    job = planner_job(picture.week.id, best=[plan])
    with galley.transaction() as db:
        db.add(job)
    for key, grams, price in (("turkey_thigh_raw", 500, 4.0), ("cabbage_raw", 900, 1.4), ("rapeseed_oil", 915, 3.0)):
        packs.add_pack(galley, uuid4(), key, Pack(key, grams, price), "", MONDAY)
    habits.save_settings(galley, habits.ShopSettings(week_budget=20.0))
    cost = plan_costs(galley, MONDAY)["least_cooking"]
    # 4 + 2 meals of 2 servings: 2,400 g of turkey, 1,800 g of cabbage to eat, which is 2,250 g to buy, a bottle of oil
    assert cost.price == pytest.approx(5 * 4.0 + 3 * 1.4 + 3.0)
    assert not cost.is_at_least
    assert cost.over == pytest.approx(7.2)
    job_without = planner_job(picture.week.id, best=[plan])
    job_without.input = {"wishes": {}, "opened": [[str(meal.id), 1]]}
    with galley.transaction() as db:
        db.add(job_without)
    assert plan_costs(galley, MONDAY)["least_cooking"].price < cost.price


def test_what_a_week_takes_instead_counts_for_whoever_is_given_the_dish_later(galley: Caller) -> None:
    take_instead(galley, MONDAY, uuid4(), Swap("turkey_thigh_raw", "pork_shoulder_raw"), MONDAY)
    picture = week_picture(galley, MONDAY)
    assert picture is not None
    other = eater_input("Oskar", no_pork=True)
    household_eaters.save_eater(galley, other)
    meal = picture.meals[0]
    typed = placing.PlaceInput(uuid4(), other.id, other.slots[0].id, meal.recipe_id, 1.0, (MONDAY + timedelta(days=5),))
    with pytest.raises(InvalidInputs, match="pork"):
        placing.place(galley, MONDAY, typed)
    with pytest.raises(InvalidInputs, match="pork"):
        moving.move(galley, MONDAY, meal.id, moving.Place(other.id, other.slots[0].id, meal.day))
