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
        return self.lacks(tags) == frozenset()

    def lacks(self, tags: frozenset[str]) -> frozenset[str] | None:
        """The tags that a recipe would need besides to stand here; None where none would do: it is a sauce, or of
        another kind of meal."""
        named = next((k for k in KINDS_OF_SLOT if k in self.name.lower()), "")
        if NO_MEAL in tags or (not named and tags & set(KINDS_OF_SLOT)):
            return None
        needs = {tag for tag, is_asked in (("cold", self.must_be_cold), ("travels", self.travels)) if is_asked}
        return frozenset(needs | ({named} if named else set())) - tags
