"""Boxes with what is in them and their log, and opened foods."""

from collections.abc import Iterable, Mapping
from datetime import date, datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ColumnElement,
    ForeignKey,
    Index,
    Sequence,
    String,
    UniqueConstraint,
    select,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.store.box import Box, BoxEvent, Content
from goodcrate.core.store.shelves import Shelf
from goodcrate.db.accounts import Household, UtcTime
from goodcrate.db.base import BOXES, PANTRY, Base, Grams, HouseholdOwned, owned_key
from goodcrate.db.kitchen import VesselRow
from goodcrate.db.session import AccountSession

BOX_EVENT_ORDER = Sequence("box_event_order", metadata=Base.metadata)


class BoxRow(HouseholdOwned, Base):
    """A container with what is in it. It comes into being when it is packed or noted; what happens then is its log.

    `packed_for` is the meal it was packed for, NULL when it was nobody's; a meal that eats another box names that
    (`placement.from_box`). `with_box` is the box of the same meal it goes with. `lot` is one for all that were put in
    together. `cooked_on` counts its days; `until` is a printed or chosen last day, NULL when guidance says it.
    `live` is NULL once its log ended it: years of eaten boxes are not looked through.
    """

    __tablename__ = "box"
    log_of: ClassVar[str] = BOXES
    __table_args__ = (
        owned_key("recipe_id", "recipe"),
        owned_key("vessel_id", "vessel"),
        owned_key("packed_for", "placement"),
        owned_key("with_box", "box"),
        Index(None, "household_id", "lot"),
        Index("ix_box_id", "id"),
        Index(None, "household_id", "live"),
    )

    recipe_id: Mapped[UUID]
    vessel_id: Mapped[UUID | None]
    packed_for: Mapped[UUID | None]
    with_box: Mapped[UUID | None]
    lot: Mapped[UUID]
    cooked_on: Mapped[date]
    until: Mapped[date | None]
    live: Mapped[int | None] = mapped_column(default=1)

    contents: Mapped[list["BoxContentRow"]] = relationship(
        order_by="BoxContentRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    vessel: Mapped[VesselRow | None] = relationship(lazy="joined", viewonly=True)

    def value(self, log: Iterable[BoxEvent], actual_g: Mapping[UUID, float | None], meal: UUID | None) -> Box:
        """The box as core knows it, with its log, what was weighed by content, and the meal that names it."""
        contents = tuple(
            Content(
                None if c.component_id is None else str(c.component_id),
                None if c.planned_g is None else float(c.planned_g),
                actual_g.get(c.id),
                None if c.batch_id is None else str(c.batch_id),
            )
            for c in self.contents
        )
        meal_id = meal or self.packed_for
        return Box(
            str(self.id),
            str(self.recipe_id),
            contents,
            self.cooked_on,
            None if meal_id is None else str(meal_id),
            tuple(log),
            container=None if self.vessel is None else self.vessel.value(),
            with_box=None if self.with_box is None else str(self.with_box),
            lot_key=str(self.lot),
            until=self.until,
        )


def household_with_box(session: AccountSession, box_id: UUID) -> UUID | None:
    """Whose box a code is of: the one question about boxes that is asked before anybody signed in."""
    boxes, homes = BoxRow.__table__, Household.__table__
    whose = select(boxes.c.household_id).join(homes, homes.c.id == boxes.c.household_id)
    # An archive may bring a box along that another household has: the household that was here first is asked.
    there = whose.where(boxes.c.id == box_id, homes.c.put_away_at.is_(None))
    return session.scalar(there.order_by(homes.c.created_at, homes.c.id).limit(1))


class BoxContentRow(HouseholdOwned, Base):
    """A component in a box, in g as planned; what was weighed stands in the log of weighings.

    No component means the whole dish as its recipe is written; no batch, that none here cooked it.
    """

    __tablename__ = "box_content"
    log_of: ClassVar[str] = BOXES
    __table_args__ = (
        owned_key("box_id", "box", ondelete="CASCADE"),
        owned_key("component_id", "component"),
        owned_key("batch_id", "batch"),
    )

    box_id: Mapped[UUID]
    component_id: Mapped[UUID | None]
    batch_id: Mapped[UUID | None]
    planned_g: Mapped[Grams | None]
    position: Mapped[int] = mapped_column(default=0)


class BoxEventRow(HouseholdOwned, Base):
    """One event of a box's log, never changed and never deleted (triggers hold this). `id` is made by the client;
    `seq` is the order of arrival. Which of the other columns go with which kind is core's `BoxEvent`."""

    __tablename__ = "box_event"
    log_of: ClassVar[str] = BOXES
    __table_args__ = (
        owned_key("box_id", "box"),
        owned_key("placement_id", "placement"),
        owned_key("shelf_id", "shelf"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "box_id", "seq"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, BOX_EVENT_ORDER)
    box_id: Mapped[UUID]
    kind: Mapped[str] = mapped_column(String(12))
    place: Mapped[str] = mapped_column(String(10), default="")
    grams: Mapped[Grams | None]
    placement_id: Mapped[UUID | None]
    why: Mapped[str] = mapped_column(String(160), default="")
    undoes: Mapped[UUID | None]
    shelf_id: Mapped[UUID | None]
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    happened_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self) -> BoxEvent:
        """The event as core reads it."""
        return BoxEvent(
            str(self.id),
            self.kind,
            self.happened_at,
            self.place,
            None if self.grams is None else float(self.grams),
            "" if self.placement_id is None else str(self.placement_id),
            why=self.why,
            undoes="" if self.undoes is None else str(self.undoes),
            shelf="" if self.shelf_id is None else str(self.shelf_id),
        )


class ShelfRow(HouseholdOwned, Base):
    """A shelf or drawer the household named. `live` is NULL once it was taken away."""

    __tablename__ = "shelf"
    log_of: ClassVar[str] = BOXES
    __table_args__ = (
        CheckConstraint("litres BETWEEN 0.1 AND 1000", name="bounds"),
        CheckConstraint("boxes BETWEEN 1 AND 200", name="boxes"),
    )

    name: Mapped[str] = mapped_column(String(40))
    place: Mapped[str] = mapped_column(String(10))
    position: Mapped[int]
    boxes: Mapped[int | None]
    litres: Mapped[float | None]
    live: Mapped[int | None] = mapped_column(default=1)

    def value(self) -> Shelf:
        """The shelf as core knows it."""
        return Shelf(str(self.id), self.name, self.place, self.boxes, self.litres)


class OpenFoodRow(HouseholdOwned, Base):
    """`grams` of a food in the house, there since `since` (open since then, when it `is_open`). `until` is a printed
    last day, NULL when guidance says it. `is_first` is to be used before other food.

    `counted_at` is when its grams were right: what was weighed in since is less (`goodcrate.core.shop.pantry`).
    `live` is 1 while it is there, NULL once taken out, so that taking out can be undone.
    """

    __tablename__ = "open_food"
    log_of: ClassVar[str] = PANTRY
    __table_args__ = (owned_key("food_id", "food"), CheckConstraint("grams BETWEEN 0.1 AND 1000000", name="bounds"))

    food_id: Mapped[UUID]
    typed: Mapped[str] = mapped_column(String(120), default="")
    grams: Mapped[Grams]
    place: Mapped[str] = mapped_column(String(10))
    since: Mapped[date]
    until: Mapped[date | None]
    live: Mapped[int | None] = mapped_column(default=1)
    is_open: Mapped[bool] = mapped_column(default=True)
    is_first: Mapped[bool] = mapped_column(default=False)
    counted_at: Mapped[datetime] = mapped_column(UtcTime)


def may_be_there() -> ColumnElement[bool]:
    """The condition that a box may be in the house: its log has not ended it."""
    return BoxRow.live == 1
