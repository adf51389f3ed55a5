"""Batches with their planned lines and their pots, and the append-only log of weighings."""

from collections.abc import Collection, Iterable, Mapping
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

from goodcrate.core.cook.batch_record import PIECE, REST, BatchRecord, Weighing
from goodcrate.core.recipes.component import IngredientLine, LineFlags, flags_of
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import COOKING, Base, Figure, Grams, HouseholdOwned, owned_key
from goodcrate.db.foods import FoodPastRow, FoodRow
from goodcrate.db.recipes import stored_amount
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxContentRow, BoxRow
from goodcrate.db.stored import Stored

INGREDIENT, POT_KIND, BOX, REST_KIND = "ingredient", "pot", "box", "rest"
WEIGHING_ORDER = Sequence("weighing_order", metadata=Base.metadata)


class BatchRow(HouseholdOwned, Base):
    """One cooking of one component in one prep session, with what was planned when it was started.

    `pieces` is how many the whole pot was counted as, when it is divided by count, `piece_kind` what they are;
    `short_for` the meal whose box takes what is missing or over, when one takes it all. Boxes are filled
    in steps of `step_g`. `marks` say by eater how their boxes are known from the others.
    """

    __tablename__ = "batch"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("session_id", "prep_session"),
        owned_key("recipe_id", "recipe"),
        owned_key("component_id", "component"),
        owned_key("short_for", "placement"),
        UniqueConstraint("household_id", "session_id", "component_id"),
        CheckConstraint("pieces BETWEEN 1 AND 999", name="pieces"),
        CheckConstraint("step_g IN (1, 5)", name="step"),
    )

    week_id: Mapped[UUID]
    session_id: Mapped[UUID]
    recipe_id: Mapped[UUID]
    component_id: Mapped[UUID]
    factor: Mapped[float]
    planned_cooked_g: Mapped[Grams]
    planned_error_g: Mapped[Grams | None]
    pieces: Mapped[int | None]
    piece_kind: Mapped[str] = mapped_column(String(8), default=PIECE)
    short_for: Mapped[UUID | None]
    step_g: Mapped[int] = mapped_column(default=1)
    marks: Mapped[dict[str, str] | None] = mapped_column(Stored)
    started_at: Mapped[datetime] = mapped_column(UtcTime)

    lines: Mapped[list["BatchLineRow"]] = relationship(
        order_by="BatchLineRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    pots: Mapped[list["PotRow"]] = relationship(
        order_by="PotRow.position", cascade="all, delete-orphan", lazy="selectin"
    )

    def record(self, log: Iterable[Weighing]) -> BatchRecord:
        """The batch as core works it out, with what its log comes to (`last_events`)."""
        pots = tuple(str(pot.id) for pot in self.pots if pot.live)
        lines = tuple(line.value() for line in self.lines)
        error_g = None if self.planned_error_g is None else float(self.planned_error_g)
        swapped = {str(line.id): str(line.instead_of) for line in self.lines if line.instead_of is not None}
        cooked_g = float(self.planned_cooked_g)
        return BatchRecord(
            lines,
            cooked_g,
            tuple(log),
            pots,
            planned_error_g=error_g,
            went_in_for=swapped,
            pieces=self.pieces,
            piece_kind=self.piece_kind,
            short_for=None if self.short_for is None else str(self.short_for),
            step_g=self.step_g,
            marks=self.marks or {},
        )


class BatchLineRow(HouseholdOwned, Base):
    """One ingredient of a batch as planned; what was weighed instead stands in the log. What was added to taste,
    or went in `instead_of` another line, was planned with 0 g."""

    __tablename__ = "batch_line"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("batch_id", "batch", ondelete="CASCADE"),
        owned_key("food_id", "food"),
        owned_key("instead_of", "batch_line"),
    )

    batch_id: Mapped[UUID]
    food_id: Mapped[UUID]
    planned_g: Mapped[Grams]
    measure: Mapped[str] = mapped_column(String(12), default="weighed")
    error_g: Mapped[Figure]
    kept_version: Mapped[int | None]
    uptake: Mapped[float] = mapped_column(default=1.0)
    is_discarded: Mapped[bool] = mapped_column(Boolean, default=False)
    is_poured_off: Mapped[bool] = mapped_column(Boolean, default=False)
    use_at: Mapped[str] = mapped_column(String(16), default="")
    instead_of: Mapped[UUID | None]
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
        leaves = LineFlags(is_discarded=self.is_discarded, is_poured_off=self.is_poured_off)
        return IngredientLine(str(self.id), food, amount, self.uptake, self.use_at, **flags_of(leaves))


class PotRow(HouseholdOwned, Base):
    """A vessel a batch was cooked in: trays beside each other, or one pot once more (`filling` counts the turns).

    `vessel_id` is the household's vessel, where somebody said which. `live` is NULL once it was left out again.
    """

    __tablename__ = "pot"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (owned_key("batch_id", "batch", ondelete="CASCADE"), owned_key("vessel_id", "vessel"))

    batch_id: Mapped[UUID]
    filling: Mapped[int] = mapped_column(default=1)
    vessel_id: Mapped[UUID | None]
    position: Mapped[int] = mapped_column(default=0)
    live: Mapped[int | None] = mapped_column(default=1)


