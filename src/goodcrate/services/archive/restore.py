"""Putting an archive in: beside the household, looked through as a whole, then in its place; or what it lacks into it.

Where the archive wins, its rows are put in under a household of their own that nobody belongs to yet. Only when each of
its weeks could be worked out do the people move there, in one transaction; the household as it was is put away for a
while, and one more move takes the restore back.
"""

import threading
from collections.abc import Iterator, Mapping
from contextlib import suppress
from datetime import datetime, timedelta
from itertools import islice
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import Connection, select, update
from sqlalchemy.exc import DBAPIError, IntegrityError

from goodcrate.core.ground.errors import GoodCrateError, InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import dated, many
from goodcrate.db.accounts import CalendarLink, Household, Invitation, UserAccount
from goodcrate.db.changes import note_change
from goodcrate.db.foods import count_stamp
from goodcrate.db.session import Database, HouseholdSession
from goodcrate.db.week import WeekRow
from goodcrate.db.whole import (
    LINES_AT_ONCE,
    OwnedTable,
    keys_looked_at_later,
    lost_rows,
    owned_tables,
    put_household,
    put_rows,
    take_out_household,
)
from goodcrate.formats.archive.container import ArchiveReader, ArchiveRefused
from goodcrate.services.accounts import look_again
from goodcrate.services.again import done_again
from goodcrate.services.archive.check import Joined
from goodcrate.services.archive.tables import archived, household_shape, shapes
from goodcrate.services.archive.telling import Told
from goodcrate.services.calling import Caller, is_worth_another_try, utc_now
from goodcrate.services.week.weeks import load_picture

KEPT_AWAY = timedelta(days=7)
"""How long a household that an archive took the place of is kept, so that this can be taken back."""
LETS_GO_EVERY_S = 3600.0
ROWS_SHARE = 0.6
Rows = Iterator[tuple[int, Mapping[str, Any]]]


def put_beside(database: Database, reader: ArchiveReader, told: Told, name: str | None = None) -> Caller:
    """A new household with what an archive holds, which nobody belongs to yet; `name` says what it is called instead.

    Raises:
        InvalidInput: when the archive cannot be put in; then nothing of it is left.
    """
    household_id, now = uuid4(), utc_now()
    caller = Caller(database, household_id)
    settings = reader.household(household_shape())
    try:
        with database.engine.connect() as connection:
            put_household(connection, household_id, settings | ({} if name is None else {"name": name}), now)
            connection.commit()
            with keys_looked_at_later(connection):
                for n, (table, owned) in enumerate(archived().items()):
                    told(ROWS_SHARE * n / len(archived()), say("Putting in what it holds"))
                    _put(connection, owned, household_id, reader.rows(shapes()[table]), is_apart=True)
            _refuse_lost(connection, household_id)
        with caller.transaction() as session:
            count_stamp(session)
            note_change(session)
            read_through(session, told)
    except BaseException:
        take_out_household(database.engine, household_id)
        raise
    return caller


def add_missing(caller: Caller, reader: ArchiveReader, joined: Joined, told: Told) -> None:
    """Put into a household what it lacks of an archive, all in one transaction; what is there stays as it is.

    Raises:
        InvalidInput: when something of it cannot be put in; then nothing is.
    """
    with caller.transaction() as session:
        connection = session.connection()
        stamp = count_stamp(session)
        note_change(session)
        session.flush()
        with keys_looked_at_later(connection):
            for n, (table, owned) in enumerate(archived().items()):
                told(ROWS_SHARE * n / len(archived()), say("Putting in what is not here yet"))
                shape = shapes()[table]
                rows = (
                    (number, joined.placed(shape, row))
                    for number, row in reader.rows(shape)
                    if joined.comes((table, row["id"]))
                )
                _put(connection, owned, caller.household_id, rows, stamp=stamp)
        _refuse_lost(connection, caller.household_id)
        read_through(session, told)


def _put(
    connection: Connection, owned: OwnedTable, household_id: UUID, rows: Rows, *, stamp: int = 1, is_apart: bool = False
) -> None:
    """Put rows in, many at once. With `is_apart` each lot is committed: nobody sees them yet."""
    extra = {"stamp": stamp} if "stamp" in owned.mapped.columns else {}
    while lot := list(islice(rows, LINES_AT_ONCE)):
        try:
            put_rows(connection, owned, household_id, [{**row, **extra} for _, row in lot])
        except DBAPIError as error:
            if is_worth_another_try(error) and not isinstance(error, IntegrityError):
                raise
            raise _refused(owned.name, lot, error) from None
        if is_apart:
            connection.commit()


