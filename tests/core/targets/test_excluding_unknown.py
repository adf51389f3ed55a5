"""Foods of which not all is known are free of nothing: their label must be read."""

import pytest

from goodcrate.core.foods.food import UNKNOWN
from goodcrate.core.targets.excluding import Exclusions, why_not_food
from goodcrate.formats.reference import reference_foods

FOODS = reference_foods()
UNREAD = [food for food in FOODS.values() if UNKNOWN in food.allergens]
UNSAID = [food for food in FOODS.values() if food.diet == UNKNOWN]


@pytest.mark.parametrize("allergen", ["nuts", "celery", "lupin"])
def test_nobody_with_an_allergy_gets_what_may_hold_it(allergen: str) -> None:
    eater = Exclusions("Ines", frozenset({allergen}))
    assert len(UNREAD) > 800
    assert all(why_not_food(eater, food) for food in UNREAD)
    assert why_not_food(eater, FOODS["carrot_raw"]) is None
    said = why_not_food(eater, next(f for f in UNREAD if allergen not in f.allergens))
    assert said is not None
    assert "read its label for Ines" in said


@pytest.mark.parametrize("diet", ["vegetarian", "plant"])
def test_what_it_is_made_of_is_not_known_is_outside_each_diet(diet: str) -> None:
    eater = Exclusions("Ines", diet=diet)
    assert len(UNSAID) > 400
    assert all(why_not_food(eater, food) for food in UNSAID)


def test_it_may_hold_pork() -> None:
    eater = Exclusions("Ines", no_pork=True)
    assert all("pork" in (why_not_food(eater, food) or "") for food in UNSAID)
    assert why_not_food(eater, FOODS["turkey_thigh_raw"]) is None


def test_who_excludes_nothing_gets_all() -> None:
    assert not any(why_not_food(Exclusions("Ines"), food) for food in UNREAD)
