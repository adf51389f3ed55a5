"""Boxes of the household with their logs: read, packed, and what happens to them written down."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from uuid import UUID, uuid5

from sqlalchemy import ColumnElement, select, update

from goodcrate.core.ground.wording import say
from goodcrate.core.store.box import GONE, PACKED, THERE, UNDONE, Box, BoxEvent, check_event, standing, state_of
from goodcrate.db.base import grams
from goodcrate.db.cook import weighed_contents
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxContentRow, BoxEventRow, BoxRow, may_be_there
from goodcrate.db.week import PlacementRow
from goodcrate.services.calling import Caller, NotFound, SentOtherwise, add_new, add_once, utc_now


def own_box_id(meal_id: UUID) -> UUID:
    """The id of a meal's own box from the moment it is planned: packing it twice packs one."""
    return uuid5(meal_id, "box")


def content_id(box_id: UUID, component_id: UUID | None) -> UUID:
    """The id of a component in a box."""
    return uuid5(box_id, f"content:{component_id or ''}")


def boxes_with(session: HouseholdSession, *where: ColumnElement[bool]) -> list[Box]:
    """The boxes that some conditions hold for, the first cooked first; inside the caller's transaction."""
    return filled(session, read_boxes(session, *where))


@dataclass(frozen=True)
class BoxesRead:
    """Boxes as their rows, logs and the meals that name them say: all but what was weighed into them."""

    rows: Sequence[BoxRow] = ()
    logs: Mapping[UUID, Sequence[BoxEvent]] = field(default_factory=dict)
    named: Mapping[UUID | None, UUID] = field(default_factory=dict)


def read_boxes(session: HouseholdSession, *where: ColumnElement[bool]) -> BoxesRead:
    """The rows of boxes that some conditions hold for, the first cooked first, with their logs."""
    rows = session.scalars(select(BoxRow).where(*where).order_by(BoxRow.cooked_on, BoxRow.id)).all()
    if not rows:
        return BoxesRead()
    logs: dict[UUID, list[BoxEvent]] = {row.id: [] for row in rows}
    for event in session.scalars(select(BoxEventRow).where(BoxEventRow.box_id.in_(logs)).order_by(BoxEventRow.seq)):
        logs[event.box_id].append(event.value())
    meals = session.execute(
        select(PlacementRow.from_box, PlacementRow.id).where(PlacementRow.from_box.in_(logs), PlacementRow.live == 1)
    )
    return BoxesRead(rows, logs, {row.from_box: row.id for row in meals})


def filled(session: HouseholdSession, read: BoxesRead) -> list[Box]:
    """Boxes that were read, with what was weighed into them."""
    contents = [content.id for row in read.rows for content in row.contents]
    actual_g = weighed_contents(session, contents) if contents else {}
    return [row.value(read.logs[row.id], actual_g, read.named.get(row.id)) for row in read.rows]


def boxes_there(session: HouseholdSession) -> list[Box]:
    """The boxes in the house that were not packed for a meal, the first cooked first."""
    return [box for box in boxes_with(session, BoxRow.packed_for.is_(None), may_be_there()) if box.is_there]


def how_many_there(session: HouseholdSession) -> int:
    """How many boxes `boxes_there` has, by their logs alone."""
    logs: dict[UUID, list[BoxEvent]] = {}
    asked = select(BoxEventRow).join(BoxRow, BoxRow.id == BoxEventRow.box_id)
    for row in session.scalars(asked.where(BoxRow.packed_for.is_(None), may_be_there()).order_by(BoxEventRow.seq)):
        logs.setdefault(row.box_id, []).append(row.value())
    return sum(state_of(log) == THERE for log in logs.values())


def containers_in_use(caller: Caller) -> dict[UUID, int]:
    """How many containers of a kind hold boxes that are in the house, by the vessel's id."""
    with caller.transaction() as session:
        used: dict[UUID, int] = {}
        for box in boxes_with(session, BoxRow.vessel_id.is_not(None), may_be_there()):
            if box.is_there and box.container is not None:
                key = UUID(box.container.key)
                used[key] = used.get(key, 0) + 1
        return used


