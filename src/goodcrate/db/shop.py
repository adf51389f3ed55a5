"""What was bought, packs with their prices, what is always kept, and what a week takes instead of a food."""

from datetime import date, datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import DECIMAL, BigInteger, CheckConstraint, ForeignKey, Index, Sequence, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.shop.shelf import ShelfEvent
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import SHOPPING, Base, Grams, HouseholdOwned, owned_key

SHELF_EVENT_ORDER = Sequence("shelf_event_order", metadata=Base.metadata)


class ShelfEventRow(HouseholdOwned, Base):
    """One event at the shelf, never changed and never deleted (triggers hold this): what became of a food of a week's
    list. `id` is made by the client; `seq` is the order of arrival. What counts is the last event of each food."""

    __tablename__ = "shelf_event"
    log_of: ClassVar[str] = SHOPPING
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("food_id", "food"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "week_id", "seq"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, SHELF_EVENT_ORDER)
    week_id: Mapped[UUID]
    food_id: Mapped[UUID]
    kind: Mapped[str] = mapped_column(String(12))
    grams: Mapped[Grams | None]
    price: Mapped[float | None] = mapped_column(DECIMAL(9, 2, asdecimal=False))
    shop: Mapped[str] = mapped_column(String(40), default="")
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    happened_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self, food_key: str) -> ShelfEvent:
        """The event as core reads it."""
        grams = None if self.grams is None else float(self.grams)
        return ShelfEvent(food_key, self.kind, grams, self.price, self.shop)


class InsteadRow(HouseholdOwned, Base):
    """A week takes `instead_id` wherever its recipes say `food_id`. `live` is NULL once that was undone."""

    __tablename__ = "instead"
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("food_id", "food"),
        owned_key("instead_id", "food"),
        UniqueConstraint("household_id", "week_id", "food_id", "live"),
    )

    week_id: Mapped[UUID]
    food_id: Mapped[UUID]
    instead_id: Mapped[UUID]
    live: Mapped[int | None] = mapped_column(default=1)


class PackRow(HouseholdOwned, Base):
    """A pack on sale, as seen on a day: `grams` as bought, its price (NULL is unknown), and the shop by the household's
    own name. The last one of a size and shop is what it costs; those before are its history."""

    __tablename__ = "pack"
    __table_args__ = (
        owned_key("food_id", "food"),
        CheckConstraint("grams BETWEEN 1 AND 25000", name="bounds"),
        CheckConstraint("price IS NULL OR price BETWEEN 0 AND 1000000", name="price"),
    )

    food_id: Mapped[UUID]
    shop: Mapped[str] = mapped_column(String(40), default="")
    grams: Mapped[Grams]
    price: Mapped[float | None] = mapped_column(DECIMAL(9, 2, asdecimal=False))
    day: Mapped[date]
    noted_at: Mapped[datetime] = mapped_column(UtcTime)
    live: Mapped[int | None] = mapped_column(default=1)


class FloorRow(HouseholdOwned, Base):
    """So many g of a food are always kept in the house."""

    __tablename__ = "floor"
    __table_args__ = (
        owned_key("food_id", "food"),
        UniqueConstraint("household_id", "food_id"),
        CheckConstraint("grams BETWEEN 0 AND 1000000", name="bounds"),
    )

    food_id: Mapped[UUID]
    grams: Mapped[Grams]
