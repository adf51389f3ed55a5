"""Forms: what a page shows is what it reads back, and every fault stands at its field."""

import re
from dataclasses import replace
from datetime import time
from uuid import uuid4

import pytest
from starlette.datastructures import FormData, UploadFile

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.formats.reference import measure_table, reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.foods import own_foods
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes import library, saving
from goodcrate.services.targets import household_eaters
from goodcrate.web.recipes.forms import ReadRecipe, RecipeForm
from goodcrate.web.targets.day_type_form import read_band
from goodcrate.web.targets.forms import EaterForm
from tests.services.kitchen import eater_input, turkey_pot


def eater_fields(**changes: str) -> tuple[FormData, str]:
    """A filled eater form with one kind of day and one slot; changes name a field without its row's id."""
    day, slot = str(uuid4()), str(uuid4())
    typed = {
        "version": "0",
        "name": "Maren",
        "day-name": "work",
        "day-energy_kcal": "2450",
        "day-protein_floor_g": "150",
        "day-energy_band_pct": "3",
        "day-weekdays": "0",
        "slot-name": "dinner",
        "slot-at": "19:30",
    } | changes
    ids = {"day": day, "slot": slot}
    named: list[tuple[str, str | UploadFile]] = []
    for key, value in typed.items():
        kind, _, field = key.partition("-")
        named.append((f"{kind}-{ids[kind]}-{field}" if field else key, value))
    return FormData(named), day


@pytest.mark.parametrize(
    ("typed", "kcal"), [("2450", 2450), ("2,450", 2450), ("2 450 kcal", 2450), ("1950.5", 1950.5), ("1950,5", 1950.5)]
)
def test_a_days_energy_is_read_where_it_is_plain(typed: str, kcal: float) -> None:
    form, _ = eater_fields(**{"day-energy_kcal": typed})
    assert EaterForm.of_post(form, str(uuid4())).read().day_types[0].energy_kcal == kcal


@pytest.mark.parametrize(
    ("field", "typed", "says"),
    [
        ("day-energy_kcal", "plenty", "not a number"),
        ("day-energy_kcal", "", "Nothing is typed"),
        ("day-protein_floor_g", "1.2.3", "not a number"),
        ("day-energy_band_pct", "three", "not a number"),
        ("slot-at", "evening", "no time of day"),
        ("slot-at", "25:00", "no time of day"),
    ],
)
def test_what_cannot_be_read_is_named_at_its_field(field: str, typed: str, says: str) -> None:
    form, day = eater_fields(**{field: typed})
    page = EaterForm.of_post(form, str(uuid4()))
    with pytest.raises(InvalidInputs) as caught:
        page.read()
    (fault,) = caught.value.faults
    assert says in fault.message
    assert fault.field in page.field_names()
    assert (day in fault.field) is field.startswith("day")


def test_times_are_read_as_cooks_write_them_and_blank_rows_are_nothing() -> None:
    for typed in ("6:45", "06:45", "06.45"):
        form, _ = eater_fields(**{"slot-at": typed})
        assert EaterForm.of_post(form, str(uuid4())).read().slots[0].at == time(6, 45)
    form, _ = eater_fields(**{"slot-name": "", "slot-at": ""})
    assert EaterForm.of_post(form, str(uuid4())).read().slots == ()


def test_rows_with_made_up_ids_are_dropped() -> None:
    form = FormData([("name", "x"), ("day-1-2-3-4-5-name", "<b>"), ("slot-nonsense-name", "y"), ("day-name", "z")])
    page = EaterForm.of_post(form, str(uuid4()))
    assert (page.day_types, page.slots) == ([], [])


def test_the_eater_page_reads_back_what_it_shows(household: Caller) -> None:
    typed = eater_input(excluded_allergens=("celery", "milk"), no_pork=True, dislikes="olives", about="nights")
    household_eaters.save_eater(household, typed)
    shown = EaterForm.of_eater(household_eaters.get_eater(household, typed.id))
    assert shown.day_types[-1].name == shown.slots[-1].name == ""  # room for one more
    again = shown.read()
    assert (again.version, again.day_types, again.slots) == (1, typed.day_types, typed.slots)
    assert set(again.excluded_allergens) == {"celery", "milk"}
    assert (again.no_pork, again.dislikes, again.about) == (True, "olives", "nights")


