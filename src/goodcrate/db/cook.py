"""Batches with their planned lines, the append-only log of weighings, and boxes."""

from collections.abc import Iterable
from datetime import datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    Boolean,
    CheckConstraint,
    ForeignKey,
    Index,
    Sequence,
    String,
    UniqueConstraint,
    and_,
    func,
    select,
)
from sqlalchemy.orm import Mapped, foreign, mapped_column, relationship

from goodcrate.core.cook.batch_record import POT, BatchRecord, Weighing
from goodcrate.core.recipes.recipe import IngredientLine
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, Figure, Grams, HouseholdOwned, owned_key
from goodcrate.db.foods import FoodPastRow, FoodRow
from goodcrate.db.recipes import stored_amount
from goodcrate.db.session import HouseholdSession

INGREDIENT, POT_KIND, BOX = "ingredient", "pot", "box"
WEIGHING_ORDER = Sequence("weighing_order", metadata=Base.metadata)


class BatchRow(HouseholdOwned, Base):
    """One cooking of one component in one prep session, with what was planned when it was started."""

    __tablename__ = "batch"
    is_log: ClassVar[bool] = True
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("session_id", "prep_session"),
        owned_key("recipe_id", "recipe"),
        owned_key("component_id", "component"),
        UniqueConstraint("household_id", "session_id", "component_id"),
    )

    week_id: Mapped[UUID]
    session_id: Mapped[UUID]
    recipe_id: Mapped[UUID]
    component_id: Mapped[UUID]
    factor: Mapped[float]
    planned_cooked_g: Mapped[Grams]
    started_at: Mapped[datetime] = mapped_column(UtcTime)

    lines: Mapped[list["BatchLineRow"]] = relationship(
        order_by="BatchLineRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    weighings: Mapped[list["WeighingRow"]] = relationship(order_by="WeighingRow.seq", lazy="select", viewonly=True)

    def record(self, log: Iterable[Weighing]) -> BatchRecord:
        """The batch as core works it out, with what its log comes to (`last_events`)."""
        return BatchRecord(tuple(line.value() for line in self.lines), float(self.planned_cooked_g), tuple(log))


class BatchLineRow(HouseholdOwned, Base):
    """One ingredient of a batch as planned; what was weighed instead stands in the log."""

    __tablename__ = "batch_line"
    is_log: ClassVar[bool] = True
    __table_args__ = (owned_key("batch_id", "batch", ondelete="CASCADE"), owned_key("food_id", "food"))

    batch_id: Mapped[UUID]
    food_id: Mapped[UUID]
    planned_g: Mapped[Grams]
    measure: Mapped[str] = mapped_column(String(12), default="weighed")
    error_g: Mapped[Figure]
    kept_version: Mapped[int | None]
    uptake: Mapped[float] = mapped_column(default=1.0)
    is_discarded: Mapped[bool] = mapped_column(Boolean, default=False)
    is_poured_off: Mapped[bool] = mapped_column(Boolean, default=False)
    position: Mapped[int]

    food: Mapped[FoodRow] = relationship(lazy="joined", viewonly=True)
    past: Mapped[FoodPastRow | None] = relationship(
        lazy="select",
        viewonly=True,
        primaryjoin=lambda: and_(
            BatchLineRow.household_id == foreign(FoodPastRow.household_id),
            BatchLineRow.food_id == foreign(FoodPastRow.food_id),
            BatchLineRow.kept_version == foreign(FoodPastRow.figures_version),
        ),
    )

    def value(self) -> IngredientLine:
        """The planned line as core computes with it."""
        food = self.food.value(None if self.kept_version is None else self.past)
        amount = stored_amount(self.planned_g, self.measure, self.error_g, None)
        return IngredientLine(
            str(self.id), food, amount, self.uptake, self.is_discarded, is_poured_off=self.is_poured_off
        )


class WeighingRow(HouseholdOwned, Base):
    """One event of the log, never changed and never deleted (triggers hold this). `id` is made by the client, so a
    repeated send is the same event; `seq` is the order of arrival. No net weight means: withdrawn."""

    __tablename__ = "weighing"
    is_log: ClassVar[bool] = True
    __table_args__ = (
        owned_key("batch_id", "batch"),
        owned_key("batch_line_id", "batch_line"),
        owned_key("placement_id", "placement"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "batch_id", "seq"),
        CheckConstraint("net_g IS NULL OR net_g >= 0", name="net"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, WEIGHING_ORDER)
    batch_id: Mapped[UUID]
    kind: Mapped[str] = mapped_column(String(12))
    batch_line_id: Mapped[UUID | None]
    placement_id: Mapped[UUID | None]
    gross_g: Mapped[Grams | None]
    tare_g: Mapped[Grams | None]
    net_g: Mapped[Grams | None]
    shortfall: Mapped[str | None] = mapped_column(String(12))
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id"))
    weighed_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self) -> Weighing:
        """The event as core reads it; the subject is the line's or placement's id, or the pot."""
        subject = POT if self.kind == POT_KIND else str(self.batch_line_id or self.placement_id)
        return Weighing(subject, None if self.net_g is None else float(self.net_g), self.shortfall)


class BoxRow(HouseholdOwned, Base):
    """A real container packed for one placement, since `packed_at`; what is in it stands in the log."""

    __tablename__ = "box"
    is_log: ClassVar[bool] = True
    __table_args__ = (owned_key("placement_id", "placement"), UniqueConstraint("household_id", "placement_id"))

    placement_id: Mapped[UUID]
    packed_at: Mapped[datetime] = mapped_column(UtcTime)


def last_events(session: HouseholdSession, *batch_ids: UUID) -> dict[UUID, tuple[Weighing, ...]]:
    """The last event about each subject of some batches, in the order of the log: all that counts of it, however long
    it grows."""
    last = (
        select(func.max(WeighingRow.seq))
        .where(WeighingRow.batch_id.in_(batch_ids))
        .group_by(WeighingRow.batch_id, WeighingRow.kind, WeighingRow.batch_line_id, WeighingRow.placement_id)
    )
    found: dict[UUID, tuple[Weighing, ...]] = dict.fromkeys(batch_ids, ())
    if batch_ids:
        for row in session.scalars(select(WeighingRow).where(WeighingRow.seq.in_(last)).order_by(WeighingRow.seq)):
            found[row.batch_id] += (row.value(),)
    return found
