"""Forms: what a page shows is what it reads back, and every fault stands at its field."""

from datetime import time
from uuid import uuid4

import pytest
from starlette.datastructures import FormData, UploadFile

from goodcrate.core.errors import InvalidInputs
from goodcrate.services import recipes, targets
from goodcrate.services.calling import Caller
from goodcrate.web.recipes.forms import RecipeForm
from goodcrate.web.targets.forms import EaterForm
from tests.services.kitchen import eater_input, recipe_input


def eater_fields(**changes: str) -> tuple[FormData, str]:
    """A filled eater form with one kind of day and one slot; changes name a field without its row's id."""
    day, slot = str(uuid4()), str(uuid4())
    typed = {
        "version": "0", "name": "Maren", "day-name": "work", "day-energy_kcal": "2450", "day-protein_floor_g": "150",
        "day-energy_band_pct": "3", "day-weekdays": "0", "slot-name": "dinner", "slot-at": "19:30",
    } | changes  # fmt: skip
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
    targets.save_eater(household, typed)
    shown = EaterForm.of_eater(targets.get_eater(household, typed.id))
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
            sent += [("line", x.id), (f"line-{x.id}-food", x.food_key), (f"line-{x.id}-amount", x.amount)]
            sent.append((f"line-{x.id}-measure", x.measure))
    return FormData(sent)


def test_the_recipe_page_reads_back_what_it_shows(household: Caller) -> None:
    typed = recipe_input()
    recipes.save_recipe(household, typed)
    shown = RecipeForm.of_page(recipes.get_recipe(household, typed.id))
    again, faults = RecipeForm.of_post(recipe_fields(shown), shown.id).read()
    assert faults == []
    assert again.components == typed.components
    assert (again.name, again.servings, again.version) == (typed.name, typed.servings, 1)


def test_lines_that_cannot_be_read_are_left_out_of_the_figures_and_named() -> None:
    page = RecipeForm.blank()
    fields = recipe_fields(page).multi_items()
    good, bad = str(uuid4()), str(uuid4())
    for line, amount in ((good, "200 g"), (bad, "a pinch")):
        fields += [("line", line), (f"line-{line}-food", "swede_raw"), (f"line-{line}-amount", amount)]
    typed, faults = RecipeForm.of_post(FormData(fields), page.id).read()
    assert [line.amount_g for line in typed.components[0].lines] == [200]
    assert [f.field for f in faults] == [f"line-{bad}-amount"]


def test_two_components_need_names_and_one_does_not() -> None:
    page = RecipeForm.blank()
    line = str(uuid4())
    one = [*recipe_fields(page).multi_items(), ("line", line), (f"line-{line}-food", "x"), (f"line-{line}-amount", "1")]
    typed, faults = RecipeForm.of_post(FormData(one), page.id).read()
    assert (typed.components[0].name, faults) == ("all of it", [])
    second, other = str(uuid4()), str(uuid4())
    two = [*one, ("component", second), ("line", other), (f"line-{other}-food", "x"), (f"line-{other}-amount", "1")]
    _, faults = RecipeForm.of_post(FormData(two), page.id).read()
    assert [f.field for f in faults] == [f"component-{page.components[0].id}-name", f"component-{second}-name"]


@pytest.mark.parametrize(("servings", "says"), [("0", "not possible"), ("many", "not a number"), ("", "Nothing")])
def test_servings_that_cannot_be(servings: str, says: str) -> None:
    page = RecipeForm.blank()
    page.servings = servings
    _, faults = page.read()
    assert [f.field for f in faults] == ["servings"]
    assert says in faults[0].message
    assert page.faults_of(faults).at("servings")
