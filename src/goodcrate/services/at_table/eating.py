"""What is said at the table: a box eaten, in part, left, swapped, given or thrown away; each once, each undone."""

from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month, shown
from goodcrate.core.store.at_table import TO_COME
from goodcrate.core.store.box import (
    EATEN,
    GIVEN_AWAY,
    PACKED,
    PART_EATEN,
    PLANNED,
    SWAPPED,
    THERE,
    THROWN_AWAY,
    Box,
    BoxEvent,
    Content,
    standing,
)
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE
from goodcrate.db.base import grams
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxContentRow, BoxEventRow, BoxRow
from goodcrate.db.week import PlacementRow
from goodcrate.services.at_table.table import Table, table_in
from goodcrate.services.calling import Caller, NotFound, add_new, utc_now
from goodcrate.services.store.boxes import box_in, content_id, happened, own_box_id, undo, undo_in
from goodcrate.services.week.weeks import existing_week, take_turns

LEFT = "left"
WAYS = (EATEN, PART_EATEN, LEFT, GIVEN_AWAY, THROWN_AWAY)
"""What can be said of a meal's box; left: it stays in the house, for nobody yet."""


@dataclass(frozen=True)
class Said:
    """What is said of a meal's box: how it went; how many g were eaten where that is not all, as g or as a share."""

    kind: str
    grams: float | None = None
    share: float | None = None
    why: str = ""