def recipe_fields(form: RecipeForm) -> FormData:
    """The recipe form as a browser sends it, in the order of the page."""
    sent: list[tuple[str, str | UploadFile]] = [
        ("name", form.name),
        ("servings", form.servings),
        ("note", form.note),
        ("tags", form.tags),
    ]
    sent.append(("version", str(form.version)))
    for c in form.components:
        sent += [("component", c.id), (f"component-{c.id}-name", c.name), (f"component-{c.id}-cooked", c.cooked)]
        for x in c.lines:
            sent += [("line", x.id), (f"line-{x.id}-food", x.food), (f"line-{x.id}-amount", x.amount)]
            sent.append((f"line-{x.id}-measure", x.measure))
    return FormData(sent)


def of_kitchen(convention: str = "metric") -> Measuring:
    """All reference foods, as a household without its own would measure them."""
    return Measuring(reference_foods(), measure_table(), convention, {})


def line_fields(amount: str, food: str = "swede_raw", **more: str) -> list[tuple[str, str | UploadFile]]:
    """One ingredient row as sent; more are fields of the row, such as fact and fact_name."""
    line = str(uuid4())
    fields: list[tuple[str, str | UploadFile]] = [("line", line), (f"line-{line}-food", food)]
    fields.append((f"line-{line}-amount", amount))
    return fields + [(f"line-{line}-{name}", value) for name, value in more.items()]


def read_lines(*rows: list[tuple[str, str | UploadFile]], convention: str = "metric") -> ReadRecipe:
    """A recipe of one component with these rows, read."""
    page = RecipeForm.blank()
    sent = [*recipe_fields(page).multi_items(), *(field for row in rows for field in row)]
    return RecipeForm.of_post(FormData(sent), page.id).read(of_kitchen(convention))


def test_the_recipe_page_reads_back_what_it_shows(household: Caller) -> None:
    typed = turkey_pot()
    spoon = replace(typed.components[0].lines[2], amount_g=27.5, measure="volume", typed="2 tbsp", error_g=2.745)
    parts = (replace(typed.components[0], lines=(*typed.components[0].lines[:2], spoon)),)
    typed = replace(typed, components=parts)
    saving.save_recipe(household, typed)
    shown = RecipeForm.of_page(library.get_recipe(household, typed.id))
    assert shown.components[0].lines[2].amount == "2 tbsp"
    again = RecipeForm.of_post(recipe_fields(shown), shown.id).read(own_foods.measuring(household, shown.food_keys))
    assert again.faults == []
    for got, wanted in zip(again.input.components[0].lines, typed.components[0].lines, strict=True):
        assert (got.id, got.food_key, got.measure, got.typed) == (
            wanted.id,
            wanted.food_key,
            wanted.measure,
            wanted.typed,
        )
        assert got.amount_g == wanted.amount_g
        assert got.error_g == (None if wanted.error_g is None else pytest.approx(wanted.error_g))
    assert (again.input.name, again.input.servings, again.input.version) == (typed.name, typed.servings, 1)


def test_lines_that_cannot_be_read_are_left_out_of_the_figures_and_named() -> None:
    read = read_lines(line_fields("200 g"), line_fields("some"), line_fields("100", "no_such_food"))
    assert [line.amount_g for line in read.input.components[0].lines] == [200]
    assert [f.problem for f in read.faults] == ["“some” is not an amount.", "This food is not known any more."]
    assert all(re.fullmatch(r"line-[0-9a-f-]{36}-amount", f.field) for f in read.faults)


