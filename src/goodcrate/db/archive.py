"""Archives that wait to be fetched, or to be taken in: for a day, in parts, so that any process finds them."""

from datetime import datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import BigInteger, Index, LargeBinary, String, UniqueConstraint
from sqlalchemy.dialects.mysql import LONGBLOB
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, HouseholdOwned, owned_key


class ArchiveFileRow(HouseholdOwned, Base):
    """An archive as a file, `way` out or in; all of it is there (its parts come first, in the same transaction)."""

    __tablename__ = "archive_file"
    is_apart: ClassVar[bool] = True  # nothing of the household changes by it
    __table_args__ = (Index(None, "household_id", "kept_at"),)

    way: Mapped[str] = mapped_column(String(4))
    name: Mapped[str] = mapped_column(String(160))
    size: Mapped[int] = mapped_column(BigInteger)
    kept_at: Mapped[datetime] = mapped_column(UtcTime)


class ArchivePartRow(HouseholdOwned, Base):
    """So many bytes of an archive, the `number`th part of it."""

    __tablename__ = "archive_part"
    is_apart: ClassVar[bool] = True
    __table_args__ = (
        owned_key("file_id", "archive_file", ondelete="CASCADE"),
        UniqueConstraint("household_id", "file_id", "number"),
    )

    file_id: Mapped[UUID]
    number: Mapped[int]
    content: Mapped[bytes] = mapped_column(LargeBinary().with_variant(LONGBLOB, "mariadb", "mysql"))
