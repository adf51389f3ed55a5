"""What the review keeps: proposals taken, body weights of who asked for it, and each closed week's figures."""

from datetime import date, datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import CheckConstraint, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.document import Document
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import AT_TABLE, Base, HouseholdOwned, owned_key
from goodcrate.db.stored import Stored


class ProposalTakenRow(HouseholdOwned, Base):
    """A proposal of a week's review that was taken, by its key, with what it was called and what stood there before, so
    that it can be taken back; `live` is NULL then."""

    __tablename__ = "proposal_taken"
    __table_args__ = (owned_key("week_id", "week"), UniqueConstraint("household_id", "week_id", "proposal"))

    week_id: Mapped[UUID]
    proposal: Mapped[str] = mapped_column(String(160))
    title: Mapped[str] = mapped_column(String(300))
    why: Mapped[str] = mapped_column(String(500))
    before: Mapped[Document] = mapped_column(Stored)
    live: Mapped[int | None] = mapped_column(default=1)
    taken_at: Mapped[datetime] = mapped_column(UtcTime)


class WeightLogRow(HouseholdOwned, Base):
    """That an eater keeps a log of their body weight: only who asked for it. `live` is NULL once it was put away."""

    __tablename__ = "weight_log"
    __table_args__ = (owned_key("eater_id", "eater"), UniqueConstraint("household_id", "eater_id"))

    eater_id: Mapped[UUID]
    live: Mapped[int | None] = mapped_column(default=1)


class BodyWeightRow(HouseholdOwned, Base):
    """A body weight in kg on a day, one for an eater and day; `live` is NULL once it was taken out."""

    __tablename__ = "body_weight"
    log_of: ClassVar[str] = AT_TABLE
    __table_args__ = (
        owned_key("eater_id", "eater"),
        UniqueConstraint("household_id", "eater_id", "day"),
        CheckConstraint("kg BETWEEN 20 AND 400", name="bounds"),
    )

    eater_id: Mapped[UUID]
    day: Mapped[date]
    kg: Mapped[float]
    live: Mapped[int | None] = mapped_column(default=1)
    noted_at: Mapped[datetime] = mapped_column(UtcTime)


class WeekSummaryRow(HouseholdOwned, Base):
    """A closed week's figures as it was judged, worked out once; `stamp` says of which logs."""

    __tablename__ = "week_summary"
    is_apart: ClassVar[bool] = True  # worked out from what is stored: nothing of the household changes by it
    __table_args__ = (
        owned_key("week_id", "week"),
        UniqueConstraint("household_id", "week_id"),
        Index(None, "household_id", "first_day"),
    )

    week_id: Mapped[UUID]
    first_day: Mapped[date]
    stamp: Mapped[str] = mapped_column(String(160))
    figures: Mapped[Document] = mapped_column(Stored)
