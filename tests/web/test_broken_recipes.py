"""Recipe files bent out of shape, and rows that got in before there were bounds: refused at their place, or shown as
broken at theirs, and nothing else goes down with them."""

import json
import random
from copy import deepcopy
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import text

from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library
from goodcrate.services.week import weeks
from tests.conftest import Cook, text_of
from tests.services.kitchen import MONDAY, furnish

MUTATIONS, SEED = 240, 7
FOUND = {
    "name": "Oats",
    "servings": 2,
    "lines": [["", ["200 g rolled oats"]]],
    "steps": [["stir", 3]],
    "note": "",
    "tags": [],
    "origin": "",
    "claimed_kcal": None,
    "notices": [],
}
NASTY: tuple[Any, ...] = (
    None, True, -1, 0, 1e300, 5e-324, 10**400, "x", "", "²", [], {}, [[]], {"a": 1}, "9" * 5000, "x" * 50_000, "\x00",
    float("nan"), float("inf"), [None] * 500, {"@type": "Recipe"},
)  # fmt: skip


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a JSON value."""
    found = [path]
    parts = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in parts:
        found += places(part, (*path, key))
    return found


def bent(document: Any, dice: random.Random) -> Any:
    """The document with one to three places changed, dropped or buried deep."""
    whole = json.loads(json.dumps(document))
    for _ in range(dice.randint(1, 3)):
        path = dice.choice([p for p in places(whole) if p])
        at = whole
        for key in path[:-1]:
            at = at[key]
        act = dice.random()
        if act < 0.75:
            at[path[-1]] = deepcopy(dice.choice(NASTY))
        elif act < 0.9 and isinstance(at, dict):
            del at[path[-1]]
        else:
            deep: Any = at[path[-1]]
            for _ in range(dice.choice((3, 200))):
                deep = [deep] if dice.random() < 0.5 else {"a": deep}
            at[path[-1]] = deep
    return whole


def all_is_well(cook: Cook) -> None:
    for page in ("/recipes", "/recipes/export.json", "/recipes/lines.csv", "/week", "/cook"):
        cook.get(page)


def test_bent_recipe_files_are_taken_or_refused_and_break_nothing(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    document = json.loads(cook.get(f"/recipes/{kitchen.recipe_id}/export.json"))
    dice = random.Random(SEED)  # noqa: S311 — chance, not a secret
    answers: dict[int, int] = {}
    for _ in range(MUTATIONS):
        pasted = json.dumps(bent(document, dice))
        answer = cook.client.post(
            "/recipes/import", data={"csrf": cook.csrf, "id": str(uuid4()), "pasted": pasted}, follow_redirects=False
        )
        assert answer.status_code < 500, pasted[:3000]
        answers[answer.status_code] = answers.get(answer.status_code, 0) + 1
        found = answer.status_code == 200 and dice.random() < 0.6
        if found:
            sent = json.dumps(bent({**FOUND, "document": document.get("gc:document")}, dice))
            fields = {"csrf": cook.csrf, "id": str(uuid4()), "recipe": sent}
            taken = cook.client.post("/recipes/import/one", data=fields, follow_redirects=False)
            assert taken.status_code < 500, sent[:3000]
    assert answers[200] > 20
    assert answers[422] > 20
    all_is_well(cook)
    for saved in library.list_recipes(household):
        assert saved.broken == ""
        cook.get(f"/recipes/{saved.recipe.key}")
        cook.get(f"/recipes/{saved.recipe.key}/print")
    deep = "[" * 5000 + "]" * 5000
    for field, url in (("pasted", "/recipes/import"), ("recipe", "/recipes/import/one")):
        assert cook.client.post(url, data={"csrf": cook.csrf, field: deep}).status_code == 422


@pytest.mark.parametrize("value", ["1e300", "-1", "1e12"])
def test_a_row_that_cannot_be_computed_is_broken_at_its_place(cook: Cook, household: Caller, value: str) -> None:
    kitchen = furnish(household)
    with household.database.engine.begin() as connection:
        done = connection.execute(
            text("UPDATE ingredient_line SET error_g = :value WHERE id = :id"),
            {"value": float(value), "id": str(kitchen.line_ids[0])},
        )
        assert done.rowcount == 1
    library._VALUES.clear()
    all_is_well(cook)
    page = cook.get("/recipes")
    assert "cannot be computed" in text_of(page)
    there = f"/recipes/{kitchen.recipe_id}"
    for url in (there, f"{there}/print"):
        assert "This recipe cannot be computed" in text_of(cook.get(url))
    everything = json.loads(cook.get("/recipes/export.json"))
    assert ([*everything["@graph"]], everything["gc:asStored"][0]["name"]) == ([], "Turkey pot")
    kept = json.loads(cook.get(f"{there}/export.json"))
    assert kept["name"] == "Turkey pot"
    assert kept["components"][0]["lines"][0]["error_g"] == float(value)
    cook.get(f"/week/{MONDAY}")
    cook.post(f"{there}/remove-broken")
    assert "cannot be computed" not in text_of(cook.get("/recipes"))
    assert weeks.week_picture(household, MONDAY) is not None


def test_what_no_document_may_hold_is_taken_out_as_it_is_stored(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    with household.database.engine.begin() as connection:
        heavy = text("UPDATE ingredient_line SET amount_g = 9999999 WHERE id = :id")
        connection.execute(heavy, {"id": str(kitchen.line_ids[0])})
    library._VALUES.clear()
    kept = json.loads(cook.get("/recipes/export.json"))["gc:asStored"]
    assert kept[0]["components"][0]["lines"][0]["amount_g"] == "9999999.0"


def test_a_week_that_failed_once_is_shown_the_next_time(
    cook: Cook, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    furnish(household)

    def fail(*_: object) -> None:
        raise RuntimeError("once")

    with monkeypatch.context() as patched:
        patched.setattr(weeks, "week_outcome", fail)
        assert cook.client.get(f"/week/{MONDAY}").status_code == 500
    for page in (f"/week/{MONDAY}", "/cook", f"/week/{MONDAY}/plan"):
        cook.get(page)


def test_a_recipe_that_can_be_computed_is_not_taken_away(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    assert "can be computed" in text_of(cook.post(f"/recipes/{kitchen.recipe_id}/remove-broken", expect=422).text)
    assert library.get_recipe(household, kitchen.recipe_id).recipe.name == "Turkey pot"
