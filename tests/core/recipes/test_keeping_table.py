"""The documented table of mixtures (docs/keeping.md): each row is what core says; nothing outlives its foods."""

from dataclasses import replace
from pathlib import Path

import pytest

from goodcrate.core.recipes.component import Component, StorageChoice
from goodcrate.core.recipes.keeping import Storage, storage_of
from goodcrate.core.recipes.lint import lint
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import Step
from goodcrate.core.week.storing import CAUTIOUS, USUAL, keeping_of
from goodcrate.formats.reference import guidance, keep_groups, reference_foods
from tests.core.dishes import component

PAGE = Path(__file__).parents[3] / "docs" / "keeping.md"
ROWS = [
    [cell.strip() for cell in line.strip("|").split("|")]
    for line in PAGE.read_text().splitlines()
    if line.startswith("| ") and not line.startswith("| what")
]
NEVER_OF_A_MIXTURE = {"pantry", "dried_spice", "fat", "nuts", "egg_shell", "whole_fruit", "hard_veg"}


def steps(equipment: str) -> tuple[Step, ...]:
    return (Step("1", "Do it", "c", equipment, 20),) if equipment else ()


def stored(lines: str, equipment: str = "") -> Storage:
    return storage_of(component("c", lines), steps(equipment), keep_groups())


@pytest.mark.parametrize(("what", "foods", "step", "days", "decides", "why"), ROWS, ids=[row[0] for row in ROWS])
def test_each_documented_mixture(what: str, foods: str, step: str, days: str, decides: str, why: str) -> None:
    storage = stored(foods, step)
    assert f"{storage.group.fridge_days_cautious}/{storage.group.fridge_days_usual}" == days
    assert storage.group.key == decides
    assert storage.group.keeps_dry == why.startswith("cupboard")
    assert storage.group.source
    assert storage.because or decides == "leftovers"


def test_the_page_has_enough_mixtures_and_no_dry_group_describes_one() -> None:
    assert len(ROWS) >= 60
    for _, foods, step, _, decides, _ in ROWS:
        if "," in foods or step:
            assert decides not in NEVER_OF_A_MIXTURE


def test_one_more_food_never_makes_a_moist_dish_keep_longer() -> None:
    for base in ("quark 200, rocket_raw 40", "tuna_canned_water 100, cheddar 50", "cod_raw 200, potato_raw 100"):
        for step in ("", "hob"):
            before = stored(base, step).group
            for key, food in reference_foods().items():
                after = stored(f"{base}, {key} 50", step).group
                assert after.fridge_days_cautious <= before.fridge_days_cautious, food.name
                assert after.fridge_days_usual <= before.fridge_days_usual, food.name


def test_a_household_s_own_rice_keeps_cools_and_warns_like_rice() -> None:
    rice = replace(reference_foods()["rice_white_dry"], key="a3f0", name="Jewel grain")
    pot = component("c", "rice_white_dry 300")
    own = replace(pot, lines=tuple(replace(line, food=rice) for line in pot.lines))
    storage = storage_of(own, (), keep_groups())
    assert (storage.group.fridge_days_cautious, storage.group.fridge_days_usual) == (1, 3)
    assert "within 1 h" in storage.group.cool_rule
    assert "caution_rice" in {n.rule for n in lint(Recipe("r", "Bowl", 2, (own,)), guidance())}
    without = replace(own, lines=tuple(replace(x, food=replace(rice, cooks_like="grain")) for x in own.lines))
    assert storage_of(without, (), keep_groups()).group.key == "cooked_grain"


def test_a_food_nobody_told_the_kind_of_keeps_like_leftovers() -> None:
    mystery = replace(reference_foods()["rye_crispbread"], key="m", name="Mystery", group="own", keep_group="pantry")
    pot = component("c", "rye_crispbread 300")
    typed = replace(pot, lines=tuple(replace(line, food=mystery) for line in pot.lines))
    for cooking in ("", "hob"):
        group = storage_of(typed, steps(cooking), keep_groups()).group
        assert (group.key, group.fridge_days_usual, group.keeps_dry) == ("leftovers", 4, False)


@pytest.mark.parametrize(
    "food", ["chicken_breast_raw", "beef_mince_5_raw", "cod_raw", "egg_whole_raw", "wheat_flour_white"]
)
def test_raw_food_without_heat_is_asked_about_and_never_eaten_cold(food: str) -> None:
    part = component("c", f"{food} 300, carrot_raw 50")
    recipe = Recipe("r", "Dish", 2, (part,))
    assert "raw_without_heat" in {n.rule for n in lint(recipe, guidance())}
    assert storage_of(part, (), keep_groups()).reheat.startswith("cook it first")
    heated = replace(recipe, steps=steps("oven"))
    assert "raw_without_heat" not in {n.rule for n in lint(heated, guidance())}


