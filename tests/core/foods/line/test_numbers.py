"""Numbers, amounts and brackets of ingredient lines, in every form cooks use."""

import pytest

from goodcrate.core.foods.line.quantity import brackets_of, take_quantity, take_quantity_anywhere, weight_in
from goodcrate.core.foods.line.words import clean
from goodcrate.core.foods.numbers import number_of
from goodcrate.core.foods.units import LOOSE, MASS, NONE, UNITS, VOLUME


@pytest.mark.parametrize(
    ("typed", "value"),
    [
        ("3", 3),
        ("1½", 1.5),
        ("1 1/2", 1.5),
        ("3/4", 0.75),
        ("0,5", 0.5),
        ("1,500", 1500),
        ("1 and a half", 1.5),
        ("two and a half", 2.5),
        ("half a", 0.5),
        ("a third of a", 1 / 3),
        ("three quarters of a", 0.75),
        ("a dozen", 12),
        ("a few", 3),
        ("7/0", 0),
    ],
)
def test_a_number_has_its_value_in_every_form(typed: str, value: float) -> None:
    assert number_of(typed) == pytest.approx(value)


@pytest.mark.parametrize(
    ("line", "low", "high", "kind", "unit", "rest"),
    [
        ("200g basmati rice", 200, 200, MASS, "g", "basmati rice"),
        ("1 kg potatoes", 1, 1, MASS, "kg", "potatoes"),
        ("2-3 tbsp olive oil", 2, 3, VOLUME, "tablespoon", "olive oil"),
        ("3 to 4 cloves of garlic", 3, 4, LOOSE, "clove", "garlic"),
        ("two eggs", 2, 2, NONE, "", "eggs"),
        ("a small bunch of parsley", 1, 1, LOOSE, "bunch", "parsley"),
        ("handful of walnuts", 1, 1, LOOSE, "handful", "walnuts"),
        ("1 fl oz cream", 1, 1, VOLUME, "fluid_ounce", "cream"),
        ("4 x 150 g salmon fillets", 600, 600, MASS, "g", "salmon fillets"),
        ("thumb-sized piece of ginger", 1, 1, LOOSE, "thumb", "ginger"),
        ("2 cm piece of ginger", 2, 2, LOOSE, "cm", "ginger"),
        ("1-inch piece ginger", 2.54, 2.54, LOOSE, "cm", "ginger"),
        ("about 100 g mushrooms", 100, 100, MASS, "g", "mushrooms"),
    ],
)
def test_an_amount_stands_first(line: str, low: float, high: float, kind: str, unit: str, rest: str) -> None:
    found, left = take_quantity(clean(line))
    assert found is not None
    assert (found.low, found.high) == pytest.approx((low, high))
    assert (found.kind, found.unit, left) == (kind, unit, rest)


@pytest.mark.parametrize(
    ("line", "grams", "rest"),
    [
        ("1 x 250 g tub quark", 250, "quark"),
        ("two 14-oz cans coconut milk", 2 * 14 * 28.3495, "coconut milk"),
        ("one 400g tin of plum tomatoes", 400, "plum tomatoes"),
    ],
)
def test_the_pack_beside_a_weight_is_no_food(line: str, grams: float, rest: str) -> None:
    found, left = take_quantity(clean(line))
    assert found is not None
    assert found.grams == pytest.approx(grams)
    assert found.container
    assert left == rest


@pytest.mark.parametrize(
    ("line", "middle", "unit", "rest"),
    [
        ("olive oil: 3 tbsp", 3, "tablespoon", "olive oil"),
        ("onion x 2", 2, "", "onion"),
        ("paneer, 200 g, cubed", 200, "g", "paneer, cubed"),
        ("stock 1.2 l", 1.2, "litre", "stock"),
        ("eggs 3", 3, "", "eggs"),
    ],
)
def test_an_amount_stands_behind_the_food(line: str, middle: float, unit: str, rest: str) -> None:
    found, left = take_quantity_anywhere(clean(line))
    assert found is not None
    assert (found.middle, found.unit, left) == (middle, unit, rest)


@pytest.mark.parametrize("line", ["salt", "some olive oil", "a little oil", "2% milk fat", "flour 1850"])
def test_what_is_no_amount_is_none(line: str) -> None:
    first, _ = take_quantity(clean(line))
    assert first is None or first.kind == NONE
    assert take_quantity_anywhere("flour 1850")[0] is None


@pytest.mark.parametrize(
    ("inside", "grams", "is_each"),
    [("about 200 g", 200, False), ("140g each", 140, True), ("14.5 ounce", 411.07, False), ("each 80 g", 80, True)],
)
def test_brackets_give_a_weight(inside: str, grams: float, is_each: bool) -> None:
    bare, found = brackets_of(f"2 fillets ({inside}) of cod")
    assert bare == "2 fillets of cod"
    weight, each = weight_in(found[0])
    assert weight is not None
    assert weight.grams == pytest.approx(grams, abs=0.1)
    assert each is is_each
    assert weight_in("any colour") == (None, False)
    assert weight_in("2 cups") == (None, False)


def test_bullets_numbers_and_old_units_fall_away() -> None:
    assert clean("•  1) 300 g Penne") in ("1) 300 g penne", "300 g penne")
    assert clean("1) 300 g penne") == "300 g penne"
    assert clean("700g/1lb 9oz chicken") == "700g chicken"
    assert clean("🍅 2 tomatoes ") == "2 tomatoes"
    assert len(clean("x" * 10_000)) == 400


def test_every_unit_word_has_one_meaning() -> None:
    assert UNITS["rasher"] == UNITS["slice"] == (LOOSE, "slice")
    assert {kind for kind, _ in UNITS.values()} == {MASS, VOLUME, LOOSE}
