"""Whatever is typed is read without trying again: ten thousand letters chosen to make a pattern try again and again."""

import re
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from datetime import date
from statistics import median
from uuid import UUID

import pytest
from starlette.datastructures import FormData

from goodcrate.core.foods.barcodes import looks_like_barcode, read_barcode
from goodcrate.core.foods.label import read_label
from goodcrate.core.foods.label_figures import FIELDS
from goodcrate.core.foods.line.quantity import take_quantity, take_quantity_anywhere
from goodcrate.core.foods.line.words import clean
from goodcrate.core.foods.measures import read_amount, split_amount
from goodcrate.core.ground.amounts import is_ambiguous, read_grams, read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.find import head_of, is_one_slip, search_text, words_of
from goodcrate.core.ground.typed import day_of, id_of, read_day, read_whole, whole_of
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooking_told import cooking_of
from goodcrate.core.recipes.guessed_steps import guess_step
from goodcrate.core.recipes.pasted_lines import split_lines
from goodcrate.core.recipes.steps import Step
from goodcrate.formats.csv_table import decode_file
from goodcrate.formats.food_csv import read_foods
from goodcrate.formats.line_words import line_reader
from goodcrate.formats.recipe_csv import read_lines
from goodcrate.formats.recipe_jsonld import find_recipes, minutes_of, plain_text
from goodcrate.web.recipes.component_form import ComponentForm
from goodcrate.web.recipes.step_form import StepForm
from goodcrate.web.targets.day_type_form import DayTypeForm
from goodcrate.web.targets.forms import EaterForm
from goodcrate.web.week.choosing import ids_of
from goodcrate.web.week.routes import slot_at

LETTERS = 10_000
MOMENT_S = 0.1
LARGEST_GROWTH = 9  # 4 by the length, 16 by its square
PIECES = (
    "1", " ", "1 ", "a", "1,", "1.", "1,000", "'1", "½", "1 ½", "<", "(", ")", "- ", "1 x ", "1/", "1 / ", "by eye ",
    "about ", "1 min", "1 to ", "1-", "°", "°C ", "\n", "1\n", "\u00a0", "\ufdfa", "e\u0301", "&amp;", "<![CDATA[",
    "]]> ", "<a ", "P1", "1H", "²", "٣", '"', '{"a":', "[", ";", "g ", " g", "kcal ", "of ", "zest of ", "tsp. ",
    "fl. oz ", "drained ", "less than ", "simmer ", "1kg,", ",1", "−", "%", "🥕", "\x00",
)  # fmt: skip
ENDS = ("", "!", " min", " g", "x")
STEP_ID = "11111111-2222-4333-8444-555555555555"


def _labels(text: str) -> object:
    return read_label(dict.fromkeys(FIELDS, text))


def _step(text: str) -> object:
    form = StepForm(STEP_ID, text, minutes=text, temperature=text, after=text, checks=text)
    return form.read([STEP_ID], set(), []), StepForm.of_text(STEP_ID, text, 1)


def _component(text: str) -> object:
    class NoLines:
        def read(self, *_: object) -> object:
            raise InvalidInput("lines", "none")

    return ComponentForm(STEP_ID, text, text, minimum=text, serving=text, used=STEP_ID).read(NoLines(), True, [])  # type: ignore[arg-type]


def _target(text: str) -> object:
    day = DayTypeForm(
        STEP_ID,
        text,
        text,
        text,
        text,
        bands={"fibre_g": text, "sodium_mg": text},
        change_pct=text,
        meals=text,
        snacks=text,
        protein_value=text,
        fat_pct=text,
        carbohydrate_pct=text,
    )
    form = EaterForm.of_post(
        FormData([(f"slot-{STEP_ID}-name", text), (f"slot-{STEP_ID}-at", text), ("name", text)]), STEP_ID
    )
    return day.read([]), form.read()


