"""The labels worked by hand in docs/labels.md: every block is run and compared with its hand calculation."""

import json
import re
from typing import Any

import pytest

from goodcrate.core.foods.label import read_label
from goodcrate.formats.compute import LabelRequest, compute_label
from goodcrate.settings import CHECKOUT

MANUAL = (CHECKOUT / "docs" / "labels.md").read_text()
EXAMPLES = [
    (title, json.loads(block)) for title, block in re.findall(r"^## (.+?)$.*?```json\n(.*?)```", MANUAL, re.M | re.S)
]


def as_typed(request: dict[str, Any]) -> dict[str, str]:
    """The request's fields under the names of the form."""
    facts = {k: str(v) for k, v in request.items() if k != "printed"}
    if "density_g_per_100_ml" in facts:
        facts["density"] = facts.pop("density_g_per_100_ml")
    printed: dict[str, str] = request["printed"]
    return facts | printed


def test_there_are_enough_awkward_labels() -> None:
    assert len(EXAMPLES) >= 12


@pytest.mark.parametrize(("title", "example"), EXAMPLES, ids=[title for title, _ in EXAMPLES])
def test_a_label_comes_out_as_calculated_by_hand(title: str, example: dict[str, Any]) -> None:
    reading = read_label(as_typed(example["request"]))
    assert [fault.field for fault in reading.faults] == example.get("refused", [])
    assert [query.field for query in reading.queries] == example["queried"]
    for query in reading.queries:
        assert example["cause"] in query.cause
        if "correction" in example:
            assert dict(query.corrections[0].changes) == example["correction"]
    if reading.faults:
        return
    result = compute_label(LabelRequest.model_validate(example["request"]))
    for key, by_hand in example["by_hand"].items():
        assert result.per_100_g[key].value == (None if by_hand is None else pytest.approx(by_hand, abs=0.005)), key
    for key, error in example.get("errors", {}).items():
        assert result.per_100_g[key].standard_error == pytest.approx(error, abs=0.005), key
    for name, got in (
        ("each_g", result.each_g),
        ("from_macros", result.energy_from_macros_kcal),
        ("net", result.net_carbohydrate_g),
    ):
        if name in example:
            assert got == pytest.approx(example[name], abs=0.006), name
