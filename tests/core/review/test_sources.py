"""Where a nutrient came from: amounts are all that is known of it, whoever is named; and what would help."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.nutrients import Composition, Tally
from goodcrate.core.review.sources import FromFoods, Source, helping, iron_beside, main_sources, sources_of


def food(grams: float, protein: float = 0.0, **others: float) -> Tally:
    return Tally.of(Composition.of({"protein_g": protein, **others}), grams)


FOODS = st.lists(
    st.tuples(st.sampled_from("abc"), st.builds(food, st.floats(0.1, 900), st.floats(0, 90))), min_size=1, max_size=4
)


@given(st.lists(st.tuples(FOODS, st.floats(0, 1)), max_size=6))
def test_the_amounts_are_all_that_was_eaten(boxes: list[tuple[list[tuple[str, Tally]], float]]) -> None:
    eaten = [FromFoods(Tally.sum(t for _, t in foods).scaled(share), tuple(foods)) for foods, share in boxes]
    sources = sources_of(eaten, "protein_g")
    whole = sum(one.eaten.amount("protein_g").value for one in eaten)
    assert sum(s.amount for s in sources) == pytest.approx(whole, abs=1e-9)
    assert not sources or sum(s.share for s in sources) == pytest.approx(1)
    assert [s.amount for s in sources] == sorted((s.amount for s in sources), reverse=True)


def test_a_box_shares_out_what_its_foods_put_in_by_hand() -> None:
    """Half of a pot with 300 g at 20 % and 100 g at 10 %: 30 and 5 g; another food besides brings 7 g."""
    pot = (("turkey thigh", food(300, 20)), ("lentils", food(100, 10)))
    half = FromFoods(food(200, 17.5), pot)
    extra = FromFoods(food(70, 10), (("bread", food(70, 10)),))
    told = [(s.food, round(s.amount, 6)) for s in sources_of([half, extra], "protein_g")]
    assert told == [("turkey thigh", 30), ("bread", 7), ("lentils", 5)]
    assert sources_of([FromFoods(food(10, 50), ())], "protein_g") == [Source("", 5.0, 1.0)], "of no food that is named"


def test_few_are_named_and_never_nobody() -> None:
    shares = (0.3, 0.2, 0.1, 0.1)
    many = [Source(name, share, share) for name, share in zip("abcd", shares, strict=True)]
    assert [s.food for s in main_sources(many)] == ["a", "b"], "half of it is enough"
    small = [Source(name, 0.1, 0.1) for name in "abcdefghij"]
    assert [s.food for s in main_sources(small)] == ["a", "b", "c"]
    assert main_sources([Source("", 1, 1)]) == []


def test_iron_is_counted_beside_vitamin_c_and_calcium() -> None:
    meals = [
        food(100, iron_mg=3, vitamin_c_mg=25, calcium_mg=10),
        food(100, iron_mg=4, vitamin_c_mg=24.9, calcium_mg=300),
        food(100, iron_mg=2.9, vitamin_c_mg=90, calcium_mg=900),
    ]
    with_c, with_calcium = iron_beside(meals)
    assert (with_c.meals, with_c.with_other, with_calcium.with_other) == (2, 1, 1)


def test_a_food_helps_by_its_portion_and_unknown_helps_nobody() -> None:
    """Of 38 g fibre a portion must bring 3.8: beans 150 g × 6 %; flakes of 360 kcal 55.6 g × 11 %; butter none."""
    foods = [
        ("beans", 6.0, 90.0),
        ("rye flakes", 11.0, 360.0),
        ("butter", 0.0, 740.0),
        ("new", None, 90.0),
        ("x", 9, None),
    ]
    assert [(h.food, round(h.amount, 1)) for h in helping(foods, 38)] == [("beans", 9.0), ("rye flakes", 6.1)]
    assert helping([("crispbread", 3.0, 350.0)], 38) == []
    assert helping([("water cress", 3.0, 0.0)], 38)[0].amount == pytest.approx(4.5), "no energy: 150 g of it"
