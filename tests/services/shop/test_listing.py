"""The demo's list: what its week needs, less the house, less what stands weighed; sums that come together."""

from datetime import timedelta
from uuid import UUID, uuid4

import pytest

from goodcrate.core.shop.costs import cost_by_dish, till_of
from goodcrate.core.shop.shopping_list import ShopLine
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.shop.listing import WeekShopping, shopping_of
from goodcrate.services.week.weeks import week_picture
from tests.conftest import MONDAY
from tests.services.kitchen import furnish


def listed(caller: Caller) -> WeekShopping:
    week = shopping_of(caller, MONDAY)
    assert week is not None
    return week


def line_of(caller: Caller, key: str) -> ShopLine:
    return next(line for line in listed(caller).shopping.lines if line.food.key == key)


def test_a_week_that_was_never_opened_has_no_list(demo: Caller) -> None:
    assert shopping_of(demo, MONDAY + timedelta(days=700)) is None


def test_the_demo_week_by_hand(demo: Caller) -> None:
    cottage = next(line for line in listed(demo).shopping.lines if line.food.name.startswith("Cottage cheese"))
    assert cottage.buying is not None
    assert (cottage.buying.count, cottage.buying.grams, cottage.price) == (6, 1200, 8.7)  # 6 tubs at 1.45
    assert cottage.needed_g == pytest.approx(sum(use.grams for use in cottage.need.uses))
    quark = next(line for line in listed(demo).shopping.lines if line.food.name.startswith("Quark"))
    assert quark.house_g == 220  # the opened tub in the fridge
    assert quark.buy_g == pytest.approx(quark.needed_g - 220, abs=0.1)
    assert "water_tap" not in {line.food.key for line in listed(demo).shopping.lines}


def test_the_till_and_what_is_eaten_come_together(demo: Caller) -> None:
    shopping = listed(demo).shopping
    till = till_of(shopping)
    assert till.paid == pytest.approx(shopping.price)
    assert till.eaten == pytest.approx(sum(dish.cost for dish in cost_by_dish(shopping)), abs=0.01)
    assert 0 < shopping.estimated < shopping.price
    assert shopping.unpriced


def test_what_is_weighed_in_is_not_bought_again(household: Caller) -> None:
    furnish(household)
    picture = week_picture(household, MONDAY)
    assert picture is not None
    (worked,) = picture.outcome.batches[:1]
    batch_id = cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key)
    cooking.start_batch(household, MONDAY, batch_id)
    started = week_picture(household, MONDAY)
    assert started is not None
    line = cooking.worked_batch(started, batch_id).record.lines[0]
    before = line_of(household, line.food.key)
    cooking.weigh_ingredient(household, MONDAY, batch_id, UUID(line.key), uuid4(), line.amount.grams)
    left = [x for x in listed(household).shopping.lines if x.food.key == line.food.key]
    assert sum(x.need.edible_g for x in left) == pytest.approx(before.need.edible_g - line.amount.grams)
