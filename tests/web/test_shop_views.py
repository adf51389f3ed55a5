"""The list as its page draws it: packs to scale, the basket, the way through the shop, prices over time, words."""

from dataclasses import replace
from datetime import date, timedelta
from uuid import uuid4

import pytest

from goodcrate.core.foods.packs import Pack
from goodcrate.core.shop.shelf import BOUGHT, NOT_THERE, OPEN, ShelfEvent
from goodcrate.core.shop.shopping_list import ShopLine, Stock
from goodcrate.services.calling import Caller
from goodcrate.services.foods.packs_known import PackSeen, packs_of
from goodcrate.services.shop.listing import WeekShopping, shopping_of
from goodcrate.web.shop.lists_out import CSV_HEADER, as_rows, as_text
from goodcrate.web.shop.prices import EDGE, HEIGHT, WIDTH, price_chart
from goodcrate.web.shop.view import MORE, Row, aisles_in_order, basket_of, said_of, shop_view
from tests.conftest import MONDAY
from tests.core.shop.test_shopping_list import CABBAGE, SUNDAY, WEDNESDAY, listed, need


def line(*stock: Stock, grams: float = 608) -> ShopLine:
    (found,) = listed([need(CABBAGE, (grams, WEDNESDAY))], *stock).lines
    return found


@pytest.fixture(scope="module")
def week(demo: Caller) -> WeekShopping:
    found = shopping_of(demo, MONDAY)
    assert found is not None
    return found


def with_lines(week: WeekShopping, *lines: ShopLine, **shelf: ShelfEvent) -> WeekShopping:
    """The demo's week with a list of its own."""
    shopping = replace(week.shopping, lines=lines)
    return replace(week, shopping=shopping, shelf=shelf, still={x.food.key: x for x in lines}, boxes={"dish": 4})


def only_row(week: WeekShopping) -> Row:
    rows = [row for aisle in shop_view(week).aisles for row in aisle.rows]
    assert len(rows) == 1
    return rows[0]


def test_the_packs_are_drawn_to_scale(week: WeekShopping) -> None:
    row = only_row(with_lines(week, line(Stock("cabbage", 100))))
    # 100 g of the house, one head of 900 g: 10 % and 90 % of what is drawn; 760 g are needed, 660 of them from the head
    assert row.bar.house_pct == 10
    assert list(row.bar.packs) == [(10, 90, 66)]
    assert row.bar.need_pct == 76
    assert row.bar.told == "100 g from the house, 900 g in packs, 760 g needed"
    assert (row.buy, row.edible, row.sends) == ("1 × 900 g", "608 g trimmed", "900")


def test_what_is_in_the_house_already_stands_apart_and_cannot_be_ticked(week: WeekShopping) -> None:
    view = shop_view(with_lines(week, line(Stock("cabbage", 2000))))
    assert view.aisles == ()
    assert [(row.buy, row.house) for row in view.there] == [("nothing", "760 g")]


def test_the_basket_counts_what_was_paid_before_what_was_reckoned(week: WeekShopping) -> None:
    bought = {"cabbage": ShelfEvent("cabbage", BOUGHT, 900, 1.1)}
    basket = basket_of(with_lines(week, line(), **bought))
    assert (basket.ticked, basket.lines, basket.paid, basket.whole) == (1, 1, "1.10 ¤", "1.10 ¤")
    plain = basket_of(with_lines(week, line()))
    assert (plain.ticked, plain.paid, plain.whole, plain.paid_pct, plain.whole_pct) == (0, "0.00 ¤", "1.40 ¤", 0, 100)


@pytest.mark.parametrize(
    ("budget", "is_over", "whole_pct", "budget_pct"), [(1.0, True, 100, 71.4), (2.8, False, 50, 100)]
)
def test_the_budget_is_drawn_at_its_place(
    week: WeekShopping, budget: float, is_over: bool, whole_pct: float, budget_pct: float
) -> None:
    wished = replace(with_lines(week, line()), settings=replace(week.settings, week_budget=budget))
    basket = basket_of(wished)
    assert (basket.is_over, basket.whole_pct, basket.budget_pct) == (is_over, whole_pct, budget_pct)


