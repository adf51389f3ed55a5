"""Labels: the same food on any basis and in any convention comes out the same, and what cannot be is refused."""

from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.label import read_label, with_changes
from goodcrate.core.foods.label_figures import BASES, FIBRE
from goodcrate.core.ground.amounts import is_ambiguous
from goodcrate.core.ground.nutrients import Composition, Tally, net_carbohydrate_g

grams = st.integers(0, 250).map(lambda n: n / 10)


@st.composite
def foods_per_100_g(draw: st.DrawFn) -> dict[str, float]:
    """A possible food per 100 g: parts within their wholes, no more than 100 g in all."""
    fat, available, fibre, protein = draw(grams), draw(grams), draw(grams), draw(grams)
    salt = draw(st.integers(0, 300)) / 100
    energy = 9 * fat + 4 * available + 2 * fibre + 4 * protein
    return {"fat": fat, "available": available, "fibre": fibre, "protein": protein, "salt": salt, "energy": energy}


def printed(food: dict[str, float], factor: float, fibre: str, in_kj: bool, as_sodium: bool) -> dict[str, str]:
    """The food's label on a basis that is `factor` × 100 g, to many digits."""

    def figure(value: float) -> str:
        return f"{value * factor:.9f}"

    label = {"fat_g": figure(food["fat"]), "fibre_g": figure(food["fibre"]), "protein_g": figure(food["protein"])}
    label["fibre"] = fibre
    label["carbohydrate_g"] = figure(food["available"] + (food["fibre"] if fibre == "inside" else 0))
    label["energy_kj" if in_kj else "energy_kcal"] = figure(food["energy"] * (4.184 if in_kj else 1))
    label["sodium_mg" if as_sodium else "salt_g"] = figure(food["salt"] * (400 if as_sodium else 1))
    return label


@given(
    foods_per_100_g(),
    st.sampled_from(sorted(BASES)),
    st.integers(5, 2000),
    st.sampled_from(sorted(FIBRE)),
    st.booleans(),
    st.booleans(),
)
def test_any_basis_and_convention_gives_the_same_food(
    food: dict[str, float], basis: str, weight: int, fibre: str, in_kj: bool, as_sodium: bool
) -> None:
    factor = {"100g": 1.0, "100ml": 1.04}.get(basis, weight / 100)
    label = printed(food, factor, fibre, in_kj, as_sodium) | {"basis": basis}
    label |= {"100g": {}, "100ml": {"density": "104"}}.get(basis, {"basis_g": str(weight), "pieces": "3"})
    reading = read_label(label)
    assert reading.faults == ()
    assert [q for q in reading.queries if q.field != "pieces"] == []
    got = reading.composition
    for key, wanted in (
        ("energy_kcal", food["energy"]),
        ("fat_g", food["fat"]),
        ("carbohydrate_g", food["available"] + food["fibre"]),
        ("fibre_g", food["fibre"]),
        ("protein_g", food["protein"]),
        ("sodium_mg", food["salt"] * 400),
    ):
        figure = got.get(key)
        assert figure is not None
        assert isclose(figure, wanted, rel_tol=1e-6, abs_tol=1e-5), key


@given(st.floats(0.1, 900), st.integers(0, 3))
def test_kj_and_kcal_of_the_same_energy_read_the_same(kcal: float, decimals: int) -> None:
    by_kj = read_label({"energy_kj": f"{kcal * 4.184:.6f}"}).composition.get("energy_kcal")
    assert by_kj is not None
    assert isclose(by_kj, kcal, rel_tol=1e-5)
    printed = f"{kcal:.{decimals}f}"
    if is_ambiguous(printed):
        return  # asked back, see test_amounts
    reading = read_label({"energy_kcal": printed})
    assert reading.composition.errors_per_100_g[0] == pytest.approx(10**-decimals / 12**0.5)


