"""What a kitchen scale says, and when that is good enough for a box.

A scale is believed only as far as a kitchen goes: what is no number, or heavier than any home pot, is no reading. A
reading below nothing is one (something was lifted off a tared scale), yet nothing weighs that.
"""

from dataclasses import dataclass
from math import floor, isfinite

from goodcrate.core.ground.amounts import LARGEST_POT_G
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say

LIVE, OVERLOADED, SWITCHED_OFF, LOST, GARBLED = "live", "over", "off", "lost", "garbled"
"""How a scale is: it weighs, too much lies on it, it is off, it cannot be reached, or what it sends makes no sense."""

GRAMS_IN = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237}
"""Units a scale may show, in g: the avoirdupois ounce and pound are exact by definition (international yard and pound,
1959)."""

TOLERANCE_SHARE, LEAST_TOLERANCE_G = 0.03, 1.0
"""A box is right within 3 % of its grams, the usual band of a day's energy, and within a gram of a small one."""

NOTHING_ON_G = 5.0
"""So little on a tared scale is an empty box beside its like: our own line. Less would ask for a tare each time."""


@dataclass(frozen=True, slots=True)
class ScaleReading:
    """One thing a scale said: net grams and the tare it took off, whether it stands still, and how the scale is.

    `grams` is None unless the scale is live. `at_ms` is when the scale said it (ms since 1970), None where it does not.

    Raises:
        InvalidInput: for a weight that no kitchen scale shows.
    """

    grams: float | None
    is_stable: bool = False
    tare_g: float = 0.0
    state: str = LIVE
    at_ms: int | None = None

    def __post_init__(self) -> None:
        for figure in (self.grams, self.tare_g):
            if figure is not None and not (isfinite(figure) and abs(figure) <= LARGEST_POT_G):
                raise InvalidInput("grams", say("No kitchen scale shows that."), say("Look at the scale."))


def tolerance_g(target_g: float) -> float:
    """How far from its target a box may be and is still right, in whole g either way."""
    return max(LEAST_TOLERANCE_G, float(floor(target_g * TOLERANCE_SHARE)))
