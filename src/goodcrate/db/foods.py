"""A household's own foods: taken in from the reference table on first use, typed from labels, scanned or imported."""

from datetime import datetime
from typing import ClassVar
from uuid import UUID, uuid5

from sqlalchemy import DECIMAL, Boolean, ForeignKey, Index, String, Text, UniqueConstraint, bindparam, event, select
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.orm import Mapped, SessionTransaction, mapped_column

from goodcrate.core.foods.food import OF_A_FOOD, REFERENCE, Food
from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.find import search_text
from goodcrate.core.ground.nutrients import KEYS, Composition
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base, Figure, HouseholdOwned, Name, owned_key
from goodcrate.db.session import HouseholdSession
from goodcrate.db.stored import Stored


class NutrientColumns:
    """The nutrients per 100 g of `goodcrate.core.ground.nutrients.KEYS`, one column each."""

    energy_kcal: Mapped[Figure]
    protein_g: Mapped[Figure]
    fat_g: Mapped[Figure]
    saturated_g: Mapped[Figure]
    carbohydrate_g: Mapped[Figure]
    sugars_g: Mapped[Figure]
    polyols_g: Mapped[Figure]
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
    cholesterol_mg: Mapped[Figure]
    vitamin_e_mg: Mapped[Figure]
    thiamin_mg: Mapped[Figure]
    riboflavin_mg: Mapped[Figure]
    niacin_mg: Mapped[Figure]
    vitamin_b6_mg: Mapped[Figure]
    choline_mg: Mapped[Figure]
    vitamin_k_ug: Mapped[Figure]
    phosphorus_mg: Mapped[Figure]
    copper_mg: Mapped[Figure]
    manganese_mg: Mapped[Figure]
    omega3_g: Mapped[Figure]
    epa_g: Mapped[Figure]
    dha_g: Mapped[Figure]
    ala_g: Mapped[Figure]
    omega6_g: Mapped[Figure]


def stored_errors(composition: Composition) -> dict[str, object] | None:
    """Standard errors of a food's figures as they are stored: by the nutrient's name."""
    errors = composition.errors_per_100_g
    return dict(zip(KEYS, errors, strict=True)) if errors else None


def errors_of(stored: ReadDocument | None) -> tuple[float, ...]:
    """Stored errors in the order of `KEYS`; a nutrient they do not name has none."""
    return tuple(float(stored.get(key, 0.0)) for key in KEYS) if stored else ()


