"""The list: needs by their days, the house first, whole packs, where the rest goes, what is estimated; sums by hand."""

from datetime import date

import pytest

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.foods.packs import LEAST_COST, Pack
from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.shop.costs import Eaten, cost_by_day, cost_by_dish
from goodcrate.core.shop.needs import BatchToBuyFor, Need, Use, needs_of
from goodcrate.core.shop.shopping_list import ShoppingList, ShopRules, Stock, shopping_list
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE

SUNDAY, WEDNESDAY, FRIDAY = date(2026, 11, 22), date(2026, 11, 25), date(2026, 11, 27)
NEXT_SUNDAY = date(2026, 11, 29)


def food(key: str, group: str = "vegetable", refuse_pct: float | None = None, **facts: float) -> Food:
    return Food(key, key.title(), "raw", group, Composition((None,) * len(KEYS)), refuse_pct=refuse_pct, **facts)  # type: ignore[arg-type]


def line(of: Food, grams: float, use: str = "", **flags: bool) -> IngredientLine:
    return IngredientLine(key=of.key, food=of, amount=amount_of(grams), use=use, **flags)


def keeps(key: str, days: int, freezable: str = "no", months: int | None = None, dry: bool = False) -> KeepGroup:
    facts = {"thaw": "", "reheat_c": None, "cool_rule": "", "why": "", "source": ""}
    return KeepGroup(key, days, days + 2, months, freezable, keeps_dry=dry, **facts)  # type: ignore[arg-type]


CABBAGE, OATS, QUARK, TURKEY = (
    food("cabbage", refuse_pct=20),
    food("oats", "grain"),
    food("quark", "dairy"),
    food("turkey", "meat"),
)
KEEPING = {
    "cabbage": keeps("hard_veg", 10),
    "oats": keeps("pantry", 90, dry=True),
    "quark": keeps("soft_dairy", 3),
    "turkey": keeps("raw_poultry", 1, "yes", 9),
}


def need(of: Food, *uses: tuple[float, date]) -> Need:
    return Need(of, tuple(Use("dish", grams, day) for grams, day in uses))


def listed(needs: list[Need], *stock: Stock, next_use: date = NEXT_SUNDAY, **rules: object) -> ShoppingList:
    packs = {
        "cabbage": [Pack("c", 900, 1.4)],
        "oats": [Pack("o", 500, 0.95)],
        "quark": [Pack("q5", 500, 2.05), Pack("q2", 250, 1.15)],
        "turkey": [Pack("t", 450, 4.3)],
    }
    said = {"packs": packs, "keeping": KEEPING, "next_use": next_use} | rules
    return shopping_list(needs, stock, ShopRules(**said))  # type: ignore[arg-type]


def test_a_need_is_what_batches_weigh_and_what_is_added_later() -> None:
    milk, bay, water = food("milk"), food("bay"), food("water_tap")
    rye = BatchToBuyFor(
        "rye",
        SUNDAY,
        (line(OATS, 300), line(milk, 400, "night_before"), line(bay, 1, is_discarded=True), line(water, 500)),
        ((WEDNESDAY, 300.0), (FRIDAY, 100.0)),
    )
    stew = BatchToBuyFor("stew", WEDNESDAY, (line(OATS, 50), line(QUARK, 60, is_poured_off=True)), ((FRIDAY, 1.0),))
    found = {n.food.key: n for n in needs_of([rye, stew], [(OATS, Use("daily", 10, FRIDAY))])}
    assert list(found) == ["bay", "milk", "oats"]
    assert [(u.dish, u.grams, u.day) for u in found["oats"].uses] == [
        ("rye", 300, SUNDAY),
        ("stew", 50, WEDNESDAY),
        ("daily", 10, FRIDAY),
    ]
    assert [(u.grams, u.day) for u in found["milk"].uses] == [(300, date(2026, 11, 24)), (100, date(2026, 11, 26))]
    assert found["oats"].dishes == ("rye", "stew", "daily")


def test_what_is_weighed_cooked_is_bought_raw() -> None:
    dry, cooked = food("rice", "grain", cooked_yield=2.5), food("rice_cooked", "grain")
    found = needs_of(
        [BatchToBuyFor("bowl", SUNDAY, (line(cooked, 500), line(dry, 10)), ())], raw_of={"rice_cooked": dry}
    )
    assert [(n.food.key, n.edible_g) for n in found] == [("rice", 210)]


def test_a_line_by_hand() -> None:
    """608 g trimmed of a cabbage with a fifth of waste are 760 g; 100 g are there; a head of 900 g leaves 240 g."""
    (cabbage,) = listed([need(CABBAGE, (608, SUNDAY))], Stock("cabbage", 100, FRIDGE, WEDNESDAY)).lines
    assert (cabbage.needed_g, cabbage.house_g, cabbage.buy_g) == (760, 100, 660)
    assert cabbage.buying is not None
    assert (cabbage.buying.count, cabbage.buying.left_g, cabbage.price) == (1, 240, 1.4)
    assert cabbage.remains is not None
    assert (cabbage.remains.grams, cabbage.remains.place, cabbage.remains.until) == (240, FRIDGE, date(2026, 12, 2))


