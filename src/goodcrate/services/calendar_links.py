"""The secret link behind which a household's calendar is read."""

import secrets
from uuid import UUID

from sqlalchemy import delete, select

from goodcrate.db.accounts import CalendarLink
from goodcrate.db.session import Database
from goodcrate.services.accounts import hash_of
from goodcrate.services.calling import utc_now


def make_calendar_link(database: Database, household_id: UUID) -> str:
    """A new secret for the household's calendar; the one before it leads nowhere from now on."""
    token = secrets.token_urlsafe(32)
    with database.accounts() as session, session.begin():
        session.execute(delete(CalendarLink).where(CalendarLink.household_id == household_id))
        session.add(CalendarLink(token_hash=hash_of(token), household_id=household_id, made_at=utc_now()))
    return token


def revoke_calendar_link(database: Database, household_id: UUID) -> None:
    """Nobody reads the household's calendar any more."""
    with database.accounts() as session, session.begin():
        session.execute(delete(CalendarLink).where(CalendarLink.household_id == household_id))


def has_calendar_link(database: Database, household_id: UUID) -> bool:
    """Whether there is a secret link to the household's calendar."""
    with database.accounts() as session:
        return session.scalar(select(CalendarLink.made_at).where(CalendarLink.household_id == household_id)) is not None


def household_of_calendar(database: Database, token: str) -> UUID | None:
    """Whose calendar a secret is for; None for one that is none."""
    with database.accounts() as session:
        return session.scalar(select(CalendarLink.household_id).where(CalendarLink.token_hash == hash_of(token)))