PARSERS: Mapping[str, Callable[[str], object]] = {
    "number": lambda text: read_number(text, "x", largest=99),
    "grams": lambda text: read_grams(text, "x"),
    "ambiguous": is_ambiguous,
    "amount": read_amount,
    "amount and food": split_amount,
    "pasted list": split_lines,
    "pasted line": lambda text: line_reader().read(text),
    "amount in a line": lambda text: take_quantity(clean(text)),
    "amount behind a name": lambda text: take_quantity_anywhere(clean(text)),
    "method": lambda text: guess_step("s", text),
    "step": _step,
    "component": _component,
    "target": _target,
    "label": _labels,
    "barcode": read_barcode,
    "like a barcode": looks_like_barcode,
    "words": words_of,
    "search text": search_text,
    "head": head_of,
    "slip": lambda text: is_one_slip(text, text[:-1]),
    "cooking": lambda text: cooking_of(Component("c", text, (), is_alone=True), (Step("s", text, "", "hob"),)),
    "whole": lambda text: read_whole(text, "x"),
    "day": lambda text: read_day(text, "x"),
    "ids": ids_of,
    "slot": slot_at,
    "page": find_recipes,
    "text of a page": lambda text: plain_text(text, 2000),
    "duration": minutes_of,
    "recipe rows": lambda text: read_lines(f"recipe,ingredient\n{text}".encode()),
    "food rows": lambda text: list(read_foods(decode_file(f"name,state\n{text}".encode()).text)),
}


@pytest.mark.parametrize("name", PARSERS)
def test_four_times_the_letters_are_not_sixteen_times_the_work(name: str) -> None:
    """Told by how the work grows, so a slow machine proves nothing; a pattern that tries again grows by the square.

    What is read in a moment is not looked at closer.
    """
    growing = {}
    for piece in PIECES:
        for end in ENDS:
            if _seconds(PARSERS[name], _of(piece, end, LETTERS)) > MOMENT_S:
                growth = min(_growth(PARSERS[name], piece, end) for _ in range(3))
                if growth > LARGEST_GROWTH:
                    growing[piece + "…" + end] = round(growth, 1)
    assert growing == {}


def test_a_pattern_that_tries_again_is_caught() -> None:
    """A search for digits with an end that is not there begins anew at each of them."""

    def again(text: str) -> object:
        return re.search(r"[0-9]+:", text)

    assert median(_growth(again, "1", "", LETTERS * 2) for _ in range(5)) > LARGEST_GROWTH


def _of(piece: str, end: str, letters: int) -> str:
    return (piece * (letters // len(piece)))[: letters - len(end)] + end


def _growth(parser: Callable[[str], object], piece: str, end: str, letters: int = LETTERS) -> float:
    """How many times longer the whole text takes than a quarter of it, by this thread's own time."""
    return _seconds(parser, _of(piece, end, letters)) / max(_seconds(parser, _of(piece, end, letters // 4)), 1e-6)


def _seconds(parser: Callable[[str], object], text: str) -> float:
    began = time.thread_time()
    with suppress(InvalidInput, InvalidInputs):
        parser(text)
    return time.thread_time() - began


def test_whole_numbers_ids_and_days_are_of_plain_digits_and_of_this_age() -> None:
    assert [whole_of(text) for text in ("0", "007", "12 ", "²", "٣", "-1", "", "1e3", "9" * 5000)] == [
        0,
        7,
        12,
        None,
        None,
        None,
        None,
        None,
        None,
    ]
    assert whole_of("999", 99) is None
    assert read_whole("14", "days", largest=14) == 14
    for text in ("15", "x", "²"):
        with pytest.raises(InvalidInput):
            read_whole(text, "days", largest=14)
    assert id_of(STEP_ID) == UUID(STEP_ID)
    wrong: str | None
    for wrong in ("x" * 36, "1" * 36, STEP_ID.replace("-", ""), "{" + STEP_ID[:34] + "}", "", None, STEP_ID + " "):
        assert id_of(wrong) is None
    assert day_of("2026-11-22") == date(2026, 11, 22)
    for wrong in ("9999-12-31", "0001-01-01", "2026-02-30", "20261122", "2026-W48-1", "٢٠٢٦-١١-٢٢", "", None):
        assert day_of(wrong) is None
    for text in ("9" * 59, "1e400", "9" * 400):
        with pytest.raises(InvalidInput):
            read_number(text, "x")
