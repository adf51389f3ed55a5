"""Steps in order, how things keep, and what looks forgotten."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.recipes.component import Component, PendingLine, StorageChoice
from goodcrate.core.recipes.heating import is_cooked
from goodcrate.core.recipes.keeping import CRISP, FIRM, LEAFY, WET, layering, storage_of, texture_of
from goodcrate.core.recipes.lint import CARE, lint
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.step_checks import check_steps
from goodcrate.core.recipes.steps import Step, hands_on_min, in_order, longest_chain_min, unattended_min
from goodcrate.formats.reference import core_temperatures, guidance, keep_groups
from tests.core.dishes import component, turkey_pot

KINDS = [t.kind for t in core_temperatures()]


def test_times_of_a_recipe() -> None:
    steps = turkey_pot().steps
    assert hands_on_min(steps) == 12 + 10 + 1  # a minute for the look while it simmers
    assert unattended_min(steps) == 35 + 25 + 30
    assert longest_chain_min(steps) == 12 + 10 + 35 + 30
    assert [s.key for s in in_order(tuple(reversed(steps)))] == ["4", "1", "2", "3", "5"]
    check_steps(steps, ["pot", "mash"], KINDS)


def test_steps_that_cannot_be_are_refused_at_their_field() -> None:
    circle = (Step("1", "Stir", after=("2",)), Step("2", "Wait", after=("1",)))
    with pytest.raises(InvalidInput, match="wait for each other"):
        in_order(circle)
    odd = (
        Step("1", "", "gone", "cauldron", -5, core_kind="dragon"),
        Step("2", "Bake", equipment="oven", duration_min=20, low_c=220, high_c=180, checks_min=(25.0,), after=("2",)),
        Step("3", "Warm", low_c=900),
    )
    with pytest.raises(InvalidInputs) as caught:
        check_steps(odd, ["pot"], KINDS)
    assert {f.field for f in caught.value.faults} == {
        "step-1-text",
        "step-1-equipment",
        "step-1-component",
        "step-1-minutes",
        "step-1-core",
        "step-2-temperature",
        "step-2-after",
        "step-2-checks",
        "step-3-temperature",
    }
    with pytest.raises(InvalidInputs, match="wait for each other"):
        check_steps(circle, [], KINDS)


@pytest.mark.parametrize(
    ("lines", "cooked", "group", "days", "freezes"),
    [
        ("turkey_thigh_raw 1200, cabbage_raw 900", 1900, "cooked_poultry", 2, True),
        ("rice_brown_dry 200, carrot_raw 50", 500, "cooked_rice", 1, True),
        ("quark 160, horseradish_cream 60", None, "soft_dairy", 3, False),
        ("rocket_raw 80", None, "leafy", 2, False),
        ("rye_crispbread 240", None, "pantry", 180, True),
        ("cottage_cheese 900, egg_hard_boiled 200", None, "egg_boiled", 2, False),
        ("black_eyed_beans_dry 400, salt 4", 950, "cooked_legume", 2, True),
    ],
)
def test_what_keeps_shortest_decides(lines: str, cooked: float | None, group: str, days: int, freezes: bool) -> None:
    storage = storage_of(component("c", lines, cooked), (), keep_groups())
    assert (storage.group.key, storage.group.fridge_days_cautious, storage.freezable) == (group, days, freezes)
    assert storage.because
    assert storage.group.source


def test_the_cook_may_choose() -> None:
    soaked = component("c", "rye_flakes_dry 180, milk_semi_skimmed 480")
    chosen = replace(soaked, storage=StorageChoice("soaked_oats", freezable=False, reheat="stir", container="jar"))
    storage = storage_of(chosen, (), keep_groups())
    assert (storage.group.key, storage.freezer_months, storage.reheat, storage.container) == (
        "soaked_oats",
        None,
        "stir",
        "jar",
    )
    assert storage_of(soaked, (), keep_groups()).reheat == "eat cold"
    with pytest.raises(InvalidInput, match="no keep group"):
        storage_of(replace(soaked, storage=StorageChoice("mystery")), (), keep_groups())


def test_layers_from_the_bottom() -> None:
    parts = [
        (component("nuts", "hazelnuts 80"), CRISP),
        (component("leaves", "rocket_raw 80"), LEAFY),
        (component("beans", "butter_beans_canned_drained 400"), FIRM),
        (component("dressing", "olive_oil 50"), WET),
    ]
    assert [texture_of(c, cooked=False) for c, _ in parts] == [kind for _, kind in parts]
    assert [c.name for c in layering(parts)] == ["dressing", "beans", "leaves", "nuts"]


def notes_of(*steps: Step, parts: tuple[Component, ...] | None = None) -> set[str]:
    recipe = Recipe("r", "Dish", 4, parts or turkey_pot().components, steps)
    return {n.rule for n in lint(recipe, guidance())}


def test_a_careful_recipe_has_no_notes() -> None:
    recipe = turkey_pot()
    assert {n.rule for n in lint(recipe, guidance())} == set()


def test_each_rule_finds_its_case_and_lets_the_mended_one_pass() -> None:
    cool = Step("9", "Cool it", equipment="cooling", duration_min=20)
    cabbage = component("pot", "cabbage_raw 900, carrot_raw 200")
    oiled = component("pot", "cabbage_raw 900, carrot_raw 200, rapeseed_oil 20")
    fry = Step("1", "Fry cabbage and carrot", "pot", "hob", 10)
    assert notes_of(fry, cool, parts=(cabbage,)) == {"forgotten_calories"}
    assert notes_of(replace(fry, text="Fry cabbage and carrot in the oil"), cool, parts=(oiled,)) == set()
    assert notes_of(replace(fry, text="Fry cabbage and carrot dry"), cool, parts=(cabbage,)) == set()
    glaze = Step("1", "Glaze the carrot with the cabbage", "pot", "oven", 10)
    assert "forgotten_calories" in notes_of(glaze, cool, parts=(cabbage,))
    named = Step("1", "Boil cabbage and carrot with cumin", "pot", "hob", 10)
    assert notes_of(named, cool, parts=(cabbage,)) == {"named_and_not_listed"}
    unused = component("pot", "cabbage_raw 900, carrot_raw 200, okra_raw 300")
    assert "listed_and_not_used" in notes_of(replace(named, text="Boil cabbage and carrot"), cool, parts=(unused,))
    assert notes_of(replace(named, text="Boil cabbage and carrot"), parts=(cabbage,)) == {"missing_cool_down"}
    meat = component("pot", "turkey_thigh_raw 600, cabbage_raw 300")
    boil = Step("1", "Boil turkey and cabbage", "pot", "hob", 40)
    assert notes_of(boil, cool, parts=(meat,)) == {"missing_core_temperature"}
    assert notes_of(replace(boil, core_kind="poultry"), cool, parts=(meat,)) == set()
    muddle = component("salad", "rye_crispbread 60, quark 200")
    assert notes_of(parts=(muddle,)) == {"crisp_with_wet"}
    leaves = component("salad", "rocket_raw 60, olive_oil 20")
    assert notes_of(parts=(leaves,)) == {"crisp_with_wet"}
    assert "caution_rice" in notes_of(parts=(component("rice", "rice_brown_dry 200", 500),))
    assert "caution_raw_egg" in notes_of(parts=(component("mayo", "egg_whole_raw 50, rapeseed_oil 100"),))
    pending = replace(cabbage, pending=(PendingLine("p", "a knob of joy", "no such food is known"),))
    assert notes_of(parts=(pending,)) == {"not_understood"}


def test_cautions_name_their_source() -> None:
    recipe = Recipe("r", "Rice", 4, (component("rice", "rice_brown_dry 200", 500),))
    cautions = [n for n in lint(recipe, guidance()) if n.kind == CARE]
    assert cautions
    assert all(n.source for n in cautions)
    assert is_cooked(recipe.components[0], ())


def test_a_yield_nobody_knows_is_said() -> None:
    millet = component("pot", "millet_dry 300")
    (line,) = millet.lines
    unknown = replace(millet, lines=(replace(line, food=replace(line.food, cooked_yield=None)),))
    boil = (Step("1", "Boil the millet", "pot", "hob", 20), Step("2", "Cool it", "pot", "cooling", 20))
    assert notes_of(*boil, parts=(unknown,)) == {"no_yield_known"}
    assert notes_of(*boil, parts=(replace(unknown, cooked_g=930.0),)) == set()


def test_water_that_the_list_does_not_hold_is_asked_for() -> None:
    soup = component("pot", "split_peas_dry 500, carrot_raw 300")
    simmer = (
        Step("1", "Add peas, carrot and water, simmer until they fall apart", "pot", "hob", 45),
        Step("2", "Cool it", "pot", "cooling", 20),
    )
    assert notes_of(*simmer, parts=(soup,)) == {"no_yield_known"}
    with_water = component("pot", "split_peas_dry 500, carrot_raw 300, water_tap 1500")
    assert notes_of(*simmer, parts=(with_water,)) == set()


def test_more_days_than_the_guidance_need_their_reason() -> None:
    pot = component("pot", "carrot_raw 300, parsnip_raw 300")
    boil = (Step("1", "Boil carrot and parsnip", "pot", "hob", 20), Step("2", "Cool it", "pot", "cooling", 20))
    for days, because, counted, said in ((1, "", 1, False), (9, "", 2, True), (9, "vacuum packed at 60 °C", 9, True)):
        own = replace(pot, storage=StorageChoice(own_days=days, days_because=because))
        storage = storage_of(own, boil, keep_groups())
        assert storage.group.fridge_days_cautious == counted
        assert storage.group.source  # of the guidance, still there
        assert ("days_longer_than_guidance" in notes_of(*boil, parts=(own,))) == said
