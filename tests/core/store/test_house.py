"""What is in the house is eaten first: offered where it may stand and fits, what keeps shortest before the rest."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.store.boxes_in_house import MOST_MISFIT_PCT, Gap, HouseBox, OpenFood, offer, uses_up
from tests.core.dishes import turkey_pot

MONDAY = date(2026, 11, 23)


def box(key: str, recipe: str, kcal: float, count: int = 1, days: int = 30) -> HouseBox:
    return HouseBox(key, recipe, 400, kcal, count, MONDAY + timedelta(days=days))


def gap(n: int, kcal: float, *recipes: str, slot: str = "dinner") -> Gap:
    return Gap(("maren", str(n), slot), MONDAY + timedelta(days=n), frozenset(recipes), kcal)


def test_boxes_go_where_they_may_stand_and_fit_best() -> None:
    gaps = [gap(0, 900, "stew"), gap(0, 500, "stew", slot="lunch"), gap(1, 520, "soup", "stew", slot="lunch")]
    assert offer([box("a", "stew", 500)], gaps) == {("maren", "0", "lunch"): "a"}
    assert offer([box("a", "stew", 500), box("b", "soup", 500)], gaps) == {
        ("maren", "0", "lunch"): "a",
        ("maren", "1", "lunch"): "b",
    }
    assert offer([box("a", "curry", 500)], gaps) == {}  # it may stand nowhere
    assert offer([box("a", "stew", 2000)], gaps) == {}  # twice what any slot should give


def test_what_keeps_shortest_is_eaten_first_and_nothing_past_its_day() -> None:
    one = [gap(1, 500, "stew", "soup")]
    assert offer([box("late", "stew", 500), box("soon", "soup", 500, days=2)], one) == {one[0].key: "soon"}
    assert offer([box("late", "stew", 500), box("over", "soup", 500, days=0)], one) == {one[0].key: "late"}
    assert offer([], one) == offer([box("a", "stew", 500)], []) == {}


def test_a_box_is_past_from_the_day_after_its_last_and_a_food_without_guidance_never() -> None:
    last = MONDAY + timedelta(days=2)
    assert [box("a", "stew", 500, days=2).is_past(last + timedelta(days=n)) for n in (-1, 0, 1)] == [False, False, True]
    quark = OpenFood("q", "quark", "Quark", 220, last)
    assert [quark.is_past(last + timedelta(days=n)) for n in (0, 1)] == [False, True]
    assert not OpenFood("s", "salt", "Salt", 220, None).is_past(last + timedelta(days=900))


boxes = st.lists(
    st.builds(
        box,
        st.uuids().map(str),
        st.sampled_from(["stew", "soup"]),
        st.integers(200, 900),
        st.integers(1, 4),
        st.integers(0, 6),
    ),
    max_size=4,
)
gaps = st.lists(
    st.builds(
        gap,
        st.integers(0, 6),
        st.integers(300, 800),
        st.sampled_from(["stew", "soup"]),
        slot=st.sampled_from(["lunch", "dinner"]),
    ),
    max_size=8,
    unique_by=lambda g: g.key,
)


@given(boxes, gaps)
def test_no_box_is_eaten_twice_and_none_waits_while_a_gap_would_do(there: list[HouseBox], empty: list[Gap]) -> None:
    found = offer(there, empty)
    by_key, by_gap = {b.key: b for b in there}, {g.key: g for g in empty}
    for b in there:
        assert list(found.values()).count(b.key) <= b.count

    def may(b: HouseBox, g: Gap) -> bool:
        fits = round(abs(b.kcal - g.wanted_kcal) / g.wanted_kcal * 100) <= MOST_MISFIT_PCT
        return b.recipe_key in g.recipes and g.day <= b.keeps_until and fits

    assert all(may(by_key[key], by_gap[where]) for where, key in found.items())
    left = [b for b in there if list(found.values()).count(b.key) < b.count]
    assert not any(may(b, g) for b in left for g in empty if g.key not in found)


def test_recipes_say_which_opened_foods_they_use() -> None:
    recipe = turkey_pot()
    half = OpenFood("1", "cabbage_raw", "Cabbage, raw", 400, MONDAY + timedelta(days=3))
    oil = OpenFood("2", "rapeseed_oil", "Rapeseed oil", 500, None)
    quark = OpenFood("3", "quark", "Quark", 250, MONDAY)
    used = uses_up(recipe, [oil, quark, half])
    assert [u.food.key for u in used] == ["1", "2"]  # what keeps shortest first
    assert used[0].grams == 400
    assert used[0].rest_g == 0
    assert used[1].rest_g == pytest.approx(460)
