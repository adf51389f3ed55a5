"""Pasted lines against a household's foods: own labels first, habits that were confirmed, amounts a field can take."""

from dataclasses import replace

import pytest

from goodcrate.core.foods.measures import read_amount
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.recipes import habits
from goodcrate.services.recipes.pasting import MatchedLine, match_lines, weighed_foods
from goodcrate.services.week.weeks import new_id


def match(caller: Caller, line: str) -> MatchedLine:
    """One pasted line."""
    (found,) = match_lines(caller, line)
    return found


@pytest.mark.parametrize(
    ("said", "key"),
    [
        ("30 g garlic", "garlic_raw"),
        ("80 g onion", "onion_raw"),
        ("300 g rice", "rice_white_dry"),
        ("300 g cooked rice", "rice_white_cooked"),
        ("400 g tomatoes", "tomato_raw"),
        ("100 g egg", "egg_whole_raw"),
        ("5 g garlic powder", "garlic_powder"),
        ("200 g tomato purée", "tomato_puree"),
        ("20 g rapeseed oil", "rapeseed_oil"),
    ],
)
def test_a_line_is_the_food_a_kitchen_means(household: Caller, said: str, key: str) -> None:
    found = match(household, said)
    assert found.food is not None
    assert (found.food.key, found.doubts) == (key, ())
    assert found.amount_text.endswith(" g")


@pytest.mark.parametrize(
    ("said", "amount"),
    [
        ("250 g pearl barley", "250 g"),
        ("2 tbsp olive oil", "2 tbsp"),
        ("2-3 tbsp olive oil", "2–3 tbsp"),
        ("1 heaped tsp paprika", "1 heaped tsp"),
        ("2 eggs", "2 pcs"),
        ("1 x 400 g tin kidney beans, drained", "240 g"),
        ("2 cod fillets (140 g each)", "280 g"),
        ("1 bunch parsley", "1 bunch"),
        ("a few sprigs of thyme", "3 sprig"),
        ("2 large carrots", "182 g by eye"),
        ("salt to taste", ""),
        ("120 kcal hazelnuts", "120 kcal"),
        ("25 g protein from turkey breast", "25 g of protein"),
    ],
)
def test_an_amount_comes_as_the_field_reads_it(household: Caller, said: str, amount: str) -> None:
    found = match(household, said)
    assert found.food is not None
    if amount.startswith("25 g"):
        assert "protein" in found.amount_text
    else:
        assert found.amount_text == amount
    if amount:
        weighed = own_foods.measuring(household, {found.food.key}).weigh(found.typed, found.food)
        assert weighed.amount.grams > 0
        assert read_amount(found.amount_text)


def test_next_foods_are_offered_with_every_line(household: Caller) -> None:
    sure = match(household, "100 g cheddar")
    assert sure.doubts == ()
    assert len(sure.others) >= 1
    assert sure.food not in sure.others


def test_what_is_nearest_is_offered_and_never_taken(household: Caller) -> None:
    line = match(household, "paneer, 200 g, cubed")
    assert line.doubts
    assert line.food is not None
    assert [f.key for f in (line.food, *line.others)][:1] == ["queso_fresco_fresh_white_cheese"]
    assert line.amount_text == "200 g"
    assert match(household, "2 tbsp pomegranate molasses").doubts  # molasses alone is known
    assert match(household, "2 tbsp molasses").doubts == ()
    assert match(household, "1 piece of paneer").amount_text == ""  # what a piece of it weighs nobody knows
    found = own_foods.find_foods(household, "paneer", 10)
    assert found[0].food.key == "queso_fresco_fresh_white_cheese"
    label = {"basis": "100g", "energy_kcal": "320", "protein_g": "19", "fat_g": "26", "carbohydrate_g": "3"}
    labels.save_food(household, labels.FoodInput(new_id(), "Paneer", label, "ready", "dairy", diet="dairy"))
    own = match(household, "200 g paneer")
    assert own.food is not None
    assert (own.food.name, own.doubts) == ("Paneer", ())


