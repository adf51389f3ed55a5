"""Long work outside the request: one table for every kind of it."""

from datetime import datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import Boolean, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.document import Document
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, HouseholdOwned, owned_key
from goodcrate.db.stored import Stored


class JobRow(HouseholdOwned, Base):
    """Work of one `kind`, or how it ended. `beat_at` is when its worker last said that it
    lives; as long as nobody took it, it is `started_at`.

    `input` is what it was asked for, `best` what it has found so far, `result` what it ended with besides; what is in
    them is the kind's. `week_id` is the week it is about, where it is about one.
    """

    __tablename__ = "job"
    is_apart: ClassVar[bool] = True  # what a worker says of its progress changes nothing of the household
    __table_args__ = (
        owned_key("week_id", "week", ondelete="CASCADE"),
        Index(None, "household_id", "week_id", "kind", "started_at"),
    )

    kind: Mapped[str] = mapped_column(String(20))
    week_id: Mapped[UUID | None]
    status: Mapped[str] = mapped_column(String(12))
    input: Mapped[Document] = mapped_column(Stored)
    best: Mapped[list[Document]] = mapped_column(Stored, default=list)
    result: Mapped[Document] = mapped_column(Stored, default=dict)
    said: Mapped[str] = mapped_column(String(200), default="")
    wants_stop: Mapped[bool] = mapped_column(Boolean, default=False)
    started_at: Mapped[datetime] = mapped_column(UtcTime)
    beat_at: Mapped[datetime] = mapped_column(UtcTime)
