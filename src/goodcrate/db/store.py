"""What is in the house already: boxes, leftovers, opened packs."""

from datetime import date
from uuid import UUID

from sqlalchemy import CheckConstraint, String
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.db.base import Base, Grams, HouseholdOwned, owned_key


class HouseRow(HouseholdOwned, Base):
    """So many boxes of a recipe with `grams` each, or `grams` of a food that is open; `since` cooked or opened.

    `until` is a printed or chosen last day, NULL when guidance says it. `live` is 1 while it is there, NULL once taken
    out, so that taking out can be undone.
    """

    __tablename__ = "in_the_house"
    __table_args__ = (
        owned_key("recipe_id", "recipe"),
        owned_key("food_id", "food"),
        CheckConstraint("(recipe_id IS NULL) <> (food_id IS NULL)", name="one_thing"),
    )

    recipe_id: Mapped[UUID | None]
    food_id: Mapped[UUID | None]
    typed: Mapped[str] = mapped_column(String(120), default="")
    count: Mapped[int] = mapped_column(default=1)
    grams: Mapped[Grams]
    place: Mapped[str] = mapped_column(String(10))
    since: Mapped[date]
    until: Mapped[date | None]
    live: Mapped[int | None] = mapped_column(default=1)
