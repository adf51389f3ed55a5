"""How much water steams off: typical rates by method and lid, each with its reasoning.

The rates are our own estimates from everyday kitchen experience, as a share of what is in the heat per hour. A share,
not grams, because a bigger batch gets a wider pot; the errors are one standard deviation and wide on purpose. A pot
that was weighed overrules them.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying


@dataclass(frozen=True, slots=True)
class SteamRate:
    """One way of heating: share of the weight that steams off in an hour, its relative error, and why we think so."""

    words: str
    share_per_hour: float
    relative_error: float
    reasoning: str


STEAM_RATES: Mapping[str, SteamRate] = {
    "lid": SteamRate(
        Saying("under a lid"), 0.04, 0.5,
        Saying("What condenses on the lid drips back; some escapes at its edge and when somebody stirs."),
    ),
    "simmer": SteamRate(
        Saying("lid not said"), 0.10, 0.6,
        Saying("Between a lid and none, nearer to a lid left ajar."),
    ),
    "open": SteamRate(
        Saying("without a lid"), 0.20, 0.4,
        Saying("The gently moving surface of a 24 cm pot gives off some 400 to 500 g an hour, from 2 to 2.5 kg."),
    ),
    "reduce": SteamRate(
        Saying("boiled down"), 0.45, 0.4,
        Saying("A rolling boil takes about 1 kg an hour from the same pot."),
    ),
    "bake": SteamRate(
        Saying("in an open dish"), 0.14, 0.4,
        Saying("A bake of 2 kg loses 200 to 250 g in 45 to 50 minutes; a cake or oat tray about a tenth."),
    ),
    "roast": SteamRate(
        Saying("on a tray"), 0.45, 0.4,
        Saying("Cut vegetables with air all round lose about 30 % in 40 minutes."),
    ),
    "fry": SteamRate(
        Saying("in the pan"), 0.60, 0.5,
        Saying("Sliced vegetables and browned meat lose about a tenth in 10 minutes."),
    ),
}  # fmt: skip
LEAVES_FASTER = 3.0
"""Leaves are thin: on a tray or in a pan they lose three times as fast; kale loses about two fifths in 18 minutes."""
MOST_OF_THE_WATER = 0.7
"""However long the time, so much of the water in it steams off and no more; what is dried loses `DRIED_OFF`."""
DRIED_OFF, DRIED_ERROR = 0.85, 0.2
"""Share of its water that dried fruit, vegetables or meat lose until they keep."""
USUAL_MINUTES: Mapping[str, float] = {
    "lid": 30,
    "simmer": 30,
    "open": 30,
    "reduce": 20,
    "bake": 40,
    "roast": 35,
    "fry": 10,
}
"""Minutes taken for a step that gives none."""
ASH_SHARE = 0.01
_DRY_WATER, _MOIST_WATER = 0.1, 0.7


@once_for_same
def water_share(food: Food) -> float:
    """The share of a food that is water, by difference from its solids; a guess by its state when one is unknown."""
    solids = [food.composition.get(key) for key in ("protein_g", "fat_g", "carbohydrate_g", "alcohol_g")]
    if any(figure is None for figure in solids[:3]):
        return _DRY_WATER if food.state == "dry" else _MOIST_WATER
    return min(1.0, max(0.0, 1 - sum(figure or 0.0 for figure in solids) / 100 - ASH_SHARE))
