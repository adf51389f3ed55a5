"""Eaters with their day types and slots."""

from collections.abc import Collection
from datetime import time
from typing import Any, ClassVar
from uuid import UUID

from sqlalchemy import JSON, String, Time
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.targets.body import Blocks
from goodcrate.core.targets.day_target import DayTarget, NutrientBand, slot_share_kcal
from goodcrate.db.base import Base, Grams, HouseholdOwned, Name, owned_key
from goodcrate.db.foods import FoodRow

REHEAT_MIN = 10
"""A slot with fewer minutes than this has no time to heat a box: our assumption."""


class Eater(HouseholdOwned, Base):
    """One person with targets, exclusions and an eating day made of slots."""

    __tablename__ = "eater"
    counts_stamp: ClassVar[bool] = True

    name: Mapped[Name]
    about: Mapped[str] = mapped_column(String(160), default="")
    excluded_allergens: Mapped[list[str]] = mapped_column(JSON, default=list)
    no_pork: Mapped[bool] = mapped_column(default=False)
    dislikes: Mapped[str] = mapped_column(String(240), default="")
    sex: Mapped[str] = mapped_column(String(8), default="")
    age_years: Mapped[float | None]
    height_cm: Mapped[float | None]
    weight_kg: Mapped[float | None]
    activity: Mapped[str] = mapped_column(String(12), default="light")
    conditions: Mapped[list[str] | None] = mapped_column(JSON(none_as_null=True), default=None)
    medical_notes: Mapped[str] = mapped_column(String(1000), default="")
    diet: Mapped[str] = mapped_column(String(12), default="")
    meal_block_kcal: Mapped[float | None]
    snack_block_kcal: Mapped[float | None]
    position: Mapped[int] = mapped_column(default=0)
    is_archived: Mapped[bool] = mapped_column(default=False)
    version: Mapped[int] = mapped_column(default=1)

    all_slots: Mapped[list["Slot"]] = relationship(
        order_by="Slot.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )
    day_types: Mapped[list["DayType"]] = relationship(
        order_by="DayType.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )

    extras: Mapped[list["EaterExtra"]] = relationship(
        order_by="EaterExtra.position", cascade="all, delete-orphan", lazy="selectin"
    )

    __mapper_args__ = {"version_id_col": version}

    @property
    def slots(self) -> list["Slot"]:
        """The slots of the eating day in their order; in a week also those put aside since that hold meals there."""
        recalled = self.__dict__.get("_recalled", frozenset())
        return [slot for slot in self.all_slots if not slot.is_archived or slot.id in recalled]

    def recall_slots(self, ids: Collection[UUID]) -> None:
        """Show slots that were put aside too, as long as this value lives: a past week is shown as it was."""
        self.__dict__["_recalled"] = frozenset(ids)

    @property
    def blocks(self) -> Blocks | None:
        """The sizes of this eater's blocks, when they eat in blocks."""
        if self.meal_block_kcal is None or self.snack_block_kcal is None:
            return None
        return Blocks(self.meal_block_kcal, self.snack_block_kcal)

    @property
    def extras_tally(self) -> Tally:
        """What is eaten every day without being prepped."""
        return Tally.sum(extra.tally for extra in self.extras)

    def day_type_on(self, weekday: int) -> "DayType | None":
        """The day type of a weekday (Monday is 0); the first one where none claims it."""
        claimed = (d for d in self.day_types if weekday in d.weekdays)
        return next(claimed, self.day_types[0] if self.day_types else None)

    def wanted_kcal(self, slot: "Slot", weekday: int) -> float | None:
        """A slot's share of the energy of a weekday, in kcal; None without a share or a target."""
        day_type = self.day_type_on(weekday)
        if slot.share_pct is None or day_type is None:
            return None
        return slot_share_kcal(day_type.energy_kcal, slot.share_pct)


class DayType(HouseholdOwned, Base):
    """A kind of day (work, rest) with its target and the weekdays it stands for."""

    __tablename__ = "day_type"
    __table_args__ = (owned_key("eater_id", "eater", ondelete="CASCADE"),)

    eater_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(40))
    weekdays: Mapped[list[int]] = mapped_column(JSON, default=list)
    energy_kcal: Mapped[float]
    energy_band_pct: Mapped[float] = mapped_column(default=3.0)
    protein_floor_g: Mapped[float]
    clinician_confirmed: Mapped[bool] = mapped_column(default=False)
    way: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    bands: Mapped[dict[str, list[float | None]]] = mapped_column(JSON, default=dict)
    position: Mapped[int] = mapped_column(default=0)

    eater: Mapped[Eater] = relationship(back_populates="day_types")

    @property
    def target(self) -> DayTarget:
        """The target as core computes with it."""
        bands = tuple(NutrientBand(key, *ends) for key, ends in sorted(self.bands.items()))
        return DayTarget(self.energy_kcal, self.protein_floor_g, self.energy_band_pct, bands)


class Slot(HouseholdOwned, Base):
    """A named, timed place in an eater's day."""

    __tablename__ = "slot"
    __table_args__ = (owned_key("eater_id", "eater", ondelete="CASCADE"),)

    eater_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(40))
    at: Mapped[time] = mapped_column(Time)
    eaten_cold: Mapped[bool] = mapped_column(default=False)
    travels: Mapped[bool] = mapped_column(default=False)
    no_reheat: Mapped[bool] = mapped_column(default=False)
    within_min: Mapped[int | None]
    share_pct: Mapped[float | None]
    is_archived: Mapped[bool] = mapped_column(default=False)
    position: Mapped[int]

    eater: Mapped[Eater] = relationship(back_populates="all_slots")

    @property
    def must_be_cold(self) -> bool:
        """Nothing is heated for it: eaten cold, no way to reheat there, or no time to."""
        return self.eaten_cold or self.no_reheat or (self.within_min is not None and self.within_min < REHEAT_MIN)


class EaterExtra(HouseholdOwned, Base):
    """Something eaten every day besides the boxes: a food and its grams, as it was typed."""

    __tablename__ = "eater_extra"
    __table_args__ = (owned_key("eater_id", "eater", ondelete="CASCADE"), owned_key("food_id", "food"))

    eater_id: Mapped[UUID]
    food_id: Mapped[UUID]
    text: Mapped[str] = mapped_column(String(160))
    grams: Mapped[Grams]
    measure: Mapped[str] = mapped_column(String(12), default="weighed")
    standard_error_g: Mapped[float] = mapped_column(default=0.0)
    position: Mapped[int] = mapped_column(default=0)

    food: Mapped[FoodRow] = relationship(lazy="joined", viewonly=True)

    @property
    def tally(self) -> Tally:
        """Its nutrients, with the doubt of how it is measured."""
        return Tally.of(self.food.value().composition, float(self.grams), self.standard_error_g, f"extra:{self.id}")