def test_a_food_with_the_households_own_label_goes_before_the_tables(household: Caller) -> None:
    label = {"basis": "100g", "energy_kcal": "60", "protein_g": "10", "fat_g": "0.2", "carbohydrate_g": "4"}
    labels.save_food(household, labels.FoodInput(new_id(), "Skyr", label, "ready", "dairy", diet="dairy"))
    found = match(household, "200 g skyr")
    assert found.food is not None
    assert found.food.key not in reference_foods()
    assert (found.food.name, found.doubts, found.amount_text) == ("Skyr", (), "200 g")
    assert "skyr" in {food.key for food in found.others}


def test_what_was_confirmed_is_remembered_and_what_was_merely_taken_is_not(household: Caller) -> None:
    before = match(household, "200 g Greek yoghurt")
    assert before.doubts == ("how much fat?",)
    habits.remember(household, {"200 g Greek yoghurt": "yoghurt_strained_0", "100 g cheddar": "cheddar"})
    after = match(household, "150 g greek yoghurt")
    assert after.food is not None
    assert (after.food.key, after.doubts, after.amount_text) == ("yoghurt_strained_0", (), "150 g")
    habits.remember(household, {"2 tbsp Greek yoghurt": "yoghurt_strained_10"})
    assert match(household, "150 g greek yoghurt").food == reference_foods()["yoghurt_strained_10"]
    with household.transaction() as session:
        assert set(habits.habits_of(session)) == {"greek yoghurt"}


def test_a_neighbours_habits_are_their_own(household: Caller, neighbour: Caller) -> None:
    habits.remember(neighbour, {"200 g Greek yoghurt": "yoghurt_strained_0"})
    assert match(household, "200 g Greek yoghurt").doubts


def test_a_habit_leaves_the_question_how_much(household: Caller) -> None:
    habits.remember(household, {"some cream": "cream_double"})
    found = match(household, "some cream")
    assert found.food == reference_foods()["cream_double"]
    assert found.doubts == ("no amount is given",)


def test_a_long_line_is_kept_with_a_sign_and_too_many_are_refused(household: Caller) -> None:
    found = match(household, "200 g oats " + "very " * 100)
    assert len(found.text) == 200
    assert found.text.endswith("…")
    with pytest.raises(InvalidInput, match="301 lines"):
        match_lines(household, "1 egg\n" * 301)


def test_extras_must_be_sure(household: Caller) -> None:
    with household.transaction() as session:
        (milk,) = weighed_foods(session, "200 ml whole milk", "extras", "200 ml whole milk")
        assert milk.food_key == "milk_whole"
        assert milk.amount.grams == pytest.approx(206, abs=2)
        with pytest.raises(InvalidInputs, match="single, whipping or double"):
            weighed_foods(session, "50 ml cream", "extras", "200 ml whole milk")


def test_the_finder_puts_what_the_words_mean_first(household: Caller) -> None:
    for words, key in (
        ("onion", "onion_raw"),
        ("garlic", "garlic_raw"),
        ("milk", "milk_semi_skimmed"),
        ("rice", "rice_white_dry"),
    ):
        found = own_foods.find_foods(household, words, 10)
        assert found[0].food.key == key
        assert len({f.food.key for f in found}) == len(found) > 3


def test_what_a_kitchen_taught_of_a_piece_goes_before_the_tables(household: Caller) -> None:
    garlic = reference_foods()["garlic_raw"]
    measures = own_foods.measuring(household, {"garlic_raw"})
    usual = measures.weigh(read_amount("3 cloves"), garlic).amount.grams
    own = measures.weigh(read_amount("3 cloves"), replace(garlic, each_g=7.0)).amount.grams
    assert (usual, own) == (12, 21)
    cucumber = reference_foods()["cucumber_raw"]
    assert measures.weigh(read_amount("6 slices"), cucumber).amount.grams == pytest.approx(42, abs=5)
