"""Recipes with their components and ingredient lines, and the way from rows to core's values."""

from dataclasses import asdict, replace
from datetime import datetime
from decimal import Decimal
from typing import ClassVar
from uuid import UUID

from sqlalchemy import DECIMAL, BigInteger, Boolean, ForeignKeyConstraint, String, Text, UniqueConstraint, and_
from sqlalchemy.orm import Mapped, foreign, mapped_column, relationship, remote

from goodcrate.core.ground.amounts import Amount, amount_of
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.recipes.component import Component, IngredientLine, PendingLine, StorageChoice, flags_of
from goodcrate.core.recipes.cooking_told import cooking_of
from goodcrate.core.recipes.recipe import LineChange, Recipe, Variant
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.yields import learned_yield
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, Figure, Grams, HouseholdOwned, Name, owned_key
from goodcrate.db.foods import FoodPastRow, FoodRow
from goodcrate.db.stored import Stored, by_name


class RecipeRow(HouseholdOwned, Base):
    """A recipe: components that make so many servings. `version` counts saves, so that stale ones are seen.

    `last_page` is the open page that saved last and `last_edit` how far its typing had come: writes of one page do not
    clash, and an older one of them changes nothing. `all_components` holds retired ones and those of variants too:
    batches cooked earlier point there.
    """

    __tablename__ = "recipe"

    name: Mapped[Name]
    servings: Mapped[float] = mapped_column(DECIMAL(5, 1, asdecimal=False))
    note: Mapped[str] = mapped_column(Text, default="")
    tags: Mapped[list[str]] = mapped_column(Stored, default=list)
    steps: Mapped[list[Document]] = mapped_column(Stored, default=list)
    variants: Mapped[list[Document]] = mapped_column(Stored, default=list)
    origin: Mapped[str] = mapped_column(String(200), default="")
    is_archived: Mapped[bool] = mapped_column(Boolean, default=False)
    last_page: Mapped[str] = mapped_column(String(36), default="")
    last_edit: Mapped[int] = mapped_column(BigInteger, default=0)
    version: Mapped[int] = mapped_column(default=1)

    all_components: Mapped[list["ComponentRow"]] = relationship(
        order_by="ComponentRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    changes: Mapped[list["VariantChangeRow"]] = relationship(
        order_by="VariantChangeRow.line_id", cascade="all, delete-orphan", lazy="selectin"
    )

    __mapper_args__ = {"version_id_col": version}

    @property
    def components(self) -> list["ComponentRow"]:
        """The components of the recipe as it stands, in their order."""
        return [c for c in self.all_components if not c.is_retired and c.variant_id is None]

    def value(self) -> Recipe:
        """The recipe as core computes with it; keys are row ids as text, of a used component the source's."""
        components = tuple(c.value() for c in self.components)
        steps = tuple(step_of(s) for s in self.steps)
        variants = tuple(
            Variant(v["key"], v["name"], tuple(v["eaters"]), tuple(c.value() for c in self._changes_of(v["key"])))
            for v in self.variants
        )
        return Recipe(str(self.id), self.name, self.servings, components, steps, variants)

    def _changes_of(self, variant_key: str) -> list["VariantChangeRow"]:
        return [c for c in self.changes if str(c.variant_id) == variant_key]


def step_of(stored: ReadDocument) -> Step:
    """A step as it was stored."""
    lists = {name: tuple(stored[name]) for name in ("after", "checks_min") if name in stored}
    return by_name(Step, stored, **lists)


def stored_step(step: Step) -> Document:
    """A step as it is stored."""
    return asdict(step) | {"after": list(step.after), "checks_min": list(step.checks_min)}


