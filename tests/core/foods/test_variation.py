"""As foods vary: the table, the tolerances of labels, and how foods add up."""

from dataclasses import replace

import pytest

from goodcrate.core.foods.variation import VARIATIONS, kind_of, label_tolerance, spread_of, spread_per_100_g
from goodcrate.core.ground.nutrients import NUTRIENTS, Composition, Tally
from goodcrate.formats.reference import reference_foods
from goodcrate.settings import CHECKOUT

FOODS = reference_foods()


@pytest.mark.parametrize(
    ("key", "kind"),
    [
        ("rapeseed_oil", "pure"),
        ("pearl_barley_dry", "dry"),
        ("lentils_green_dry", "dry"),
        ("bread_rye", "made"),
        ("quark", "dairy"),
        ("turkey_thigh_raw", "animal"),
        ("tomato_raw", "produce"),
        ("mustard_smooth", "made"),
    ],
)
def test_each_food_has_its_row(key: str, kind: str) -> None:
    assert kind_of(FOODS[key]) == kind
    food, row = FOODS[key], VARIATIONS[kind]
    assert spread_per_100_g(food)["protein_g"] == pytest.approx((food.composition.get("protein_g") or 0) * row.protein)


@pytest.mark.parametrize(
    ("key", "figure", "tolerance"),
    [
        ("protein_g", 5.0, 2.0),
        ("protein_g", 20.0, 4.0),
        ("protein_g", 60.0, 8.0),
        ("fat_g", 5.0, 1.5),
        ("fat_g", 30.0, 6.0),
        ("saturated_g", 2.0, 0.8),
        ("sodium_mg", 300.0, 150.0),
        ("sodium_mg", 900.0, 180.0),
        ("iron_mg", 4.0, 1.8),
        ("vitamin_c_mg", 40.0, 20.0),
    ],
)
def test_a_label_may_be_so_far_off(key: str, figure: float, tolerance: float) -> None:
    assert label_tolerance(key, figure) == pytest.approx(tolerance)


def test_a_label_varies_by_half_its_tolerance_and_its_energy_follows() -> None:
    label = Composition.of(
        {"energy_kcal": 200.0, "protein_g": 20.0, "fat_g": 5.0, "carbohydrate_g": 15.0, "fibre_g": 3.0}
    )
    food = replace(FOODS["quark"], composition=label, source="its label, typed by you")
    spread = spread_per_100_g(food)
    assert spread["protein_g"] == pytest.approx(2.0)
    assert spread["fat_g"] == pytest.approx(0.75)
    by_hand = ((2.0 * 4) ** 2 + (0.75 * 9) ** 2 + (1.5 * 4) ** 2 + (1.0 * 2) ** 2) ** 0.5
    assert spread["energy_kcal"] == pytest.approx(by_hand)


def test_unknown_figures_have_no_spread_and_known_ones_do() -> None:
    for food in FOODS.values():
        spread = spread_per_100_g(food)
        assert spread.keys() == {n.key for n in NUTRIENTS if food.composition.get(n.key) is not None}
        assert all(error >= 0 for error in spread.values())


def test_one_food_twice_adds_up_straight_and_two_in_quadrature() -> None:
    turkey, cabbage = FOODS["turkey_thigh_raw"], FOODS["cabbage_raw"]
    one, other = spread_of([(turkey, 300)])["energy_kcal"], spread_of([(cabbage, 400)])["energy_kcal"]
    assert spread_of([(turkey, 100), (turkey, 200)])["energy_kcal"] == pytest.approx(one)
    assert spread_of([(turkey, 300), (cabbage, 400)])["energy_kcal"] == pytest.approx((one**2 + other**2) ** 0.5)
    assert spread_of([(turkey, 300), (turkey, -300)])["energy_kcal"] == pytest.approx(0.0)


def test_net_carbohydrate_of_a_tally_carries_its_doubt() -> None:
    made = Composition.of({"carbohydrate_g": 40.0, "fibre_g": 10.0, "polyols_g": 6.0})
    net = Tally.of(made, 200.0, 10.0, "line").net_carbohydrate(0.5)
    assert net.value == pytest.approx(2 * (40 - 10 - 3))
    assert net.standard_error == pytest.approx(0.1 * (40 - 10 - 3))
    assert made.net_carbohydrate_g(0.5) == pytest.approx(27.0)
    part = Tally.of(Composition.of({"carbohydrate_g": 10.0}), 50.0)
    assert (Tally.of(made, 200.0) + part).net_carbohydrate(0.5).is_at_least


def test_the_table_stands_on_its_page() -> None:
    page = (CHECKOUT / "docs" / "as-foods-vary.md").read_text()
    for row in VARIATIONS.values():
        figures = (row.energy, row.protein, row.fat, row.carbohydrate, row.fibre, row.sodium)
        cells = " | ".join(f"{100 * figure:g} %" for figure in figures)
        assert f"| {row.words} | {cells} | {row.reasoning} |" in page
