"""Database sessions, and the one place where everything is scoped to a household.

Services get a `HouseholdSession`. Whatever ORM statement runs through it (select, get, relationship load, update,
delete) is narrowed to that household here, and what is added gets the household's id. A plain `AccountSession` may
not touch household-owned tables at all: it raises instead of reading everybody's rows.
"""

from time import monotonic
from typing import TypeVar
from uuid import UUID

import pymysql
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DBAPIError, InterfaceError, InvalidatePoolError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker, with_loader_criteria
from sqlalchemy.pool import ConnectionPoolEntry, PoolProxiedConnection

from goodcrate.db.base import HouseholdOwned

T = TypeVar("T", bound=HouseholdOwned)


class UnscopedQuery(RuntimeError):
    """A household's rows were asked for without saying which household: always a bug."""


class AccountSession(Session):
    """For signing in and first runs: sees accounts, and no household's rows."""


class HouseholdSession(Session):
    """Sees and writes the rows of one household only."""

    @property
    def household_id(self) -> UUID:
        """The household this session is bound to."""
        household_id: UUID = self.info["household_id"]
        return household_id

    def find(self, kind: type[T], row_id: UUID) -> T | None:
        """A row of this household by its id, or None: a neighbour's id is simply not there."""
        return self.get(kind, (self.household_id, row_id))


def _touches_owned(state: ORMExecuteState) -> bool:
    return any(issubclass(mapper.class_, HouseholdOwned) for mapper in state.all_mappers)


@event.listens_for(AccountSession, "do_orm_execute")
def _refuse_unscoped(state: ORMExecuteState) -> None:
    if _touches_owned(state):
        raise UnscopedQuery("household rows need a HouseholdSession")


@event.listens_for(HouseholdSession, "do_orm_execute")
def _scope(state: ORMExecuteState) -> None:
    if not state.is_orm_statement:
        raise UnscopedQuery("only ORM statements are scoped to a household; this one is not")
    household_id: UUID = state.session.info["household_id"]
    state.statement = state.statement.options(
        with_loader_criteria(
            HouseholdOwned,
            lambda cls: cls.household_id == household_id,
            include_aliases=True,
            propagate_to_loaders=True,
        )
    )


@event.listens_for(HouseholdSession, "before_flush")
def _own_new_rows(session: Session, *_: object) -> None:
    household_id: UUID = session.info["household_id"]
    for row in session.new | session.dirty:
        if isinstance(row, HouseholdOwned):
            if getattr(row, "household_id", None) is None:
                row.household_id = household_id
            elif row.household_id != household_id:
                raise UnscopedQuery("a row of another household was about to be written")


_AWAY = frozenset({1021, 1040, 1047, 1053, 1114, 1180, 1290, 2002, 2003, 2006, 2013, 2055})
"""MariaDB's numbers for: disk or table full, too many connections, no whole part of its cluster (or no more, while it
commits), shutting down, read-only, no connection, gone."""
_AGAIN = frozenset({1020, 1062, 1205, 1213, 1451, 1452})
"""And for: changed since it was read (certification), there already, lock not given in time, deadlock, still or no
longer pointed to. Who does it again finds what the other one did, and answers accordingly."""

_NO_SAVEPOINT = 1305


def _number_of(error: BaseException | None) -> int:
    original = error.orig if isinstance(error, DBAPIError) else error
    number = original.args[0] if original is not None and original.args else 0
    return number if isinstance(number, int) else 0


def is_database_away(error: BaseException) -> bool:
    """Whether the database is not there, or can take nothing in: nobody's mistake, and over when it is back."""
    if isinstance(error, (PoolTimeout, pymysql.err.InterfaceError)):
        return True
    is_gone = isinstance(error, DBAPIError) and (error.connection_invalidated or isinstance(error, InterfaceError))
    return is_gone or (isinstance(error, (DBAPIError, pymysql.Error)) and _number_of(error) in _AWAY)


def was_rolled_back(error: BaseException) -> bool:
    """Whether two writers were in each other's way, and this one was rolled back for it."""
    if isinstance(error, DBAPIError) and _number_of(error) == _NO_SAVEPOINT:
        # A deadlock inside a savepoint takes that away too: going back to it fails, and hides what happened.
        return error.__context__ is not None and was_rolled_back(error.__context__)
    return isinstance(error, DBAPIError) and _number_of(error) in _AGAIN


ASK_AFTER_S = 1.0
"""A connection that was used within so many seconds is taken to be there: no server is stopped and up again so soon.
Any other is asked first."""
_USED_AT = "used_at"


def _note_use(_connection: DBAPIConnection | None, record: ConnectionPoolEntry) -> None:
    record.info[_USED_AT] = monotonic()


class Database:
    """An engine with its two kinds of sessions. Make one per process with `Database(url)`."""

    def __init__(self, url: str) -> None:
        self.engine: Engine = create_engine(
            url,
            pool_size=10,
            pool_use_lifo=True,  # the same few connections, which need not be asked whether they are there
            max_overflow=4,
            pool_recycle=1800,
            pool_timeout=20,
            hide_parameters=True,  # a log holds no weights, names or passwords
        )
        event.listen(self.engine, "checkout", self._ask_if_there)
        event.listen(self.engine, "checkin", _note_use)
        self._accounts = sessionmaker(self.engine, class_=AccountSession, expire_on_commit=False)
        self._household = sessionmaker(self.engine, class_=HouseholdSession, expire_on_commit=False)

    def _ask_if_there(self, connection: DBAPIConnection, record: ConnectionPoolEntry, _: PoolProxiedConnection) -> None:
        if monotonic() - record.info.get(_USED_AT, 0.0) < ASK_AFTER_S:
            return
        try:
            self.engine.dialect.do_ping(connection)
        except pymysql.Error:
            raise InvalidatePoolError from None  # the pool makes new ones: this one, and all that are as old

    def accounts(self) -> AccountSession:
        """A session for accounts and sign-ins."""
        return self._accounts()

    def household(self, household_id: UUID) -> HouseholdSession:
        """A session bound to one household."""
        return self._household(info={"household_id": household_id})

    def close(self) -> None:
        """Drop all connections."""
        self.engine.dispose()
