"""A session while it is cooked: the sheet it was begun with, and the append-only logs of what was said of its steps
and of the orders the rest went in."""

from datetime import datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import BigInteger, ForeignKey, Index, Sequence, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.document import Document
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import COOKING, Base, HouseholdOwned, owned_key
from goodcrate.db.stored import Stored

COOK_TICK_ORDER = Sequence("cook_tick_order", metadata=Base.metadata)


class CookRunRow(HouseholdOwned, Base):
    """A session that is being cooked or was: `made` is its sheet with all its steps, as they were when it was begun."""

    __tablename__ = "cook_run"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("session_id", "prep_session"),
        UniqueConstraint("household_id", "session_id"),
    )

    week_id: Mapped[UUID]
    session_id: Mapped[UUID]
    begun_at: Mapped[datetime] = mapped_column(UtcTime)
    made: Mapped[Document] = mapped_column(Stored)


class CookTickRow(HouseholdOwned, Base):
    """One thing said of a step, never changed and never deleted (triggers hold this). `id` is made by the client;
    `seq` is the order of arrival, `minutes` how many more it takes."""

    __tablename__ = "cook_tick"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("run_id", "cook_run"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "run_id", "seq"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, COOK_TICK_ORDER)
    run_id: Mapped[UUID]
    task_key: Mapped[str] = mapped_column(String(160))
    kind: Mapped[str] = mapped_column(String(10))
    minutes: Mapped[int] = mapped_column(default=0)
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    happened_at: Mapped[datetime] = mapped_column(UtcTime)


class CookOrderRow(HouseholdOwned, Base):
    """The rest of a session in another order, never changed and never deleted: `made` is its sheet, and what it was
    better than. `seq` is on the same count as what was said."""

    __tablename__ = "cook_order"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("run_id", "cook_run"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "run_id", "seq"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, COOK_TICK_ORDER)
    run_id: Mapped[UUID]
    made: Mapped[Document] = mapped_column(Stored)
    happened_at: Mapped[datetime] = mapped_column(UtcTime)
