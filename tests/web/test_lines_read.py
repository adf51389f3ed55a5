"""A row of the recipe form that stands as it was read before, and one that must be read again."""

from dataclasses import replace
from uuid import uuid4

import pytest

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.reference import measure_table, reference_foods
from goodcrate.services.foods.own_foods import Measuring
from goodcrate.services.recipes.recipe_input import LineInput
from goodcrate.web.recipes.line_form import LineForm
from goodcrate.web.recipes.lines import LineReader

PEA = replace(next(iter(reference_foods().values())), each_g=50.0, each_name="piece", refuse_pct=None)


def read(line: LineForm, food: Food = PEA, servings: float = 4.0) -> tuple[LineInput | None, list[InvalidInput]]:
    faults: list[InvalidInput] = []
    reader = LineReader(Measuring({food.key: food}, measure_table(), "metric", {}), servings)
    found = reader.line(line, faults)
    assert found is None or line.id in reader.notes
    return found, faults


def row(amount: str, *, fact: str = "", fact_name: str = "", uptake: str = "") -> LineForm:
    return LineForm(str(uuid4()), PEA.key, amount, fact=fact, fact_name=fact_name, uptake=uptake)


def test_a_row_in_the_same_words_is_the_same_line() -> None:
    line = row("120 g")
    first, _ = read(line)
    again, _ = read(replace(line))
    assert first is not None
    assert again is first


@pytest.mark.parametrize(("field", "typed"), [("amount", "130 g"), ("uptake", "40"), ("use", "at_packing"), ("id", "")])
def test_a_row_that_says_something_else_is_another_line(field: str, typed: str) -> None:
    line = row("120 g")
    first, _ = read(line)
    setattr(line, field, typed or str(uuid4()))
    assert read(line)[0] != first


def test_a_food_whose_figures_changed_is_weighed_anew() -> None:
    line = row("2 pieces")
    first, _ = read(line)
    heavier, _ = read(line, replace(PEA, each_g=60.0))
    assert first is not None
    assert heavier is not None
    assert (first.amount_g, heavier.amount_g) == (100, 120)


def test_what_was_typed_about_a_food_counts_in_its_own_form_only() -> None:
    unknown = replace(PEA, each_g=None, each_name="")
    taught, faults = read(row("2 pieces", fact="70", fact_name="each_g"), unknown)
    assert taught is not None
    assert (taught.amount_g, faults) == (140, [])
    without, _ = read(row("2 pieces"), unknown)
    assert without is not None
    assert without.amount_g != 140


def test_a_fault_is_said_each_time() -> None:
    line = row("120 g", uptake="900")
    assert [len(read(line)[1]), len(read(line)[1])] == [1, 1]