def test_a_step_for_the_whole_recipe_heats_no_salad_and_no_dressing() -> None:
    parts = (
        component("meat", "turkey_thigh_raw 600"),
        component("leaves", "rocket_raw 80"),
        component("dressing", "olive_oil 40, vinegar 10"),
    )
    roast = (Step("1", "Roast it all in the oven", "", "oven", 40),)
    assert [storage_of(c, roast, keep_groups()).reheat[:9] for c in parts] == ["heat once", "eat cold", "eat cold"]
    mixed = component("c", "bulgur_dry 200, rocket_raw 40")
    late = replace(mixed, lines=(mixed.lines[0], replace(mixed.lines[1], use="at_packing")))
    assert storage_of(late, steps("hob"), keep_groups()).reheat.endswith("rocket (arugula) only after that")


@pytest.mark.parametrize(
    "lines",
    ["rocket_raw 80, feta 50", "olive_oil 40, vinegar 20", "strawberries_raw 200", "cucumber_raw 200, quark 50"],
)
def test_salads_dressings_and_soft_fruit_freeze_only_when_the_cook_says_so(lines: str) -> None:
    part = component("c", lines)
    assert not storage_of(part, (), keep_groups()).freezable
    keeping = keeping_of(Recipe("r", "Dish", 2, (part,)), keep_groups(), USUAL)
    assert keeping is not None
    assert not keeping.freezes
    if storage_of(part, (), keep_groups()).freezes_poorly:
        assert storage_of(replace(part, storage=StorageChoice(freezable=True)), (), keep_groups()).freezable


def test_each_scale_is_judged_by_itself_and_a_longer_choice_is_named() -> None:
    part: Component = component("c", "mackerel_smoked 100, rocket_raw 40")
    for rule, days in ((CAUTIOUS, 2), (USUAL, 3)):
        keeping = keeping_of(Recipe("r", "Dish", 2, (part,)), keep_groups(), rule)
        assert keeping is not None
        assert keeping.fridge_days == days
    chosen = replace(part, storage=StorageChoice("opened_jar"))
    assert storage_of(chosen, (), keep_groups()).is_longer_than_its_foods
    assert not storage_of(part, (), keep_groups()).is_longer_than_its_foods


def test_a_cooked_weight_out_of_all_reason_is_asked_about() -> None:
    pot = component("c", "cabbage_raw 600, carrot_raw 300", 91)

    def rules(cooked_g: float) -> set[str]:
        return {n.rule for n in lint(Recipe("r", "Pot", 2, (replace(pot, cooked_g=cooked_g),)), guidance())}

    assert "cooked_weight_out_of_reason" in rules(91)
    assert "cooked_weight_out_of_reason" in rules(9100)
    assert "cooked_weight_out_of_reason" not in rules(810)


def test_salt_and_sugar_in_a_cooked_pot_decide_nothing() -> None:
    plain, seasoned = (
        stored(f"split_peas_dry 500, leek_raw 200{more}", "hob") for more in ("", ", salt 8, sugar_white 5")
    )
    assert seasoned.group == plain.group


def test_the_only_component_is_heated_by_a_step_that_names_none() -> None:
    tray = component("c", "carrot_raw 400, potato_raw 400")
    bake = (Step("1", "Put everything on a tray and bake it", "", "oven", 40),)
    (alone,) = Recipe("r", "Tray", 2, (tray,), bake).components
    assert storage_of(alone, bake, keep_groups()).reheat.startswith("heat once")
    beside, _ = Recipe("r", "Tray", 2, (tray, component("salad", "cucumber_raw 200")), bake).components
    unclear = storage_of(beside, bake, keep_groups())  # which one is baked cannot be told
    assert (unclear.group.fridge_days_cautious, unclear.group.fridge_days_usual) == (2, 4)


def test_raw_leaves_that_are_mixed_in_make_a_cold_dish_and_a_brew_is_no_dry_store() -> None:
    salad = component("c", "rocket_raw 80, pumpkin_seeds 30, feta 60")
    toast = (Step("1", "Toast the pumpkin seeds dry in the pan", "c", "hob", 5),)
    assert storage_of(salad, toast, keep_groups()).reheat == "eat cold"
    for brew in ("tea_black 300", "coffee_black 200"):
        assert stored(brew).group.key == "leftovers"
