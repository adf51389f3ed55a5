"""Amounts: standard errors, and typed text read where its meaning is plain."""

import csv
from importlib import resources
from math import isclose, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.amounts import (
    MEASURES,
    UNIT_GRAMS,
    amount_of,
    difference_error_g,
    read_grams,
    read_number,
    reading_error_g,
)
from goodcrate.core.ground.errors import InvalidInput


@pytest.mark.parametrize(
    ("typed", "grams"),
    [
        ("250", 250),
        (" 250 g ", 250),
        ("250g", 250),
        ("1,5 kg", 1500),
        ("1.5kg", 1500),
        ("1,500 kg", 1500),
        ("0,5", 0.5),
        (".5", 0.5),
        ("1 200 g", 1200),
        ("1.234,5", 1234.5),
        ("1,234.5 g", 1234.5),
        ("2 oz", 56.7),
        ("1 lb", 453.6),
        ("12.34", 12.3),
        ("12,5", 12.5),
        ("1.250 kg", 1250),
        ("1.2550", 1.3),
        ("0.250", 0.3),
        ("0", 0),
    ],
)
def test_plain_meanings_are_taken(typed: str, grams: float) -> None:
    assert read_grams(typed, "amount") == grams


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "No amount"),
        ("   ", "No amount"),
        ("a handful", "not an amount"),
        ("-3", "negative"),
        ("−3 g", "negative"),
        ("20 kg", "home kitchen"),
        ("250 ml", "unit of weight"),
        ("1,500", "1500 or 1.5"),
        ("1.250", "1250 or 1.25"),
        ("1.255 g", "1255 or 1.2550"),
        ("1,23.4", "not a number"),
        ("12,34,56", "not a number"),
        ("12 5", "not a number"),
        ("1..5", "not a number"),
        ("250 g 3", "not an amount"),
        ("NaN", "not an amount"),
        ("1e9", "not an amount"),
    ],
)
def test_anything_else_is_asked_back_at_its_field(typed: str, says: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        read_grams(typed, "amount-3")
    assert caught.value.field == "amount-3"
    assert says in caught.value.message


def test_a_scale_reading_has_its_resolution_over_root_three() -> None:
    assert isclose(reading_error_g(1), 0.577, abs_tol=0.001)
    assert isclose(difference_error_g(1), reading_error_g(1) * sqrt(2))
    assert amount_of(300).standard_error_g == reading_error_g()
    assert amount_of(0).standard_error_g == 0


def test_measures_and_units_are_those_of_the_shipped_table() -> None:
    text = (resources.files("goodcrate") / "reference" / "measures.csv").read_text()
    rows = [r for r in csv.DictReader(text.splitlines()) if r["convention"] in ("any", "metric")]
    share = {
        r["measure"]: float(r["typical_relative_error_pct"]) / 100 for r in rows if r["typical_relative_error_pct"]
    }
    grams = {r["measure"]: float(r["value"]) for r in rows if r["kind"] == "mass"}
    for key, row in (("pack", "pack_stated_weight"), ("count", "piece"), ("volume", "cup"), ("eye", "by_eye")):
        assert MEASURES[key].relative_error == share[row]
        assert isclose(amount_of(200, key).standard_error_g, 200 * share[row])
    assert (UNIT_GRAMS["kg"], UNIT_GRAMS["oz"], UNIT_GRAMS["lb"]) == (grams["kg"], grams["ounce"], grams["pound"])


def test_unknown_measures_and_negative_amounts_are_refused() -> None:
    with pytest.raises(InvalidInput, match="guess"):
        amount_of(5, "guess")
    with pytest.raises(InvalidInput, match="negative"):
        amount_of(-5)
    with pytest.raises(InvalidInput, match="scale"):
        reading_error_g(0)


def test_an_ambiguous_number_is_read_where_only_one_meaning_fits() -> None:
    assert read_number("2,450", "energy", smallest=100) == 2450
    assert read_number("2.450", "yield", largest=12) == 2.45
    assert read_number("1.234", "cell", is_point_decimal=True) == 1.234
    assert read_number("1.234.567", "n") == read_number("1,234,567", "n") == read_number("1 234 567", "n") == 1234567
    with pytest.raises(InvalidInput, match="two ways"):
        read_number("1,234", "cell", is_point_decimal=True)


@given(st.floats(0.0, 99999.0).map(lambda x: round(x, 2)))
def test_a_decimal_comma_is_never_thousands(value: float) -> None:
    typed = f"{value:.2f}"
    assert read_number(typed.replace(".", ","), "n") == read_number(typed, "n") == value
