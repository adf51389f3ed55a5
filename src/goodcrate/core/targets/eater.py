"""Who eats: a person with targets, exclusions and an eating day made of slots."""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from datetime import time
from typing import Any
from uuid import UUID

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.targets.body import Blocks, Body
from goodcrate.core.targets.day_target import DayTarget, NutrientBand, slot_share_kcal
from goodcrate.core.targets.excluding import Exclusions

REHEAT_MIN = 10
"""A slot with fewer minutes than this has no time to heat a box: our assumption."""
KINDS_OF_SLOT = ("breakfast", "snack")
"""Tags that keep a recipe to slots of that name; one without them stands in any other."""


@dataclass(frozen=True, slots=True)
class Slot:
    """A named, timed place in an eater's day. `share_pct` is its share of the day's energy, `within_min` the minutes
    there are for it."""

    id: UUID
    eater_id: UUID
    name: str
    at: time
    eaten_cold: bool = False
    travels: bool = False
    no_reheat: bool = False
    within_min: int | None = None
    share_pct: float | None = None
    is_archived: bool = False
    position: int = 0

    @property
    def must_be_cold(self) -> bool:
        """Nothing is heated for it: eaten cold, no way to reheat there, or no time to."""
        return self.eaten_cold or self.no_reheat or (self.within_min is not None and self.within_min < REHEAT_MIN)

    def suits(self, tags: frozenset[str]) -> bool:
        """Whether a recipe may stand here by its tags: cold, travels, and the kind of meal."""
        if (self.must_be_cold and "cold" not in tags) or (self.travels and "travels" not in tags):
            return False
        kinds = [k for k in KINDS_OF_SLOT if k in tags]
        named = next((k for k in KINDS_OF_SLOT if k in self.name.lower()), "")
        return (named in kinds) if named else not kinds


@dataclass(frozen=True, slots=True)
class DayType:
    """A kind of day (work, rest) with its target and the weekdays it stands for (Monday is 0). `way` is how the target
    was set, by name."""

    id: UUID
    name: str
    energy_kcal: float
    protein_floor_g: float
    energy_band_pct: float = 3.0
    weekdays: tuple[int, ...] = ()
    clinician_confirmed: bool = False
    way: Mapping[str, Any] = field(default_factory=dict)
    bands: tuple[NutrientBand, ...] = ()

    @property
    def target(self) -> DayTarget:
        """The target of such a day.

        Raises:
            InvalidInputs: when it cannot be.
        """
        return DayTarget(self.energy_kcal, self.protein_floor_g, self.energy_band_pct, self.bands)


@dataclass(frozen=True, slots=True)
class Extra:
    """Something eaten every day besides the boxes, as it was typed, and what it adds up to."""

    text: str
    tally: Tally


@dataclass(frozen=True, slots=True, kw_only=True)
class EaterFacts:
    """What is said of a person in a word or a number each: carried by name wherever one is typed, stored or judged."""

    about: str = ""
    no_pork: bool = False
    dislikes: str = ""
    diet: str = ""
    sex: str = ""
    age_years: float | None = None
    height_cm: float | None = None
    weight_kg: float | None = None
    activity: str = "light"
    medical_notes: str = ""
    meal_block_kcal: float | None = None
    snack_block_kcal: float | None = None

    @property
    def body(self) -> Body | None:
        """The body, when all of it is said.

        Raises:
            InvalidInputs: naming every figure outside what the equation was made from.
        """
        if not self.sex or self.age_years is None or self.height_cm is None or self.weight_kg is None:
            return None
        return Body(self.sex, self.age_years, self.height_cm, self.weight_kg)

    @property
    def blocks(self) -> Blocks | None:
        """The sizes of this eater's blocks, when they eat in blocks.

        Raises:
            InvalidInput: for sizes that cannot be.
        """
        if self.meal_block_kcal is None or self.snack_block_kcal is None:
            return None
        return Blocks(self.meal_block_kcal, self.snack_block_kcal)


EATER_FACTS = tuple(f.name for f in fields(EaterFacts))
EATER_UNITS = {
    "age_years": "years",
    "height_cm": "cm",
    "weight_kg": "kg",
    "meal_block_kcal": "kcal",
    "snack_block_kcal": "kcal",
}
"""The facts that are numbers, with their units."""


def facts_of(eater: object) -> dict[str, Any]:
    """The facts of an eater, whatever form they have: a row, a typed one, a value."""
    return {name: getattr(eater, name) for name in EATER_FACTS}


@dataclass(frozen=True, slots=True)
class Eater(EaterFacts):
    """One person. `slots` are those of today, and in a week also those put aside since that hold meals there."""

    id: UUID
    name: str
    day_types: tuple[DayType, ...] = ()
    slots: tuple[Slot, ...] = ()
    extras: tuple[Extra, ...] = ()
    excluded_allergens: tuple[str, ...] = ()
    conditions: tuple[str, ...] | None = None
    is_archived: bool = False
    version: int = 1

    @property
    def first_name(self) -> str:
        """What a box says."""
        return self.name.split()[0]

    @property
    def exclusions(self) -> Exclusions:
        """What this eater must not get, and does not like."""
        return Exclusions(self.name, frozenset(self.excluded_allergens), self.no_pork, self.diet, self.dislikes)

    @property
    def extras_tally(self) -> Tally:
        """What is eaten every day without being prepped."""
        return Tally.sum(extra.tally for extra in self.extras)

    def day_type_on(self, weekday: int) -> DayType | None:
        """The kind of day of a weekday (Monday is 0); the first one where none claims it."""
        claimed = (d for d in self.day_types if weekday in d.weekdays)
        return next(claimed, self.day_types[0] if self.day_types else None)

    def wanted_kcal(self, slot: Slot, weekday: int) -> float | None:
        """A slot's share of the energy of a weekday, in kcal; None without a share or a target."""
        day_type = self.day_type_on(weekday)
        if slot.share_pct is None or day_type is None:
            return None
        return slot_share_kcal(day_type.energy_kcal, slot.share_pct)
