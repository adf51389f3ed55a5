"""A plain food in a slot: placed, bought and eaten like any meal, and no recipe to anybody."""

from uuid import uuid4

import pytest

from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library
from goodcrate.services.week import weeks
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing


def test_bread_and_butter_is_a_meal_without_a_recipe(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household, days=1)
    before = [p.recipe.key for p in library.list_recipes(household)]
    sent = {"gap": racing.slot(kitchen, 1), "plain": "80 g rye bread\n10 g salted butter", "id": str(uuid4())}
    for _ in range(2):  # pressed twice is placed once
        cook.post(f"/week/{MONDAY}/place-plain", sent)
    cook.post(f"/week/{MONDAY}/place-plain", {**sent, "gap": racing.slot(kitchen, 2), "id": str(uuid4())})
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    plain = [m for m in picture.meals if str(m.recipe_id) not in before]
    assert len(plain) == 2
    assert len({m.recipe_id for m in plain}) == 1  # the same foods are the same meal
    grams = [sum(p.grams for p in picture.outcome.boxes[str(m.id)].parts) for m in plain]
    assert grams == pytest.approx([90, 90])
    assert [p.recipe.key for p in library.list_recipes(household)] == before
    assert library.list_recipes(household, archived=True) == []
    assert "butter" in text_of(cook.get(f"/shop/{MONDAY}")).lower()
    assert "butter" in text_of(cook.get(f"/week/{MONDAY}"))


@pytest.mark.parametrize("typed", ["", "something nice", "3 pears of love", "-5 g pear\n" * 6])
def test_what_is_not_understood_is_refused_and_kept(cook: Cook, household: Caller, typed: str) -> None:
    kitchen = furnish(household, days=1)
    sent = {"gap": racing.slot(kitchen, 1), "plain": typed, "id": str(uuid4())}
    refused = cook.post(f"/week/{MONDAY}/place-plain", sent, expect=422).text
    assert typed.strip().split("\n")[0] in refused
    cook.post(f"/week/{MONDAY}/place-plain", {**sent, "gap": "nowhere"}, expect=404)
