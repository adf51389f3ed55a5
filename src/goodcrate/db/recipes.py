"""Recipes with their components and ingredient lines, and the way from rows to core's values."""

from dataclasses import replace
from decimal import Decimal
from uuid import UUID

from sqlalchemy import DECIMAL, JSON, Boolean, String, Text, and_
from sqlalchemy.orm import Mapped, foreign, mapped_column, relationship

from goodcrate.core.amounts import Amount, amount_of
from goodcrate.core.recipes import Component, IngredientLine, Recipe
from goodcrate.db.base import Base, Figure, Grams, HouseholdOwned, Name, owned_key
from goodcrate.db.foods import FoodPastRow, FoodRow


class RecipeRow(HouseholdOwned, Base):
    """A recipe: components that make so many servings. `version` counts saves, so that stale ones are seen."""

    __tablename__ = "recipe"

    name: Mapped[Name]
    servings: Mapped[float] = mapped_column(DECIMAL(5, 1, asdecimal=False))
    note: Mapped[str] = mapped_column(Text, default="")
    tags: Mapped[list[str]] = mapped_column(JSON, default=list)
    version: Mapped[int] = mapped_column(default=1)

    components: Mapped[list["ComponentRow"]] = relationship(
        order_by="ComponentRow.position", cascade="all, delete-orphan", lazy="selectin"
    )

    __mapper_args__ = {"version_id_col": version}

    def value(self) -> Recipe:
        """The recipe as core computes with it; keys are row ids as text."""
        return Recipe(str(self.id), self.name, self.servings, tuple(c.value() for c in self.components))


class ComponentRow(HouseholdOwned, Base):
    """What is cooked and divided on its own. `cooked_g` is typed; NULL leaves it to the foods' yields."""

    __tablename__ = "component"
    __table_args__ = (owned_key("recipe_id", "recipe", ondelete="CASCADE"),)

    recipe_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(80))
    cooked_g: Mapped[Grams | None]
    position: Mapped[int]

    lines: Mapped[list["LineRow"]] = relationship(
        order_by="LineRow.position", cascade="all, delete-orphan", lazy="selectin"
    )

    def value(self) -> Component:
        """The component as core computes with it."""
        cooked_g = None if self.cooked_g is None else float(self.cooked_g)
        return Component(str(self.id), self.name, tuple(line.value() for line in self.lines), cooked_g)


class LineRow(HouseholdOwned, Base):
    """One food and how much of it, with how the amount was established."""

    __tablename__ = "ingredient_line"
    __table_args__ = (owned_key("component_id", "component", ondelete="CASCADE"), owned_key("food_id", "food"))

    component_id: Mapped[UUID]
    food_id: Mapped[UUID]
    amount_g: Mapped[Grams]
    measure: Mapped[str] = mapped_column(String(12), default="weighed")
    amount_text: Mapped[str | None] = mapped_column(String(60))
    error_g: Mapped[Figure]
    figures_version: Mapped[int] = mapped_column(default=1)
    keeps_figures: Mapped[bool] = mapped_column(Boolean, default=False)
    position: Mapped[int]

    # The household column is written by `ComponentRow.lines`; this side only reads.
    food: Mapped[FoodRow] = relationship(lazy="joined", viewonly=True)
    past: Mapped[FoodPastRow | None] = relationship(
        lazy="select",
        viewonly=True,
        primaryjoin=lambda: and_(
            LineRow.household_id == foreign(FoodPastRow.household_id),
            LineRow.food_id == foreign(FoodPastRow.food_id),
            LineRow.figures_version == foreign(FoodPastRow.figures_version),
        ),
    )

    @property
    def food_changed(self) -> bool:
        """The food's figures changed since this line was made, and nobody has said yet which ones count."""
        return self.figures_version < self.food.figures_version and not self.keeps_figures

    def value(self) -> IngredientLine:
        """The line as core computes with it."""
        food = self.food.value(self.past if self.keeps_figures else None)
        return IngredientLine(
            str(self.id), food, stored_amount(self.amount_g, self.measure, self.error_g, self.amount_text)
        )


def stored_amount(grams: Decimal, measure: str, error_g: float | None, typed: str | None) -> Amount:
    """An amount as it was saved; without an error of its own it has its measure's."""
    if error_g is None:
        return replace(amount_of(float(grams), measure), typed=typed or "")
    return Amount(float(grams), measure, error_g, typed or "")
