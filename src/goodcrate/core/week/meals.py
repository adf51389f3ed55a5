"""What is placed in a week: meals, by eater, slot and day."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID


@dataclass(frozen=True, slots=True)
class Meal:
    """A recipe in one slot of one eater on one day.

    `servings_before` is what a fit moved it from, until that is kept. `cooked_in` is the session a plan chose; without
    it, or once it is gone, the latest that is over by then is. A pinned one stays when the week is planned anew.
    `from_job` is the plan it was taken from. `from_box` names the box in the house it eats: no session cooks it.
    """

    id: UUID
    eater_id: UUID
    slot_id: UUID
    recipe_id: UUID
    day: date
    servings: float
    servings_before: float | None = None
    cooked_in: UUID | None = None
    is_frozen: bool = False
    is_pinned: bool = False
    from_job: UUID | None = None
    from_box: UUID | None = None
    version: int = 1


@dataclass(frozen=True, slots=True)
class Week:
    """1 to 14 dated days that are planned together. `recipe_versions` are those its recipes were placed with. A closed
    one is history: it is judged by what was kept with it."""

    id: UUID
    first_day: date
    days: int
    recipe_versions: Mapping[str, int]
    closed_at: datetime | None = None

    @property
    def is_closed(self) -> bool:
        """Whether it is history."""
        return self.closed_at is not None
