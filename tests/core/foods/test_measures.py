"""Amounts by any measure: what is typed, what it weighs, and how sure that is."""

from dataclasses import replace
from math import hypot, isclose, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.measures import (
    CONVENTIONS,
    FactMissing,
    counted_if_bare,
    is_a_count_of_nothing,
    read_amount,
    split_amount,
)
from goodcrate.core.foods.weighed_amounts import Partner, count_error, state_slip, weigh
from goodcrate.core.ground.amounts import reading_error_g
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.reference import measure_table, reference_foods

TABLE, FOODS = measure_table(), reference_foods()


def grams_of(text: str, key: str, convention: str = "metric") -> float:
    return weigh(read_amount(text), FOODS[key], TABLE, convention).amount.grams


@pytest.mark.parametrize(
    ("text", "rest", "low", "high", "unit"),
    [
        ("37 g hazelnuts", "hazelnuts", 37, 37, "g"),
        ("1 ½ cups of rolled oats", "rolled oats", 1.5, 1.5, "cup"),
        ("1 1/2 tbsp rapeseed oil", "rapeseed oil", 1.5, 1.5, "tablespoon"),
        ("½ avocado", "avocado", 0.5, 0.5, ""),
        ("half a lemon", "lemon", 0.5, 0.5, ""),
        ("two eggs", "eggs", 2, 2, ""),
        ("2–3 cloves garlic", "garlic", 2, 3, "clove"),
        ("2 to 3 tsp cumin", "cumin", 2, 3, "teaspoon"),
        ("a handful of walnuts", "walnuts", 1, 1, "handful"),
        ("2 heaped tsp cocoa", "cocoa", 2, 2, "teaspoon_heaped"),
        ("3 fl oz milk", "milk", 3, 3, "fluid_ounce"),
        ("2 x 400 g tins black-eyed beans", "black-eyed beans", 800, 800, "g"),
        ("1,5 kg swede", "swede", 1.5, 1.5, "kg"),
        ("1,500 kg swede", "swede", 1.5, 1.5, "kg"),
    ],
)
def test_an_amount_is_split_off_what_follows(text: str, rest: str, low: float, high: float, unit: str) -> None:
    typed, left = split_amount(text)
    assert typed is not None
    assert (left, typed.low, typed.high, typed.unit) == (rest, low, high, unit)


@pytest.mark.parametrize("text", ["hazelnuts", "a pear", "4 % fat quark", "oil, rapeseed", ""])
def test_a_name_is_no_amount(text: str) -> None:
    assert split_amount(text) == (None, text)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "No amount"),
        ("some", "not an amount"),
        ("-5 g", "negative"),
        ("1,500 g", "two ways"),
        ("3-2 tbsp", "large to small"),
        ("1/0 cup", "divides by nothing"),
        ("12 parsecs", "no measure"),
        ("11 kg", "more than a home kitchen"),
        ("nan", "not an amount"),
        ("1e999", "no measure"),
    ],
)
def test_amounts_that_cannot_be_say_why(text: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=says) as caught:
        weigh(read_amount(text, "line-1-amount"), FOODS["swede_raw"], TABLE, field="line-1-amount")
    assert caught.value.field == "line-1-amount"


@pytest.mark.parametrize(
    ("text", "key", "grams"),
    [
        ("250", "swede_raw", 250),
        ("1 lb", "swede_raw", 453.6),
        ("2 oz", "walnuts", 56.7),
        ("2 tbsp", "rapeseed_oil", 27.5),  # 2 × 15 ml × 0.915 g per ml
        ("1 cup", "rolled_oats_dry", 95),  # 250 ml × 0.38
        ("2 pcs", "egg_whole_raw", 102),
        ("1 pack", "tempeh", 200),
        ("a handful", "walnuts", 30),
        ("1 splash", "milk_semi_skimmed", 12.9),  # 12.5 ml × 1.03
        ("200 g as bought", "orange_raw", 144),  # 28 % peel
        ("180 g cooked", "pearl_barley_dry", 63.2),  # ÷ 2.85
        ("180 g raw", "pearl_barley_dry", 180),
    ],
)
def test_what_an_amount_weighs(text: str, key: str, grams: float) -> None:
    assert grams_of(text, key) == grams


