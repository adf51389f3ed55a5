"""Eaters with their day types and slots."""

from collections.abc import Collection
from datetime import time
from typing import ClassVar
from uuid import UUID

from sqlalchemy import String, Time
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.targets.day_target import NutrientBand
from goodcrate.core.targets.eater import DayType, Eater, Extra
from goodcrate.core.targets.eater_facts import facts_of
from goodcrate.core.targets.slot import Slot
from goodcrate.db.base import Base, Grams, HouseholdOwned, Name, owned_key
from goodcrate.db.foods import FoodRow
from goodcrate.db.stored import Stored


class EaterRow(HouseholdOwned, Base):
    """One person with targets, exclusions and an eating day made of slots."""

    __tablename__ = "eater"
    counts_stamp: ClassVar[bool] = True

    name: Mapped[Name]
    about: Mapped[str] = mapped_column(String(160), default="")
    excluded_allergens: Mapped[list[str]] = mapped_column(Stored, default=list)
    no_pork: Mapped[bool] = mapped_column(default=False)
    dislikes: Mapped[str] = mapped_column(String(240), default="")
    sex: Mapped[str] = mapped_column(String(8), default="")
    age_years: Mapped[float | None]
    height_cm: Mapped[float | None]
    weight_kg: Mapped[float | None]
    activity: Mapped[str] = mapped_column(String(12), default="light")
    conditions: Mapped[list[str] | None] = mapped_column(Stored, default=None)
    medical_notes: Mapped[str] = mapped_column(String(1000), default="")
    diet: Mapped[str] = mapped_column(String(12), default="")
    meal_block_kcal: Mapped[float | None]
    snack_block_kcal: Mapped[float | None]
    day_room_pct: Mapped[float | None]
    position: Mapped[int] = mapped_column(default=0)
    is_archived: Mapped[bool] = mapped_column(default=False)
    version: Mapped[int] = mapped_column(default=1)

    all_slots: Mapped[list["SlotRow"]] = relationship(
        order_by="SlotRow.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )
    day_types: Mapped[list["DayTypeRow"]] = relationship(
        order_by="DayTypeRow.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )

    extras: Mapped[list["EaterExtraRow"]] = relationship(
        order_by="EaterExtraRow.position", cascade="all, delete-orphan", lazy="selectin"
    )

    __mapper_args__ = {"version_id_col": version}

    def value(self, recalled: Collection[UUID] = ()) -> Eater:
        """The eater as core knows them; with the slots put aside since that are `recalled`."""
        slots = [slot.value() for slot in self.all_slots if not slot.is_archived or slot.id in recalled]
        return Eater(
            self.id,
            self.name,
            tuple(d.value() for d in self.day_types),
            tuple(slots),
            tuple(Extra(extra.text, extra.tally, extra.food.value()) for extra in self.extras),
            excluded_allergens=tuple(self.excluded_allergens),
            conditions=None if self.conditions is None else tuple(self.conditions),
            is_archived=self.is_archived,
            version=self.version,
            **facts_of(self),
        )


class DayTypeRow(HouseholdOwned, Base):
    """A kind of day (work, rest) with its target and the weekdays it stands for."""

    __tablename__ = "day_type"
    __table_args__ = (owned_key("eater_id", "eater", ondelete="CASCADE"),)

    eater_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(40))
    weekdays: Mapped[list[int]] = mapped_column(Stored, default=list)
    energy_kcal: Mapped[float]
    energy_band_pct: Mapped[float] = mapped_column(default=3.0)
    protein_floor_g: Mapped[float]
    clinician_confirmed: Mapped[bool] = mapped_column(default=False)
    way: Mapped[Document] = mapped_column(Stored, default=dict)
    bands: Mapped[dict[str, list[float | None]]] = mapped_column(Stored, default=dict)
    position: Mapped[int] = mapped_column(default=0)

    eater: Mapped[EaterRow] = relationship(back_populates="day_types")

    def value(self) -> DayType:
        """The kind of day as core knows it."""
        bands = tuple(NutrientBand(key, *ends) for key, ends in sorted(self.bands.items()))
        return DayType(
            self.id,
            self.name,
            self.energy_kcal,
            self.protein_floor_g,
            self.energy_band_pct,
            tuple(self.weekdays),
            clinician_confirmed=self.clinician_confirmed,
            way=self.way,
            bands=bands,
        )


class SlotRow(HouseholdOwned, Base):
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

    eater: Mapped[EaterRow] = relationship(back_populates="all_slots")

    def value(self) -> Slot:
        """The slot as core knows it."""
        return Slot(
            self.id,
            self.eater_id,
            self.name,
            self.at,
            self.eaten_cold,
            self.travels,
            no_reheat=self.no_reheat,
            within_min=self.within_min,
            share_pct=self.share_pct,
            is_archived=self.is_archived,
            position=self.position,
        )


class EaterExtraRow(HouseholdOwned, Base):
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
