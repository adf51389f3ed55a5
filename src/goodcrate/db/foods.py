"""A household's own foods: taken in from the reference table on first use, later also typed from labels."""

from typing import ClassVar
from uuid import UUID, uuid5

from sqlalchemy import JSON, Boolean, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.foods import Food
from goodcrate.core.nutrients import KEYS, Composition
from goodcrate.db.base import Base, Figure, HouseholdOwned, Name


class NutrientColumns:
    """The nutrients per 100 g of `goodcrate.core.nutrients.KEYS`, one column each."""

    energy_kcal: Mapped[Figure]
    protein_g: Mapped[Figure]
    fat_g: Mapped[Figure]
    saturated_g: Mapped[Figure]
    carbohydrate_g: Mapped[Figure]
    sugars_g: Mapped[Figure]
    fibre_g: Mapped[Figure]
    alcohol_g: Mapped[Figure]
    sodium_mg: Mapped[Figure]
    potassium_mg: Mapped[Figure]
    calcium_mg: Mapped[Figure]
    iron_mg: Mapped[Figure]
    magnesium_mg: Mapped[Figure]
    zinc_mg: Mapped[Figure]
    selenium_ug: Mapped[Figure]
    iodine_ug: Mapped[Figure]
    vitamin_a_ug_rae: Mapped[Figure]
    vitamin_c_mg: Mapped[Figure]
    vitamin_d_ug: Mapped[Figure]
    vitamin_b12_ug: Mapped[Figure]
    folate_ug: Mapped[Figure]
    omega3_g: Mapped[Figure]
    omega6_g: Mapped[Figure]


class FoodRow(NutrientColumns, HouseholdOwned, Base):
    """A food of one household. `origin_key` names the reference row it was taken from."""

    __tablename__ = "food"
    __table_args__ = (UniqueConstraint("household_id", "origin_key"),)

    origin_key: Mapped[str | None] = mapped_column(String(80, collation="utf8mb4_bin"))
    name: Mapped[Name]
    state: Mapped[str] = mapped_column(String(20))
    food_group: Mapped[str] = mapped_column(String(20))
    allergens: Mapped[list[str]] = mapped_column(JSON, default=list)
    diet: Mapped[str] = mapped_column(String(10))
    contains_pork: Mapped[bool] = mapped_column(Boolean, default=False)
    density_g_per_ml: Mapped[Figure]
    each_name: Mapped[str | None] = mapped_column(String(80))
    each_g: Mapped[Figure]
    refuse_pct: Mapped[Figure]
    keep_group: Mapped[str] = mapped_column(String(30))
    cooked_key: Mapped[str | None] = mapped_column(String(80))
    cooked_yield: Mapped[Figure]
    aisle: Mapped[str] = mapped_column(String(30), default="")
    pack_g: Mapped[Figure]
    note: Mapped[str] = mapped_column(Text, default="")
    source: Mapped[str] = mapped_column(String(160))
    version: Mapped[int] = mapped_column(default=1)

    __mapper_args__ = {"version_id_col": version}

    _SAME: ClassVar[tuple[str, ...]] = (
        "name", "state", "diet", "contains_pork", "density_g_per_ml", "each_name", "each_g", "refuse_pct",
        "keep_group", "cooked_key", "cooked_yield", "aisle", "pack_g", "note", "source",
    )  # fmt: skip

    @staticmethod
    def id_for_reference(household_id: UUID, key: str) -> UUID:
        """The id a reference food takes in a household: always the same, so taking it in twice is once."""
        return uuid5(household_id, f"reference-food:{key}")

    @classmethod
    def taken_in(cls, household_id: UUID, food: Food) -> "FoodRow":
        """A reference food as a row of the household's own."""
        row = cls(id=cls.id_for_reference(household_id, food.key), origin_key=food.key)
        for name in cls._SAME:
            setattr(row, name, getattr(food, name))
        row.food_group, row.allergens = food.group, sorted(food.allergens)
        for key, figure in food.composition.as_mapping().items():
            setattr(row, key, figure)
        return row

    def value(self) -> Food:
        """The row as core's food; its key is the row's id."""
        return Food(
            key=self.origin_key or str(self.id),
            group=self.food_group,
            composition=Composition(tuple(getattr(self, key) for key in KEYS)),
            allergens=frozenset(self.allergens),
            **{name: getattr(self, name) for name in self._SAME},
        )
