"""Where each box waits between session and meal: fridge, freezer or cupboard, how full those get, what to thaw.

Days count as dates from the session to the day of eating. The figures are public guidance (`keeping.csv`); a printed
use-by date and the local food authority overrule them.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.recipes.recipe import Recipe

CAUTIOUS, USUAL = "cautious", "usual"
FRIDGE, FREEZER, CUPBOARD, PAST = "fridge", "freezer", "cupboard", "past"
THAWS_FROM = timedelta(days=1)
"""A frozen box goes into the fridge the evening before: a portion's size thaws overnight."""


@dataclass(frozen=True, slots=True)
class DishKeeping:
    """How long a box of a recipe keeps by the household's rule, and which component decides."""

    fridge_days: int
    freezes: bool
    decided_by: str
    group: KeepGroup
    keeps_dry: bool = False
    """Kept in the cupboard, not in the fridge: all of it does."""


def keeping_of(recipe: Recipe, groups: Mapping[str, KeepGroup], rule: str) -> DishKeeping | None:
    """The shortest-lived component decides; a box freezes when all of it does. None for an empty recipe."""
    best: DishKeeping | None = None
    freezes = keeps_dry = True
    for component in recipe.components:
        if not component.lines:
            continue
        storage = storage_of(component, recipe.steps, groups)
        group = storage.group
        freezes, keeps_dry = freezes and storage.freezable, keeps_dry and group.keeps_dry
        days = group.fridge_days_cautious if rule == CAUTIOUS else group.fridge_days_usual
        if best is None or days < best.fridge_days:
            because = storage.because or component.name
            best = DishKeeping(days, True, because, group)
    return None if best is None else replace(best, freezes=freezes, keeps_dry=keeps_dry)


@dataclass(frozen=True, slots=True)
class Stay:
    """A box between cooking and eating. `place` is fridge, freezer, cupboard, or past when it would be too old."""

    key: str
    place: str
    cooked_on: date
    eaten_on: date
    keeping: DishKeeping

    @property
    def days(self) -> int:
        """Days from the session to the meal."""
        return (self.eaten_on - self.cooked_on).days

    @property
    def thaw_on(self) -> date | None:
        """The evening it is taken out of the freezer, never before it was cooked; None when it is not frozen."""
        return max(self.eaten_on - THAWS_FROM, self.cooked_on) if self.place == FREEZER else None

    def is_in_fridge(self, evening: date) -> bool:
        """Whether it lies in the fridge on the evening of a day, thawing counted."""
        if self.place == CUPBOARD or not self.cooked_on <= evening < self.eaten_on:
            return False
        return self.thaw_on is None or evening >= self.thaw_on

    def is_in_freezer(self, evening: date) -> bool:
        """Whether it lies in the freezer on the evening of a day."""
        return self.thaw_on is not None and self.cooked_on <= evening < self.thaw_on


def stay_of(key: str, keeping: DishKeeping, cooked_on: date, eaten_on: date, *, is_frozen: bool = False) -> Stay:
    """Where a box waits: the freezer when it was planned so or would be too old in the fridge, and freezes."""
    too_old = (eaten_on - cooked_on).days > keeping.fridge_days
    if keeping.freezes and (too_old or (is_frozen and not keeping.keeps_dry)):
        place = FREEZER
    else:
        place = PAST if too_old else CUPBOARD if keeping.keeps_dry else FRIDGE
    return Stay(key, place, cooked_on, eaten_on, keeping)


DAYS_A_MONTH = 30


def keeps_until(group: KeepGroup, since: date, fridge_days: int, *, is_frozen: bool) -> date:
    """The last day by guidance for what was cooked or opened on `since`: its days, or its months when it is frozen.

    A printed use-by date and the local food authority overrule it.
    """
    if is_frozen and group.freezer_months:
        return since + timedelta(days=DAYS_A_MONTH * group.freezer_months)
    return since + timedelta(days=fridge_days)


@dataclass(frozen=True, slots=True)
class Load:
    """How many boxes lie in fridge and freezer on the evening of a day."""

    day: date
    fridge: int
    freezer: int


def loads(stays: Iterable[Stay], days: Sequence[date]) -> tuple[Load, ...]:
    """The evenings of some days."""
    kept = tuple(stays)
    return tuple(
        Load(day, sum(s.is_in_fridge(day) for s in kept), sum(s.is_in_freezer(day) for s in kept)) for day in days
    )


def thawing(stays: Iterable[Stay]) -> dict[date, tuple[Stay, ...]]:
    """What to take out of the freezer on which evening, by day."""
    found: dict[date, tuple[Stay, ...]] = {}
    for stay in sorted(stays, key=lambda s: (s.eaten_on, s.key)):
        if stay.thaw_on is not None:
            found[stay.thaw_on] = (*found.get(stay.thaw_on, ()), stay)
    return dict(sorted(found.items()))
