"""Vessels of a kitchen against a batch: what does not fit is split, what is too little is said."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import ceil

from goodcrate.core.ground.amounts import shown
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.recipe import Component, Recipe, serving_of

KINDS: Mapping[str, str] = {
    "pot": "pot",
    "pan": "frying pan",
    "tray": "oven tray",
    "bowl": "bowl",
    "blender": "blender",
    "box": "box to store in",
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
            raise InvalidInput("kind", f"“{self.kind}” is no kind of vessel.", f"One of {', '.join(KINDS)}.")
        if not 50 <= self.volume_ml <= 60_000:
            raise InvalidInput("volume_ml", f"{self.volume_ml:g} ml is not possible.", "From 50 ml to 60 l.")
        if not 0 <= self.minimum_ml < self.volume_ml:
            raise InvalidInput("minimum_ml", f"{self.minimum_ml:g} ml is not possible.", "Less than it holds.")
        if not 1 <= self.count <= 20:
            raise InvalidInput("count", f"{self.count} of them is not possible.", "From 1 to 20.")
        if not 1 <= self.compartments <= MOST_COMPARTMENTS:
            raise InvalidInput(
                "compartments", f"{self.compartments} compartments are not possible.", f"From 1 to {MOST_COMPARTMENTS}."
            )
        if self.stands is not None and not self.stands <= STANDS.keys():
            raise InvalidInput("stands", "We do not know what it stands.", f"Of {', '.join(STANDS)}.")

    @property
    def usable_ml(self) -> float:
        """What one of them holds in use."""
        return self.volume_ml * FILL_SHARE[self.kind]


@dataclass(frozen=True, slots=True)
class Filling:
    """A batch in its vessel. `loads` are the millilitres of each filling; one when it fits."""

    vessel: Vessel
    volume_ml: float
    loads_ml: tuple[float, ...]
    is_too_little: bool
    least_ml: float
    sentence: str

    @property
    def fits(self) -> bool:
        """Whether it goes in at once and is enough for the vessel."""
        return len(self.loads_ml) == 1 and not self.is_too_little


def volume_ml(component: Component, cooked_g: float) -> float:
    """How much room a batch takes, in ml: the larger of its raw and its cooked volume.

    A food without a density is taken at `ASSUMED_G_PER_ML`.
    """
    raw_g = sum(line.weighed_in_g for line in component.lines)
    raw_ml = sum(line.weighed_in_g / (line.food.density_g_per_ml or ASSUMED_G_PER_ML) for line in component.lines)
    per_ml = raw_g / raw_ml if raw_ml > 0 else ASSUMED_G_PER_ML
    return max(raw_ml, cooked_g / max(per_ml, ASSUMED_G_PER_ML))


def litres(ml: float) -> str:
    """Millilitres as a cook says them."""
    return f"{shown(ml / 1000, 1)} l" if ml >= 1000 else f"{shown(round(ml, -1))} ml"


def filling(component: Component, cooked_g: float, vessels: Iterable[Vessel]) -> Filling | None:
    """How a batch goes into the household's largest vessel of the component's kind; None when it names or has none.

    A batch that does not fit is split evenly over vessels of that size, at once when there are enough, else in turns.
    """
    mine = sorted((v for v in vessels if v.kind == component.vessel), key=lambda v: v.volume_ml, reverse=True)
    if not component.vessel or not mine or cooked_g <= 0:
        return None
    # The smallest that holds it in one filling, else the largest.
    needed = volume_ml(component, cooked_g)
    vessel = next((v for v in reversed(mine) if v.usable_ml >= needed), mine[0])
    least = max(vessel.minimum_ml, component.minimum_ml or 0.0)
    loads = max(1, ceil(needed / vessel.usable_ml - 1e-9))
    sentence = _words(vessel, needed, loads, least)
    return Filling(vessel, needed, (needed / loads,) * loads, needed < least, least, sentence)


def _words(vessel: Vessel, needed: float, loads: int, least: float) -> str:
    kind = KINDS[vessel.kind]
    if needed < least:
        return (
            f"{vessel.name} needs {litres(least)} to work, this is {litres(needed)}: make {litres(least)} and plan the "
            f"{litres(least - needed)} left over."
        )
    if loads == 1:
        return f"About {litres(needed)}, goes into {vessel.name} ({litres(vessel.volume_ml)})."
    each = litres(needed / loads)
    if loads <= vessel.count:
        return f"Splits over {loads} {kind}s of {litres(vessel.volume_ml)}, {each} in each."
    return (
        f"Your largest {kind} takes {litres(vessel.usable_ml)} in use, this is {litres(needed)}: {loads} fillings of "
        f"{each}."
    )


def largest_factor(component: Component, cooked_g: float, vessels: Sequence[Vessel]) -> float | None:
    """By how much a batch can grow and still go into the largest vessel of its kind at once; None without one."""
    mine = [v for v in vessels if v.kind == component.vessel]
    needed = volume_ml(component, cooked_g)
    if not mine or needed <= 0:
        return None
    return max(v.usable_ml for v in mine) / needed


def most_at_once_g(recipe: Recipe, vessels: Sequence[Vessel]) -> float | None:
    """The most of a dish one session can cook at once, in g of it in the boxes: its tightest component decides.

    A component goes into all vessels of its kind that are as large as the largest. What is blended or stirred is done
    in turns in a minute, and limits nothing. None when no vessel is known.
    """
    serving, most = serving_of(recipe), None
    for part in serving.parts:
        mine = [v for v in vessels if v.kind == part.component.vessel and v.kind in ON_HEAT]
        if not mine or part.grams <= 0 or part.expected.grams <= 0:
            continue
        largest = max(v.usable_ml for v in mine)
        room_ml = sum(v.usable_ml * v.count for v in mine if v.usable_ml >= largest - 1e-9)
        ml_per_g = volume_ml(part.component, part.expected.grams) / part.expected.grams
        holds_g = room_ml / ml_per_g * serving.tally.grams / part.grams
        most = holds_g if most is None else min(most, holds_g)
    return most


def meal_boxes(vessels: Iterable[Vessel]) -> int:
    """How many boxes there are for meals; pots for dressings are not counted."""
    return sum(v.count for v in vessels if v.kind == BOX and v.volume_ml >= MEAL_BOX_ML)


def largest_portion_g(vessels: Sequence[Vessel]) -> float | None:
    """The largest portion that goes into one of the household's boxes, in g of cooked food at `ASSUMED_G_PER_ML`; None
    when it named no boxes."""
    boxes = [v.usable_ml for v in vessels if v.kind == BOX]
    return max(boxes) * ASSUMED_G_PER_ML if boxes else None