class FoodRow(NutrientColumns, HouseholdOwned, Base):
    """A food of one household. `origin_key` names the reference row it was taken from.

    `label` keeps what was typed from a label, by field; the nutrient columns are derived from it. `figures_version`
    counts changes of figures and yield, `version` every save. `search_text` follows the name. `stamp` is the
    household's count of food changes when this one was last written (`FoodStampRow`).
    """

    __tablename__ = "food"
    counts_stamp: ClassVar[bool] = True
    __table_args__ = (
        UniqueConstraint("household_id", "origin_key"),
        UniqueConstraint("household_id", "barcode"),
        Index("ix_food_stamp", "household_id", "stamp"),
    )

    origin_key: Mapped[str | None] = mapped_column(String(80, collation="utf8mb4_bin"))
    name: Mapped[Name]
    search_text: Mapped[str] = mapped_column(String(200, collation="utf8mb4_bin"), default="")
    state: Mapped[str] = mapped_column(String(20))
    food_group: Mapped[str] = mapped_column(String(20))
    allergens: Mapped[list[str]] = mapped_column(Stored, default=list)
    diet: Mapped[str] = mapped_column(String(10))
    contains_pork: Mapped[bool] = mapped_column(Boolean, default=False)
    cooks_like: Mapped[str] = mapped_column(String(10), default="")
    density_g_per_ml: Mapped[Figure]
    each_name: Mapped[str | None] = mapped_column(String(80))
    each_g: Mapped[Figure]
    refuse_pct: Mapped[Figure]
    keep_group: Mapped[str] = mapped_column(String(30))
    cooked_key: Mapped[str | None] = mapped_column(String(80))
    cooked_yield: Mapped[Figure]
    aisle: Mapped[str] = mapped_column(String(30), default="")
    pack_g: Mapped[Figure]
    serving_g: Mapped[Figure]
    price: Mapped[float | None] = mapped_column(DECIMAL(9, 2, asdecimal=False))
    barcode: Mapped[str | None] = mapped_column(String(14, collation="utf8mb4_bin"))
    label: Mapped[dict[str, str] | None] = mapped_column(Stored)
    figure_errors: Mapped[Document | None] = mapped_column(Stored)
    at_least: Mapped[list[str] | None] = mapped_column(Stored)
    source_kind: Mapped[str] = mapped_column(String(12), default=REFERENCE)
    figures_at: Mapped[datetime | None] = mapped_column(UtcTime)
    figures_version: Mapped[int] = mapped_column(default=1)
    stamp: Mapped[int] = mapped_column(default=0)
    note: Mapped[str] = mapped_column(Text, default="")
    source: Mapped[str] = mapped_column(String(160))
    version: Mapped[int] = mapped_column(default=1)

    __mapper_args__ = {"version_id_col": version}

    @staticmethod
    def id_for_reference(household_id: UUID, key: str) -> UUID:
        """The id a reference food takes in a household: always the same, so taking it in twice is once."""
        return uuid5(household_id, f"reference-food:{key}")

    @classmethod
    def taken_in(cls, household_id: UUID, food: Food) -> "FoodRow":
        """A reference food as a row of the household's own."""
        row = cls(id=cls.id_for_reference(household_id, food.key), origin_key=food.key)
        row.put(food)
        return row

    def put(self, food: Food) -> None:
        """Take everything over from core's food but its key."""
        for name in OF_A_FOOD:
            setattr(self, name, getattr(food, name))
        self.food_group, self.allergens = food.group, sorted(food.allergens)
        self.search_text = search_text(food.name)
        for key, figure in food.composition.as_mapping().items():
            setattr(self, key, figure)
        self.figure_errors = stored_errors(food.composition)
        self.at_least = sorted(food.composition.at_least) or None

    @property
    def key(self) -> str:
        """The name the food goes by: the reference table's for what came from there, else the row's id."""
        return self.origin_key or str(self.id)

    def value(self, past: "FoodPastRow | None" = None) -> Food:
        """The row as core's food; with `past`, its figures and yield as they were then (never its allergens)."""
        figures = tuple(getattr(self, key) for key in KEYS) if past is None else past.figures_by_key()
        errors = self.figure_errors if past is None else past.figure_errors
        facts = {name: getattr(self, name) for name in OF_A_FOOD}
        if past is not None:
            facts["cooked_yield"] = past.cooked_yield
        return Food(
            key=self.key,
            group=self.food_group,
            composition=Composition(figures, errors_of(errors), frozenset(self.at_least or ())),
            allergens=frozenset(self.allergens),
            **facts,
        )


class FoodPastRow(HouseholdOwned, Base):
    """Figures a food had before they were changed, for recipes that keep them. Written once, never changed."""

    __tablename__ = "food_past"
    __table_args__ = (
        owned_key("food_id", "food", ondelete="CASCADE"),
        UniqueConstraint("household_id", "food_id", "figures_version"),
    )

    food_id: Mapped[UUID]
    figures_version: Mapped[int]
    figures: Mapped[dict[str, float | None]] = mapped_column(Stored)
    figure_errors: Mapped[Document | None] = mapped_column(Stored)
    cooked_yield: Mapped[Figure]
    source: Mapped[str] = mapped_column(String(160))
    replaced_at: Mapped[datetime] = mapped_column(UtcTime)

    def figures_by_key(self) -> tuple[float | None, ...]:
        """The figures per 100 g in the order of `KEYS`; one that did not exist then is unknown."""
        return tuple(self.figures.get(key) for key in KEYS)

    @classmethod
    def of(cls, row: FoodRow, row_id: UUID, now: datetime) -> "FoodPastRow":
        """A food's present figures, about to be replaced."""
        return cls(
            id=row_id,
            food_id=row.id,
            figures_version=row.figures_version,
            figures={key: getattr(row, key) for key in KEYS},
            figure_errors=row.figure_errors,
            cooked_yield=row.cooked_yield,
            source=row.source,
            replaced_at=now,
        )