def test_the_rest_goes_where_it_keeps() -> None:
    needs = [need(OATS, (120, SUNDAY)), need(QUARK, (400, WEDNESDAY)), need(TURKEY, (810, SUNDAY))]
    oats, quark, turkey = (x.remains for x in listed(needs).lines)
    assert oats is not None
    assert quark is not None
    assert turkey is not None
    assert (oats.place, oats.until) == (CUPBOARD, None)
    assert (quark.place, quark.grams, quark.until) == (FRIDGE, 100, date(2026, 11, 28))  # it does not freeze
    assert (turkey.place, turkey.grams) == (FREEZER, 90)
    (fresh,) = listed([needs[2]], next_use=SUNDAY).lines
    assert fresh.remains is not None
    assert fresh.remains.place == FRIDGE


def test_packs_are_shared_by_the_whole_week_not_rounded_by_use() -> None:
    (quark,) = listed([need(QUARK, (260, SUNDAY), (240, WEDNESDAY))]).lines
    assert quark.buying is not None
    assert [(p.grams, n) for p, n in quark.buying.packs] == [(500, 1)]
    assert quark.remains is None


def test_the_house_is_used_by_its_days() -> None:
    uses = need(QUARK, (200, SUNDAY), (200, FRIDAY))
    old, young = Stock("quark", 150, FRIDGE, date(2026, 11, 24)), Stock("quark", 180, FRIDGE, date(2026, 11, 28))
    (both,) = listed([uses], young, old).lines
    assert both.house_g == 330  # 150 + 50 on Sunday, the other 130 on Friday
    (late,) = listed([need(QUARK, (200, FRIDAY))], old).lines
    assert (late.house_g, late.past_g, late.buy_g) == (0, 150, 200)


def test_what_is_always_kept_is_bought_too() -> None:
    needs = [need(OATS, (142, SUNDAY))]
    (oats,) = listed(needs, Stock("oats", 480), floors={"oats": 500}).lines
    assert (oats.house_g, oats.floor_g, oats.buy_g) == (142, 162, 162)
    assert oats.remains is not None
    assert oats.remains.grams == 500  # 162 to keep and 338 over: the pack goes to the cupboard whole
    (enough,) = listed(needs, Stock("oats", 700), floors={"oats": 500}).lines
    assert (enough.buy_g, enough.buying, enough.price) == (0, None, 0)


def test_the_usual_loss_is_bought_on_top_and_said() -> None:
    (oats,) = listed([need(OATS, (490, SUNDAY))], spare_pct=3).lines
    assert oats.spare_g == pytest.approx(14.7)
    assert oats.buy_g == 504.7
    assert oats.buying is not None
    assert oats.buying.count == 2


def test_the_till_and_what_of_it_is_estimated() -> None:
    swede, salt = food("swede"), food("salt", "spice")
    found = listed([need(CABBAGE, (608, SUNDAY)), need(swede, (450, SUNDAY)), need(salt, (5, SUNDAY))])
    assert (found.price, found.estimated) == (2.1, 0.7)  # 1.40, and 450 g of a vegetable at 1.40 for 900 g
    assert [x.food.key for x in found.unpriced] == ["salt"]
    assert [x.is_price_estimated for x in found.lines] == [False, True, False]


def test_the_lowest_price_is_an_aim() -> None:
    needs = [need(QUARK, (260, SUNDAY))]
    packs = {"quark": [Pack("q5", 500, 0.9), Pack("q3", 300, 1.0)]}
    assert listed(needs, packs=packs).price == 1.0
    assert listed(needs, packs=packs, aim=LEAST_COST).price == 0.9


def test_what_nobody_weighs_stands_on_the_list_until_some_is_there() -> None:
    parsley = food("parsley", "herb")
    taste = IngredientLine("p", parsley, amount_of(0.0), is_to_taste=True)
    (wanted,) = needs_of([BatchToBuyFor("Stew", SUNDAY, (taste,), ((SUNDAY, 300.0),))])
    assert (wanted.some_for, wanted.dishes, wanted.edible_g) == (("Stew",), ("Stew",), 0)
    (there,) = listed([wanted]).to_buy
    assert there.wants_some
    assert there.price is None
    assert listed([wanted], Stock("parsley", 10)).to_buy == ()


def test_days_and_dishes_cost_the_same_together() -> None:
    uses = Need(CABBAGE, (Use("Stew", 400, SUNDAY), Use("Bowl", 200, SUNDAY), Use("every day", 20, WEDNESDAY)))
    shopping = listed([uses, need(OATS, (300.0, FRIDAY))])
    eaten = [Eaten("Stew", SUNDAY, 1), Eaten("Stew", WEDNESDAY, 3), Eaten("Bowl", FRIDAY, 1), Eaten("dish", FRIDAY, 2)]
    days = cost_by_day(shopping, eaten, (SUNDAY, WEDNESDAY, FRIDAY))
    assert sum(day.cost for day in days) == pytest.approx(sum(dish.cost for dish in cost_by_dish(shopping)))
    a_gram = 1.4 / 900 / 0.8
    assert [day.cost for day in days] == pytest.approx(
        [100 * a_gram, 300 * a_gram + 20 * a_gram, 200 * a_gram + 300 * 0.95 / 500]
    )


def test_dishes_that_share_a_pack_know_of_each_other() -> None:
    stew, bowl = Use("Stew", 300, SUNDAY), Use("Bowl", 200, WEDNESDAY)
    assert Need(CABBAGE, (stew, bowl, Use("Bowl", 50, WEDNESDAY))).waiting == Use("Bowl", 250, WEDNESDAY)
    assert Need(CABBAGE, (stew, Use("Bowl", 200, SUNDAY))).waiting is None, "cooked on the same day"
    assert Need(CABBAGE, (stew, Use("Stew", 200, WEDNESDAY))).waiting is None
    assert Need(CABBAGE, ()).waiting is None
