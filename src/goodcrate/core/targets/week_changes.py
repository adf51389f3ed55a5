"""Targets that hold for one week or one of its days: a day made bigger, fat 15 g higher, plants only.

A week with a change has an eater of its own: the same person with kinds of day that follow the change, so that whatever
plans, fits, judges and draws the week follows it too.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from uuid import UUID, uuid5

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown, signed, weekday_name
from goodcrate.core.targets.cautions import CONFIRM_BELOW_KCAL
from goodcrate.core.targets.day_target import BANDED, NutrientBand
from goodcrate.core.targets.eater import DayType, Eater

PLANT = "plant"
MOST_KCAL, MOST_PROTEIN_G = 3000.0, 200.0


@dataclass(frozen=True, slots=True)
class TargetChange:
    """What is otherwise for an eater in a week, on one weekday (Monday is 0) or, with None, on each of its days.

    `energy_kcal` and `protein_g` are added to the target's, `bands` to both ends of a nutrient's band, each in its
    unit. `plants_only` leaves out what is not of plants.
    """

    key: str
    eater_id: UUID
    weekday: int | None = None
    energy_kcal: float = 0.0
    protein_g: float = 0.0
    bands: Mapping[str, float] = field(default_factory=dict)
    plants_only: bool = False

    @property
    def is_nothing(self) -> bool:
        """Whether it changes nothing."""
        return not (self.energy_kcal or self.protein_g or any(self.bands.values()) or self.plants_only)

    @property
    def words(self) -> str:
        """What it says: “Friday: +300 kcal, fat +15 g”."""
        told = []
        if self.energy_kcal:
            told.append(say("{more} kcal", more=signed(self.energy_kcal)))
        if self.protein_g:
            told.append(say("protein {more} g", more=signed(self.protein_g)))
        for key, more in self.bands.items():
            word, unit, _ = BANDED[key]
            told.append(say("{word} {more} {unit}", word=word, more=signed(more), unit=unit))
        if self.plants_only:
            told.append(say("plants only"))
        day = say("every day") if self.weekday is None else weekday_name(self.weekday)
        return f"{day}: {', '.join(told)}"


def check_change(eater: Eater, change: TargetChange, others: Iterable[TargetChange] = ()) -> None:
    """Refuse a change that cannot be, with those that hold already.

    Raises:
        InvalidInputs: naming every field that cannot be used.
    """
    faults = []
    if change.is_nothing:
        faults.append(InvalidInput("energy_kcal", say("This changes nothing."), say("Such as “+300” kcal.")))
    for name, value, most, unit in (
        ("energy_kcal", change.energy_kcal, MOST_KCAL, "kcal"),
        ("protein_g", change.protein_g, MOST_PROTEIN_G, "g"),
    ):
        if not -most <= value <= most:
            wanted = say("Up to {most} {unit} more or less.", most=shown(most), unit=unit)
            faults.append(InvalidInput(name, say("{value} is not possible.", value=short(value)), wanted))
    faults += _band_faults(eater, change)
    if change.plants_only and change.weekday is not None:
        told = say("A diet holds for the whole week.")
        faults.append(InvalidInput("plants_only", told, say("Choose every day.")))
    if not faults:
        faults += _target_faults(changed(eater, [*others, change]))
    if faults:
        raise InvalidInputs(faults)


def _band_faults(eater: Eater, change: TargetChange) -> list[InvalidInput]:
    have = {band.key for day in eater.day_types for band in day.bands}
    return [
        InvalidInput(
            "band",
            say("{who} has no band for {word}.", who=eater.first_name, word=BANDED[key][0]),
            say("Set one at Targets first."),
        )
        for key, more in change.bands.items()
        if more and key not in have
    ]


def _target_faults(eater: Eater) -> list[InvalidInput]:
    for weekday in range(7):
        day = eater.day_type_on(weekday)
        if day is None:
            return [InvalidInput("energy_kcal", say("There is no target to change."), say("Set one at Targets first."))]
        if day.energy_kcal < CONFIRM_BELOW_KCAL and not day.clinician_confirmed:
            problem = say("{kcal} kcal a day is for a clinician to set.", kcal=shown(day.energy_kcal))
            return [InvalidInput("energy_kcal", problem, say("At least {least}.", least=shown(CONFIRM_BELOW_KCAL)))]
        least = day.energy_kcal * (1 - (eater.day_room_pct or 0) / 100)  # where the mean counts, a day may be less
        if least < CONFIRM_BELOW_KCAL and not day.clinician_confirmed:
            problem = say("A single day could be planned with {kcal} kcal.", kcal=shown(least))
            return [InvalidInput("energy_kcal", problem, say("At least {least}.", least=shown(CONFIRM_BELOW_KCAL)))]
        try:
            _ = day.target
        except InvalidInputs as error:
            return [InvalidInput("energy_kcal", f.problem, f.wanted) for f in error.faults]
    return []


def changed(eater: Eater, changes: Sequence[TargetChange]) -> Eater:
    """The eater as a week sees them: on each weekday a change is about, a kind of day of its own."""
    mine = [c for c in changes if c.eater_id == eater.id]
    if not mine:
        return eater
    own: dict[int, DayType] = {}
    for weekday in range(7):
        day = eater.day_type_on(weekday)
        here = [c for c in mine if c.weekday in (None, weekday)]
        if day is not None and any(c.energy_kcal or c.protein_g or c.bands for c in here):
            own[weekday] = _changed_day(day, weekday, here)
    left = tuple(replace(d, weekdays=tuple(w for w in d.weekdays if w not in own)) for d in eater.day_types)
    diet = PLANT if any(c.plants_only for c in mine) else eater.diet
    return replace(eater, day_types=(*left, *own.values()), diet=diet)


def _changed_day(day: DayType, weekday: int, changes: Sequence[TargetChange]) -> DayType:
    more = sum(c.energy_kcal for c in changes)
    bands = tuple(_shifted(band, sum(c.bands.get(band.key, 0.0) for c in changes)) for band in day.bands)
    name = say("{name} {more} kcal", name=day.name, more=signed(more)) if more else day.name
    return replace(
        day,
        id=uuid5(day.id, f"on {weekday}"),
        name=name,
        energy_kcal=day.energy_kcal + more,
        protein_floor_g=max(0.0, day.protein_floor_g + sum(c.protein_g for c in changes)),
        weekdays=(weekday,),
        bands=bands,
    )


def _shifted(band: NutrientBand, more: float) -> NutrientBand:
    low, high = (None if end is None else max(0.0, end + more) for end in (band.low, band.high))
    return NutrientBand(band.key, low, high)
