"""Weeks with their prep sessions and placements."""

from datetime import date, datetime
from uuid import UUID

from sqlalchemy import DECIMAL, JSON, CheckConstraint, DateTime, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.week import PrepSession
from goodcrate.db.base import Base, HouseholdOwned, owned_key


class WeekRow(HouseholdOwned, Base):
    """1 to 14 dated days that are planned together. `recipe_versions` are the versions its recipes were placed with."""

    __tablename__ = "week"
    __table_args__ = (
        UniqueConstraint("household_id", "first_day"),
        CheckConstraint("days BETWEEN 1 AND 14", name="days"),
    )

    first_day: Mapped[date]
    days: Mapped[int] = mapped_column(default=7)
    recipe_versions: Mapped[dict[str, int]] = mapped_column(JSON, default=dict)

    sessions: Mapped[list["SessionRow"]] = relationship(
        order_by="SessionRow.starts_at", cascade="all, delete-orphan", lazy="selectin"
    )


class SessionRow(HouseholdOwned, Base):
    """A prep session: a dated block of cooking, by the household's own clock."""

    __tablename__ = "prep_session"
    __table_args__ = (
        owned_key("week_id", "week", ondelete="CASCADE"),
        UniqueConstraint("household_id", "week_id", "starts_at"),
    )

    week_id: Mapped[UUID]
    starts_at: Mapped[datetime] = mapped_column(DateTime)

    def value(self) -> PrepSession:
        """The session as core computes with it."""
        return PrepSession(str(self.id), self.starts_at)


class PlacementRow(HouseholdOwned, Base):
    """A recipe in one slot of one eater on one day.

    `live` is 1 while it stands and NULL once taken away, so that a slot holds one live placement and a removed one
    (whose box may have been weighed) can be put back. `servings_before` is what a fit moved it from, until that is
    kept.
    """

    __tablename__ = "placement"
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("eater_id", "eater"),
        owned_key("slot_id", "slot"),
        owned_key("recipe_id", "recipe"),
        UniqueConstraint("household_id", "eater_id", "slot_id", "day", "live"),
        Index(None, "household_id", "week_id", "live"),
        CheckConstraint("live = 1", name="live"),
    )

    week_id: Mapped[UUID]
    eater_id: Mapped[UUID]
    slot_id: Mapped[UUID]
    recipe_id: Mapped[UUID]
    day: Mapped[date]
    servings: Mapped[float] = mapped_column(DECIMAL(10, 6, asdecimal=False))
    servings_before: Mapped[float | None] = mapped_column(DECIMAL(10, 6, asdecimal=False))
    live: Mapped[int | None] = mapped_column(default=1)
    version: Mapped[int] = mapped_column(default=1)

    __mapper_args__ = {"version_id_col": version}
