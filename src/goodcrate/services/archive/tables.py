"""Which tables and columns an archive holds, read off the mapped tables: what is added there is in the next archive."""

from collections.abc import Mapping
from functools import cache
from typing import Any

from sqlalchemy import (
    DECIMAL,
    BigInteger,
    Boolean,
    Column,
    Date,
    DateTime,
    Double,
    Integer,
    String,
    Time,
    UniqueConstraint,
    Uuid,
)
from sqlalchemy.dialects.mysql import DATETIME

from goodcrate.db.base import Base
from goodcrate.db.stored import Stored
from goodcrate.db.whole import OwnedTable, owned_tables
from goodcrate.formats.archive import shape as kinds
from goodcrate.formats.archive.shape import ColumnShape, TableShape

LEFT_OUT: Mapping[str, str] = {
    "job": "work that is under way, or its outcome",
    "recipe_import": "an upload that waits",
    "food_import": "an upload that waits",
    "week_summary": "worked out from the rest",
    "archive_file": "archives themselves",
    "archive_part": "archives themselves",
}
"""Tables that no archive holds, and why."""
NOT_OURS = ("household_id", "seq", "user_id", "stamp")
"""Columns that belong to one database: whose row, the count of arrivals, who is signed in, and the count of changes."""
HOUSEHOLD_ONLY = ("id", "version", "created_at", "put_away_at", "before_id")
OWNER: Mapping[str, str] = {
    "day_type": "eater_id",
    "slot": "eater_id",
    "eater_extra": "eater_id",
    "weight_log": "eater_id",
    "body_weight": "eater_id",
    "component": "recipe_id",
    "ingredient_line": "component_id",
    "variant_change": "recipe_id",
    "recipe_past": "recipe_id",
    "food_past": "food_id",
    "prep_session": "week_id",
    "placement": "week_id",
    "target_change": "week_id",
    "instead": "week_id",
    "shelf_event": "week_id",
    "proposal_taken": "week_id",
    "cook_run": "week_id",
    "cook_tick": "run_id",
    "cook_order": "run_id",
    "batch": "week_id",
    "batch_line": "batch_id",
    "pot": "batch_id",
    "box": "packed_for",
    "box_content": "box_id",
    "box_event": "box_id",
}
"""The column that names what a row is a part of: a part comes in with its whole, or not at all."""
_KINDS: tuple[tuple[type[Any], str], ...] = (
    (Stored, kinds.DOCUMENT),
    (Uuid, kinds.ID),
    (Boolean, kinds.YES_NO),
    (BigInteger, kinds.WHOLE),
    (Integer, kinds.WHOLE),
    (DECIMAL, kinds.DECIMAL),
    (Double, kinds.FIGURE),
    (String, kinds.TEXT),
    (DATETIME, kinds.MOMENT),
    (DateTime, kinds.MOMENT),
    (Date, kinds.DAY),
    (Time, kinds.CLOCK),
)


@cache
def archived() -> Mapping[str, OwnedTable]:
    """The tables an archive holds, those that others point to first."""
    return {name: owned for name, owned in owned_tables().items() if name not in LEFT_OUT}


@cache
def shapes() -> Mapping[str, TableShape]:
    """What their rows look like in an archive."""
    return {name: _shape_of(owned) for name, owned in archived().items()}


@cache
def household_shape() -> TableShape:
    """What a household's own settings look like in an archive."""
    columns = Base.metadata.tables["household"].columns
    return TableShape("household", tuple(_column(c, {}) for c in columns if c.name not in HOUSEHOLD_ONLY))


def _shape_of(owned: OwnedTable) -> TableShape:
    points = {}
    for key in owned.mapped.foreign_key_constraints:
        for column in key.columns:
            if column.name != "household_id" and key.referred_table.name in owned_tables():
                points[column.name] = key.referred_table.name
    there = [c for c in owned.columns if c.name not in NOT_OURS]
    named = {c.name for c in there}
    uniques = [
        tuple(c.name for c in rule.columns if c.name != "household_id")
        for rule in owned.mapped.constraints
        if isinstance(rule, UniqueConstraint)
    ]
    return TableShape(
        owned.name,
        tuple(_column(c, points) for c in there),
        tuple(sorted(rule for rule in uniques if named.issuperset(rule))),
        is_log=owned.order is not None,
    )


def _column(column: Column[Any], points: Mapping[str, str]) -> ColumnShape:
    kind = next(kind for sort, kind in _KINDS if isinstance(column.type, sort))
    return ColumnShape(
        column.name,
        kind,
        is_nullable=bool(column.nullable),
        most_letters=column.type.length if isinstance(column.type, String) else None,
        digits=(column.type.precision or 0) if isinstance(column.type, DECIMAL) else 0,
        decimals=(column.type.scale or 0) if isinstance(column.type, DECIMAL) else 0,
        format=column.type.format if isinstance(column.type, Stored) else 1,
        points_to=points.get(column.name),
    )