class FoodImportRow(HouseholdOwned, Base):
    """A CSV that was uploaded and reported on, waiting for its yes; afterwards how many rows did what."""

    __tablename__ = "food_import"

    name: Mapped[Name]
    encoding: Mapped[str] = mapped_column(String(20))
    content: Mapped[str] = mapped_column(LONGTEXT)
    uploaded_at: Mapped[datetime] = mapped_column(UtcTime)
    applied: Mapped[dict[str, int] | None] = mapped_column(Stored)


_STAMP = "stamp"  # where a session keeps it during a transaction, whose reads see one moment
_COUNTED = "stamp_counted"


class FoodStampRow(Base):
    """How often a household's foods were changed, or what else recipes are worked out with: eaters, vessels,
    taught yields (rows with `counts_stamp`). Its row is locked by each change until that is committed, so whoever reads
    a stamp sees every change up to it."""

    __tablename__ = "food_stamp"

    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), primary_key=True)
    value: Mapped[int] = mapped_column(default=0)


_STAMP_OF = select(FoodStampRow.value).where(FoodStampRow.household_id == bindparam("household_id"))


def stamp_of(session: HouseholdSession) -> int:
    """The household's stamp as this transaction sees it, asked for once in it; 0 before the first change."""
    stamp: int | None = session.info.get(_STAMP)
    if stamp is None:
        session.flush()  # a change that waits counts too
        asked = session.connection().execute(_STAMP_OF, {"household_id": session.household_id})
        stamp = session.info[_STAMP] = asked.scalar() or 0
    return stamp


def is_settled(session: HouseholdSession) -> bool:
    """Whether the stamp this transaction sees is committed: only then may memory keep what was read under it, since a
    stamp that is rolled back is given out again for another change."""
    return not session.info.get(_COUNTED, False)


def count_stamp(session: HouseholdSession) -> int:
    """Count the stamp up: whatever was worked out with the household's foods, or with what its pots taught, is old."""
    session.info.pop(_STAMP, None)
    session.info[_COUNTED] = True
    with session.no_autoflush:
        counter = session.get(FoodStampRow, session.household_id, with_for_update=True)
        if counter is None:
            counter = FoodStampRow(household_id=session.household_id, value=0)
            session.add(counter)
        counter.value += 1
    return counter.value


@event.listens_for(HouseholdSession, "after_transaction_end")
def _forget_stamp(session: HouseholdSession, transaction: SessionTransaction) -> None:
    session.info.pop(_STAMP, None)  # also after a savepoint: it may have counted and been rolled back
    if transaction.parent is None:
        session.info.pop(_COUNTED, None)


@event.listens_for(HouseholdSession, "before_flush")
def _stamp_changed_foods(session: HouseholdSession, *_: object) -> None:
    changed = [row for row in session.new if getattr(row, "counts_stamp", False)]
    changed += [row for row in session.dirty if getattr(row, "counts_stamp", False) and session.is_modified(row)]
    changed += [row for row in session.deleted if getattr(row, "counts_stamp", False)]
    if not changed:
        return
    value = count_stamp(session)
    for row in changed:
        if isinstance(row, FoodRow):
            row.stamp = value


class LineHabitRow(HouseholdOwned, Base):
    """Which food a household means by a wording: written where a cook confirmed or corrected a line."""

    __tablename__ = "line_habit"
    __table_args__ = (UniqueConstraint("household_id", "words"),)

    words: Mapped[str] = mapped_column(String(120, collation="utf8mb4_bin"))
    food_key: Mapped[str] = mapped_column(String(80, collation="utf8mb4_bin"))
