"""From a label's code to its box: whose it is, and the meal it is for."""

from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.db.session import Database
from goodcrate.db.store import BoxRow, household_with_box
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.store.boxes import own_box_id


def meal_of_box(caller: Caller, box_id: UUID) -> tuple[date, UUID] | None:
    """The first day of the week and the meal a box is for, also of one that is only planned; None for a box that is for
    nobody yet.

    Raises:
        NotFound: when the household has no such box.
    """
    with caller.transaction() as session:
        eats = session.execute(
            select(WeekRow.first_day, PlacementRow.id)
            .join(WeekRow, WeekRow.id == PlacementRow.week_id)
            .where(PlacementRow.from_box == box_id, PlacementRow.live == 1)
        ).first()
        if eats is not None:
            return eats.first_day, eats.id
        row = session.find(BoxRow, box_id)
        if row is not None and row.packed_for is None:
            return None
        planned = session.execute(
            select(WeekRow.first_day, PlacementRow.id).join(WeekRow, WeekRow.id == PlacementRow.week_id)
        )
        for first_day, meal_id in planned:
            if own_box_id(meal_id) == box_id:
                return first_day, meal_id
        raise NotFound("box")


def as_found(database: Database, box_id: UUID) -> Caller | None:
    """The household of a packed box, for somebody who is not signed in and holds it; None when no such box is packed.
    What is shown then must say nothing of the household."""
    with database.accounts() as session:
        household_id = household_with_box(session, box_id)
    return None if household_id is None else Caller(database, household_id)
