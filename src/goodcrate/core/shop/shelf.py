"""What happens at the shelf: a food of the list was bought, was not there, or stands open again."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from goodcrate.core.foods.food import FOOD_FACTS
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown

BOUGHT, NOT_THERE, OPEN, INSTEAD = "bought", "not_there", "open", "instead"
KINDS = frozenset({BOUGHT, NOT_THERE, OPEN, INSTEAD})
MOST_BOUGHT_G = 100_000.0


@dataclass(frozen=True, slots=True)
class ShelfEvent:
    """What became of a food of a week's list.

    Bought: `grams` as bought are all that is carried home of it, and `price` is what all of it cost, None when nobody
    said; without grams it is something nobody weighs. Not there: it stays on the list, marked. Open: as if nothing had
    been said. Instead: another food took its place.
    """

    food_key: str
    kind: str
    grams: float | None = None
    price: float | None = None
    shop: str = ""

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise InvalidInput("kind", say("“{kind}” is nothing that happens at a shelf.", kind=self.kind))
        if self.grams is not None and not 0 < self.grams <= MOST_BOUGHT_G:
            raise InvalidInput(
                "grams",
                say("{grams} g cannot be bought.", grams=shown(self.grams, 1)),
                say("More than 0, up to {most} g.", most=shown(MOST_BOUGHT_G)),
            )
        bounds = FOOD_FACTS["price"]
        if self.price is not None and not bounds.low <= self.price <= bounds.high:
            raise InvalidInput(
                "price",
                say("A price of {price} cannot be.", price=shown(self.price, 2)),
                say("Give {low} to {high}.", low=shown(bounds.low), high=shown(bounds.high)),
            )


def shelf_of(events: Iterable[ShelfEvent]) -> Mapping[str, ShelfEvent]:
    """What counts of each food: its last event, unless that opened it again."""
    last = {event.food_key: event for event in events}
    return {key: event for key, event in last.items() if event.kind != OPEN}
