"""The declarative base, shared column types, and what every household-owned row has in common."""

from decimal import Decimal
from typing import Annotated
from uuid import UUID

from sqlalchemy import DECIMAL, Double, ForeignKey, ForeignKeyConstraint, MetaData, String, Uuid
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from goodcrate.core.ground.writing import round_half_up

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}

Grams = Annotated[Decimal, mapped_column(DECIMAL(9, 1))]
"""Grams with one decimal. Quantise in Python: MariaDB rounds what does not fit in silence."""
Figure = Annotated[float | None, mapped_column(Double)]
"""A nutrient per 100 g; NULL is unknown."""
Name = Annotated[str, mapped_column(String(160))]


COOKING, BOXES, SHOPPING, PANTRY, AT_TABLE = LOGS = ("cooking", "boxes", "shopping", "pantry", "at_table")
"""A household's logs: what is begun and weighed; boxes; what is said at the shelf; food in the house; what is said at
the table. What is planned depends on none of them. A table of a log names it in `log_of`; all others are the plan's."""


class Base(DeclarativeBase):
    """Base of all tables."""

    metadata = MetaData(naming_convention=NAMING)
    type_annotation_map = {UUID: Uuid(), float: Double()}


class HouseholdOwned:
    """Mixin of every row that belongs to a household.

    The primary key is (household_id, id), and foreign keys between such rows carry the household too, so the
    database itself refuses a row that points into another household.
    """

    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), primary_key=True)
    id: Mapped[UUID] = mapped_column(primary_key=True)


def owned_key(column: str, table: str, *, ondelete: str | None = None, is_back: bool = False) -> ForeignKeyConstraint:
    """A foreign key to a row of the same household; `is_back` closes a circle of tables, and comes after both."""
    there = [f"{table}.household_id", f"{table}.id"]
    return ForeignKeyConstraint(["household_id", column], there, ondelete=ondelete, use_alter=is_back)


def grams(value: float) -> Decimal:
    """A float in g as it is stored: one decimal, half up by value."""
    return Decimal(str(round_half_up(value, 1)))
