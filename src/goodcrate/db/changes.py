"""Counting a household's changes, so that what was worked out from its rows can be kept in memory until the next one.

The counts are the last thing a transaction writes, together with all else it wrote: whoever reads a count sees every
change up to it and none after, in whatever process either of them runs. There is one for what is planned and one for
each log (`goodcrate.db.base.LOGS`): a box that is eaten makes no list of recipes old.
"""

import re
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from functools import lru_cache
from threading import Lock, local
from typing import Any, Generic, TypeVar
from uuid import UUID

from sqlalchemy import BigInteger, Engine, ForeignKey, bindparam, event, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Mapped, ORMExecuteState, Session, SessionTransaction, mapped_column

from goodcrate.db.base import LOGS, Base
from goodcrate.db.session import HouseholdSession

T = TypeVar("T")
_WROTE, _COUNTS, _PLAN = "wrote", "counts", "plan"
Counts = Mapping[str, int]
"""How often the plan and each log were changed."""


class HouseholdChangeRow(Base):
    """How often a household was changed: what is planned, and each of its logs."""

    __tablename__ = "household_change"

    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), primary_key=True)
    plan: Mapped[int] = mapped_column(BigInteger)
    cooking: Mapped[int] = mapped_column(BigInteger)
    boxes: Mapped[int] = mapped_column(BigInteger)
    shopping: Mapped[int] = mapped_column(BigInteger)
    pantry: Mapped[int] = mapped_column(BigInteger)
    at_table: Mapped[int] = mapped_column(BigInteger)


_COUNTED = (_PLAN, *LOGS)
_COUNTS_OF = select(*(getattr(HouseholdChangeRow, name) for name in _COUNTED)).where(
    HouseholdChangeRow.household_id == bindparam("household_id")
)
_NEVER = dict.fromkeys(_COUNTED, 0)


def counts_of_new(household_id: UUID) -> dict[str, Any]:
    """The row of a household that was not changed yet."""
    return {"household_id": household_id, **_NEVER}


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


@dataclass(frozen=True)
class Shared:
    """A value that many look at until something of it changes: `once` keeps what they make of it beside it."""

    _made: dict[Hashable, Any] = field(default_factory=dict, init=False, compare=False, repr=False)

    def once(self, key: Hashable, work: Callable[[], T]) -> T:
        """What is made of this value, made at the first asking; `key` names it and all else it depends on."""
        if key not in self._made:
            self._made[key] = work()
        made: T = self._made[key]
        return made


class _Reading(local):
    """What this thread works out at the moment, the innermost last: the logs each of them read so far."""

    def __init__(self) -> None:
        self.logs: list[set[str]] = []

    def add(self, logs: Iterable[str]) -> None:
        if self.logs:
            self.logs[-1].update(logs)


_READING = _Reading()


@contextmanager
def _reading() -> Iterator[set[str]]:
    """The logs that are read meanwhile, whichever way; whoever works out something around it has read them too."""
    _READING.logs.append(set())
    try:
        yield _READING.logs[-1]
    finally:
        _READING.add(_READING.logs.pop())


@lru_cache(4)
def _logs_by_table(_tables: int) -> Mapping[str, str]:
    kinds = (mapper.class_ for mapper in Base.registry.mappers)
    return {kind.__tablename__: kind.log_of for kind in kinds if hasattr(kind, "log_of")}


@lru_cache(2000)
def _logs_in(statement: str, tables: int) -> frozenset[str]:
    """The logs a statement has to do with: it names a table of theirs (or anything else that is called the same). So
    many tables are known by now; a process that imports more of them later looks again."""
    logs = _logs_by_table(tables)
    return frozenset(logs[word] for word in set(re.findall(r"\w+", statement)) & logs.keys())


@event.listens_for(Engine, "before_cursor_execute")
def _note_reading(_connection: object, _cursor: object, statement: str, *_: object) -> None:
    if _READING.logs:
        _READING.add(_logs_in(statement, len(Base.metadata.tables)))