class WeighingRow(HouseholdOwned, Base):
    """One event of the log, never changed and never deleted (triggers hold this). `id` is made by the client, so a
    repeated send is the same event; `seq` is the order of arrival. No net weight means: taken out.

    What was weighed is a line of a batch, a pot, or what is in a box: that may be of no batch (a leftover). With
    `rest_as` it is what was left in the pots and what became of it. `pieces` is how many of them a box got.
    """

    __tablename__ = "weighing"
    log_of: ClassVar[str] = COOKING
    __table_args__ = (
        owned_key("batch_id", "batch"),
        owned_key("batch_line_id", "batch_line"),
        owned_key("pot_id", "pot"),
        owned_key("content_id", "box_content"),
        UniqueConstraint("seq"),
        Index(None, "household_id", "batch_id", "seq"),
        CheckConstraint("net_g IS NULL OR net_g >= 0", name="net"),
        CheckConstraint("pieces BETWEEN 0 AND 999", name="pieces"),
    )

    seq: Mapped[int] = mapped_column(BigInteger, WEIGHING_ORDER)
    batch_id: Mapped[UUID | None]
    kind: Mapped[str] = mapped_column(String(12))
    batch_line_id: Mapped[UUID | None]
    pot_id: Mapped[UUID | None]
    content_id: Mapped[UUID | None]
    gross_g: Mapped[Grams | None]
    tare_g: Mapped[Grams | None]
    net_g: Mapped[Grams | None]
    shortfall: Mapped[str | None] = mapped_column(String(12))
    how: Mapped[str] = mapped_column(String(12), default="")
    teaspoons: Mapped[int] = mapped_column(default=0)
    tablespoons: Mapped[int] = mapped_column(default=0)
    rest_as: Mapped[str] = mapped_column(String(12), default="")
    pieces: Mapped[int] = mapped_column(default=0)
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id", ondelete="SET NULL"))
    weighed_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self, boxes: Mapping[UUID, str]) -> Weighing:
        """The event as core reads it; the subject is the line, the pot, what became of the rest, or by content whose
        box it is in (`boxes`)."""
        subject = str(self.batch_line_id or self.pot_id) if self.content_id is None else boxes[self.content_id]
        if self.rest_as:
            subject = f"{REST}{self.rest_as}"
        net_g = None if self.net_g is None else float(self.net_g)
        spoons = {"teaspoons": self.teaspoons, "tablespoons": self.tablespoons}
        return Weighing(subject, net_g, self.shortfall, self.how, **spoons, pieces=self.pieces)


def last_events(session: HouseholdSession, *batch_ids: UUID) -> dict[UUID, tuple[Weighing, ...]]:
    """The last event about each subject of some batches, in the order of the log: all that counts of it, however long
    it grows."""
    last = (
        select(func.max(WeighingRow.seq))
        .where(WeighingRow.batch_id.in_(batch_ids))
        .group_by(
            WeighingRow.batch_id,
            WeighingRow.batch_line_id,
            WeighingRow.pot_id,
            WeighingRow.content_id,
            WeighingRow.rest_as,
        )
    )
    found: dict[UUID, tuple[Weighing, ...]] = dict.fromkeys(batch_ids, ())
    if not batch_ids:
        return found
    rows = session.scalars(select(WeighingRow).where(WeighingRow.seq.in_(last)).order_by(WeighingRow.seq)).all()
    boxes = _boxes_of(session, {row.content_id for row in rows if row.content_id is not None})
    for row in rows:
        if row.batch_id is not None:
            found[row.batch_id] += (row.value(boxes),)
    return found


def _boxes_of(session: HouseholdSession, content_ids: set[UUID]) -> dict[UUID, str]:
    """By content: the meal its box was packed for, or the box itself when it is nobody's."""
    if not content_ids:
        return {}
    rows = session.execute(
        select(BoxContentRow.id, BoxRow.packed_for, BoxRow.id.label("box_id"))
        .join(BoxRow, BoxRow.id == BoxContentRow.box_id)
        .where(BoxContentRow.id.in_(content_ids))
    )
    return {row.id: str(row.packed_for or row.box_id) for row in rows}


def weighed_contents(session: HouseholdSession, content_ids: Collection[UUID]) -> dict[UUID, float | None]:
    """What the last weighing of each content says, in g; None where it was taken out."""
    last = select(func.max(WeighingRow.seq)).where(WeighingRow.content_id.in_(content_ids))
    rows = session.execute(
        select(WeighingRow.content_id, WeighingRow.net_g).where(
            WeighingRow.seq.in_(last.group_by(WeighingRow.content_id))
        )
    )
    return {row.content_id: None if row.net_g is None else float(row.net_g) for row in rows if row.content_id}
