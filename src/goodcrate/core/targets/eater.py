"""Who eats: a person with targets, exclusions and an eating day made of slots."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from uuid import UUID

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.document import ReadDocument
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.targets.day_target import (
    DayTarget,
    MeanTarget,
    NutrientBand,
    shared_bands,
    slot_share_kcal,
    with_room,
)
from goodcrate.core.targets.eater_facts import EaterFacts
from goodcrate.core.targets.excluding import Exclusions
from goodcrate.core.targets.slot import Slot
from goodcrate.core.targets.target_ways import TYPED


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
    way: ReadDocument = field(default_factory=dict)
    bands: tuple[NutrientBand, ...] = ()

    @property
    def energy_way(self) -> str:
        """How its energy was set, one of `ENERGY_WAYS`."""
        return str(self.way.get("energy_way", TYPED))

    @property
    def protein_way(self) -> str:
        """How its protein was set, one of `PROTEIN_WAYS`."""
        return str(self.way.get("protein_way", TYPED))

    @property
    def is_worked_out(self) -> bool:
        """Whether anything of it was worked out, not typed."""
        return self.energy_way != TYPED or self.protein_way != TYPED

    @property
    def target(self) -> DayTarget:
        """The target of such a day.

        Raises:
            InvalidInputs: when it cannot be.
        """
        return DayTarget(self.energy_kcal, self.protein_floor_g, self.energy_band_pct, self.bands)


@dataclass(frozen=True, slots=True)
class Extra:
    """Something eaten every day besides the boxes, as it was typed, and what it adds up to.

    `food` is not kept with a closed week.
    """

    text: str
    tally: Tally
    food: Food | None = None


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

    def target_on(self, weekday: int) -> DayTarget | None:
        """What a weekday must keep to; wider where the mean of the week is what counts. None without a target.

        Raises:
            InvalidInputs: when it cannot be.
        """
        day_type = self.day_type_on(weekday)
        if day_type is None or self.day_room_pct is None:
            return None if day_type is None else day_type.target
        return with_room(day_type.target, self.day_room_pct, shared_bands([d.target for d in self.day_types]))

    def mean_over(self, weekdays: Iterable[int]) -> MeanTarget | None:
        """What the mean of some days must keep to, by their weekdays; None where each day counts by itself.

        Raises:
            InvalidInputs: when a target cannot be.
        """
        return None if self.day_room_pct is None else self.mean_target(weekdays)

    def mean_target(self, weekdays: Iterable[int]) -> MeanTarget | None:
        """The mean of what some days would each have to keep to by themselves, by their weekdays; None without a
        target.

        Raises:
            InvalidInputs: when a target cannot be.
        """
        days = [day.target for n in weekdays if (day := self.day_type_on(n)) is not None]
        return MeanTarget.of(days) if days else None

    def wanted_kcal(self, slot: Slot, weekday: int) -> float | None:
        """A slot's share of the energy of a weekday, in kcal; None without a share or a target."""
        day_type = self.day_type_on(weekday)
        if slot.share_pct is None or day_type is None:
            return None
        return slot_share_kcal(day_type.energy_kcal, slot.share_pct)
