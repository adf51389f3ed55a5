"""`crate compute review`: the example of the handbook by hand, and what cannot be."""

import json
import re
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.formats.compute_review import ReviewRequest, compute_review

DOCS = Path(__file__).parents[2] / "docs"
EXAMPLE = json.loads((DOCS / "examples" / "review.json").read_text())


def by_hand() -> dict[str, float]:
    """The handbook's table: each step with its kcal."""
    rows = re.findall(r"^\| ([^|]+) \| [^|]*\| ([−+]?[\d,.]+) \|$", (DOCS / "review.md").read_text(), re.M)
    return {step: float(kcal.replace(",", "").replace("−", "-")) for step, kcal in rows}


def test_the_example_is_the_day_that_is_worked_out_by_hand() -> None:
    jsonschema.validate(EXAMPLE, json.loads((DOCS / "formats" / "review-request.schema.json").read_text()))
    result = compute_review(ReviewRequest.model_validate(EXAMPLE))
    jsonschema.validate(
        result.model_dump(mode="json"), json.loads((DOCS / "formats" / "review-result.schema.json").read_text())
    )
    hand, [day] = by_hand(), result.days
    told = day.sums["energy_kcal"]
    names = {"stove": "the stove", "portion": "the box"}
    steps = {f"{s.of}, {names[s.kind]}": s.amount for s in told.steps if s.kind in names}
    for step, kcal in steps.items():
        assert kcal == pytest.approx(hand[step], abs=0.006), step
    assert len(steps) == 6
    assert told.planned == pytest.approx(hand["planned"], abs=0.006)
    assert told.packed == pytest.approx(hand["in the boxes"], abs=0.006)
    assert told.eaten == pytest.approx(hand["eaten"], abs=0.006)
    assert sum(v for k, v in hand.items() if k not in ("in the boxes", "eaten")) == pytest.approx(
        hand["eaten"], abs=0.02
    )
    assert (day.energy, day.energy_by, day.is_over) == ("short", 216, True)
    assert [(p.kind, p.of, p.eater) for p in result.proposals] == [
        ("smaller", "rhubarb quark pot with toasted oats", "maren"),
        ("yield", "leek and quark oven slice", ""),
    ]
    assert result.proposals[0].proposed == pytest.approx(375.8 / 2)
    assert result.proposals[1].proposed == pytest.approx(0.687)
    energy_free = {n.nutrient: n for n in result.nutrients}
    assert energy_free["iron_mg"].says == "not_known", "what is left out is unknown, not 0"
    assert energy_free["iron_mg"].wanted == 18


def changed(path: str, value: Any) -> dict[str, Any]:
    """The example with one thing otherwise."""
    given = json.loads(json.dumps(EXAMPLE))
    *way, last = path.split(".")
    place: Any = given
    for step in way:
        place = place[int(step)] if step.isdigit() else place[step]
    place[last] = value
    return given  # type: ignore[no-any-return]


@pytest.mark.parametrize(
    ("path", "value", "field", "words"),
    [
        ("days.0.eater", "nobody", "days.0.eater", "There is no eater “nobody”"),
        (
            "days.0.meals.1.packed",
            {"grams": 1, "holds": {"joy": 1}},
            "days.0.meals.1.packed.holds",
            "“joy” is no nutrient",
        ),
        ("days", EXAMPLE["days"] * 2, "days.1.day", "has 2026-11-24 twice"),
    ],
)
def test_what_cannot_be_is_said_at_its_place(path: str, value: Any, field: str, words: str) -> None:
    with pytest.raises(InvalidInputs) as error:
        compute_review(ReviewRequest.model_validate(changed(path, value)))
    assert [(f.field, words in f.message) for f in error.value.faults] == [(field, True)]


def test_a_meal_to_come_is_judged_by_nobody() -> None:
    [day] = compute_review(ReviewRequest.model_validate(changed("days.0.meals.3.eaten_share", None))).days
    assert (day.is_over, day.energy) == (False, None)
    assert [s.kind for s in day.sums["energy_kcal"].steps if s.of == "dinner"][-1] == "to_come"
    assert compute_review(ReviewRequest.model_validate(changed("days.0.meals.3.eaten_share", None))).nutrients == []