def test_cups_and_spoons_are_the_households_own() -> None:
    spoons = {convention: grams_of("1 tbsp", "milk_semi_skimmed", convention) for convention in CONVENTIONS}
    assert spoons == {"metric": 15.5, "us": 15.2, "australian": 20.6, "imperial": 18.3}
    assert grams_of("1 dessertspoon", "milk_semi_skimmed", "us") == 10.3  # the US set has none: the metric one


def test_a_cooked_food_is_weighed_dry_by_the_food_it_comes_from() -> None:
    barley = FOODS["pearl_barley_cooked"]
    weighed = weigh(read_amount("50 g dry"), barley, TABLE, raw_partner=Partner("Pearl barley, dry", 2.85))
    assert weighed.amount.grams == 142.5
    assert weighed.was_converted
    assert "of pearl barley, dry × 2.85" in weighed.working
    with pytest.raises(InvalidInput, match="not known"):
        weigh(read_amount("50 g dry"), barley, TABLE)


@pytest.mark.parametrize(
    ("text", "fact"),
    [
        ("2 tbsp", "density_g_per_ml"),
        ("2 slices", "each_g"),
        ("1 tin", "pack_g"),
        ("80 g cooked", "cooked_yield"),
        ("80 g as bought", "refuse_pct"),
    ],
)
def test_a_fact_that_is_missing_is_asked_for(text: str, fact: str) -> None:
    bare = replace(
        FOODS["tempeh"],
        state="raw",
        density_g_per_ml=None,
        each_g=None,
        pack_g=None,
        cooked_yield=None,
        refuse_pct=None,
    )
    with pytest.raises(FactMissing) as caught:
        weigh(read_amount(text), bare, TABLE)
    assert caught.value.fact == fact
    assert caught.value.ask.endswith(("?", "."))


@given(st.integers(1, 400).map(lambda n: n / 4), st.sampled_from(["tbsp", "tsp", "cup", "ml", "l", "fl oz", "dl"]))
def test_a_volumes_error_is_its_measures_share(quantity: float, unit: str) -> None:
    oil = FOODS["rapeseed_oil"]
    try:
        amount = weigh(read_amount(f"{quantity} {unit}"), oil, TABLE).amount
    except InvalidInput:
        return  # more than a kitchen handles
    key = read_amount(f"1 {unit}").unit
    share = TABLE.get("teaspoon").relative_error if unit == "ml" and quantity < 15 else TABLE.get(key).relative_error
    assert isclose(amount.standard_error_g, share * amount.grams, rel_tol=0.02, abs_tol=0.01)
    assert amount.measure == "volume"


@given(st.integers(1, 60), st.integers(0, 20))
def test_a_range_is_its_middle_and_its_width_is_doubt(low: int, width: int) -> None:
    amount = weigh(read_amount(f"{low}-{low + width} g"), FOODS["swede_raw"], TABLE).amount
    assert isclose(amount.grams, low + width / 2)
    assert isclose(amount.standard_error_g, hypot(reading_error_g(), width / 2 / sqrt(3)))
    assert amount.is_read_off_a_scale is (width == 0)


def test_many_pieces_even_out_but_not_below_what_a_typical_piece_is_sure_to() -> None:
    assert [round(count_error(n, 0.15), 3) for n in (1, 2, 4, 100)] == [0.15, 0.106, 0.08, 0.08]
    assert count_error(9, 0.06) == 0.06  # graded eggs are surer than that from the start


def test_by_eye_is_believed() -> None:
    for text in ("40 g by eye", "about 40 g", "~40 g"):
        amount = weigh(read_amount(text), FOODS["honey"], TABLE).amount
        assert (amount.measure, round(amount.standard_error_g, 1)) == ("eye", 14)


