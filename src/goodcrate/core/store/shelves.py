"""Where boxes stand: shelves and drawers the household names, what they take, and where a packed box could go."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE

PLACES = (FREEZER, FRIDGE, CUPBOARD)
"""From top to bottom, as they are drawn."""
MOST_BOXES, MOST_LITRES, LONGEST_NAME = 200, 1000.0, 40


@dataclass(frozen=True, slots=True)
class Shelf:
    """A shelf or drawer of fridge, freezer or cupboard: how many boxes it takes, and litres; None where nobody said."""

    key: str
    name: str
    place: str
    boxes: int | None = None
    litres: float | None = None


def check_shelf(shelf: Shelf) -> None:
    """Refuse a shelf that cannot be.

    Raises:
        InvalidInputs: naming every field that cannot be used.
    """
    faults = []
    if not shelf.name.strip() or len(shelf.name) > LONGEST_NAME:
        faults.append(InvalidInput("shelf_name", say("A shelf needs a short name."), say("Such as “lower shelf”.")))
    if shelf.place not in PLACES:
        told = say("“{place}” is no place for food.", place=shelf.place)
        faults.append(InvalidInput("shelf_place", told, say("Fridge, freezer or cupboard.")))
    if shelf.boxes is not None and not 1 <= shelf.boxes <= MOST_BOXES:
        told = say("{count} boxes are not possible.", count=shelf.boxes)
        faults.append(InvalidInput("shelf_boxes", told, say("1 to {most}.", most=MOST_BOXES)))
    if shelf.litres is not None and not 0.1 <= shelf.litres <= MOST_LITRES:
        wanted = say("From 0.1 to {most} l.", most=shown(MOST_LITRES))
        faults.append(InvalidInput("shelf_litres", say("So many litres are not possible."), wanted))
    if faults:
        raise InvalidInputs(faults)


@dataclass(frozen=True, slots=True)
class Standing:
    """A box as a shelf sees it: where it is to be kept, its volume in litres (None: not known), and its shelf."""

    key: str
    place: str
    litres: float | None = None
    shelf: str = ""


def room_left(shelf: Shelf, there: Iterable[Standing]) -> tuple[int | None, float | None]:
    """How many more boxes and litres a shelf takes, below zero where it is too full; None where nobody said."""
    boxes = list(there)
    litres = sum(b.litres or 0.0 for b in boxes)
    return (
        None if shelf.boxes is None else shelf.boxes - len(boxes),
        None if shelf.litres is None else shelf.litres - litres,
    )


def where_to_put(new: Sequence[Standing], there: Sequence[Standing], shelves: Sequence[Shelf]) -> Mapping[str, str]:
    """By box, the shelf it could go to: one of its place with room, in the order given, those with the most room first.
    Without one that has room it is the one that is least too full; without a shelf of its place there is none."""
    on: dict[str, list[Standing]] = {shelf.key: [b for b in there if b.shelf == shelf.key] for shelf in shelves}
    found: dict[str, str] = {}
    for box in new:
        fitting = [shelf for shelf in shelves if shelf.place == box.place]
        if not fitting:
            continue
        best = max(fitting, key=lambda shelf: _room(shelf, [*on[shelf.key], box]))
        on[best.key].append(box)
        found[box.key] = best.key
    return found


def _room(shelf: Shelf, with_it: Sequence[Standing]) -> tuple[bool, float]:
    """Whether it still fits, and how much room is left then; one that nobody measured has room, and comes last."""
    boxes, litres = room_left(shelf, with_it)
    fits = (boxes is None or boxes >= 0) and (litres is None or litres >= 0)
    return fits, float(boxes if boxes is not None else litres if litres is not None else 0.0)
