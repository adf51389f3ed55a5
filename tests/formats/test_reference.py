"""The shipped tables: every row is checked, and a bad one is named."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.nutrients import Composition
from goodcrate.formats import reference
from goodcrate.formats.reference import OUTSIDE_THE_FACTORS, check_rows, food_of_row, read_table, reference_foods


def test_all_rows_pass() -> None:
    foods = reference_foods()
    assert len(foods) == 378
    assert foods["rapeseed_oil"].composition.get("energy_kcal") == 899
    assert foods["ham_cooked"].contains_pork
    assert not foods["turkey_thigh_raw"].contains_pork


def test_an_empty_cell_is_unknown_and_a_zero_is_zero() -> None:
    foods = reference_foods()
    assert foods["rolled_oats_dry"].composition.get("iodine_ug") is None
    assert foods["rolled_oats_dry"].composition.get("alcohol_g") == 0


def test_the_exceptions_are_needed() -> None:
    """Each food outside the energy rule would be queried, or it has no business on the list."""
    from goodcrate.core.foods.food import check_food

    for key in OUTSIDE_THE_FACTORS:
        faults = {f.field for f in check_food(reference_foods()[key])}
        assert faults == {"energy_kcal"}


def test_a_bad_row_is_named_with_its_cell() -> None:
    foods = dict(reference_foods())
    swede = foods["swede_raw"]
    figures = swede.composition.as_mapping() | {"energy_kcal": 370.0, "sugars_g": 90.0}
    foods["swede_raw"] = replace(
        swede, composition=Composition.of(figures), cooked_key="nothing", keep_group="the shelf"
    )
    assert {f.field for f in check_rows(foods)} == {
        "swede_raw.energy_kcal",
        "swede_raw.sugars_g",
        "swede_raw.cooked_key",
        "swede_raw.keep_group",
    }


def test_text_in_a_number_cell_stops_the_load(monkeypatch: pytest.MonkeyPatch) -> None:
    from goodcrate.core.ground.errors import InvalidInputs

    rows = [dict(row) for row in read_table("foods-animal.csv")]
    rows[3]["protein_g"] = "lots"
    with pytest.raises(Exception, match="lots"):
        food_of_row(rows[3])
    monkeypatch.setattr(
        reference, "read_table", lambda name: iter(rows if name.startswith("foods-a") else read_table(name))
    )
    reference_foods.cache_clear()
    try:
        with pytest.raises(InvalidInputs, match=rows[3]["key"]):
            reference_foods()
    finally:
        monkeypatch.undo()
        reference_foods.cache_clear()


def test_corrected_rows_say_what_their_sources_say() -> None:
    foods, groups = reference_foods(), reference.keep_groups()

    def months(key: str) -> int | None:
        return groups[foods[key].keep_group].freezer_months

    assert (months("chicken_liver_raw"), months("bacon_back_raw"), months("ham_cooked")) == (3, 1, 1)
    assert foods["honey"].composition.get("energy_kcal") == 304
    assert foods["rolled_oats_dry"].cooked_yield is None
    wanted = ("magnesium_mg", "RDA", "19", "30")
    rows = [r for r in read_table("intakes.csv") if (r["nutrient"], r["kind"], r["age_from"], r["age_to"]) == wanted]
    young = {r["sex"]: r["value"] for r in rows}
    assert young == {"female": "310", "male": "400"}
    assert {foods[key].cooks_like for key in ("rice_white_dry", "rice_noodles_dry")} == {"rice"}
    assert foods["rice_cakes"].cooks_like == ""


def test_what_is_cooked_holds_no_more_than_what_went_in() -> None:
    """Dry figures against cooked ones by yield, with 8 % or half a gram for roundings."""
    foods = reference_foods()
    for food in foods.values():
        if food.cooked_key is None or food.cooked_yield is None:
            continue
        cooked = foods[food.cooked_key].composition
        for key in ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g"):
            before, after = food.composition.get(key), cooked.get(key)
            if before is not None and after is not None:
                assert after * food.cooked_yield <= max(before * 1.08, before + 0.5), f"{food.key} {key}"