@contextmanager
def week_at_table(caller: Caller, first_day: date) -> Iterator[tuple[HouseholdSession, Table]]:
    """A week at the table to be written to: one after another.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        table = table_in(session, first_day)
        if table is None:
            raise NotFound("week")
        yield session, table


def say_eaten(caller: Caller, first_day: date, meal_id: UUID, event_id: UUID, said: Said) -> None:
    """Write down what became of a meal's box. Sending it twice writes it once; a box that nobody weighed counts as
    packed as planned.

    Raises:
        NotFound: when the week has no such meal.
        InvalidInput: for what cannot be said of a box, when it is gone already, or for more than is in it.
        SentOtherwise: when something else was written with this id.
    """
    with week_at_table(caller, first_day) as (session, table):
        meal = meal_on(table, meal_id)
        caller.acts_for(meal.eater_id)
        if said.kind not in WAYS:
            told = say("“{kind}” is nothing that happens to a meal.", kind=said.kind)
            raise InvalidInput("kind", told, say("Eaten, in part, left, given or thrown away."))
        if session.find(BoxEventRow, event_id) is not None:
            return
        box = _box_of(session, caller, table, meal, event_id)
        kind, eaten_g = _kind_and_grams(box, said)
        event = BoxEvent(str(event_id), kind, utc_now(), grams=eaten_g, why=said.why)
        if kind in (EATEN, PART_EATEN):
            event = BoxEvent(str(event_id), kind, event.at, grams=eaten_g, meal_key=str(meal_id))
        happened(session, caller, box, event)


def say_rest_eaten(caller: Caller, first_day: date, event_id: UUID, until: date) -> int:
    """Write down that each meal up to a day, of which nothing was said, was eaten as it was packed or planned. Sending
    it twice writes it once. Answers how many meals that were.

    Raises:
        NotFound: when there is no such week.
        SentOtherwise: when something else was written with this id.
    """
    with week_at_table(caller, first_day) as (session, table):
        meals = [m for m in table.picture.meals if m.day <= until and table.plates[str(m.id)].is_open]
        there = set(session.scalars(select(BoxRow.id).where(BoxRow.id.in_([own_box_id(m.id) for m in meals]))))
        new = [m for m in meals if m.from_box is None and own_box_id(m.id) not in there and _is_own(table, m)]
        _eat_as_planned(session, caller, table, new, event_id)
        for meal in meals:
            own_id = uuid5(event_id, str(meal.id))
            if meal not in new and session.find(BoxEventRow, own_id) is None:
                box = _box_of(session, caller, table, meal, own_id)
                happened(session, caller, box, BoxEvent(str(own_id), EATEN, utc_now(), meal_key=str(meal.id)))
        return len(meals)


def _is_own(table: Table, meal: Meal) -> bool:
    """Whether a meal eats its own box, which nobody packed yet."""
    box = table.plates[str(meal.id)].box
    return box is not None and box.key == str(own_box_id(meal.id)) and box.state == PLANNED


def _eat_as_planned(
    session: HouseholdSession, caller: Caller, table: Table, meals: Sequence[Meal], event_id: UUID
) -> None:
    """Boxes nobody wrote anything of, all at once: packed as planned, and eaten. The week is ours alone meanwhile."""
    now, boxes, contents, packed, eaten = utc_now(), list[BoxRow](), list[BoxContentRow](), [], []
    for meal in meals:
        box, own_id = table.plates[str(meal.id)].box, uuid5(event_id, str(meal.id))
        if box is None:
            continue
        row = _own_row(box)
        row.live = None
        boxes.append(row)
        contents += _planned_contents(table, box, set())
        told = {"box_id": row.id, "user_id": caller.user_id, "happened_at": now}
        packed.append(BoxEventRow(id=uuid5(own_id, "packed"), kind=PACKED, place=_place_of(table, meal.id), **told))
        eaten.append(BoxEventRow(id=own_id, kind=EATEN, placement_id=meal.id, **told))
    for rows in (boxes, contents, packed, eaten):  # each needs those before it
        session.add_all(rows)
        session.flush()


def take_rest_back(caller: Caller, first_day: date, event_id: UUID) -> None:
    """Take back what `say_rest_eaten` wrote under this id. What is taken back stays so.

    Raises:
        NotFound: when there is no such week.
    """
    with week_at_table(caller, first_day) as (session, table):
        for meal in table.picture.meals:
            own_id = uuid5(event_id, str(meal.id))
            if session.find(BoxEventRow, own_id) is not None:
                undo(session, caller, own_id)
                session.flush()
                _unpack_unless_needed(session, caller, uuid5(own_id, "packed"))


def _kind_and_grams(box: Box, said: Said) -> tuple[str, float | None]:
    if said.kind == LEFT:
        return SWAPPED, None
    if said.kind != PART_EATEN:
        return said.kind, None
    eaten_g = said.grams if said.grams is not None else box.grams * (said.share or 0.0)
    eaten_g = round(eaten_g, 1)
    if box.is_there and not 0 < eaten_g <= box.grams + 0.05:
        told = say("There are {grams} g in it.", grams=shown(box.grams))
        raise InvalidInput("grams", told, say("More than 0 g, up to that."))
    return (EATEN, None) if abs(eaten_g - box.grams) <= 0.05 else (PART_EATEN, eaten_g)


def meal_on(table: Table, meal_id: UUID) -> Meal:
    """A meal of the week by its id.

    Raises:
        NotFound: when the week has none.
    """
    meal = next((m for m in table.picture.meals if m.id == meal_id), None)
    if meal is None:
        raise NotFound("meal")
    return meal


def _box_of(session: HouseholdSession, caller: Caller, table: Table, meal: Meal, event_id: UUID, as_: str = "") -> Box:
    """The box on a meal's plate, in the house: packed as planned where nobody weighed it.

    Raises:
        InvalidInput: when its box was left or is gone.
    """
    plate = table.plates[str(meal.id)]
    if plate.box is None:
        raise InvalidInput("kind", say("This box was left for another day."), say("Undo that first."))
    if plate.box.state not in (PLANNED, THERE) or str(plate.box.meal_key) not in table.picture.outcome.boxes:
        return plate.box
    box = _filled_as_planned(session, table, plate.box)
    if box.state == PLANNED:
        place = _place_of(table, UUID(str(box.meal_key)))
        packed = BoxEvent(str(uuid5(event_id, f"{as_}packed")), PACKED, utc_now(), place)
        happened(session, caller, box, packed)
        box = replace(box, log=(*box.log, packed))
    return box


def _filled_as_planned(session: HouseholdSession, table: Table, box: Box) -> Box:
    """The box with what is in it, which goes into a meal's own box as planned where nobody weighed it."""
    if box.key != str(own_box_id(UUID(str(box.meal_key)))):
        return box_in(session, UUID(box.key))  # several meals may eat from it, one after another
    contents = box.contents
    if session.scalar(select(BoxRow.id).where(BoxRow.id == UUID(box.key))) is None:
        contents = ()
        add_new(session, _own_row(box))
    missing = list(_planned_contents(table, box, {content.component_key for content in contents}))
    add_new(session, *missing)
    more = [Content(str(row.component_id), float(row.planned_g or 0)) for row in missing]
    return replace(box, contents=(*contents, *more), lot_key=box.lot_key or box.key)


def _own_row(box: Box) -> BoxRow:
    """A meal's own box as it is stored."""
    box_id = UUID(box.key)
    return BoxRow(
        id=box_id,
        recipe_id=UUID(box.recipe_key),
        packed_for=UUID(str(box.meal_key)),
        lot=box_id,
        cooked_on=box.cooked_on,
        vessel_id=None if box.container is None else UUID(box.container.key),
    )


def _planned_contents(table: Table, box: Box, there: Collection[str | None]) -> Iterator[BoxContentRow]:
    """What is in a meal's own box as planned, but for what is written down of it."""
    box_id = UUID(box.key)
    for part in table.picture.outcome.boxes[str(box.meal_key)].parts:
        if part.component_key not in there and part.grams > 0:
            component_id = UUID(part.component_key)
            inside = content_id(box_id, component_id)
            yield BoxContentRow(id=inside, box_id=box_id, component_id=component_id, planned_g=grams(part.grams))