def test_a_conversion_adds_its_own_doubt_and_survives_scaling() -> None:
    amount = weigh(read_amount("900 g cooked"), FOODS["pearl_barley_dry"], TABLE).amount
    assert amount.standard_error_g == pytest.approx(hypot(0.577 / 2.85, 900 / 2.85 * 0.05), rel=1e-3)
    half = amount.scaled_to(amount.grams / 2)
    assert half.standard_error_g == pytest.approx(amount.standard_error_g / 2)
    assert weigh(read_amount("300 g"), FOODS["swede_raw"], TABLE).amount.scaled_to(5).standard_error_g == pytest.approx(
        reading_error_g()
    )


def test_a_bare_number_counts_what_comes_in_pieces() -> None:
    typed, _ = split_amount("2 eggs")
    assert typed is not None
    assert counted_if_bare(typed, FOODS["egg_whole_raw"]).unit == "piece"
    assert counted_if_bare(typed, FOODS["pearl_barley_dry"]).unit == ""
    many, _ = split_amount("250 eggs")
    assert many is not None
    assert counted_if_bare(many, FOODS["egg_whole_raw"]).unit == ""


def test_dry_figures_on_a_cooked_weight_are_queried() -> None:
    barley, oats = FOODS["pearl_barley_dry"], FOODS["rye_flakes_dry"]

    def slip(text: str, servings: float) -> float | None:
        found = state_slip(weigh(read_amount(text), barley, TABLE).amount, barley, servings)
        return None if found is None else round(found.as_dry_g)

    assert slip("900 g", 4) == 316
    assert slip("900 g", 8) is None  # 112 g each is a large dry portion, no slip
    assert slip("900 g dry", 4) is None  # the cook said so
    assert slip("900 g cooked", 4) is None
    assert state_slip(weigh(read_amount("900 g"), oats, TABLE).amount, replace(oats, cooked_yield=None), 4) is None


@pytest.mark.parametrize(
    ("typed", "food", "key", "grams"),
    [
        ("120 kcal almonds", "almonds", "almonds", 20.7),
        ("350 kcal of dry barley", "dry barley", "pearl_barley_dry", 101.2),
        ("500 kJ hazelnuts", "hazelnuts", "hazelnuts", 19.0),
        ("25 g of protein from turkey", "turkey", "turkey_breast_raw", 105.5),
        ("25 g protein turkey breast", "turkey breast", "turkey_breast_raw", 105.5),
    ],
)
def test_an_energy_or_a_nutrient_is_turned_into_grams(typed: str, food: str, key: str, grams: float) -> None:
    amount, rest = split_amount(typed)
    assert amount is not None
    assert rest == food
    weighed = weigh(amount, FOODS[key], TABLE)
    figure = FOODS[key].composition.get(amount.unit) or 0.0
    assert weighed.amount.grams * figure / 100 == pytest.approx(amount.quantity, rel=0.01)
    assert weighed.amount.grams == pytest.approx(grams, rel=0.03)
    assert "÷" in weighed.working


def test_a_nutrient_that_a_food_does_not_hold_gives_no_grams() -> None:
    amount, _ = split_amount("20 g protein from oil")
    assert amount is not None
    with pytest.raises(InvalidInput, match="holds none"):
        weigh(amount, FOODS["rapeseed_oil"], TABLE)


@pytest.mark.parametrize(
    "typed", ["30 g protein powder", "120 g almonds", "calamari", "2 eggs", "100 g fat free quark"]
)
def test_a_food_that_is_named_after_a_nutrient_is_weighed(typed: str) -> None:
    amount, _ = split_amount(typed)
    assert amount is None or amount.kind != "nutrient"


def test_a_bare_number_of_what_comes_in_no_pieces_counts_nothing() -> None:
    foods = reference_foods()
    two, _ = split_amount("2 eggs")
    assert two is not None
    assert not is_a_count_of_nothing(two, foods["egg_whole_raw"], "eggs")
    assert is_a_count_of_nothing(two, foods["egg_noodles_dry"], "eggs")
    grams, _ = split_amount("250 barley")
    assert grams is not None
    assert not is_a_count_of_nothing(grams, foods["pearl_barley_dry"], "barley")
