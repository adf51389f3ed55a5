"""What pasted lines are taken for: the food of that name first, and a question where a word names several."""

import pytest

from goodcrate.services.calling import Caller
from goodcrate.services.recipes.pasting import match_lines


@pytest.mark.parametrize(
    ("said", "name"),
    [
        ("30 g garlic", "Garlic, raw, peeled"),
        ("80 g onion", "Onion, brown or white, raw, peeled"),
        ("300 g rice", "Rice, basmati white, dry"),
        ("300 g rice, cooked", "Rice, basmati white, cooked"),
        ("400 g tomatoes", "Tomato, raw"),
        ("100 g egg", "Egg, whole, raw"),
        ("5 g garlic powder", "Garlic powder"),
        ("200 g tomato purée", "Tomato purée, double concentrated"),
        ("20 g rapeseed oil", "Rapeseed oil"),
    ],
)
def test_a_line_is_the_food_of_that_name_before_a_longer_one(household: Caller, said: str, name: str) -> None:
    (line,) = match_lines(household, said)
    assert line.food is not None
    assert (line.food.name, line.doubts) == (name, ())


@pytest.mark.parametrize(
    ("said", "kinds"),
    [
        ("2 g pepper", {"Black pepper", "Sweet pepper"}),
        ("200 g flour", {"Oat flour", "Wheat flour"}),
        ("500 g beef", {"Beef stewing steak", "Beef mince"}),
    ],
)
def test_a_word_that_names_several_foods_is_asked_about(household: Caller, said: str, kinds: set[str]) -> None:
    (line,) = match_lines(household, said)
    assert line.food is not None
    offered = {food.name.split(",")[0] for food in (line.food, *line.others)}
    assert line.doubts[0].startswith("it may also be ")
    assert kinds <= offered