def pack(
    session: HouseholdSession, caller: Caller, row: BoxRow, contents: Iterable[BoxContentRow], event: BoxEvent
) -> None:
    """Have a box with these contents, and say that it is packed unless that stands already.

    The log of a box is written down once: a repeated event changes nothing.
    """
    add_once(session, row)
    for content in contents:
        add_once(session, content)
    (box,) = boxes_with(session, BoxRow.id == row.id)
    if not any(e.kind == PACKED for e in standing(box.log)):
        happened(session, caller, box, event)


def happened(session: HouseholdSession, caller: Caller, box: Box, event: BoxEvent) -> None:
    """Write down what happened to a box. Sending it twice writes it once.

    Raises:
        InvalidInput: when it cannot happen to the box as it stands.
        SentOtherwise: when an event of this id says something else.
    """
    there = session.find(BoxEventRow, UUID(event.key))
    if there is not None:
        if (str(there.box_id), there.kind) != (box.key, event.kind):
            raise SentOtherwise(say("Something else was written down with this form already. Reload the page."))
        return
    check_event(box, event)
    row = BoxEventRow(
        id=UUID(event.key),
        box_id=UUID(box.key),
        kind=event.kind,
        place=event.place,
        grams=None if event.grams is None else grams(event.grams),
        placement_id=UUID(event.meal_key) if event.meal_key else None,
        why=event.why.strip()[:160],
        undoes=UUID(event.undoes) if event.undoes else None,
        shelf_id=UUID(event.shelf) if event.shelf else None,
        user_id=caller.user_id,
        happened_at=event.at,
    )
    add_new(session, row)
    is_gone = state_of((*box.log, event)) in GONE
    if is_gone != (box.state in GONE):
        session.execute(update(BoxRow).where(BoxRow.id == row.box_id).values(live=None if is_gone else 1))


def box_in(session: HouseholdSession, box_id: UUID) -> Box:
    """A box of the household, inside the caller's transaction.

    Raises:
        NotFound: when it has none with this id.
    """
    found = boxes_with(session, BoxRow.id == box_id)
    if not found:
        raise NotFound("box")
    return found[0]


def say_what_happened(caller: Caller, box_ids: Iterable[UUID], event_id: UUID, kind: str, why: str = "") -> None:
    """Write down that the same happened to some boxes: one event each, under ids that follow from `event_id`.

    Raises:
        NotFound: for a box the household does not have.
        InvalidInput: when it cannot happen to one of them as it stands; nothing is written then.
    """
    with caller.transaction() as session:
        for box_id in box_ids:
            event = BoxEvent(str(uuid5(event_id, str(box_id))), kind, utc_now(), why=why)
            happened(session, caller, box_in(session, box_id), event)


def undo(session: HouseholdSession, caller: Caller, event_id: UUID) -> None:
    """Take back one event of a box's log, by one more event. What is taken back already stays so."""
    row = session.find(BoxEventRow, event_id)
    if row is not None:
        undo_in(session, caller, box_in(session, row.box_id), event_id)


def undo_in(session: HouseholdSession, caller: Caller, box: Box, event_id: UUID) -> None:
    """The same of a box at hand."""
    if any(e.key == str(event_id) for e in standing(box.log)):
        undoing = uuid5(event_id, f"undone:{len(box.log)}")
        happened(session, caller, box, BoxEvent(str(undoing), UNDONE, utc_now(), undoes=str(event_id)))


def undo_all(caller: Caller, event_id: UUID, box_ids: Iterable[UUID]) -> None:
    """Take back what `say_what_happened` wrote under this id."""
    with caller.transaction() as session:
        for box_id in box_ids:
            undo(session, caller, uuid5(event_id, str(box_id)))


def noted_box(
    box_id: UUID, lot: UUID, recipe_id: UUID, cooked_on: date, grams_in: float, until: date | None
) -> tuple[BoxRow, BoxContentRow]:
    """A box of a whole dish that nobody here packed, as rows."""
    return (
        BoxRow(id=box_id, recipe_id=recipe_id, lot=lot, cooked_on=cooked_on, until=until),
        BoxContentRow(id=content_id(box_id, None), box_id=box_id, planned_g=grams(grams_in)),
    )


def packed_event(box_id: UUID, place: str = "", at: datetime | None = None) -> BoxEvent:
    """That a box was packed, under an id that follows from it."""
    return BoxEvent(str(uuid5(box_id, "packed")), PACKED, at or utc_now(), place)
