"""Counting a household's changes, so that what was worked out from its rows can be kept in memory until the next one.

The count is the last thing a transaction writes, together with all else it wrote: whoever reads a count sees every
change up to it and none after, in whatever process either of them runs.
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from contextlib import suppress
from threading import Lock
from typing import Generic, TypeVar
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKey, bindparam, event, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Mapped, ORMExecuteState, Session, SessionTransaction, mapped_column

from goodcrate.db.base import Base
from goodcrate.db.session import HouseholdSession

T = TypeVar("T")
_WROTE, _LOG, _PLAN = "wrote", "log", "plan"


class HouseholdChangeRow(Base):
    """How often a household was changed: in all (`value`), and but for what is begun, weighed and packed (`plan`)."""

    __tablename__ = "household_change"

    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), primary_key=True)
    value: Mapped[int] = mapped_column(BigInteger)
    plan: Mapped[int] = mapped_column(BigInteger)


_CHANGE_OF = select(HouseholdChangeRow.value, HouseholdChangeRow.plan).where(
    HouseholdChangeRow.household_id == bindparam("household_id")
)


class Memo(Generic[T]):
    """Values worked out before, the `most` used last. The one rule: each is kept under all that it depends on, so what
    changes is asked for under another key, and nothing in it is ever out of date.

    What is kept is shared by all threads: nobody may change it.
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: OrderedDict[Hashable, T] = OrderedDict()

    def find(self, key: Hashable) -> T | None:
        """The value under a key, or None."""
        value = self._values.get(key)
        if value is not None:
            with suppress(KeyError):  # another thread may just let it go
                self._values.move_to_end(key)
        return value

    def put(self, key: Hashable, value: T) -> T:
        """Keep a value, and let go of those that were not used for longest."""
        self._values[key] = value
        while len(self._values) > self._most:
            with suppress(KeyError):
                self._values.popitem(last=False)
        return value

    def clear(self) -> None:
        """Forget all."""
        self._values.clear()


class Kept(Generic[T]):
    """A `Memo` whose keys hold the household's count of changes: a value is good until the household's next change.

    With `but_log` the log of cooking (`is_log` rows) does not matter to it.
    """

    def __init__(self, most: int, *, but_log: bool = False) -> None:
        self._most, self._but_log = most, but_log
        self._values: OrderedDict[tuple[Hashable, ...], tuple[int, T]] = OrderedDict()
        self._turns: dict[tuple[Hashable, ...], Lock] = {}

    def get(self, session: HouseholdSession, key: tuple[Hashable, ...], work: Callable[[], T]) -> T:
        """The value for a key, worked out if it is not kept; to be asked first in a transaction that only reads."""
        if session.info.get(_WROTE) or session.new or session.dirty or session.deleted:
            return work()
        asked = session.connection().execute(_CHANGE_OF, {"household_id": session.household_id})
        found = asked.one_or_none()
        change = 0 if found is None else found.plan if self._but_log else found.value
        whole = (session.household_id, *key)
        there = self._values.get(whole)
        if there is not None and there[0] == change:
            return there[1]
        with self._turns.setdefault(whole, Lock()):  # who comes for the same waits for it: it is worked out once
            there = self._values.get(whole)
            if there is not None and there[0] == change:
                return there[1]
            value = work()
            session.expunge_all()  # a rollback would make the rows in it forget what they hold
            if there is None or there[0] < change:
                self._keep(whole, change, value)
        return value

    def _keep(self, whole: tuple[Hashable, ...], change: int, value: T) -> None:
        self._values[whole] = (change, value)
        self._values.move_to_end(whole)
        while len(self._values) > self._most:
            self._turns.pop(self._values.popitem(last=False)[0], None)


def _note(session: Session, kinds: Iterable[object]) -> None:
    for kind in kinds:
        if not getattr(kind, "is_apart", False):
            wrote = session.info.setdefault(_WROTE, set())
            wrote.add(_LOG if getattr(kind, "is_log", False) else _PLAN)


def note_change(session: HouseholdSession) -> None:
    """Say that this transaction changes the household, where that is not seen from what it does."""
    session.info.setdefault(_WROTE, set()).update((_PLAN, _LOG))


@event.listens_for(HouseholdSession, "before_flush")
def _note_rows(session: Session, *_: object) -> None:
    _note(session, (*session.new, *session.dirty, *session.deleted))


@event.listens_for(HouseholdSession, "do_orm_execute")
def _note_statements(state: ORMExecuteState) -> None:
    if state.is_insert or state.is_update or state.is_delete:
        _note(state.session, [m.class_ for m in state.all_mappers])


@event.listens_for(HouseholdSession, "before_commit")
def _count(session: HouseholdSession) -> None:
    if session.in_nested_transaction():
        return
    session.flush()
    if wrote := session.info.pop(_WROTE, None):
        plan = int(_PLAN in wrote)
        once = insert(HouseholdChangeRow).values(household_id=session.household_id, value=1, plan=plan)
        more = {"value": HouseholdChangeRow.value + 1, "plan": HouseholdChangeRow.plan + plan}
        session.connection().execute(once.on_duplicate_key_update(**more))


@event.listens_for(HouseholdSession, "after_transaction_end")
def _forget(session: Session, transaction: SessionTransaction) -> None:
    if transaction.parent is None:
        session.info.pop(_WROTE, None)
