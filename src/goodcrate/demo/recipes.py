"""The boat's recipes: seventeen of the starter shelf, with the cooked weights its cooks typed and their own words."""

from collections.abc import Mapping
from typing import NamedTuple


class BoatVariant(NamedTuple):
    """The recipe for one eater: a line (component place, line place) left out or swapped for grams of a food."""

    name: str
    eater: str
    line: tuple[int, int]
    food: str = ""
    grams: float = 0.0


class BoatWay(NamedTuple):
    """What the boat keeps of a shelf recipe besides the recipe: cooked weights in g by the component's place.

    `serves` is another recipe's component: its key, the component's place, grams in a serving.
    """

    cooked_g: Mapping[int, float] = {}
    name: str = ""
    note: str = ""
    variants: tuple[BoatVariant, ...] = ()
    serves: tuple[str, int, float] | None = None


_NO_CELERY = BoatVariant("without celery", "oskar", (0, 3), "fennel_raw", 120.0)
RECIPES: Mapping[str, BoatWay] = {
    "mackerel": BoatWay({1: 1240}),
    "turkey": BoatWay({0: 1930, 1: 1100}),
    "beans": BoatWay({0: 2050, 1: 930}),
    "chicken": BoatWay({0: 1010, 1: 800}),
    "venison": BoatWay({0: 2300}, note="No stock cube: Oskar must not get celery."),
    "leek": BoatWay({0: 1520}),
    "buckwheat": BoatWay({0: 1150}),
    "rye": BoatWay(),
    "butterbean": BoatWay(),
    "peasoup": BoatWay(
        {0: 2700}, note="Oskar must not get celery: his pot has fennel instead.", variants=(_NO_CELERY,)
    ),
    "rhubarb": BoatWay({0: 940, 1: 84}),
    "date": BoatWay({0: 790}),
    "trout": BoatWay({0: 470, 1: 1060}),
    "tempeh": BoatWay({0: 430, 1: 1050}),
    "lamb": BoatWay({0: 2250}),
    "cottage": BoatWay(),
    "lentils": BoatWay(
        {0: 1150},
        name="Lentil and mustard pot with swede mash",
        note="The mash is the turkey pot’s: cooked once, served twice.",
        serves=("turkey", 1, 180.0),
    ),
}
"""Sixteen of the scenario, and one that serves another's component."""