class Kept(Generic[T]):
    """A `Memo` that knows by itself what its values depend on: a value is good until the next change of the household's
    plan, or of a log that was read while it was worked out.

    Everything else that a value depends on belongs to its key. With `of_all` any change ends a value: for what has more
    made of it later.
    """

    def __init__(self, most: int, *, of_all: bool = False) -> None:
        self._most, self._at_least = most, frozenset(LOGS if of_all else ())
        self._values: OrderedDict[tuple[Hashable, ...], tuple[Counts, frozenset[str], T]] = OrderedDict()
        self._turns: dict[tuple[Hashable, ...], Lock] = {}

    def get(self, session: HouseholdSession, key: tuple[Hashable, ...], work: Callable[[], T]) -> T:
        """The value for a key, worked out if it is not kept.

        Nothing is kept for whoever has written something, or holds rows already: those would not be read again.
        """
        if session.info.get(_WROTE) or session.new or session.dirty or session.deleted:
            return work()
        counts, whole = _counts(session), (session.household_id, *key)
        there = self._found(whole, counts)
        if there is None and session.identity_map:
            return work()
        if there is None:
            with self._turns.setdefault(whole, Lock()):  # who comes for the same waits for it: it is worked out once
                there = self._found(whole, counts) or self._work_out(session, whole, counts, work)
        _READING.add(there[1])
        return there[2]

    def _found(self, whole: tuple[Hashable, ...], counts: Counts) -> tuple[Counts, frozenset[str], T] | None:
        there = self._values.get(whole)
        if there is None or any(there[0][name] != counts[name] for name in (_PLAN, *there[1])):
            return None
        with suppress(KeyError):  # another thread may just let it go
            self._values.move_to_end(whole)
        return there

    def _work_out(
        self, session: HouseholdSession, whole: tuple[Hashable, ...], counts: Counts, work: Callable[[], T]
    ) -> tuple[Counts, frozenset[str], T]:
        with _reading() as read:
            value = work()
        session.expunge_all()  # a rollback would make the rows in it forget what they hold
        made = (counts, self._at_least | read, value)
        there = self._values.get(whole)
        if there is None or all(there[0][name] <= counts[name] for name in _COUNTED):  # else somebody saw more already
            self._values[whole] = made
            self._values.move_to_end(whole)
            while len(self._values) > self._most:
                self._turns.pop(self._values.popitem(last=False)[0], None)
        return made


def _counts(session: HouseholdSession) -> Counts:
    """The household's counts as this transaction sees them, asked for once in it."""
    counts: Counts | None = session.info.get(_COUNTS)
    if counts is None:
        asked = session.connection().execute(_COUNTS_OF, {"household_id": session.household_id}).one_or_none()
        counts = session.info[_COUNTS] = _NEVER if asked is None else dict(zip(_COUNTED, asked, strict=True))
    return counts


def _note(session: Session, kinds: Iterable[object]) -> None:
    for kind in kinds:
        if not getattr(kind, "is_apart", False):
            session.info.setdefault(_WROTE, set()).add(getattr(kind, "log_of", _PLAN))


def note_change(session: HouseholdSession) -> None:
    """Say that this transaction changes the household, where that is not seen from what it does."""
    session.info.setdefault(_WROTE, set()).update(_COUNTED)


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
        more = {name: getattr(HouseholdChangeRow, name) + 1 for name in _COUNTED if name in wrote}
        counts = update(HouseholdChangeRow).where(HouseholdChangeRow.household_id == session.household_id)
        # No insert, which would look at the household's row and wait for whoever has it to himself and waits for us.
        if session.connection().execute(counts.values(**more)).rowcount == 0:  # an app of before put it in
            first = insert(HouseholdChangeRow).values(counts_of_new(session.household_id))
            session.connection().execute(first.on_duplicate_key_update(plan=HouseholdChangeRow.plan))
            session.connection().execute(counts.values(**more))


@event.listens_for(HouseholdSession, "after_transaction_end")
def _forget(session: Session, transaction: SessionTransaction) -> None:
    if transaction.parent is None:
        session.info.pop(_WROTE, None)
        session.info.pop(_COUNTS, None)
