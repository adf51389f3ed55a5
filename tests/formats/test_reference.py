"""The shipped tables: every row is checked, and a bad one is named."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.nutrients import Composition
from goodcrate.formats import reference
from goodcrate.formats.reference import (
    OUTSIDE_THE_FACTORS,
    check_rows,
    food_of_row,
    is_published,
    read_table,
    reference_foods,
)


def test_all_rows_pass() -> None:
    foods = reference_foods()
    assert len(foods) == 378 + 2433
    assert sum(is_published(food) for food in foods.values()) == 2433
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
    with pytest.raises(InvalidInputs, match=rows[3]["key"]):
        reference.read_foods()


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
        if food.cooked_key is None or food.cooked_yield is None or is_published(food):
            continue
        cooked = foods[food.cooked_key].composition
        for key in ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g"):
            before, after = food.composition.get(key), cooked.get(key)
            if before is not None and after is not None:
                assert after * food.cooked_yield <= max(before * 1.08, before + 0.5), f"{food.key} {key}"


def test_published_foods_say_their_source_and_what_they_do_not_know() -> None:
    foods = reference_foods()
    agar = foods["agar_dried"]
    assert agar.source == "published: USDA FoodData Central SR Legacy 2018"
    assert (agar.composition.get("iron_mg"), agar.composition.get("iodine_ug")) == (21.4, None)
    assert agar.composition.get("manganese_mg") == 4.3
    mix = foods["american_biscuits_scone_like_dry_mix"]
    assert mix.allergens == {"cereals_gluten", "unknown"}
    assert mix.diet == "unknown"
    assert not any(food.contains_pork and food.diet != "meat" for food in foods.values())


def test_our_rows_were_corrected_and_say_what_they_were_held_against() -> None:
    foods = reference_foods()
    oats, tahini = foods["oat_flour"], foods["tahini"]
    assert (oats.composition.get("energy_kcal"), oats.composition.get("fibre_g")) == (368, 10.5)
    assert tahini.composition.get("magnesium_mg") == 357
    assert "held against “Tahini (sesame butter), smooth”" in tahini.source
    assert sum("held against" in food.source for food in foods.values()) == 240


def test_every_energy_of_ours_follows_its_parts_and_a_published_one_may_not() -> None:
    rows = {r["key"]: r for r in read_table("foods-published.csv")}
    wrong = food_of_row({**rows["agar_dried"], "kcal": "600"})
    assert not [f for f in check_rows({wrong.key: wrong}) if f.field.endswith("energy_kcal")]
    own = replace(wrong, source=reference.SOURCE)
    assert [f for f in check_rows({own.key: own}) if f.field.endswith("energy_kcal")]
