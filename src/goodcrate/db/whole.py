"""A household's rows as a whole, table by table: read in one picture, put in under another household, taken out.

What passes here does not go through the scoped session: every statement is narrowed to one household by hand, and
nothing else in the app may do so.
"""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import Any
from uuid import UUID

from sqlalchemy import (
    DECIMAL,
    Column,
    Connection,
    Engine,
    Table,
    Text,
    bindparam,
    column,
    delete,
    func,
    insert,
    literal,
    select,
    table,
    text,
)
from sqlalchemy import Sequence as Counter
from sqlalchemy.sql.expression import TableClause

from goodcrate.db.accounts import CalendarLink, Invitation, UserAccount
from goodcrate.db.base import Base, HouseholdOwned
from goodcrate.db.changes import HouseholdChangeRow, counts_of_new
from goodcrate.db.foods import FoodStampRow
from goodcrate.db.stored import Stored
from goodcrate.db.tables import METADATA

LINES_AT_ONCE = 500
"""So many rows are one statement."""
TAKEN_AT_ONCE = 5_000
"""So many rows are taken out in one transaction: nobody waits long for it."""
FORGETS = "@goodcrate_forgets"
"""The household whose logs this connection may take out (their triggers ask)."""


@dataclass(frozen=True)
class OwnedTable:
    """A table whose rows are households': as it is mapped, and as it is read and written here, documents as text."""

    mapped: Table
    raw: TableClause

    @property
    def name(self) -> str:
        """The table's name."""
        return self.mapped.name

    @property
    def columns(self) -> tuple[Column[Any], ...]:
        """Its columns but the household's."""
        return tuple(c for c in self.mapped.columns if c.name != "household_id")

    @property
    def order(self) -> Counter | None:
        """The count that its rows are numbered by as they arrive; None for one that is not numbered."""
        counter = self.mapped.columns["seq"].default if "seq" in self.mapped.columns else None
        return counter if isinstance(counter, Counter) else None


@cache
def owned_tables() -> Mapping[str, OwnedTable]:
    """Every table of households' rows by its name, those that others point to first."""
    owned = {str(m.local_table) for m in Base.registry.mappers if issubclass(m.class_, HouseholdOwned)}
    found = {}
    for mapped in METADATA.sorted_tables:
        if mapped.name in owned:
            raw = table(mapped.name, *(_raw(c) for c in mapped.columns))
            found[mapped.name] = OwnedTable(mapped, raw)
    return found


def _raw(mapped: Column[Any]) -> Any:
    """Documents as their text, decimals with all their digits."""
    if isinstance(mapped.type, Stored):
        return column(mapped.name, Text())
    if isinstance(mapped.type, DECIMAL):
        return column(mapped.name, DECIMAL(mapped.type.precision, mapped.type.scale))
    return column(mapped.name, mapped.type)


@contextmanager
def one_picture(engine: Engine) -> Iterator[Connection]:
    """A connection that sees all tables as they were at one moment, whatever is written meanwhile."""
    with engine.connect() as connection:
        connection.execute(text("START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY"))
        try:
            yield connection
        finally:
            connection.rollback()


def household_row(connection: Connection, household_id: UUID) -> Mapping[str, Any]:
    """A household's own row: its name and settings."""
    home = _home()
    return dict(connection.execute(select(home).where(home.c.id == household_id)).mappings().one())


def put_household(connection: Connection, household_id: UUID, row: Mapping[str, Any], now: datetime) -> None:
    """A new household with these settings, and nobody in it yet."""
    told = {"id": household_id, "version": 1, "created_at": now, "put_away_at": now, **row}
    connection.execute(insert(_home()), [told])
    connection.execute(insert(FoodStampRow), [{"household_id": household_id, "value": 1}])
    connection.execute(insert(HouseholdChangeRow), [counts_of_new(household_id)])


@cache
def _home() -> TableClause:
    return table("household", *(_raw(c) for c in METADATA.tables["household"].columns))