@pytest.mark.parametrize(
    ("event", "still_g", "state", "told"),
    [
        (None, 0.0, OPEN, ""),
        (ShelfEvent("cabbage", NOT_THERE), 900.0, NOT_THERE, "was not there"),
        (ShelfEvent("cabbage", BOUGHT, 900), 0.0, BOUGHT, "900 g bought"),
        (ShelfEvent("cabbage", BOUGHT, 900, 1.4), 0.0, BOUGHT, "900 g bought, 1.40 ¤"),
        (ShelfEvent("cabbage", BOUGHT, 900), 140.0, MORE, "900 g bought; 140 g more are needed"),
        (ShelfEvent("parsley", BOUGHT), 0.0, BOUGHT, "bought"),
        (ShelfEvent("cabbage", "instead"), 0.0, OPEN, ""),
    ],
)
def test_what_became_of_a_food_in_words(event: ShelfEvent | None, still_g: float, state: str, told: str) -> None:
    assert said_of(event, still_g) == (state, told)


def test_a_row_that_needs_more_sends_all_that_is_carried_home(week: WeekShopping) -> None:
    whole, more = line(grams=1440), line(grams=720)
    said = with_lines(week, whole, cabbage=ShelfEvent("cabbage", BOUGHT, 900))
    row = only_row(replace(said, still={"cabbage": more}))
    assert (row.state, row.sends_g) == (MORE, "1800"), "the head that lies there, and one more"


def test_the_way_through_a_shop_is_the_households_own_then_the_usual_one() -> None:
    names = ["spices", "vegetables", "dairy", "by the window"]
    assert aisles_in_order(names, ()) == ["vegetables", "dairy", "spices", "by the window"]
    assert aisles_in_order(names, ("Dairy", "spices")) == ["dairy", "spices", "vegetables", "by the window"]
    assert aisles_in_order(names, ("by the window",))[0] == "by the window"


def test_the_list_leaves_the_house_as_text_without_what_is_ticked(week: WeekShopping) -> None:
    said = with_lines(week, line())
    assert as_text(said, shop_view(said)) == "OTHER THINGS\n- Cabbage: 1 × 900 g\n"
    ticked = with_lines(week, line(), cabbage=ShelfEvent("cabbage", BOUGHT, 900))
    there = {"cabbage": line(Stock("cabbage", 2000))}
    ticked = replace(ticked, unread=(("some parsley", "Stew"),), still=there)
    assert as_text(ticked, shop_view(ticked)) == "- some parsley (Stew)"
    (row,) = as_rows(ticked, shop_view(ticked))
    table = dict(zip(CSV_HEADER, row, strict=True))
    assert (table["food"], table["packs"], table["bought_g"], table["price"]) == ("Cabbage", "1 x 900", "900.0", "1.40")


def seen(days_ago: int, grams: float, price: float | None) -> PackSeen:
    return PackSeen(uuid4(), grams, price, "lock shop", SUNDAY - timedelta(days=days_ago))


def test_prices_of_all_sizes_are_drawn_for_100_g() -> None:
    chart = price_chart([seen(60, 500, 2.0), seen(30, 250, 1.25), seen(10, 400, None), seen(0, 500, 2.5)])
    assert chart is not None
    assert chart.points[0] == (EDGE, HEIGHT - EDGE), "the first, and the least"
    assert chart.points[1] == pytest.approx((WIDTH / 2, EDGE))
    assert chart.points[2] == pytest.approx((WIDTH - EDGE, EDGE))
    assert (chart.low, chart.high) == ("0.40 ¤", "0.50 ¤")
    assert chart.told == "100 g: 0.40 ¤ on 23 September, 0.50 ¤ on 22 November"


def test_one_price_is_no_line_and_equal_ones_are_flat() -> None:
    assert price_chart([seen(10, 500, 2.0), seen(0, 500, None)]) is None
    flat = price_chart([seen(10, 500, 2.0), seen(0, 500, 2.0)])
    assert flat is not None
    assert {y for _, y in flat.points} == {HEIGHT / 2}


def test_a_foods_own_pack_is_known_until_the_household_notes_that_size() -> None:
    food = replace(CABBAGE, pack_g=900.0, price=1.4)
    assert [(p.grams, p.price) for p in packs_of(food, {})] == [(900, 1.4)]
    noted = {"cabbage": {(900.0, ""): Pack("n", 900, 1.6), (450.0, "market"): Pack("m", 450, 0.9)}}
    assert [(p.grams, p.price) for p in packs_of(food, noted)] == [(900, 1.6), (450, 0.9)]
    assert packs_of(replace(food, pack_g=None), {}) == ()
    assert date.fromisoformat("2026-11-22") == SUNDAY
