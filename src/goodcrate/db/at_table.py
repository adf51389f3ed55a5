"""What was eaten besides the boxes, and what was ticked of the evening's and the day's small jobs: two logs."""

from datetime import date, datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import BigInteger, CheckConstraint, ForeignKey, Index, Sequence, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.nutrients import KEYS, Tally
from goodcrate.core.store.at_table import OffPlan
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import AT_TABLE, Base, Grams, HouseholdOwned, owned_key
from goodcrate.db.stored import Stored

TABLE_ORDER = Sequence("table_order", metadata=Base.metadata)


class OffPlanRow(HouseholdOwned, Base):
    """Something eaten off plan, as it was typed, never changed and never deleted (triggers hold this). One that
    `undoes` another says only that. `figures` are its nutrients when it was eaten, whatever becomes of the food;
    `thing_id` is what of the house it came from, where it did."""

    __tablename__ = "off_plan"
    log_of: ClassVar[str] = AT_TABLE
    __table_args__ = (
        owned_key("eater_id", "eater"),
        owned_key("food_id", "food"),
        owned_key("thing_id", "open_food"),
        UniqueConstraint("seq"),
        CheckConstraint("grams BETWEEN 0 AND 1000000", name="bounds"),
        Index(None, "household_id", "eater_id", "day"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, TABLE_ORDER)
    eater_id: Mapped[UUID]
    day: Mapped[date]
    said: Mapped[str] = mapped_column(String(160), default="")
    food_id: Mapped[UUID | None]
    grams: Mapped[Grams | None]
    thing_id: Mapped[UUID | None]
    figures: Mapped[Document | None] = mapped_column(Stored)
    undoes: Mapped[UUID | None]
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    happened_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self) -> OffPlan:
        """What was eaten, as core counts it."""
        return OffPlan(str(self.id), self.day, self.said, tally_of(str(self.id), self.figures or {}))


def figures_of(tally: Tally) -> Document:
    """A tally as it is stored: grams, what is known and unknown of each nutrient, and its standard error."""
    amounts = {key: tally.amount(key) for key in KEYS}
    return {
        "grams": tally.grams,
        "known": {key: a.value for key, a in amounts.items() if a.value},
        "unknown_g": {key: g for key, g in zip(KEYS, tally.unknown_g, strict=True) if g},
        "errors": {key: a.standard_error for key, a in amounts.items() if a.standard_error},
    }


def tally_of(key: str, figures: Document) -> Tally:
    """The tally that was stored; its doubt is a source of its own."""

    def each(name: str) -> tuple[float, ...]:
        stored = figures.get(name, {})
        return tuple(float(stored.get(nutrient, 0.0)) for nutrient in KEYS)

    errors = {f"off-plan:{key}": (each("errors"), 1.0)} if figures.get("errors") else {}
    return Tally(float(figures.get("grams", 0.0)), each("known"), each("unknown_g"), errors)


class DoneRow(HouseholdOwned, Base):
    """Whether a small job of a day is done: what it is stands in `subject` (a meal and what is done with it). The last
    one of a subject counts; none is changed or deleted (triggers hold this). With `grams`, what was weighed for it."""

    __tablename__ = "done"
    log_of: ClassVar[str] = AT_TABLE
    __table_args__ = (
        UniqueConstraint("seq"),
        CheckConstraint("grams BETWEEN 0 AND 1000000", name="bounds"),
        Index(None, "household_id", "day", "seq"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, TABLE_ORDER)
    day: Mapped[date]
    subject: Mapped[str] = mapped_column(String(120))
    is_done: Mapped[bool]
    grams: Mapped[Grams | None]
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    happened_at: Mapped[datetime] = mapped_column(UtcTime)