def rows_of(connection: Connection, owned: OwnedTable, household_id: UUID) -> Iterator[Mapping[str, Any]]:
    """A household's rows of a table, in the order they arrived or by their ids."""
    by = owned.raw.c.seq if owned.order is not None else owned.raw.c.id
    here = select(*(owned.raw.c[c.name] for c in owned.columns)).where(owned.raw.c.household_id == household_id)
    streamed = connection.execution_options(stream_results=True, max_row_buffer=1000)
    with streamed.execute(here.order_by(by)) as result:
        yield from map(dict, result.mappings())


def ids_of(connection: Connection, owned: OwnedTable, household_id: UUID) -> set[UUID]:
    """The ids of a household's rows of a table."""
    there = select(owned.raw.c.id).where(owned.raw.c.household_id == household_id)
    return set(connection.scalars(there))


@contextmanager
def keys_looked_at_later(connection: Connection) -> Iterator[None]:
    """Rows may come in any order, though they point to each other; `lost_rows` looks whether all of them do."""
    connection.execute(text("SET SESSION foreign_key_checks = 0"))
    try:
        yield
    finally:
        connection.execute(text("SET SESSION foreign_key_checks = 1"))


def put_rows(connection: Connection, owned: OwnedTable, household_id: UUID, rows: Sequence[Mapping[str, Any]]) -> None:
    """Put rows in under a household; those of a log are numbered as arriving now, in the order given."""
    if not rows:
        return
    told = [{**row, "household_id": household_id} for row in rows]
    if owned.order is not None:
        for row, number in zip(told, _numbers(connection, owned.order, len(told)), strict=True):
            row["seq"] = number
    connection.execute(insert(owned.raw), told)


def _numbers(connection: Connection, counter: Counter, count: int) -> list[int]:
    line = select(literal(1).label("i")).cte("line", recursive=True)
    line = line.union_all(select(line.c.i + 1).where(line.c.i < bindparam("count")))
    many = select(counter.next_value()).select_from(line)
    return sorted(connection.scalars(many, {"count": count}))


def lost_rows(connection: Connection, owned: OwnedTable, household_id: UUID) -> str | None:
    """The first column of a table that points to a row its household does not have; None when all is there."""
    for key in owned.mapped.foreign_key_constraints:
        pointing = next((c.name for c in key.columns if c.name != "household_id"), None)
        if pointing is None or key.referred_table.name not in owned_tables():
            continue
        there = owned_tables()[key.referred_table.name].raw.alias("there")
        here = owned.raw.alias("here")
        met = (there.c.household_id == here.c.household_id) & (there.c.id == here.c[pointing])
        lost = (
            select(func.count())
            .select_from(here.outerjoin(there, met))
            .where(here.c.household_id == household_id, here.c[pointing].is_not(None), there.c.id.is_(None))
        )
        if connection.scalar(lost):
            return pointing
    return None


def take_out_household(engine: Engine, household_id: UUID) -> None:
    """Take a household out with all its rows, a part at a time. Nobody may belong to it any more.

    Raises:
        ValueError: when somebody still does.
    """
    with engine.connect() as connection:
        members = select(func.count()).select_from(UserAccount).where(UserAccount.household_id == household_id)
        if connection.scalar(members):
            raise ValueError("somebody still belongs to this household")
        connection.execute(text(f"SET {FORGETS} = :h"), {"h": str(household_id)})
        try:
            with keys_looked_at_later(connection):
                for owned in owned_tables().values():
                    there = text(f"DELETE FROM `{owned.name}` WHERE household_id = :h LIMIT {TAKEN_AT_ONCE}")  # noqa: S608
                    while connection.execute(there, {"h": str(household_id)}).rowcount:
                        connection.commit()
                for kind in (FoodStampRow, HouseholdChangeRow, CalendarLink, Invitation):
                    connection.execute(delete(kind).where(kind.household_id == household_id))
                connection.execute(delete(_home()).where(_home().c.id == household_id))
                connection.commit()
        finally:
            connection.rollback()
            connection.execute(text(f"SET {FORGETS} = NULL"))
