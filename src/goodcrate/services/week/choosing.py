"""Several meals at once: pinned and let go, taken out and put back, copied along their row, a whole day cleared."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import day_month
from goodcrate.core.week.placings import week_dates
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, NotFound, existing
from goodcrate.services.week.placing import gave_way_to, refuse_if_packed, standing_meals
from goodcrate.services.week.weeks import existing_week, take_turns

MOST_MEALS = 14 * 8 * 6


def pin(caller: Caller, first_day: date, ids: Collection[UUID], *, on: bool) -> int:
    """Pin meals, or let them go: a pinned one stays when the week is planned anew. Gives how many changed.

    Raises:
        NotFound: when one is not a meal of the household's week.
        InvalidInputs: when none is chosen.
    """
    with caller.transaction() as session:
        rows = _meals(session, first_day, ids)[1]
        changed = [row for row in rows if row.is_pinned != on]
        for row in changed:
            row.is_pinned = on
        return len(changed)


def take_out(caller: Caller, first_day: date, ids: Collection[UUID]) -> list[UUID]:
    """Take meals out of their slots; answers which ones went, for `put_back`.

    Raises:
        NotFound: when one is not a meal of the household's week.
        InvalidInputs: when none is chosen, or a box is packed: then none goes.
    """
    with caller.transaction() as session:
        rows = _meals(session, first_day, ids, or_gone=True)[1]
        for row in rows:
            if row.live:
                refuse_if_packed(session, row)
        for row in rows:
            row.live = None
        return [row.id for row in rows]


def put_back(caller: Caller, first_day: date, ids: Collection[UUID]) -> int:
    """Put meals back that were taken out; a slot that was filled since keeps what it has. Gives how many came back.

    Raises:
        NotFound: when one never was a meal of the household's week.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        week, back = existing_week(session, first_day), 0
        for row_id in ids:
            row = existing(session, PlacementRow, row_id, "meal")
            if row.week_id != week.id:
                raise NotFound("meal")
            if row.live is None and not standing_meals(session, row.eater_id, row.slot_id, {row.day}):
                row.live = 1
                session.flush()
                back += 1
        return back


@dataclass(frozen=True)
class Copied:
    """What copying along rows did: ids of the new meals, and of those that gave way."""

    placed: tuple[UUID, ...]
    gave_way: tuple[UUID, ...]


def copy_along(
    caller: Caller, first_day: date, ids: Collection[UUID], days: Collection[date] | None = None, *, sent: UUID
) -> Copied:
    """Copy meals along their rows: into the same slot on other days.

    Without `days` the empty ones are filled; with days, what stands there gives way. Copies get their ids from `sent`:
    done twice, each stands once.

    Raises:
        NotFound: when one is not a meal of the household's week.
        InvalidInputs: when none is chosen, a day is not in the week, or a box there is packed.
    """
    with caller.transaction() as session:
        week, rows = _meals(session, first_day, ids)
        dates = week_dates(week.first_day, week.days)
        if days is not None and (not days or not set(days) <= set(dates)):
            wanted = say("{first} to {last}.", first=day_month(dates[0]), last=day_month(dates[-1]))
            raise InvalidInputs([InvalidInput("days", say("Choose days of this week."), wanted)])
        placed, gave_way = [], []
        for row in rows:
            here = (row.eater_id, row.slot_id)
            for day in sorted(set(dates if days is None else days) - {row.day}):
                copy_id = uuid5(sent, f"{row.id}:{day}")
                if session.find(PlacementRow, copy_id) is not None:
                    placed.append(copy_id)
                    gave_way += gave_way_to(session, copy_id)
                    continue
                standing = standing_meals(session, *here, {day})
                if standing and days is None:
                    continue
                gave_way += _give_way(session, standing, copy_id)
                fresh = PlacementRow(
                    id=copy_id,
                    week_id=week.id,
                    eater_id=row.eater_id,
                    slot_id=row.slot_id,
                    recipe_id=row.recipe_id,
                    day=day,
                    servings=row.servings,
                    version=1,
                )
                session.add(fresh)
                session.flush()
                placed.append(fresh.id)
        return Copied(tuple(placed), tuple(gave_way))


def _give_way(session: HouseholdSession, standing: Sequence[PlacementRow], copy_id: UUID) -> list[UUID]:
    for row in standing:
        refuse_if_packed(session, row)
        row.live, row.gave_way_to = None, copy_id
    session.flush()
    return [row.id for row in standing]


def _meals(
    session: HouseholdSession, first_day: date, ids: Collection[UUID], *, or_gone: bool = False
) -> tuple[WeekRow, list[PlacementRow]]:
    take_turns(session, first_day)
    week = existing_week(session, first_day)
    if not ids:
        raise InvalidInputs(
            [InvalidInput("meals", say("No meal is chosen."), say("Choose with x, or Ctrl and a click."))]
        )
    chosen = select(PlacementRow).where(PlacementRow.id.in_(ids), PlacementRow.week_id == week.id)
    chosen = chosen if or_gone else chosen.where(PlacementRow.live == 1)
    rows = session.scalars(chosen.order_by(PlacementRow.day, PlacementRow.id)).all()
    if len(rows) != len(set(ids)) or len(rows) > MOST_MEALS:
        raise NotFound("meal")
    return week, list(rows)
