"""What was put in otherwise than planned, and what it does to the boxes: in words, the largest shift first."""

from collections.abc import Sequence
from dataclasses import dataclass

from goodcrate.core.cook.batch_record import CookedState
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown, signed
from goodcrate.core.recipes.component import IngredientLine

MOST_TOLD = 3
"""So many ingredients are named; what the others do is in the figure."""


@dataclass(frozen=True, slots=True)
class Shift:
    """What one ingredient went in otherwise than planned: g and, by that, kcal in the whole batch (None: its energy is
    not known)."""

    name: str
    grams: float
    kcal: float | None


@dataclass(frozen=True, slots=True)
class AgainstPlan:
    """A batch against its plan: kcal a box (None: the energy of something that changed is not known), and by what.

    `is_mean` says that the boxes are not all as large as each other.
    """

    kcal_a_box: float | None
    shifts: tuple[Shift, ...]
    is_mean: bool

    @property
    def words(self) -> str:
        """“+120 kcal a box: 30 g more oil”; empty when all went in as planned."""
        if not self.shifts:
            return ""
        by = ", ".join(_told(shift) for shift in self.shifts[:MOST_TOLD])
        if len(self.shifts) > MOST_TOLD:
            by = say("{by} and {count} more", by=by, count=len(self.shifts) - MOST_TOLD)
        if self.kcal_a_box is None:
            return say("Not all of the energy is known: {by}", by=by)
        kcal = signed(self.kcal_a_box)
        if self.is_mean:
            return say("{kcal} kcal a box on average: {by}", kcal=kcal, by=by)
        return say("{kcal} kcal a box: {by}", kcal=kcal, by=by)


def against_plan(planned: Sequence[IngredientLine], state: CookedState, boxes_g: Sequence[float]) -> AgainstPlan:
    """A batch as it went in beside its plan; `boxes_g` are its planned portions in g.

    Differences of less than half a gram are none. Energy is of what stays in the food.
    """
    shifts = []
    for was, now in zip(planned, state.lines, strict=True):
        grams = now.amount.grams - was.amount.grams
        if abs(grams) >= 0.5:
            shifts.append(Shift(_name(now), grams, _energy(now.tally, was.tally)))
    shifts.sort(key=lambda shift: (-abs(shift.kcal or 0.0), -abs(shift.grams), shift.name))
    known = [shift.kcal for shift in shifts if shift.kcal is not None]
    a_box = sum(known) / len(boxes_g) if len(known) == len(shifts) and boxes_g else None
    is_mean = bool(boxes_g) and max(boxes_g) - min(boxes_g) >= 0.5
    return AgainstPlan(a_box, tuple(shifts), is_mean)


def _energy(now: Tally, was: Tally) -> float | None:
    """What one tally holds more than the other, in kcal; None where it is not known of either."""
    after, before = now.amount("energy_kcal"), was.amount("energy_kcal")
    return None if after.is_at_least or before.is_at_least else after.value - before.value


def _name(line: IngredientLine) -> str:
    return line.food.name.split(",")[0].lower()


def _told(shift: Shift) -> str:
    grams = shown(abs(shift.grams), 0 if abs(shift.grams) >= 10 else 1)
    if shift.grams > 0:
        return say("{grams} g more {name}", grams=grams, name=shift.name)
    return say("{grams} g less {name}", grams=grams, name=shift.name)