@pytest.mark.parametrize(
    ("label", "field", "says"),
    [
        ({"protein_g": "130"}, "protein_g", "130 g in 100 g is not possible"),
        ({"carbohydrate_g": "20", "sugars_g": "21"}, "sugars_g", "more than the 20.0 g of carbohydrate"),
        ({"fat_g": "3", "saturated_g": "5"}, "saturated_g", "more than the 3.0 g of fat"),
        ({"fat_g": "-3"}, "fat_g", "cannot be negative"),
        ({"energy_kcal": "901.9", "fat_g": "60", "protein_g": "60"}, "protein_g", "come to 120 g in 100 g"),
        ({"salt_g": "130"}, "salt_g", "more than pure salt"),
        ({"energy_kj": "3900"}, "energy_kj", "more than pure fat"),
        ({"fat_g": "lots"}, "fat_g", "not a number"),
        ({"sodium_mg": "1,500"}, "sodium_mg", "two ways"),
        ({"basis": "serving", "energy_kcal": "100"}, "basis_g", "weighs how much"),
        ({"basis": "serving", "basis_g": "0", "energy_kcal": "100"}, "basis_g", "cannot be 0 g"),
        ({"basis": "pack", "basis_g": "9 kg", "energy_kcal": "100"}, "basis_g", "more than a pack holds"),
        ({"basis": "pieces", "pieces": "0", "basis_g": "15"}, "pieces", "not possible"),
        ({"basis": "100ml", "energy_kcal": "40"}, "density", "need a density"),
        ({"basis": "100ml", "density": "0.9", "energy_kcal": "40"}, "density", "not possible"),
        ({"basis": "bucket"}, "basis", "no basis"),
        ({"fibre": "sideways"}, "fibre", "no way to list fibre"),
        ({"fibre": "inside", "carbohydrate_g": "5", "fibre_g": "9"}, "fibre_g", "listed apart"),
    ],
)
def test_what_no_label_can_say_is_refused_at_its_field(label: dict[str, str], field: str, says: str) -> None:
    faults = read_label(label).faults
    assert [f.field for f in faults] == [field]
    assert says in faults[0].message


def test_rounding_alone_never_makes_a_label_impossible() -> None:
    """An oil by the spoon: 14 g of fat, 2 g saturated in 14 g; sugar lumps of 4 g with 4 g of sugars."""
    assert read_label({"basis": "serving", "basis_g": "13.6", "energy_kcal": "122", "fat_g": "14"}).faults == ()
    lump = {"basis": "pieces", "basis_g": "3.7", "energy_kcal": "15", "carbohydrate_g": "4", "sugars_g": "4"}
    assert read_label(lump).faults == ()


def test_two_units_of_the_same_thing_are_compared() -> None:
    (query,) = read_label({"energy_kcal": "412", "energy_kj": "1274"}).queries
    assert "1274 kJ are 304 kcal" in query.problem
    assert [dict(c.changes) for c in query.corrections] == [{"energy_kcal": "304"}, {"energy_kj": ""}]
    (query,) = read_label({"salt_g": "0.4", "sodium_mg": "0.16"}).queries
    assert query.corrections[0].changes["sodium_mg"] == "160"
    assert read_label({"energy_kcal": "304", "energy_kj": "1274", "salt_g": "0.4", "sodium_mg": "160"}).queries == ()


@given(foods_per_100_g())
def test_a_correction_that_is_offered_ends_its_query(food: dict[str, float]) -> None:
    label = printed(food, 1.0, "apart", False, False)
    label["energy_kj"] = label.pop("energy_kcal")  # kcal typed in the field for kJ
    for query in read_label(label).queries:
        for correction in query.corrections:
            after = read_label(with_changes(label, correction))
            assert [q.field for q in after.queries] == []


