"""A map of what is in the house: shelves and drawers with the boxes on them, and where packed ones could go."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import func, select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.store.box import MOVED, Box, BoxEvent
from goodcrate.core.store.box_code import box_code, read_code
from goodcrate.core.store.shelves import PLACES, Shelf, Standing, check_shelf, where_to_put
from goodcrate.core.week.storing import FRIDGE, keeping_of
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import ShelfRow, may_be_there
from goodcrate.db.targets import EaterRow, SlotRow
from goodcrate.db.week import PlacementRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, add_once, existing, utc_now
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.store.boxes import box_in, boxes_with, happened
from goodcrate.services.store.house import until_of


@dataclass(frozen=True)
class BoxOnMap:
    """A box in the house: what it is, who eats it when (empty: nobody yet), until when it keeps and why, and the shelf
    it could be put on (`goes_to`)."""

    box: Box
    recipe: Recipe
    whose: str
    day: date | None
    slot: str
    until: date
    why: str
    goes_to: str = ""

    @property
    def standing(self) -> Standing:
        """The box as a shelf sees it."""
        litres = None if self.box.container is None else self.box.container.volume_ml / 1000
        return Standing(self.box.key, self.box.place or FRIDGE, litres, self.box.shelf)

    def is_past(self, today: date) -> bool:
        """Whether its last day is over."""
        return self.until < today


@dataclass(frozen=True)
class StoreMap:
    """All boxes in the house, those that keep shortest first, and the shelves."""

    shelves: tuple[Shelf, ...]
    boxes: tuple[BoxOnMap, ...]

    def on(self, shelf: Shelf) -> tuple[BoxOnMap, ...]:
        """The boxes on a shelf; on the only one of its place stands whatever is there."""
        loose = self._unplaced(shelf.place) if self._is_only(shelf) else ()
        return tuple(b for b in self.boxes if b.box.shelf == shelf.key or b in loose)

    def _is_only(self, shelf: Shelf) -> bool:
        return [s.key for s in self.shelves if s.place == shelf.place] == [shelf.key]

    def _unplaced(self, place: str) -> tuple[BoxOnMap, ...]:
        known = {shelf.key for shelf in self.shelves}
        return tuple(
            b for b in self.boxes if b.standing.place == place and b.box.shelf not in known and b.box.is_put_away
        )

    def loose(self, place: str) -> tuple[BoxOnMap, ...]:
        """Those of a place that stand on no shelf that is there, and could go to none."""
        if any(shelf.place == place and self._is_only(shelf) for shelf in self.shelves):
            return ()
        waiting = (b for b in self.to_put_away if b.standing.place == place and not b.goes_to)
        return (*waiting, *self._unplaced(place))

    @property
    def to_put_away(self) -> tuple[BoxOnMap, ...]:
        """Packed, and nobody said yet where they stand."""
        return tuple(b for b in self.boxes if not b.box.is_put_away)


def store_map(caller: Caller) -> StoreMap:
    """The map of the household's boxes."""
    with caller.transaction() as session:
        return _map(session)


def _map(session: HouseholdSession) -> StoreMap:
    shelves = _shelves(session)
    boxes = [box for box in boxes_with(session, may_be_there()) if box.is_there]
    if not boxes:
        return StoreMap(shelves, ())
    rule, eaten = setup_of(session).capacity.keep_rule, _eaten(session, boxes)
    recipes = {key: value.recipe for key, value in recipe_values(session, {UUID(b.recipe_key) for b in boxes}).items()}
    found = []
    for box in boxes:
        recipe = recipes[UUID(box.recipe_key)]
        until, why = until_of(box, keeping_of(recipe, keep_groups(), rule), rule)
        whose, day, slot = eaten.get(box.for_meal or "", ("", None, ""))
        found.append(BoxOnMap(box, recipe, whose, day, slot, until, why=why))
    found.sort(key=lambda b: (b.until, b.day or date.max, b.recipe.name))
    fresh = [b.standing for b in found if not b.box.is_put_away]
    goes_to = where_to_put(fresh, [b.standing for b in found if b.box.is_put_away], shelves)
    return StoreMap(shelves, tuple(_going(b, goes_to) for b in found))


def _going(box: BoxOnMap, goes_to: Mapping[str, str]) -> BoxOnMap:
    to = goes_to.get(box.box.key, "")
    return BoxOnMap(box.box, box.recipe, box.whose, box.day, box.slot, box.until, why=box.why, goes_to=to)


