"""Vessels of a kitchen against a batch: what does not fit is split, what is too little is said."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short
from goodcrate.core.recipes.component import Component

KINDS: Mapping[str, str] = {
    "pot": Saying("pot"),
    "pan": Saying("frying pan"),
    "tray": Saying("oven tray"),
    "bowl": Saying("bowl"),
    "blender": Saying("blender"),
    "box": Saying("box to store in"),
}
BOX = "box"
STANDS_FREEZER, STANDS_OVEN, STANDS_MICROWAVE = "freezer", "oven", "microwave"
STANDS: Mapping[str, str] = {STANDS_FREEZER: "freezer", STANDS_OVEN: "oven", STANDS_MICROWAVE: "microwave"}
"""What a container to store in can stand, and the word for it."""
MOST_COMPARTMENTS = 6
COOKS_IN: Mapping[str, str] = {kind: words for kind, words in KINDS.items() if kind != BOX}
"""The kinds something is cooked or stirred in."""
ON_HEAT = frozenset({"pot", "pan", "tray"})
"""The kinds that are filled once a session, since each filling takes as long as the first."""
FILL_SHARE: Mapping[str, float] = {"pot": 0.85, "pan": 0.8, "tray": 0.95, "bowl": 0.85, "blender": 0.7, "box": 0.9}
"""How full a vessel is filled at most, so that it can be stirred and does not boil over, and a box has room to freeze:
our own shares."""
MEAL_BOX_ML = 150
"""A box smaller than this holds dressing or seeds and no meal: our own line."""
ASSUMED_G_PER_ML = 0.9
"""Cooked food without a known density: between stews (about 1) and loose grain (about 0.8); our own assumption."""


@dataclass(frozen=True, slots=True)
class Vessel:
    """A real vessel: `volume_ml` brimful, `minimum_ml` the least it works with (a blender), how many there are.

    A box to store in has compartments, and stands freezer, oven or microwave; `stands` is None when nobody said.

    Raises:
        InvalidInput: for a kind we do not know or sizes that cannot be.
    """

    key: str
    name: str
    kind: str
    volume_ml: float
    minimum_ml: float = 0.0
    count: int = 1
    tare_g: float | None = None
    compartments: int = 1
    stands: frozenset[str] | None = None

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise InvalidInput(
                "kind",
                say("“{kind}” is no kind of vessel.", kind=self.kind),
                say("One of {KINDS}.", KINDS=", ".join(KINDS)),
            )
        if not 50 <= self.volume_ml <= 60_000:
            raise InvalidInput(
                "volume_ml",
                say("{volume_ml} ml is not possible.", volume_ml=short(self.volume_ml)),
                say("From 50 ml to 60 l."),
            )
        if not 0 <= self.minimum_ml < self.volume_ml:
            raise InvalidInput(
                "minimum_ml",
                say("{minimum_ml} ml is not possible.", minimum_ml=short(self.minimum_ml)),
                say("Less than it holds."),
            )
        if not 1 <= self.count <= 20:
            raise InvalidInput("count", say("{count} of them is not possible.", count=self.count), say("From 1 to 20."))
        if not 1 <= self.compartments <= MOST_COMPARTMENTS:
            raise InvalidInput(
                "compartments",
                say("{compartments} compartments are not possible.", compartments=self.compartments),
                say("From 1 to {MOST_COMPARTMENTS}.", MOST_COMPARTMENTS=MOST_COMPARTMENTS),
            )
        if self.stands is not None and not self.stands <= STANDS.keys():
            raise InvalidInput(
                "stands", say("We do not know what it stands."), say("Of {STANDS}.", STANDS=", ".join(STANDS))
            )

    @property
    def usable_ml(self) -> float:
        """What one of them holds in use."""
        return self.volume_ml * FILL_SHARE[self.kind]


def volume_ml(component: Component, cooked_g: float) -> float:
    """How much room a batch takes, in ml: the larger of its raw and its cooked volume.

    A food without a density is taken at `ASSUMED_G_PER_ML`.
    """
    raw_g = sum(line.weighed_in_g for line in component.lines)
    raw_ml = sum(line.weighed_in_g / (line.food.density_g_per_ml or ASSUMED_G_PER_ML) for line in component.lines)
    per_ml = raw_g / raw_ml if raw_ml > 0 else ASSUMED_G_PER_ML
    return max(raw_ml, cooked_g / max(per_ml, ASSUMED_G_PER_ML))


def holds_g(container: Vessel) -> float:
    """What a container takes in g of cooked food: with room to freeze, at `ASSUMED_G_PER_ML`."""
    return container.usable_ml * ASSUMED_G_PER_ML


def container_steps(vessels: Iterable[Vessel]) -> tuple[tuple[float, int], ...]:
    """For each size of meal box but the largest: what it holds in g, and how many boxes hold more. So many portions
    larger than that can be in the house at a time, each in one box."""
    boxes = [v for v in vessels if v.kind == BOX and v.volume_ml >= MEAL_BOX_ML]
    sizes = sorted({holds_g(v) for v in boxes})
    return tuple((size, sum(v.count for v in boxes if holds_g(v) > size)) for size in sizes[:-1])


def meal_boxes(vessels: Iterable[Vessel]) -> int:
    """How many boxes there are for meals; pots for dressings are not counted."""
    return sum(v.count for v in vessels if v.kind == BOX and v.volume_ml >= MEAL_BOX_ML)


def largest_portion_g(vessels: Sequence[Vessel]) -> float | None:
    """The largest portion that goes into one of the household's boxes, in g of cooked food at `ASSUMED_G_PER_ML`; None
    when it named no boxes."""
    boxes = [v.usable_ml for v in vessels if v.kind == BOX]
    return max(boxes) * ASSUMED_G_PER_ML if boxes else None
