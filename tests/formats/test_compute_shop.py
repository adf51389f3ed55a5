"""`crate compute shop`: the example of the handbook by hand, and what cannot be."""

import json
from copy import deepcopy
from typing import Any

import jsonschema
import pytest

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.formats.compute import read_request
from goodcrate.formats.compute_shop import ShopRequest, compute_shop
from goodcrate.settings import CHECKOUT
from tests.formats.test_compute import DOCS, crate

EXAMPLE: dict[str, Any] = json.loads((CHECKOUT / "docs" / "examples" / "shop.json").read_text())


def test_the_example_of_the_handbook() -> None:
    done = crate("shop", EXAMPLE)
    assert (done.returncode, done.stderr) == (0, "")
    result = json.loads(done.stdout)
    jsonschema.validate(EXAMPLE, json.loads((DOCS / "shop-request.schema.json").read_text()))
    jsonschema.validate(result, json.loads((DOCS / "shop-result.schema.json").read_text()))
    cabbage, quark, swede = result["lines"]
    assert (cabbage["needed_g"], cabbage["house_g"], cabbage["buy_g"], cabbage["price"]) == (760, 100, 660, 1.4)
    assert cabbage["packs"] == [{"grams": 900, "count": 1, "price": 1.4}]
    assert (cabbage["left"]["grams"], cabbage["left"]["place"]) == (240, "fridge")
    assert [(p["grams"], p["count"]) for p in quark["packs"]] == [(500, 2)]
    assert (quark["left"]["grams"], quark["left"]["place"], quark["price"]) == (11, "fridge", 4.1)
    assert (swede["price"], swede["price_is_estimated"], swede["left"]) == (0.7, True, None)
    assert (result["price"], result["estimated"], result["unpriced"]) == (6.2, 0.7, [])
    assert round(result["in_packs"], 2) == 0.42
    assert round(result["from_house"], 2) == 0.16
    assert round(result["eaten"], 2) == 5.94
    assert sum(dish["cost"] for dish in result["dishes"]) == pytest.approx(result["eaten"], abs=0.001)


@pytest.mark.parametrize(
    ("way", "value", "place"),
    [
        (("needs", 0, "packs", 0, "grams"), 0, "needs.0.packs.0"),
        (("needs", 1, "packs", 1, "price"), -1, "needs.1.packs.1"),
        (("needs", 1, "packs", 1, "price"), 1e9, "needs.1.packs.1"),
        (("needs", 0, "uses", 0, "grams"), 0, "needs.0.uses.0.grams"),
        (("needs", 1, "food"), "no_such_food", "needs.1.food"),
        (("needs", 1, "food", "name"), "White cabbage", "needs.1.food"),
        (("house", 0, "food"), "Cabbage", "house.0.food"),
        (("needs", 0, "food", "group"), "plants", "needs.0.food.group"),
    ],
)
def test_what_cannot_be_is_named_at_its_place(way: tuple[Any, ...], value: object, place: str) -> None:
    changed = deepcopy(EXAMPLE)
    at: Any = changed
    for key in way[:-1]:
        at = at[key]
    at[way[-1]] = value
    with pytest.raises((InvalidInput, InvalidInputs)) as refused:
        compute_shop(read_request(ShopRequest, json.dumps(changed)))
    faults = refused.value.faults if isinstance(refused.value, InvalidInputs) else [refused.value]
    assert [fault.field for fault in faults if isinstance(fault, InvalidInput)] == [place]