class ComponentRow(HouseholdOwned, Base):
    """What is cooked and divided on its own. `cooked_g` is typed; NULL leaves it to what pots taught, then the foods.

    With `used_component_id` it is another recipe's component, `serving_g` of it in a serving. With `variant_id` it is a
    variant's version of a component: its lines follow from the recipe. `learned` are yields of weighed pots.
    """

    __tablename__ = "component"
    __table_args__ = (
        owned_key("recipe_id", "recipe", ondelete="CASCADE"),
        ForeignKeyConstraint(["household_id", "used_component_id"], ["component.household_id", "component.id"]),
    )

    recipe_id: Mapped[UUID]
    name: Mapped[str] = mapped_column(String(80))
    cooked_g: Mapped[Grams | None]
    storage: Mapped[Document] = mapped_column(Stored, default=dict)
    vessel: Mapped[str] = mapped_column(String(12), default="")
    minimum_ml: Mapped[float | None]
    cooked_as: Mapped[str] = mapped_column(String(12), default="")
    pending: Mapped[list[Document]] = mapped_column(Stored, default=list)
    learned: Mapped[list[float]] = mapped_column(Stored, default=list)
    is_retired: Mapped[bool] = mapped_column(Boolean, default=False)
    used_component_id: Mapped[UUID | None]
    serving_g: Mapped[Grams | None]
    variant_id: Mapped[UUID | None]
    position: Mapped[int]

    lines: Mapped[list["LineRow"]] = relationship(
        order_by="LineRow.position", cascade="all, delete-orphan", lazy="selectin"
    )
    used: Mapped["ComponentRow | None"] = relationship(
        lazy="select",
        viewonly=True,
        primaryjoin=lambda: and_(
            foreign(ComponentRow.household_id) == remote(ComponentRow.household_id),
            foreign(ComponentRow.used_component_id) == remote(ComponentRow.id),
        ),
    )

    recipe: Mapped[RecipeRow] = relationship(lazy="select", viewonly=True)

    def lent(self) -> Component:
        """The component as another recipe serves it: cooked by the steps of the one it belongs to."""
        own = self.value()
        cooking = cooking_of(own, tuple(step_of(s) for s in self.recipe.steps))
        return replace(own, used_from=str(self.recipe_id), cooking=cooking)

    def value(self) -> Component:
        """The component as core computes with it."""
        if self.used_component_id is not None and self.used is not None:
            serving_g = None if self.serving_g is None else float(self.serving_g)
            return replace(self.used.lent(), serving_g=serving_g)
        return Component(
            str(self.id),
            self.name,
            tuple(line.value() for line in self.lines),
            None if self.cooked_g is None else float(self.cooked_g),
            learned_yield(self.learned),
            by_name(StorageChoice, self.storage),
            vessel=self.vessel,
            minimum_ml=self.minimum_ml,
            pending=tuple(by_name(PendingLine, p) for p in self.pending),
            cooked_as=self.cooked_as,
        )


class VariantChangeRow(HouseholdOwned, Base):
    """What a variant does to one line: leaves it out (no food), or puts so many g of another food in its place."""

    __tablename__ = "variant_change"
    __table_args__ = (owned_key("recipe_id", "recipe", ondelete="CASCADE"), owned_key("food_id", "food"))

    recipe_id: Mapped[UUID]
    variant_id: Mapped[UUID]
    line_id: Mapped[UUID]
    food_id: Mapped[UUID | None]
    amount_g: Mapped[Grams]

    food: Mapped[FoodRow | None] = relationship(lazy="joined", viewonly=True)

    def value(self) -> LineChange:
        """The change as core computes with it."""
        food = None if self.food is None else self.food.value()
        return LineChange(str(self.line_id), food, float(self.amount_g))


class RecipePastRow(HouseholdOwned, Base):
    """A recipe as it was at an earlier version, as a document (`goodcrate.services.recipes.versions`)."""

    __tablename__ = "recipe_past"
    __table_args__ = (owned_key("recipe_id", "recipe"), UniqueConstraint("household_id", "recipe_id", "version"))

    recipe_id: Mapped[UUID]
    version: Mapped[int]
    document: Mapped[Document] = mapped_column(Stored)
    saved_at: Mapped[datetime] = mapped_column(UtcTime)


class RecipeImportRow(HouseholdOwned, Base):
    """An uploaded file of recipes that is being taken in: `done` of `total`, and what became of each."""

    __tablename__ = "recipe_import"
    is_apart: ClassVar[bool] = True

    name: Mapped[Name]
    recipes: Mapped[list[Document]] = mapped_column(Stored)
    total: Mapped[int]
    done: Mapped[int] = mapped_column(default=0)
    report: Mapped[list[Document]] = mapped_column(Stored, default=list)
    uploaded_at: Mapped[datetime] = mapped_column(UtcTime)


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
    uptake: Mapped[float] = mapped_column(default=1.0)
    is_discarded: Mapped[bool] = mapped_column(Boolean, default=False)
    use_at: Mapped[str] = mapped_column(String(12), default="")
    is_optional: Mapped[bool] = mapped_column(Boolean, default=False)
    is_to_taste: Mapped[bool] = mapped_column(Boolean, default=False)
    is_poured_off: Mapped[bool] = mapped_column(Boolean, default=False)
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
        amount = stored_amount(self.amount_g, self.measure, self.error_g, self.amount_text)
        return IngredientLine(str(self.id), food, amount, self.uptake, self.use_at, **flags_of(self))


def stored_amount(grams: Decimal, measure: str, error_g: float | None, typed: str | None) -> Amount:
    """An amount as it was saved; without an error of its own it has its measure's."""
    if error_g is None:
        error_g = amount_of(float(grams), measure).standard_error_g
    return Amount(float(grams), measure, error_g, typed or "")
