"""Foods side by side, and barcodes with their check digits."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.barcodes import check_digit, is_in_store, looks_like_barcode, read_barcode
from goodcrate.core.foods.compare import amounts_of, compare, grams_for, lighter_alike
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.reference import reference_foods

FOODS = reference_foods()
QUARK = replace(FOODS["quark"], price=1.15, pack_g=250, serving_g=125)
CHEESE = replace(FOODS["cottage_cheese"], price=1.45, pack_g=200)
FETA = FOODS["feta"]


def test_each_basis_is_that_much_of_the_food() -> None:
    protein = amounts_of(QUARK, "protein")
    assert protein.grams == pytest.approx(1000 / 12)
    assert protein.figures["protein_g"] == pytest.approx(10)
    assert protein.figures["energy_kcal"] == pytest.approx(55)
    assert protein.price == pytest.approx(1.15 / 250 * 1000 / 12)
    assert amounts_of(QUARK, "kcal").figures["energy_kcal"] == pytest.approx(100)
    assert amounts_of(QUARK, "serving").figures["protein_g"] == pytest.approx(15)
    assert amounts_of(FETA, "serving").figures["protein_g"] is None  # no serving known
    assert amounts_of(FETA, "100g").price is None  # no price known
    assert grams_for(FOODS["salt"], "protein") is None  # no amount of it makes 10 g of protein
    with pytest.raises(InvalidInput, match="nothing we compare by"):
        grams_for(QUARK, "bucket")


def test_the_difference_is_said_in_words_with_its_unit() -> None:
    said = compare([QUARK, CHEESE, FETA]).sentences
    assert said[0] == (
        "The leanest in energy: Quark, virtually fat free, 66 kcal per 100 g against 98 in Cottage cheese, plain, "
        "4 % fat, 33 % less."
    )
    assert said[4] == (
        "The cheapest by weight: Quark, virtually fat free, 0.46 ¤ per 100 g against 0.73 ¤ in Cottage cheese, plain, "
        "4 % fat, 37 % less (1 without the figure)."
    )
    assert "about the same" in compare([QUARK, replace(QUARK, key="other", name="Other quark")]).sentences[0]


@pytest.mark.parametrize("count", [0, 1, 5])
def test_two_to_four_foods_are_compared(count: int) -> None:
    with pytest.raises(InvalidInput, match="cannot be compared"):
        compare(list(FOODS.values())[:count])
    with pytest.raises(InvalidInput, match="twice"):
        compare([QUARK, QUARK])


def test_the_same_food_with_fewer_calories() -> None:
    milk = FOODS["milk_semi_skimmed"]
    found = lighter_alike(milk, list(FOODS.values()))
    assert "Milk, skimmed" in [f.name for f in found]
    energies = [f.composition.get("energy_kcal") or 0 for f in found]
    assert energies == sorted(energies)
    assert all(e < (milk.composition.get("energy_kcal") or 0) * 0.95 for e in energies)


@given(st.sampled_from([7, 11, 12, 13]).flatmap(lambda n: st.text("0123456789", min_size=n, max_size=n)), st.data())
def test_a_check_digit_catches_any_misread_digit(digits: str, data: st.DataObject) -> None:
    code = digits + str(check_digit(digits))
    assert read_barcode(code) == code
    place = data.draw(st.integers(0, len(code) - 1))
    wrong = data.draw(st.sampled_from([d for d in "0123456789" if d != code[place]]))
    with pytest.raises(InvalidInput, match="a digit was misread"):
        read_barcode(code[:place] + wrong + code[place + 1 :])


@pytest.mark.parametrize(
    ("text", "says"), [("12345", "no barcode"), ("ABC", "digits"), ("", "digits"), ("²" * 13, "digits")]
)
def test_what_is_no_barcode_says_why(text: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        read_barcode(text)
    assert not looks_like_barcode(text)


def test_in_store_numbers_are_known_as_such() -> None:
    assert is_in_store("2319425008132")
    assert not is_in_store("5010000000008")
    assert looks_like_barcode(" 2319425008132 ".strip())