def _place_of(table: Table, meal_id: UUID) -> str:
    """Where a meal's box waits."""
    stay = table.picture.stays.get(str(meal_id))
    return FRIDGE if stay is None or stay.place not in (FREEZER, CUPBOARD) else stay.place


def swap(caller: Caller, first_day: date, meal_id: UUID, other_id: UUID | None, event_id: UUID) -> None:
    """Swap the boxes of two meals of a week, of one eater or of two. Sending it twice swaps once.

    Raises:
        NotFound: when the week has not both meals.
        InvalidInput: when one of them is eaten or gone, would be too old then, or is for somebody who must not get it.
    """
    with week_at_table(caller, first_day) as (session, table):
        meal = meal_on(table, meal_id)
        if other_id is None:
            raise InvalidInput("other", say("No meal is chosen."), say("Choose one."))
        other = meal_on(table, other_id)
        caller.acts_for(meal.eater_id)
        caller.acts_for(other.eater_id)
        if session.find(BoxEventRow, event_id) is not None:
            return
        for one in (meal, other):
            if table.plates[str(one.id)].fate != TO_COME:
                raise InvalidInput(
                    "other", say("One of these boxes is not to be eaten any more."), say("Reload the page.")
                )
        if meal.id == other.id:
            raise InvalidInput("other", say("It stands there already."), say("Choose another meal."))
        for one, gets in ((meal, other), (other, meal)):
            if why := why_not_swapped(table, one, gets):
                raise InvalidInput("other", why, say("Choose another meal."))
        first = _box_of(session, caller, table, meal, event_id)
        second = _box_of(session, caller, table, other, event_id, "other ")
        now = utc_now()
        happened(session, caller, first, BoxEvent(str(event_id), SWAPPED, now, meal_key=str(other.id)))
        then = BoxEvent(str(uuid5(event_id, "other")), SWAPPED, now, meal_key=str(meal.id))
        happened(session, caller, second, then)


def why_not_swapped(table: Table, meal: Meal, gets: Meal) -> str:
    """Why the box of `gets` cannot be eaten at a meal: who eats it must not, or it is too old by then; empty when it
    can."""
    picture, box = table.picture, table.plates[str(gets.id)].box
    if box is None:
        return say("There is no box.")
    eater = next(e for e in picture.eaters if e.id == meal.eater_id)
    own = str(box.meal_key or gets.id)
    key = picture.outcome.boxes[own].placing.recipe_key if own in picture.outcome.boxes else box.recipe_key
    recipe = picture.recipes.get(key) or picture.recipes.get(box.recipe_key)
    if recipe is not None and (why := why_not_for(eater.exclusions, recipe)):
        return why
    last = table.last_day(box)
    if last is not None and meal.day > last:
        return say("It keeps until {day}.", day=day_month(last))
    return ""


def undo_said(caller: Caller, first_day: date, event_id: UUID) -> None:
    """Take back what was said with this id: each box it was about is as before. What is taken back stays so.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        existing_week(session, first_day)
        if caller.only_eater is not None:
            caller.acts_for(_of_whom(session, event_id))
        said_id = _whole_swap(session, event_id)
        for one in (said_id, uuid5(said_id, "other")):
            undo(session, caller, one)
        for part in ("packed", "other packed"):
            _unpack_unless_needed(session, caller, uuid5(said_id, part))


def _of_whom(session: HouseholdSession, event_id: UUID) -> UUID | None:
    """Whose meal an event was about: the one it names, else the one its box was packed for."""
    row = session.find(BoxEventRow, event_id)
    box = None if row is None else session.find(BoxRow, row.box_id)
    meal_id = None if row is None or box is None else row.placement_id or box.packed_for
    meal = None if meal_id is None else session.find(PlacementRow, meal_id)
    return None if meal is None else meal.eater_id


def _whole_swap(session: HouseholdSession, event_id: UUID) -> UUID:
    """What was said as a whole: a swap is written down at both of its boxes, the second under an id that follows."""
    row = session.find(BoxEventRow, event_id)
    if row is None or row.kind != SWAPPED:
        return event_id
    same_time = select(BoxEventRow.id).where(BoxEventRow.kind == SWAPPED, BoxEventRow.happened_at == row.happened_at)
    return next((one for one in session.scalars(same_time) if uuid5(one, "other") == event_id), event_id)


def _unpack_unless_needed(session: HouseholdSession, caller: Caller, packed_id: UUID) -> None:
    """A box that was packed only by what is taken back was not packed."""
    row = session.find(BoxEventRow, packed_id)
    if row is not None:
        box = box_in(session, row.box_id)
        if [e.key for e in standing(box.log)] == [str(packed_id)]:
            undo_in(session, caller, box, packed_id)
