"""`crate compute serving`: what a pot should weigh and why, how it is cooked in one word, days of one's own."""

from typing import Any, get_args

import pytest
from pydantic import ValidationError

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.cooking import COOKED_AS
from goodcrate.formats.compute_serving import compute_serving
from goodcrate.formats.serving_request import ComponentIn, ServingRequest

Asked = dict[str, Any]


def component(**given: object) -> Asked:
    lines = [{"food": "pearl_barley_dry", "amount_g": 300}]
    return {"name": "barley", "lines": lines, **given}


def answer(part: Asked, *steps: Asked) -> Any:
    request = {"name": "Barley", "servings": 3, "components": [part], "steps": list(steps)}
    (made,) = compute_serving(ServingRequest.model_validate(request)).components
    return made


def boiled(**more: object) -> Asked:
    return {"text": "Boil the barley", "component": 0, "equipment": "hob", "minutes": 35, "hands_on": False, **more}


def test_changes_lead_from_what_stays_to_the_cooked_weight() -> None:
    made = answer(component(), boiled(text="Boil the barley, drain it"))
    assert made.cooked_as == "drained"
    assert made.cooked_g == pytest.approx(300 * 2.85)
    (change,) = made.weight_changes
    assert change.words == "pearl barley takes up water it is boiled in"
    assert change.grams == pytest.approx(300 * 1.85)
    # 8 % of the water taken up, 1 % left in the pot, half a gram of the scale
    by_hand = ((0.08 * 555) ** 2 + (0.01 * 855) ** 2) ** 0.5
    assert made.cooked_standard_error_g == pytest.approx(by_hand, rel=0.01)


def test_listed_water_is_what_it_is_cooked_in() -> None:
    watered = component()
    watered["lines"] = [*watered["lines"], {"food": "water_tap", "amount_g": 700}]
    made = answer(watered, boiled(text="Simmer the barley under a lid"))
    assert made.cooked_as in ("absorbed", "simmered")
    (steam,) = made.weight_changes
    assert steam.words == "steams off in 35 min under a lid"
    assert made.cooked_g == pytest.approx(1000 - 1000 * 0.04 * 35 / 60)


@pytest.mark.parametrize("word", COOKED_AS)
def test_each_word_of_a_cook_is_taken(word: str) -> None:
    made = answer(component(cooked_as=word))
    assert made.cooked_as == word
    assert made.cooked_g > 0
    if word == "raw":
        assert (made.cooked_g, made.weight_changes) == (300, [])


def test_the_words_of_the_file_are_those_of_the_kitchen() -> None:
    field = ComponentIn.model_fields["cooked_as"]
    assert set(get_args(field.annotation)) == {"", *COOKED_AS}


def test_a_typed_weight_stands_and_says_so() -> None:
    made = answer(component(cooked_g=840), boiled())
    assert (made.cooked_g, made.yield_basis, made.weight_changes) == (840, "typed", [])
    assert made.cooked_standard_error_g == pytest.approx(840 * 0.04)


def test_own_days_are_fewer_at_will_and_more_with_a_reason() -> None:
    fewer = answer(component(storage={"own_days": 1}), boiled()).storage
    assert (fewer.fridge_days_cautious, fewer.fridge_days_usual) == (1, 1)
    more = answer(component(storage={"own_days": 9}), boiled()).storage
    assert (more.fridge_days_cautious, more.fridge_days_usual) == (2, 4)
    why = {"own_days": 9, "days_because": "held at 1 °C, measured"}
    reasoned = answer(component(storage=why), boiled()).storage
    assert (reasoned.fridge_days_cautious, reasoned.fridge_days_usual) == (9, 9)


@pytest.mark.parametrize(
    ("part", "place"),
    [
        (component(cooked_as="charmed"), "cooked_as"),
        (component(storage={"own_days": -1}), "own_days"),
        (component(storage={"own_days": 366}), "own_days"),
        (component(storage={"days_because": "x" * 201}), "days_because"),
    ],
)
def test_what_cannot_be_is_named_at_its_place(part: Asked, place: str) -> None:
    with pytest.raises((ValidationError, InvalidInput)) as refused:
        answer(part)
    assert place in str(refused.value)
