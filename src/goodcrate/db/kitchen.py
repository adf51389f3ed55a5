"""A household's kitchen: its vessels, and what it cooks with besides."""

from typing import ClassVar

from sqlalchemy import String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.recipes.vessels import Vessel
from goodcrate.db.base import Base, Grams, HouseholdOwned
from goodcrate.db.stored import Stored


class VesselRow(HouseholdOwned, Base):
    """Pots, pans, trays, bowls and blenders of one size; `count` of them."""

    __tablename__ = "vessel"
    counts_stamp: ClassVar[bool] = True

    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(12))
    volume_ml: Mapped[float]
    minimum_ml: Mapped[float] = mapped_column(default=0.0)
    count: Mapped[int] = mapped_column(default=1)
    tare_g: Mapped[Grams | None]
    compartments: Mapped[int] = mapped_column(default=1)
    stands: Mapped[list[str] | None] = mapped_column(Stored, default=None)
    position: Mapped[int] = mapped_column(default=0)
    version: Mapped[int] = mapped_column(default=1)

    __mapper_args__ = {"version_id_col": version}

    def value(self) -> Vessel:
        """The vessel as core computes with it."""
        tare_g = None if self.tare_g is None else float(self.tare_g)
        stands = None if self.stands is None else frozenset(self.stands)
        return Vessel(
            str(self.id),
            self.name,
            self.kind,
            self.volume_ml,
            self.minimum_ml,
            self.count,
            tare_g=tare_g,
            compartments=self.compartments,
            stands=stands,
        )


class EquipmentRow(HouseholdOwned, Base):
    """How many of a kind of equipment there are (core's `EQUIPMENT_KINDS`); a kind without a row was never said."""

    __tablename__ = "equipment"
    counts_stamp: ClassVar[bool] = True
    __table_args__ = (UniqueConstraint("household_id", "kind"),)

    kind: Mapped[str] = mapped_column(String(20))
    count: Mapped[int]
