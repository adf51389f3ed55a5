"""Stored JSON carries a format number and is read by name: what is not known is an error that names it."""

import json

import pytest
from sqlalchemy import JSON, select, text

from goodcrate.core.recipes.steps import Step
from goodcrate.db.base import Base
from goodcrate.db.recipes import RecipeRow, step_of, stored_step
from goodcrate.db.stored import Stored, StoredOtherwise, by_name
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import library
from tests.services.kitchen import Kitchen, furnish


def test_every_column_of_json_carries_a_format_number() -> None:
    bare = [str(c) for table in Base.metadata.sorted_tables for c in table.columns if isinstance(c.type, JSON)]
    assert bare == []
    assert sum(isinstance(c.type, Stored) for table in Base.metadata.sorted_tables for c in table.columns) > 20


@pytest.fixture
def kitchen(household: Caller) -> Kitchen:
    return furnish(household)


def tags_as(kitchen: Kitchen, stored: object) -> None:
    with kitchen.caller.database.engine.begin() as connection:
        connection.execute(
            text("UPDATE recipe SET tags = :tags WHERE household_id = :h"),
            {"tags": json.dumps(stored), "h": str(kitchen.caller.household_id)},
        )


def test_what_is_stored_has_its_number_around_it(kitchen: Kitchen) -> None:
    there = {"h": str(kitchen.caller.household_id)}
    with kitchen.caller.database.engine.connect() as connection:
        stored = connection.scalar(text("SELECT steps FROM recipe WHERE household_id = :h"), there)
    assert json.loads(str(stored)) == {"format": 1, "value": []}
    others: tuple[object, ...] = ({"format": 2, "value": []}, ["cold"], {"value": []})
    for other in others:
        tags_as(kitchen, other)
        with pytest.raises(StoredOtherwise, match="this Good Crate reads format 1"), kitchen.caller.transaction() as s:
            s.scalars(select(RecipeRow)).all()
    tags_as(kitchen, {"format": 1, "value": ["cold"]})
    assert library.list_recipes(kitchen.caller)[0].tags == ("cold",)


def test_a_key_too_many_or_too_few_is_named() -> None:
    step = Step("1", "Simmer", "pot", "hob", 35, False, after=("0",), checks_min=(15.0,))
    stored = stored_step(step)
    assert step_of(stored) == step
    fewer = {key: value for key, value in stored.items() if key not in ("checks_min", "core_kind")}
    assert step_of(fewer) == Step("1", "Simmer", "pot", "hob", 35, False, after=("0",))  # the stated defaults
    with pytest.raises(StoredOtherwise, match="Step misses text"):
        step_of({key: value for key, value in stored.items() if key != "text"})
    with pytest.raises(StoredOtherwise, match="Step does not know colour"):
        by_name(Step, {"key": "1", "text": "Simmer", "colour": "red"})
