"""The map of fridge, freezer and cupboard as the page draws it: shelves with boxes to scale, eaten first in front."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import day_month, many, shown, weekday
from goodcrate.core.portion.week_outcome import BoxPart
from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.store.box import standing
from goodcrate.core.store.box_code import box_code
from goodcrate.core.store.shelves import PLACES, Shelf, room_left
from goodcrate.services.at_table.box_page import box_card
from goodcrate.services.at_table.store_map import BoxOnMap, StoreMap
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.store.house import FoodInHouse
from goodcrate.web.drawing import BoxDrawing, draw_box

PLACE_WORDS = {"freezer": Saying("Freezer"), "fridge": Saying("Fridge"), "cupboard": Saying("Cupboard")}
USUAL_ML = 500.0
"""A box without a known container is drawn as a common one."""
SIZES = ((300.0, "small"), (600.0, "middling"), (float("inf"), "large"))
"""How wide a box is drawn, by what its container holds in ml."""
EAT_FIRST = 5


@dataclass(frozen=True)
class DrawnBox:
    """A box on the map: what stands on its front, and its size."""

    id: str
    code: str
    day: str
    whose: str
    dish: str
    until: str
    is_past: bool
    is_ghost: bool
    size: str
    drawing: BoxDrawing
    is_for_today: bool = False


@dataclass(frozen=True)
class DrawnShelf:
    """A shelf with what stands on it, and its room in words; without a key it is the place as a whole."""

    key: str
    name: str
    room: str
    boxes: tuple[DrawnBox, ...]
    foods: tuple[FoodInHouse, ...] = ()


@dataclass(frozen=True)
class DrawnPlace:
    """Fridge, freezer or cupboard."""

    key: str
    name: str
    shelves: tuple[DrawnShelf, ...]


def drawn(there: StoreMap, foods: Sequence[FoodInHouse], today: date) -> tuple[DrawnPlace, ...]:
    """The places that hold something or have shelves; boxes that wait to be put away stand where they could go."""
    places = []
    for place in PLACES:
        shelves = [
            _shelf(shelf, there.on(shelf), (b for b in there.to_put_away if b.goes_to == shelf.key), today)
            for shelf in there.shelves
            if shelf.place == place
        ]
        loose, here = there.loose(place), tuple(f for f in foods if f.place == place)
        if here and shelves and not loose:
            shelves[0] = replace(shelves[0], foods=here)
        elif loose or here:
            room = many(len(loose), "box") if loose else ""
            boxes = tuple(_box(b, today, is_ghost=False) for b in loose)
            shelves.append(DrawnShelf("", say("on no shelf") if shelves else "", room, boxes, here))
        if shelves:
            places.append(DrawnPlace(place, say(str(PLACE_WORDS[place])), tuple(shelves)))
    return tuple(places)


def _shelf(shelf: Shelf, there: Sequence[BoxOnMap], coming: Iterable[BoxOnMap], today: date) -> DrawnShelf:
    new = list(coming)
    boxes = [*(_box(b, today, is_ghost=False) for b in there), *(_box(b, today, is_ghost=True) for b in new)]
    free, litres = room_left(shelf, [b.standing for b in there])
    words = [say("{count} in", count=len(there))]
    if new:
        words.append(say("{count} to come", count=len(new)))
    if free is not None:
        words.append(say("{count} free", count=free) if free >= 0 else say("{count} too many", count=-free))
    if litres is not None:
        words.append(say("about {litres} l free", litres=shown(max(0.0, litres))))
    return DrawnShelf(shelf.key, shelf.name, ", ".join(words), tuple(boxes))


def _box(one: BoxOnMap, today: date, *, is_ghost: bool) -> DrawnBox:
    share = one.box.grams / serving_of(one.recipe).tally.grams if serving_of(one.recipe).tally.grams > 0 else 0.0
    parts = [
        BoxPart(p.component.key, p.component.name, p.grams * share, "", p.tally.scaled(share))
        for p in serving_of(one.recipe).parts
    ]
    volume = USUAL_ML if one.box.container is None else one.box.container.volume_ml
    day = weekday(one.day) if one.day is not None else say("spare")
    until = say("past {day}", day=day_month(one.until)) if one.is_past(today) else day_month(one.until)
    return DrawnBox(
        one.box.key,
        box_code(UUID(one.box.key)),
        day,
        one.whose or say("no one yet"),
        one.recipe.name,
        until,
        is_past=one.is_past(today),
        is_ghost=is_ghost,
        size=next(size for most_ml, size in SIZES if volume <= most_ml),
        drawing=draw_box(parts),
        is_for_today=one.day == today and not one.is_past(today),
    )


@dataclass(frozen=True)
class JustSaid:
    """A box of which something was just said: its id, code and what it is, and where it stands."""

    id: str
    code: str
    dish: str
    place: str


def put_words(there: StoreMap, box_id: UUID | None) -> JustSaid | None:
    """What is said of a box that was just put away; None when it is not in the house."""
    one = next((b for b in there.boxes if UUID(b.box.key) == box_id), None)
    if one is None:
        return None
    shelf = next((s.name for s in there.shelves if s.key == one.box.shelf), "")
    place = shelf or say(str(PLACE_WORDS[one.standing.place]))
    return JustSaid(one.box.key, box_code(UUID(one.box.key)), one.recipe.name, place)


def ate_words(caller: Caller, box_id: UUID | None, event_id: UUID | None) -> JustSaid | None:
    """What is said of a box that was just eaten from the map; None where that was taken back."""
    if box_id is None:
        return None
    try:
        card = box_card(caller, box_id)
    except NotFound:
        return None
    if all(event.key != str(event_id) for event in standing(card.box.log)):
        return None
    return JustSaid(card.box.key, box_code(box_id), card.recipe.name, "")


def where_words(there: StoreMap) -> list[tuple[str, str]]:
    """Where a box can be put: the shelves, and the places that have none."""
    found = [(s.key, f"{s.name}, {say(str(PLACE_WORDS[s.place])).lower()}") for s in there.shelves]
    bare = [key for key in PLACES if all(s.place != key for s in there.shelves)]
    return [*found, *((key, say(str(PLACE_WORDS[key]))) for key in bare)]


def eat_first(there: StoreMap, today: date) -> list[BoxOnMap]:
    """The boxes that keep shortest, none past its date."""
    return [b for b in there.boxes if not b.is_past(today)][:EAT_FIRST]


def past(there: StoreMap, today: date) -> list[BoxOnMap]:
    """The boxes past their date: said so, and not offered."""
    return [b for b in there.boxes if b.is_past(today)]
