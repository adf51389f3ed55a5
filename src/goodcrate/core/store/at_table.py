"""What an eater's day comes to at the table: what was eaten, what is still to come, and what was eaten besides.

A meal's figures are those of the box it eats: its own, or the one it was swapped for. Eaten in part, a box counts by
the share of its grams, and its rest is no meal any more.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import Saying
from goodcrate.core.store.box import EATEN, GIVEN_AWAY, GONE, PART_EATEN, SWAPPED, THROWN_AWAY, Box, standing

TO_COME, LEFT = "to_come", "left"
PART = PART_EATEN
FATES = (TO_COME, EATEN, PART, LEFT, GIVEN_AWAY, THROWN_AWAY)
"""What became of a meal: nothing yet, eaten, in part, or not (its box stays in the house, or went another way)."""
FATE_WORDS: Mapping[str, str] = {
    EATEN: Saying("eaten"),
    PART: Saying("eaten in part"),
    LEFT: Saying("left for another day"),
    GIVEN_AWAY: Saying("given away"),
    THROWN_AWAY: Saying("thrown away"),
}


@dataclass(frozen=True, slots=True)
class Plate:
    """A meal with the box it eats now (None: its box was left for another day), what was eaten at it, and what is still
    to come. `moved_from` is the meal whose box it was, when it is another one's; `said_by` the event that made it so,
    which an undoing takes back."""

    meal_key: str
    fate: str
    box: Box | None = None
    eaten: Tally = field(default_factory=Tally)
    ahead: Tally = field(default_factory=Tally)
    moved_from: str = ""
    said_by: str = ""

    @property
    def is_open(self) -> bool:
        """Whether it is still to be eaten."""
        return self.fate == TO_COME


def eaten_by(box: Box) -> dict[str, float]:
    """What was eaten of a box by the meal at which it was eaten, in g. Who said no meal ate for the one it is for."""
    eaten: dict[str, float] = {}
    for event in standing(box.log):
        meal = event.meal_key or box.for_meal or ""
        if event.kind == PART_EATEN:
            eaten[meal] = eaten.get(meal, 0.0) + (event.grams or 0.0)
        elif event.kind == EATEN:
            eaten[meal] = eaten.get(meal, 0.0) + box.packed_g - sum(eaten.values())
    return eaten


def plates_of(boxes: Iterable[Box], tallies: Mapping[str, Tally], meal_keys: Sequence[str]) -> dict[str, Plate]:
    """The plates of some meals by their keys. `boxes` are the meals' own and every one that was swapped to one of them;
    `tallies` say by box what was packed into it. Of several boxes that are for a meal the one that was swapped to it
    last is on its plate."""
    known = list(boxes)
    on_plate: dict[str, Box] = {}
    for box in sorted(known, key=lambda b: (b.for_meal != b.meal_key, _moved_at(b))):
        if box.for_meal is not None:
            on_plate[box.for_meal] = box
    eaten: dict[str, list[Tally]] = {}
    for box in known:
        for meal, grams in eaten_by(box).items():
            eaten.setdefault(meal, []).append(tallies[box.key].scaled(grams / box.packed_g if box.packed_g else 0.0))
    eaten_by_event = _eaten_events(known)
    left_by = {str(b.meal_key): _last(b, SWAPPED) for b in known if b.meal_key and b.for_meal != b.meal_key}
    plates = {}
    for key in meal_keys:
        plate = _plate(key, on_plate.get(key), Tally.sum(eaten.get(key, ())), tallies)
        if plate.fate != TO_COME or plate.moved_from:
            plate = replace(plate, said_by=_said_by(plate, eaten_by_event) or left_by.get(key, ""))
        plates[key] = plate
    return plates


def with_weighed(plate: Plate, planned: Tally, weighed: Tally, whole_g: float) -> Plate:
    """A plate on which something was weighed otherwise than planned: its share goes with what was eaten of the box, of
    which there were `whole_g`."""
    if plate.is_open:
        share = 1.0 if plate.ahead.grams > 0 else 0.0
        ahead = Tally.sum((plate.ahead, weighed.scaled(share))).without(planned.scaled(share))
        return replace(plate, ahead=ahead)
    share = min(1.0, plate.eaten.grams / whole_g) if whole_g > 0 else 0.0
    eaten = Tally.sum((plate.eaten, weighed.scaled(share))).without(planned.scaled(share))
    return replace(plate, eaten=eaten)


def _last(box: Box, *kinds: str) -> str:
    events = [e for e in standing(box.log) if e.kind in kinds]
    return events[-1].key if events else ""


def _eaten_events(boxes: Iterable[Box]) -> dict[str, str]:
    """By meal the event that last said something was eaten at it, of the first box that was."""
    found: dict[str, str] = {}
    for box in boxes:
        own = {e.meal_key or box.for_meal or "": e.key for e in standing(box.log) if e.kind in (EATEN, PART_EATEN)}
        for meal, key in own.items():
            found.setdefault(meal, key)
    return found


def _said_by(plate: Plate, eaten_by_event: Mapping[str, str]) -> str:
    if plate.eaten.grams > 0 or plate.fate in (EATEN, PART):
        return eaten_by_event.get(plate.meal_key, "")
    if plate.box is not None and plate.box.state in GONE:
        return _last(plate.box, *GONE)
    return "" if plate.box is None else _last(plate.box, SWAPPED)


def _plate(key: str, box: Box | None, eaten: Tally, tallies: Mapping[str, Tally]) -> Plate:
    if box is None:
        return Plate(key, PART if eaten.grams > 0 else LEFT, None, eaten)
    moved_from = "" if box.meal_key in (key, None) else str(box.meal_key)
    fate = TO_COME
    if eaten.grams > 0:
        fate = EATEN if box.state == EATEN else PART
    elif box.state in GONE:
        fate = box.state if box.state in FATES else LEFT
    ahead = tallies[box.key].scaled(box.grams / box.packed_g) if fate == TO_COME and box.packed_g > 0 else Tally()
    return Plate(key, fate, box, eaten, ahead, moved_from)


def _moved_at(box: Box) -> float:
    return max((e.at.timestamp() for e in standing(box.log) if e.kind == SWAPPED), default=0.0)


@dataclass(frozen=True, slots=True)
class OffPlan:
    """Something eaten that no box held: as it was typed, on a day, with its nutrients and their doubt."""

    key: str
    day: date
    said: str
    tally: Tally


@dataclass(frozen=True, slots=True)
class DayAtTable:
    """An eater's day: what of its meals was eaten and is to come, what was eaten besides, and the usual extras."""

    day: date
    plates: tuple[Plate, ...]
    off_plan: tuple[OffPlan, ...] = ()
    extras: Tally = field(default_factory=Tally)

    @property
    def eaten(self) -> Tally:
        """What was eaten so far, the day's usual extras with it."""
        return Tally.sum([self.extras, *(p.eaten for p in self.plates), *(o.tally for o in self.off_plan)])

    @property
    def ahead(self) -> Tally:
        """What is still to be eaten."""
        return Tally.sum([p.ahead for p in self.plates])

    @property
    def whole(self) -> Tally:
        """What the day comes to when all that is to come is eaten."""
        return Tally.sum([self.eaten, self.ahead])
