"""The boat's people and the week they placed, as data."""

from datetime import time
from typing import NamedTuple

HOUSEHOLD = "The Lockside boat"
SIGN_IN_NAME, SIGN_IN_PASSWORD = "lockside", "barley-and-beetroot"
"""Shown at start, for the demo only: anybody who can open the demo may sign in."""


class DemoDayType(NamedTuple):
    """A kind of day with its target."""

    name: str
    energy_kcal: float
    protein_floor_g: float
    weekdays: tuple[int, ...]


class DemoSlot(NamedTuple):
    """A slot of the eating day."""

    name: str
    at: time
    cold: bool = False
    travels: bool = False


class DemoEater(NamedTuple):
    """One of the two people on the boat."""

    key: str
    name: str
    about: str
    allergens: tuple[str, ...]
    no_pork: bool
    dislikes: str
    day_types: tuple[DemoDayType, ...]
    slots: tuple[DemoSlot, ...]
    blocks: tuple[float, float] | None = None


EATERS = (
    DemoEater(
        "maren",
        "Maren Tidewell",
        "rowing coach, outdoors, days; counts exact grams",
        (),
        False,
        "olives",
        day_types=(DemoDayType("training", 2450, 150, (0, 1, 3, 4)), DemoDayType("rest", 2150, 150, (2, 5, 6))),
        slots=(
            DemoSlot("breakfast", time(6, 45)),
            DemoSlot("lunch", time(12, 30), cold=True, travels=True),
            DemoSlot("snack", time(16, 0)),
            DemoSlot("dinner", time(19, 30)),
        ),
    ),
    DemoEater(
        "oskar",
        "Oskar Quill",
        "railway signaller, rotating nights; 520 kcal meals, 200 kcal snacks",
        ("celery",),
        True,
        "",
        day_types=(DemoDayType("work", 1950, 120, (0, 1, 2, 3, 4)), DemoDayType("rest", 1850, 120, (5, 6))),
        slots=(
            DemoSlot("main", time(17, 30)),
            DemoSlot("box one", time(22, 30), cold=True, travels=True),
            DemoSlot("box two", time(3, 30), cold=True, travels=True),
            DemoSlot("breakfast", time(8, 15)),
        ),
        blocks=(520, 200),
    ),
)


class DemoVessel(NamedTuple):
    """A vessel of the galley."""

    name: str
    kind: str
    volume_ml: float
    minimum_ml: float = 0.0
    pieces: int = 1
    compartments: int = 1
    stands: tuple[str, ...] = ()
    tare_g: float | None = None


VESSELS = (
    DemoVessel("large pot", "pot", 4500, tare_g=1012),
    DemoVessel("small pot", "pot", 2800, tare_g=786),
    DemoVessel("28 cm pan", "pan", 2500),
    DemoVessel("half tray", "tray", 2400, pieces=2),
    DemoVessel("3 l bowl", "bowl", 3000, tare_g=412),
    DemoVessel("stick blender beaker", "blender", 900, 150),
    DemoVessel(
        "750 ml box, two compartments", "box", 750, pieces=10, compartments=2, stands=("freezer", "oven"), tare_g=94
    ),
    DemoVessel("500 ml box", "box", 500, pieces=8, stands=("freezer", "oven"), tare_g=71),
    DemoVessel("250 ml jar", "box", 250, pieces=6, tare_g=188),
    DemoVessel("60 ml pot", "box", 60, pieces=8, tare_g=17),
)


HANDS_AND_HEAT = {
    "cooks": 2,
    "burners": 3,
    "ovens": 1,
    "oven_shelves": 2,
    "oven_preheat_min": 12,
    "microwaves": 0,
    "air_fryers": 0,
    "rice_cookers": 0,
    "blenders": 1,
}
BOXES_IT_HOLDS = (14, 6)
"""The fridge drawer and the ice box."""


class DemoPlacing(NamedTuple):
    """A recipe in a slot on some weekdays (Monday is 0), in so many servings."""

    eater: str
    slot: str
    recipe: str
    servings: float
    weekdays: tuple[int, ...]


PLACINGS = (
    DemoPlacing("maren", "breakfast", "rye", 1.25, (0, 1, 3, 4)),
    DemoPlacing("maren", "breakfast", "rye", 1.05, (2, 5, 6)),
    DemoPlacing("maren", "lunch", "mackerel", 1.3, (0, 1)),
    DemoPlacing("maren", "lunch", "mackerel", 1.1, (2,)),
    DemoPlacing("maren", "lunch", "cottage", 1.2, (3, 4)),
    DemoPlacing("maren", "lunch", "cottage", 1.1, (5, 6)),
    DemoPlacing("maren", "snack", "rhubarb", 1.1, (0, 1, 2)),
    DemoPlacing("maren", "snack", "date", 1.2, (3, 4)),
    DemoPlacing("maren", "snack", "date", 1.0, (6,)),
    DemoPlacing("maren", "dinner", "turkey", 1.4, (0, 1)),
    DemoPlacing("maren", "dinner", "turkey", 1.25, (2,)),
    DemoPlacing("maren", "dinner", "chicken", 1.4, (3, 4)),
    DemoPlacing("maren", "dinner", "chicken", 1.2, (5,)),
    DemoPlacing("oskar", "main", "leek", 1.15, (0, 1, 2)),
    DemoPlacing("oskar", "main", "venison", 1.22, (3, 4, 5, 6)),
    DemoPlacing("oskar", "box one", "trout", 0.98, (0, 1, 2)),
    DemoPlacing("oskar", "box one", "butterbean", 1.0, (3, 4, 5, 6)),
    DemoPlacing("oskar", "box two", "tempeh", 0.84, (0, 1, 2, 3, 4, 5, 6)),
    DemoPlacing("oskar", "breakfast", "buckwheat", 0.76, (0, 1, 2, 3, 4)),
    DemoPlacing("oskar", "breakfast", "buckwheat", 0.57, (5, 6)),
)


class DemoThing(NamedTuple):
    """Something in the house: boxes of a recipe (key, how many, g in each), or a typed food; since so many days."""

    place: str
    days_ago: int
    recipe: str = ""
    boxes: int = 1
    grams: float | None = None
    typed: str = ""


IN_THE_HOUSE = (
    DemoThing("freezer", 15, "peasoup", 2, 640),
    DemoThing("fridge", 1, typed="220 g quark"),
    DemoThing("fridge", 2, typed="150 g horseradish cream"),
)

SECOND_SESSION_WEEKDAY, SECOND_SESSION_AT = 2, time(18, 30)

WEIGHED_BATCH = "turkey and cabbage"
WEIGHED_RATIOS = (1.012, 0.994, 1.0, 1.0, 1.075, 1.0)
"""What was weighed against the plan, line by line; the oil ran."""
POT_TARE_G, POT_YIELD_RATIO = 1012.0, 0.965
POURED_TOO_MUCH_G = 9.0
"""The second box took this much more than divided for it; the rest was divided again."""
WEIGHED_POT_ONLY = "swede mash"

SHELVES = (("ice box", "freezer", 6), ("shelf", "fridge", None), ("drawer", "fridge", 14))
"""The boat's fridge: name, place, and how many boxes each takes."""
