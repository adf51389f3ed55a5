"""The database itself refuses numbers beyond all bounds, whichever way they come."""

from uuid import uuid4

import pytest
from sqlalchemy import DECIMAL, Double, Numeric, text
from sqlalchemy.exc import DBAPIError

from goodcrate.db.base import Base
from goodcrate.services.calling import Caller
from tests.conftest import Cook
from tests.services.kitchen import Kitchen, furnish
from tests.web import racing

RECIPES = {"recipe", "component", "ingredient_line", "variant_change"}
"""What is stored of a recipe beyond all bounds is shown as broken at its place."""
LOGS = {"weighing", "box_event", "shelf_event", "off_plan", "done"}
"""Nothing in them can be changed at all."""
NUMBERS = [
    (table.name, column)
    for table in Base.metadata.sorted_tables
    for column in table.columns
    if isinstance(column.type, (Double, Numeric)) and table.name not in RECIPES | LOGS
]


@pytest.fixture
def kitchen(cook: Cook, household: Caller) -> Kitchen:
    """Something in every table with a number in it."""
    kitchen = furnish(household, 1.5, days=4)
    racing.own_figures(kitchen)
    racing.box_weighed(cook, kitchen, twice=True)
    url, fields = racing.box_in_the_house(kitchen)
    cook.post(url, fields)
    cook.post(url, fields | {"id": str(uuid4()), "kind": "food", "typed": "200 g quark"})
    racing.vessel(cook)
    racing.pack_noted(kitchen)
    racing.target_change(kitchen)
    racing.weight_log(kitchen)
    cook.post("/shop/2026-11-23/food/cabbage_raw/floor", {"floor_g": "500"})
    cook.post(
        "/store/shelves", {"id": str(uuid4()), "name": "drawer", "place": "fridge", "boxes": "14", "litres": "30"}
    )
    action, typed = racing.own_form(cook, f"/targets/{kitchen.eater_id}", f"/targets/{kitchen.eater_id}")
    cook.post(action, typed | {"extras": "200 ml whole milk"})
    return kitchen


def test_no_number_beyond_all_bounds_can_be_stored(kitchen: Kitchen) -> None:
    there = {"h": str(kitchen.caller.household_id)}
    for table, column in NUMBERS:
        whose = "id" if table == "household" else "household_id"
        spare = isinstance(column.type, DECIMAL) and 10 ** ((column.type.precision or 0) - (column.type.scale or 0)) - 1
        most = spare or 1e300
        for value in (most, -most):
            with kitchen.caller.database.engine.connect() as connection:
                rows = f"FROM `{table}` WHERE {whose} = :h"
                assert connection.scalar(text(f"SELECT COUNT(*) {rows}"), there), f"nothing in {table}"
                change = text(f"UPDATE `{table}` SET {column.name} = :v WHERE {whose} = :h")  # noqa: S608
                with pytest.raises(DBAPIError, match="CONSTRAINT"):
                    pytest.fail(
                        f"{table}.{column.name} = {value:g}: {connection.execute(change, {'v': value, **there})}"
                    )