def test_erythritol_is_named_where_the_polyols_are_too_many_for_the_energy() -> None:
    label = {
        "energy_kcal": "20",
        "fat_g": "0",
        "carbohydrate_g": "60",
        "sugars_g": "0",
        "polyols_g": "58",
        "fibre_g": "0",
        "protein_g": "3",
    }
    (query,) = read_label(label).queries
    assert "erythritol" in query.cause
    del label["polyols_g"]
    (query,) = read_label(label).queries
    assert "polyols are missing" in query.cause


def test_one_piece_lighter_than_a_crumb_asks_whether_count_and_grams_changed_places() -> None:
    label = {"basis": "pieces", "pieces": "150", "basis_g": "7", "energy_kcal": "22"}
    (query,) = [q for q in read_label(label).queries if q.field == "pieces"]
    after = read_label(with_changes(label, query.corrections[0]))
    assert after.each_g == pytest.approx(150 / 7)


def test_the_doubt_of_a_label_adds_up_over_every_use_of_the_food() -> None:
    composition = read_label({"basis": "serving", "basis_g": "15", "protein_g": "4", "energy_kcal": "90"}).composition
    once = Tally.of(composition, 30, figures_source="nuts")
    assert once.amount("protein_g").standard_error == pytest.approx(30 / 15 / 12**0.5)
    twice = once + Tally.of(composition, 30, figures_source="nuts")
    assert twice.amount("protein_g").standard_error == pytest.approx(2 * 30 / 15 / 12**0.5)
    other = once + Tally.of(composition, 30, figures_source="other nuts")
    assert other.amount("protein_g").standard_error == pytest.approx(2**0.5 * 30 / 15 / 12**0.5)


def test_net_carbohydrate_is_unknown_without_fibre_and_a_most_without_polyols() -> None:
    figures = Composition.of({"carbohydrate_g": 60, "fibre_g": 10, "polyols_g": 20}).as_mapping()
    assert [net_carbohydrate_g(figures, share) for share in (0, 0.5, 1)] == [50, 40, 30]
    assert net_carbohydrate_g({**figures, "polyols_g": None}, 1) == 50
    assert net_carbohydrate_g({**figures, "fibre_g": None}, 1) is None


@pytest.mark.parametrize(
    ("serving", "kcal", "per_100_g"), [("0.25", "2", 800.0), ("0.04", "0.3", 750.0), ("0.2", "1.8", 900.0)]
)
def test_a_small_serving_keeps_every_digit(serving: str, kcal: str, per_100_g: float) -> None:
    reading = read_label({"basis": "serving", "basis_g": serving, "energy_kcal": kcal})
    assert reading.faults == ()
    assert reading.composition.get("energy_kcal") == pytest.approx(per_100_g)


def test_what_rounding_hides_is_not_queried_and_what_it_does_not_hide_is() -> None:
    spray = {
        "basis": "serving",
        "basis_g": "0.2",
        "energy_kcal": "0",
        "fat_g": "0.2",
        "carbohydrate_g": "0",
        "protein_g": "0",
    }
    assert read_label(spray).queries == ()
    assert read_label(spray | {"basis_g": "30", "fat_g": "30"}).queries != ()


def test_an_eu_label_without_fibre_knows_its_net_and_its_total_from_below() -> None:
    reading = read_label({"fibre": "apart", "carbohydrate_g": "12", "energy_kcal": "60"})
    assert net_carbohydrate_g(reading.composition.as_mapping(), 0.5, reading.composition.at_least) == 12
    total = Tally.of(reading.composition, 100).amount("carbohydrate_g")
    assert (total.value, total.is_at_least, total.is_unknown) == (12, True, False)
    printed = read_label({"fibre": "apart", "carbohydrate_g": "12", "fibre_g": "3", "energy_kcal": "60"})
    assert not printed.composition.at_least
    inside = read_label({"fibre": "inside", "carbohydrate_g": "12", "energy_kcal": "60"})
    assert net_carbohydrate_g(inside.composition.as_mapping(), 0.5, inside.composition.at_least) is None