def _eaten(session: HouseholdSession, boxes: Sequence[Box]) -> dict[str, tuple[str, date | None, str]]:
    meals = {UUID(box.for_meal) for box in boxes if box.for_meal}
    rows = session.execute(
        select(PlacementRow.id, PlacementRow.day, EaterRow.name, SlotRow.name.label("slot"))
        .join(EaterRow, EaterRow.id == PlacementRow.eater_id)
        .join(SlotRow, SlotRow.id == PlacementRow.slot_id)
        .where(PlacementRow.id.in_(meals))
    )
    return {str(row.id): (row.name.split()[0], row.day, row.slot) for row in rows}


def shelves_of(caller: Caller) -> tuple[Shelf, ...]:
    """The household's shelves, from the freezer down."""
    with caller.transaction() as session:
        return _shelves(session)


def _shelves(session: HouseholdSession) -> tuple[Shelf, ...]:
    rows = session.scalars(select(ShelfRow).where(ShelfRow.live == 1).order_by(ShelfRow.position))
    return tuple(sorted((row.value() for row in rows), key=lambda s: PLACES.index(s.place)))


def name_shelf(caller: Caller, shelf: Shelf) -> None:
    """Name a shelf or drawer, or change one. Sending it twice names it once.

    Raises:
        InvalidInputs: naming every field that cannot be used.
    """
    check_shelf(shelf)
    with caller.transaction() as session:
        row = session.find(ShelfRow, UUID(shelf.key))
        if row is None:
            last = session.scalar(select(func.max(ShelfRow.position))) or 0
            row = ShelfRow(id=UUID(shelf.key), position=last + 1, name="", place="")
            row.name, row.place, row.boxes, row.litres = shelf.name.strip(), shelf.place, shelf.boxes, shelf.litres
            add_once(session, row)
            return
        row.name, row.place, row.boxes, row.litres = shelf.name.strip(), shelf.place, shelf.boxes, shelf.litres


def take_shelf_away(caller: Caller, shelf_id: UUID) -> None:
    """A shelf is not there any more; what stood on it stands loose in its place.

    Raises:
        NotFound: when the household has no such shelf.
    """
    with caller.transaction() as session:
        existing(session, ShelfRow, shelf_id, say("shelf")).live = None


def put_away(caller: Caller, event_id: UUID) -> int:
    """Put every packed box where the map draws it. Sending it twice does it once. Answers how many."""
    with caller.transaction() as session:
        there = _map(session)
        shelves = {shelf.key: shelf for shelf in there.shelves}
        for one in there.to_put_away:
            shelf = shelves.get(one.goes_to)
            place = one.standing.place if shelf is None else shelf.place
            event = BoxEvent(str(uuid5(event_id, one.box.key)), MOVED, utc_now(), place, shelf=one.goes_to)
            happened(session, caller, one.box, event)
        return len(there.to_put_away)


def put_scanned(caller: Caller, event_id: UUID, typed: str, where: str = "") -> UUID:
    """Put the box with a scanned or typed code away: on a shelf by its id, or in a place, else where the map draws it.
    Sending it twice does it once. Answers the box.

    Raises:
        InvalidInput: for a code that no box in the house has, or two have; or a box that stands somewhere already.
        NotFound: when the household has no such shelf.
    """
    code = read_code(typed)
    with caller.transaction() as session:
        there = _map(session)
    found = [b for b in there.boxes if code in (UUID(b.box.key), box_code(UUID(b.box.key)))]
    if len(found) != 1:
        told = say("No box with the code “{code}” is in the house.", code=typed.strip()[:24])
        if found:
            told = say("{count} boxes have this code.", count=len(found))
        raise InvalidInput("code", told, say("Scan the square on its label, or tap the box on the map."))
    box = found[0]
    is_sent_again = any(event.key == str(event_id) for event in box.box.log)
    if not where and box.box.is_put_away and not is_sent_again:
        told = say("{code} is put away already.", code=box_code(UUID(box.box.key)))
        raise InvalidInput("code", told, say("Choose where it goes to move it."))
    put_on(caller, UUID(box.box.key), event_id, where or box.goes_to or box.standing.place)
    return UUID(box.box.key)


def put_on(caller: Caller, box_id: UUID, event_id: UUID, where: str) -> None:
    """Say where a box stands now: a shelf by its id, or only fridge, freezer or cupboard.

    Raises:
        NotFound: when the household has no such box, or no such shelf.
        InvalidInput: for no such place, or a container that must not go there.
    """
    with caller.transaction() as session:
        box, place, shelf = box_in(session, box_id), where, ""
        if place not in PLACES:
            shelf_id = id_of(where)
            if shelf_id is None:
                told = say("“{place}” is no place for food.", place=where)
                raise InvalidInput("place", told, say("Fridge, freezer or cupboard."))
            row = existing(session, ShelfRow, shelf_id, say("shelf"))
            place, shelf = row.place, str(row.id)
        happened(session, caller, box, BoxEvent(str(event_id), MOVED, utc_now(), place, shelf=shelf))
