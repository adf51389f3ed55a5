"""`crate compute runsheet`: the example by hand, and what cannot be."""

import json
from copy import deepcopy
from typing import Any

import jsonschema
import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.formats.compute import read_request
from goodcrate.formats.compute_runsheet import RunSheetRequest, compute_runsheet
from goodcrate.settings import CHECKOUT
from tests.formats.test_compute import DOCS, crate

EXAMPLE: dict[str, Any] = json.loads((CHECKOUT / "docs" / "examples" / "runsheet.json").read_text())


def test_the_example_by_hand() -> None:
    done = crate("runsheet", EXAMPLE)
    assert (done.returncode, done.stderr) == (0, "")
    result = json.loads(done.stdout)
    jsonschema.validate(EXAMPLE, json.loads((DOCS / "runsheet-request.schema.json").read_text()))
    jsonschema.validate(result, json.loads((DOCS / "runsheet-result.schema.json").read_text()))
    # Peel 8 while the oven gets warm, roast from 12 to 57; chop from 8 to 18, simmer to 58.
    assert (result["status"], result["minutes"], result["bound"]) == ("proven shortest", 58, 58)
    assert result["one_after_another"] == 50 + 57
    at = {task["task"]: (task["start"], task["heat_c"]) for task in result["tasks"]}
    assert at["peel"] == (0, None)
    assert at["chop"] == (8, None)
    assert at["roast"][1] in (180, 190, 200)


@pytest.mark.parametrize(
    ("way", "value", "place"),
    [
        (("tasks", 0, "minutes"), 0, "tasks.0"),
        (("tasks", 1, "place"), "smoker", "tasks.1"),
        (("tasks", 3, "low_c"), 220, "tasks.3"),
        (("tasks", 1, "after"), ["nothing"], "tasks.1"),
        (("tasks", 0, "after"), ["simmer"], "tasks.0"),
        (("tasks", 2, "key"), "chop", "tasks.2.key"),
        (("kitchen", "hands"), 0, "kitchen.hands"),
        (("within",), [{"earlier": "simmer", "later": "box", "minutes": 120}], "within.0"),
    ],
)
def test_what_cannot_be_is_named_at_its_place(way: tuple[Any, ...], value: object, place: str) -> None:
    changed = deepcopy(EXAMPLE)
    at: Any = changed
    for key in way[:-1]:
        at = at[key]
    at[way[-1]] = value
    with pytest.raises((InvalidInput, InvalidInputs)) as refused:
        compute_runsheet(read_request(RunSheetRequest, json.dumps(changed)))
    error = refused.value
    faults = error.faults if isinstance(error, InvalidInputs) else [error] if isinstance(error, InvalidInput) else []
    assert place in {fault.field for fault in faults}


def test_a_session_that_cannot_be_says_so() -> None:
    changed = deepcopy(EXAMPLE)
    changed["tasks"] += [
        {"key": key, "dish": "dip", "minutes": 5, "after": ["chop"], "at_once": True} for key in ("stir", "season")
    ]
    with pytest.raises(InvalidInput, match="No run sheet"):
        compute_runsheet(read_request(RunSheetRequest, json.dumps(changed)))
