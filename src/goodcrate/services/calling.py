"""Who calls a service, and what a service may answer besides its result."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import TypeVar
from uuid import UUID

from sqlalchemy import ColumnElement, and_, delete, inspect, or_, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from goodcrate.core.ground.errors import GoodCrateError
from goodcrate.core.ground.wording import say
from goodcrate.db.base import Base, HouseholdOwned
from goodcrate.db.session import Database as Database  # noqa: PLC0414 — for web, which knows no table
from goodcrate.db.session import HouseholdSession, was_rolled_back
from goodcrate.db.session import is_database_away as is_database_away  # noqa: PLC0414

T = TypeVar("T", bound=HouseholdOwned)
LET_GO_AT_ONCE = 500


class MetAnother(Exception):
    """Another writer put in, changed or took away the same row at the same moment: done again, that is seen."""


def is_worth_another_try(error: BaseException) -> bool:
    """Whether two writers were in each other's way, everything was rolled back, and doing it again will do."""
    return isinstance(error, MetAnother) or was_rolled_back(error)


class NotFound(GoodCrateError):
    """The household has no such thing (anybody else's things are not there either)."""

    def __init__(self, what: str) -> None:
        self.what = what
        super().__init__(say("There is no such {what}.", what=what))


class SentOtherwise(GoodCrateError):
    """The same entry was sent before with something else in it; the first is kept."""


class StaleWrite(GoodCrateError):
    """Somebody saved a newer version in the meantime; what was typed is kept by the page."""

    def __init__(self, what: str, current_version: int) -> None:
        self.what, self.current_version = what, current_version
        super().__init__(say("This {what} was changed elsewhere while you typed.", what=what))


@dataclass(frozen=True)
class Caller:
    """A signed-in person of one household, and the database to act on. Somebody who only eats acts for one eater,
    `only_eater`; everybody else for all."""

    database: Database
    household_id: UUID
    user_id: UUID | None = None
    only_eater: UUID | None = None

    def acts_for(self, eater_id: UUID | None) -> None:
        """Refuse what is not theirs to somebody who only eats.

        Raises:
            NotFound: when it is another eater's, or nobody's.
        """
        if self.only_eater not in (None, eater_id):
            raise NotFound("meal")

    @contextmanager
    def transaction(self) -> Iterator[HouseholdSession]:
        """One transaction, scoped to the household: committed at the end, rolled back on any error.

        Raises:
            MetAnother: when a row was changed by somebody else between reading and writing.
        """
        with self.database.household(self.household_id) as session:
            try:
                with session.begin():
                    yield session
            except StaleDataError:
                raise MetAnother from None


def older_than(what: str, current: int, shown: int | None) -> StaleWrite | None:
    """Why a page that was shown at version `shown` is an older one; None when it is not, or does not say."""
    return None if shown in (None, current) else StaleWrite(what, current)


@contextmanager
def saying_again(session: HouseholdSession, stale: StaleWrite | None) -> Iterator[None]:
    """Write what a page says. Of an older one (`stale`) only what stands already passes: a form sent twice.

    Raises:
        StaleWrite: when an older page would change anything.
    """
    if stale is None:
        yield
        return
    with session.no_autoflush:
        yield
        if session.new or session.deleted or any(session.is_modified(row) for row in session.dirty):
            raise stale


def existing(session: HouseholdSession, kind: type[T], row_id: UUID, what: str) -> T:
    """A row of the household.

    Raises:
        NotFound: when the household has none with this id.
    """
    row = session.find(kind, row_id)
    if row is None:
        raise NotFound(what)
    return row


def add_once(session: HouseholdSession, row: HouseholdOwned) -> bool:
    """Insert a row under its client-made id; False when it is already there, so a repeated send changes nothing.

    Raises:
        MetAnother: when somebody puts it in at this very moment; this transaction cannot see that row yet.
    """
    if session.find(type(row), row.id) is not None:
        return False
    add_new(session, row)
    return True


def add_new(session: HouseholdSession, *rows: HouseholdOwned) -> None:
    """Insert rows that were looked for and are not there; after whatever waits, which they may need.

    Raises:
        MetAnother: when somebody puts one in at this very moment; this transaction cannot see that row yet.
    """
    session.flush()
    session.add_all(rows)
    try:
        session.flush()
    except IntegrityError as error:
        if "Duplicate" in str(error.orig):
            raise MetAnother from None
        raise


def let_go(session: Session, kind: type[Base], is_over: ColumnElement[bool]) -> None:
    """Take out rows whose time is over, so many at once; the rest goes next time. They are looked for first: a search
    that deletes locks all it comes across, and two of them at once lock each other out."""
    keys = tuple(inspect(kind).primary_key)
    if gone := session.execute(select(*keys).select_from(kind).where(is_over).limit(LET_GO_AT_ONCE)).all():
        these = or_(*(and_(*(key == value for key, value in zip(keys, row, strict=True))) for row in gone))
        session.execute(delete(kind).where(these))


def utc_now() -> datetime:
    """The moment, naive in UTC, as the database keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)