def _refused(table: str, lot: list[tuple[int, Mapping[str, Any]]], error: DBAPIError) -> InvalidInput:
    """Why the database takes no such rows: bounds, or two of what there may be one of. It names no value."""
    first, last = lot[0][0], lot[-1][0]
    words = error.orig.args[1] if error.orig is not None and len(error.orig.args) > 1 else ""
    rule = next((part.strip("`'.") for part in str(words).split() if part.startswith(("`ck", "'uq", "ck_"))), "")
    where = f"data/{table}.jsonl:{first}–{last}"
    told = {"rule": rule or type(error.orig).__name__}
    return InvalidInput(where, say("A row is beyond what can be stored ({rule}).", **told))


def _refuse_lost(connection: Connection, household_id: UUID) -> None:
    for table, owned in owned_tables().items():
        column = lost_rows(connection, owned, household_id)
        if column is not None:
            raise InvalidInput(f"data/{table}.jsonl", say("{column} points to what is not there.", column=column))


def read_through(session: HouseholdSession, told: Told) -> None:
    """Work every week of a household out once, as its pages will.

    Raises:
        ArchiveRefused: naming the week that cannot be.
    """
    weeks = session.scalars(select(WeekRow).order_by(WeekRow.first_day)).all()
    for n, week in enumerate(weeks):
        share = ROWS_SHARE + (1 - ROWS_SHARE) * n / len(weeks)
        told(share, say("{n} of {weeks} worked out", n=n, weeks=many(len(weeks), "week")))
        try:
            load_picture(session, week)
        except DBAPIError:
            raise
        except Exception as error:
            why = str(error)[:200] if isinstance(error, GoodCrateError) else type(error).__name__
            words = say("The week of {day} cannot be worked out: {why}", day=dated(week.first_day), why=why)
            raise ArchiveRefused(words) from None
        session.expunge_all()


def move_in(caller: Caller, beside: Caller) -> None:
    """The people of a household move to the one put beside it, and this is put away; in one transaction.

    Raises:
        ArchiveRefused: when they moved elsewhere meanwhile.
    """
    _move(caller.database, caller.household_id, beside.household_id, is_back=False)


def take_back(caller: Caller, now: datetime) -> bool:
    """Take a restore back: the people move to the household as it was before. False when it is no longer kept."""
    with caller.database.accounts() as session:
        before = session.scalar(select(Household.before_id).where(Household.id == caller.household_id))
    if before is None or not _is_kept(caller.database, before, now):
        return False
    _move(caller.database, caller.household_id, before, is_back=True)
    return True


def kept_until(caller: Caller) -> datetime | None:
    """Until when a restore can be taken back; None when there is none to take back."""
    with caller.database.accounts() as session:
        before = session.scalar(select(Household.before_id).where(Household.id == caller.household_id))
        away = None if before is None else session.scalar(select(Household.put_away_at).where(Household.id == before))
    return None if away is None or away + KEPT_AWAY < utc_now() else away + KEPT_AWAY


def _is_kept(database: Database, household_id: UUID, now: datetime) -> bool:
    with database.accounts() as session:
        away = session.scalar(select(Household.put_away_at).where(Household.id == household_id))
        return away is not None and away + KEPT_AWAY > now


@done_again
def _move(database: Database, here: UUID, there: UUID, *, is_back: bool) -> None:
    with database.accounts() as session, session.begin():
        rows = session.scalars(select(Household).where(Household.id.in_((here, there))).with_for_update()).all()
        homes = {row.id: row for row in rows}
        if homes[here].put_away_at is not None:
            raise ArchiveRefused(say("Another archive took the place of this household meanwhile."))
        homes[here].put_away_at, homes[there].put_away_at = utc_now(), None
        homes[here].before_id, homes[there].before_id = None, None if is_back else here
        moved = update(UserAccount).where(UserAccount.household_id == here)
        session.execute(moved.values(household_id=there))
        for kind in (CalendarLink, Invitation):
            session.execute(update(kind).where(kind.household_id == here).values(household_id=there))
    look_again(database)


def let_go_regularly(database: Database, ends: threading.Event) -> None:
    """Do `let_go` every hour until it ends; a database that is away is asked the next time."""
    while not ends.wait(LETS_GO_EVERY_S):
        with suppress(Exception):
            let_go(database, utc_now())


def let_go(database: Database, now: datetime) -> int:
    """Take out the households that were put away long enough ago; answers how many."""
    with database.accounts() as session:
        members = select(UserAccount.id).where(UserAccount.household_id == Household.id).exists()
        old = select(Household.id).where(Household.put_away_at < now - KEPT_AWAY, ~members)
        gone = session.scalars(old).all()
    for household_id in gone:
        take_out_household(database.engine, household_id)
    return len(gone)