def test_an_amount_names_its_own_measure_and_shows_its_working() -> None:
    read = read_lines(line_fields("2 tbsp", "rapeseed_oil"), line_fields("30", "rapeseed_oil", measure="eye"))
    spoon, by_eye = read.input.components[0].lines
    assert (spoon.amount_g, spoon.measure, spoon.typed) == (27.5, "volume", "2 tbsp")
    assert (by_eye.amount_g, by_eye.measure, by_eye.typed) == (30, "eye", None)
    notes = list(read.notes.values())
    assert notes[0].working == "2 tablespoons × 15 ml × 0.915 g per ml = 27.5 g ± 2.7"
    assert (notes[0].own_measure, notes[1].own_measure) == ("volume", "")
    australian = read_lines(line_fields("2 tbsp", "rapeseed_oil"), convention="australian")
    assert australian.input.components[0].lines[0].amount_g == 36.6


def test_a_missing_fact_is_asked_for_used_at_once_and_handed_on() -> None:
    read = read_lines(line_fields("2 tbsp", "tempeh"))
    (note,) = read.notes.values()
    assert (note.ask, note.fact_name, note.ask_unit) == (
        "How heavy is tempeh, plain? Weigh 100 ml of it.",
        "density_g_per_ml",
        "g in 100 ml",
    )
    assert [f.field.endswith("-fact") for f in read.faults] == [True]
    assert read.input.components[0].lines == ()
    told = read_lines(line_fields("2 tbsp", "tempeh", fact="55", fact_name="density_g_per_ml"))
    assert told.faults == []
    assert told.input.components[0].lines[0].amount_g == 16.5
    assert told.input.facts == {"tempeh": {"density_g_per_ml": 0.55}}
    silly = read_lines(line_fields("2 tbsp", "tempeh", fact="5500", fact_name="density_g_per_ml"))
    assert "out of range" in silly.faults[0].message


def test_a_dry_food_in_a_cooked_weight_is_queried_with_the_correction() -> None:
    (note,) = read_lines(line_fields("900 g", "pearl_barley_dry")).notes.values()
    assert note.slip == ("225 g dry a serving cooks to 641 g. Was it weighed cooked? Then it is 316 g dry.")
    assert note.slip_amount == "900 g cooked"
    (said,) = read_lines(line_fields("900 g cooked", "pearl_barley_dry")).notes.values()
    assert said.slip == ""
    assert said.working == "900 g cooked ÷ 2.85 = 315.8 g ± 16"


def test_two_components_need_names_and_one_does_not() -> None:
    page = RecipeForm.blank()
    one = [*recipe_fields(page).multi_items(), *line_fields("1")]
    read = RecipeForm.of_post(FormData(one), page.id).read(of_kitchen())
    assert (read.input.components[0].name, read.faults) == ("all of it", [])
    second = str(uuid4())
    two = [*one, ("component", second), *line_fields("1")]
    faults = RecipeForm.of_post(FormData(two), page.id).read(of_kitchen()).faults
    assert [f.field for f in faults] == [f"component-{page.components[0].id}-name", f"component-{second}-name"]


@pytest.mark.parametrize(("servings", "says"), [("0", "not possible"), ("many", "not a number"), ("", "Nothing")])
def test_servings_that_cannot_be(servings: str, says: str) -> None:
    page = RecipeForm.blank()
    page.servings = servings
    faults = page.read(of_kitchen()).faults
    assert [f.field for f in faults] == ["servings"]
    assert says in faults[0].message
    assert page.faults_of(faults).at("servings")


@pytest.mark.parametrize(
    ("key", "typed", "low", "high"),
    [
        ("fibre_g", "at least 12,5", 12.5, None),
        ("fat_g", "60–90 g", 60, 90),
        ("fat_g", "60,5 to 90", 60.5, 90),
        ("sodium_mg", "2,000", None, 2000),
        ("sodium_mg", "up to 2.000 mg", None, 2000),
        ("fibre_g", "30", 30, None),
    ],
)
def test_bands_read_numbers_like_every_other_field(key: str, typed: str, low: float | None, high: float | None) -> None:
    band = read_band(typed, key)
    assert (band.low, band.high) == (low, high)
