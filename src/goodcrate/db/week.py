"""Weeks with their prep sessions and placements."""

from datetime import date, datetime
from uuid import UUID

from sqlalchemy import DECIMAL, Boolean, CheckConstraint, DateTime, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.ground.document import Document
from goodcrate.core.targets.week_changes import TargetChange
from goodcrate.core.week.meals import Meal, Week
from goodcrate.core.week.placings import SERVINGS_PLACES, USUAL_LENGTH_MIN, PrepSession
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, HouseholdOwned, Name, owned_key
from goodcrate.db.stored import Stored


class WeekRow(HouseholdOwned, Base):
    """1 to 14 dated days that are planned together. `recipe_versions` are the versions its recipes were placed with.

    Once it is history (`closed_at`), `judged_by` is what it is judged by (`goodcrate.services.week.history`).
    """

    __tablename__ = "week"
    __table_args__ = (
        UniqueConstraint("household_id", "first_day"),
        CheckConstraint("days BETWEEN 1 AND 14", name="days"),
    )

    first_day: Mapped[date]
    days: Mapped[int] = mapped_column(default=7)
    recipe_versions: Mapped[dict[str, int]] = mapped_column(Stored, default=dict)
    closed_at: Mapped[datetime | None] = mapped_column(UtcTime)
    judged_by: Mapped[Document | None] = mapped_column(Stored)

    sessions: Mapped[list["SessionRow"]] = relationship(
        order_by="SessionRow.starts_at", cascade="all, delete-orphan", lazy="selectin"
    )

    def value(self) -> Week:
        """The week as core knows it."""
        return Week(self.id, self.first_day, self.days, self.recipe_versions, self.closed_at)


class SessionRow(HouseholdOwned, Base):
    """A prep session: a dated block of cooking, by the household's own clock. `ready_at` is when its food can be eaten,
    NULL as long as that is when it is over."""

    __tablename__ = "prep_session"
    __table_args__ = (
        owned_key("week_id", "week", ondelete="CASCADE"),
        UniqueConstraint("household_id", "week_id", "starts_at"),
    )

    week_id: Mapped[UUID]
    starts_at: Mapped[datetime] = mapped_column(DateTime)
    length_min: Mapped[int] = mapped_column(default=USUAL_LENGTH_MIN)
    ready_at: Mapped[datetime | None] = mapped_column(DateTime)

    def value(self) -> PrepSession:
        """The session as core computes with it."""
        return PrepSession(str(self.id), self.starts_at, self.length_min, self.ready_at)


class PlacementRow(HouseholdOwned, Base):
    """A recipe in one slot of one eater on one day.

    `live` is 1 while it stands and NULL once taken away, so that a slot holds one live placement and a removed one
    (whose box may have been weighed) can be put back. `servings_before` is what a fit moved it from, until that is
    kept. `cooked_in` is the session a plan chose; without it, or once it is gone, the latest that is over by then is.
    A pinned one stays when the week is planned anew. `from_job` is the plan it was taken from. `from_box` names the
    box in the house it eats: no session cooks it. `gave_way_to` is the copy that took its place.
    """

    __tablename__ = "placement"
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("eater_id", "eater"),
        owned_key("slot_id", "slot"),
        owned_key("recipe_id", "recipe"),
        owned_key("from_box", "box", is_back=True),
        UniqueConstraint("household_id", "eater_id", "slot_id", "day", "live"),
        Index(None, "household_id", "week_id", "live"),
        CheckConstraint("live = 1", name="live"),
    )

    week_id: Mapped[UUID]
    eater_id: Mapped[UUID]
    slot_id: Mapped[UUID]
    recipe_id: Mapped[UUID]
    day: Mapped[date]
    servings: Mapped[float] = mapped_column(DECIMAL(SERVINGS_PLACES + 4, SERVINGS_PLACES, asdecimal=False))
    servings_before: Mapped[float | None] = mapped_column(
        DECIMAL(SERVINGS_PLACES + 4, SERVINGS_PLACES, asdecimal=False)
    )
    cooked_in: Mapped[UUID | None]
    is_frozen: Mapped[bool] = mapped_column(Boolean, default=False)
    is_pinned: Mapped[bool] = mapped_column(Boolean, default=False)
    from_job: Mapped[UUID | None]
    from_box: Mapped[UUID | None]
    gave_way_to: Mapped[UUID | None]
    live: Mapped[int | None] = mapped_column(default=1)
    version: Mapped[int] = mapped_column(default=1)

    __mapper_args__ = {"version_id_col": version}

    def value(self) -> Meal:
        """The meal as core knows it."""
        return Meal(
            self.id,
            self.eater_id,
            self.slot_id,
            self.recipe_id,
            self.day,
            self.servings,
            servings_before=self.servings_before,
            cooked_in=self.cooked_in,
            is_frozen=self.is_frozen,
            is_pinned=self.is_pinned,
            from_job=self.from_job,
            from_box=self.from_box,
            version=self.version,
        )


class PatternRow(HouseholdOwned, Base):
    """A week saved to be repeated. Meals by number of the day (0 is the first), eater, slot, recipe and servings."""

    __tablename__ = "week_pattern"

    name: Mapped[Name]
    days: Mapped[int]
    meals: Mapped[list[Document]] = mapped_column(Stored)
    saved_at: Mapped[datetime] = mapped_column(UtcTime)


class TargetChangeRow(HouseholdOwned, Base):
    """What is otherwise for an eater in a week, on one weekday or (NULL) on each of its days: so much more or less.
    `live` is NULL once it was taken back."""

    __tablename__ = "target_change"
    __table_args__ = (
        owned_key("week_id", "week"),
        owned_key("eater_id", "eater"),
        CheckConstraint("weekday BETWEEN 0 AND 6", name="weekday"),
        CheckConstraint("energy_kcal BETWEEN -3000 AND 3000 AND protein_g BETWEEN -200 AND 200", name="bounds"),
    )

    week_id: Mapped[UUID]
    eater_id: Mapped[UUID]
    weekday: Mapped[int | None]
    energy_kcal: Mapped[float] = mapped_column(default=0.0)
    protein_g: Mapped[float] = mapped_column(default=0.0)
    bands: Mapped[dict[str, float] | None] = mapped_column(Stored)
    plants_only: Mapped[bool] = mapped_column(Boolean, default=False)
    live: Mapped[int | None] = mapped_column(default=1)
    made_at: Mapped[datetime] = mapped_column(UtcTime)

    def value(self) -> TargetChange:
        """The change as core applies it."""
        return TargetChange(
            str(self.id),
            self.eater_id,
            self.weekday,
            self.energy_kcal,
            self.protein_g,
            self.bands or {},
            plants_only=self.plants_only,
        )
