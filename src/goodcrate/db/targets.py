"""Eaters with their day types and slots."""

from datetime import time
from typing import ClassVar
from uuid import UUID

from sqlalchemy import JSON, String, Time
from sqlalchemy.orm import Mapped, mapped_column, relationship

from goodcrate.core.targets import DayTarget
from goodcrate.db.base import Base, HouseholdOwned, Name, owned_key


class Eater(HouseholdOwned, Base):
    """One person with targets, exclusions and an eating day made of slots."""

    __tablename__ = "eater"
    counts_stamp: ClassVar[bool] = True

    name: Mapped[Name]
    about: Mapped[str] = mapped_column(String(160), default="")
    excluded_allergens: Mapped[list[str]] = mapped_column(JSON, default=list)
    no_pork: Mapped[bool] = mapped_column(default=False)
    dislikes: Mapped[str] = mapped_column(String(240), default="")
    position: Mapped[int] = mapped_column(default=0)
    version: Mapped[int] = mapped_column(default=1)

    slots: Mapped[list["Slot"]] = relationship(
        order_by="Slot.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )
    day_types: Mapped[list["DayType"]] = relationship(
        order_by="DayType.position", cascade="all, delete-orphan", lazy="selectin", back_populates="eater"
    )

    __mapper_args__ = {"version_id_col": version}

    def day_type_on(self, weekday: int) -> "DayType | None":
        """The day type of a weekday (Monday is 0); the first one where none claims it."""
        claimed = (d for d in self.day_types if weekday in d.weekdays)
        return next(claimed, self.day_types[0] if self.day_types else None)


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
    position: Mapped[int] = mapped_column(default=0)

    eater: Mapped[Eater] = relationship(back_populates="day_types")

    @property
    def target(self) -> DayTarget:
        """The target as core computes with it."""
        return DayTarget(self.energy_kcal, self.protein_floor_g, self.energy_band_pct)


class Slot(HouseholdOwned, Base):
    """A named, timed place in an eater's day."""

    __tablename__ = "slot"
    __table_args__ = (owned_key("eater_id", "eater", ondelete="CASCADE"),)

    eater_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(40))
    at: Mapped[time] = mapped_column(Time)
    eaten_cold: Mapped[bool] = mapped_column(default=False)
    travels: Mapped[bool] = mapped_column(default=False)
    position: Mapped[int]

    eater: Mapped[Eater] = relationship(back_populates="slots")
