"""Which prep session is at hand, and those of other weeks nearest to one."""

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import select

from goodcrate.core.week.placings import session_at_hand
from goodcrate.db.changes import Kept
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import SessionRow, WeekRow
from goodcrate.services.calling import Caller


@dataclass(frozen=True)
class SessionAt:
    """A prep session and the week it cooks for."""

    starts_at: datetime
    first_day: date


@dataclass(frozen=True)
class Nearby:
    """The sessions of other weeks nearest to one: the last one before it, and the first one after it."""

    earlier: SessionAt | None
    later: SessionAt | None


_SESSIONS: Kept[list[SessionAt]] = Kept(64)


def _all_sessions(session: HouseholdSession) -> list[SessionAt]:
    return _SESSIONS.get(session, (), lambda: _read_sessions(session))


def _read_sessions(session: HouseholdSession) -> list[SessionAt]:
    rows = session.execute(
        select(SessionRow.starts_at, WeekRow.first_day)
        .join(WeekRow, (WeekRow.id == SessionRow.week_id) & (WeekRow.household_id == SessionRow.household_id))
        .order_by(SessionRow.starts_at)
    )
    return [SessionAt(row.starts_at, row.first_day) for row in rows]


def week_at_hand(caller: Caller, today: date) -> date | None:
    """The first day of the week whose prep session is at hand today, or None before any session was set."""
    with caller.transaction() as session:
        return week_at_hand_in(session, today)


def week_at_hand_in(session: HouseholdSession, today: date) -> date | None:
    """The same inside the caller's transaction."""
    known = {s.starts_at: s.first_day for s in _all_sessions(session)}
    at_hand = session_at_hand(known, today)
    return None if at_hand is None else known[at_hand]


def nearby_sessions(caller: Caller, first_day: date) -> Nearby:
    """The sessions of other weeks before and after those of one week."""
    with caller.transaction() as session:
        known = _all_sessions(session)
    before = [s for s in known if s.first_day < first_day]
    after = [s for s in known if s.first_day > first_day]
    return Nearby(before[-1] if before else None, after[0] if after else None)
