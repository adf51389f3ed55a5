"""A slot: a named, timed place in an eater's day, and what suits it."""

from dataclasses import dataclass
from datetime import time
from uuid import UUID

REHEAT_MIN = 10
"""A slot with fewer minutes than this has no time to heat a box: our assumption."""


KINDS_OF_SLOT = ("breakfast", "snack")
"""Tags that keep a recipe to slots of that name; one without them stands in any other."""
NO_MEAL = "sauce"
"""The tag of recipes that are served from others and stand in no slot by themselves."""


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
        if NO_MEAL in tags:
            return False
        if (self.must_be_cold and "cold" not in tags) or (self.travels and "travels" not in tags):
            return False
        kinds = [k for k in KINDS_OF_SLOT if k in tags]
        named = next((k for k in KINDS_OF_SLOT if k in self.name.lower()), "")
        return (named in kinds) if named else not kinds
