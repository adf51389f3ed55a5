"""At the shelf: what became of each food of a week's list, logged once, and what it puts into the house."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.recipes.mixtures import keep_group_of
from goodcrate.core.shop.shelf import BOUGHT, ShelfEvent, shelf_of
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE
from goodcrate.db.base import grams
from goodcrate.db.foods import FoodRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.shop import ShelfEventRow
from goodcrate.db.store import OpenFoodRow
from goodcrate.db.week import WeekRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller, NotFound, add_once, utc_now
from goodcrate.services.foods.own_foods import foods_by_key
from goodcrate.services.foods.packs_known import seen_price
from goodcrate.services.week.weeks import existing_week, take_turns

SMALLEST_G = 0.1


@dataclass(frozen=True)
class ShelfNews:
    """What counts of each food since an event, and the number of the last one."""

    seq: int
    foods: Mapping[str, ShelfEvent]


def note(caller: Caller, first_day: date, event_id: UUID, event: ShelfEvent, today: date) -> None:
    """Log an event at the shelf, put into the house what was bought, and note the price that was paid. The same event
    sent twice is one; what is said of a food last counts, so two phones that tick the same food buy it once.

    Raises:
        NotFound: when there is no such week or food.
    """
    with caller.transaction() as session:
        take_turns(session, first_day)
        note_in(session, caller, existing_week(session, first_day), event_id, event, today)


def note_in(
    session: HouseholdSession, caller: Caller, week: WeekRow, event_id: UUID, event: ShelfEvent, today: date
) -> None:
    """The same inside the caller's transaction."""
    food = foods_by_key(session, {event.food_key})[event.food_key]
    before = _last(session, week.id, food.id)
    row = ShelfEventRow(
        id=event_id,
        week_id=week.id,
        food_id=food.id,
        kind=event.kind,
        grams=None if event.grams is None else grams(event.grams),
        price=event.price,
        shop=event.shop[:40],
        user_id=caller.user_id,
        happened_at=utc_now(),
    )
    if not add_once(session, row):
        return
    was_g = float(before.grams or 0) if before is not None and before.kind == BOUGHT else 0.0
    is_g = (event.grams or 0.0) if event.kind == BOUGHT else 0.0
    _put_away(session, stored_id(week.id, food.id), food, was_g, is_g, today=today)
    if event.kind == BOUGHT and event.price is not None and event.grams is not None:
        seen_price(session, event_id, food, event, today)


def stored_id(week_id: UUID, food_id: UUID) -> UUID:
    """The id of what a week's list put into the house of a food."""
    return uuid5(week_id, f"bought:{food_id}")


def _last(session: HouseholdSession, week_id: UUID, food_id: UUID) -> ShelfEventRow | None:
    rows = select(ShelfEventRow).where(ShelfEventRow.week_id == week_id, ShelfEventRow.food_id == food_id)
    return session.scalar(rows.order_by(ShelfEventRow.seq.desc()).limit(1))


def _put_away(
    session: HouseholdSession, row_id: UUID, food: FoodRow, was_g: float, is_g: float, *, today: date
) -> None:
    """Put what is bought into the house: so much more or less than was said before. What was put right there, or
    weighed in, stays so."""
    row = session.find(OpenFoodRow, row_id)
    if row is None or row.live is None:
        if is_g < SMALLEST_G:
            return
        if row is None:
            row = OpenFoodRow(id=row_id, food_id=food.id, typed="", until=None, live=1, is_first=False)
            session.add(row)
        row.live, row.is_open, row.place, row.since = 1, False, _place(food), today
        row.grams, row.counted_at = grams(is_g), utc_now()
        return
    left = float(row.grams) + is_g - was_g
    if left < SMALLEST_G:
        row.live = None
    else:
        row.grams = grams(left)


def _place(food: FoodRow) -> str:
    """Where a food goes that comes from a shop."""
    group = keep_groups().get(keep_group_of(food.value(), cooked=False))
    if food.aisle == "frozen":
        return FREEZER
    return CUPBOARD if group is None or group.keeps_dry else FRIDGE


@dataclass(frozen=True)
class Shelf:
    """What counts of each food of a week's list, the number of the last event, and the rows of what was bought."""

    foods: Mapping[str, ShelfEvent]
    seq: int
    stored: frozenset[UUID]


def shelf_in(session: HouseholdSession, week_id: UUID) -> Shelf:
    """What was said at the shelf for a week."""
    events = _events(session, week_id, 0)
    stored = frozenset(stored_id(week_id, row.food_id) for row, _ in events)
    return Shelf(shelf_of(event for _, event in events), events[-1][0].seq if events else 0, stored)


def _events(session: HouseholdSession, week_id: UUID, since: int) -> list[tuple[ShelfEventRow, ShelfEvent]]:
    events = (
        select(ShelfEventRow, FoodRow.id, FoodRow.origin_key)
        .join(FoodRow, FoodRow.id == ShelfEventRow.food_id)
        .where(ShelfEventRow.week_id == week_id, ShelfEventRow.seq > since)
    )
    rows = session.execute(events.order_by(ShelfEventRow.seq))
    return [(row, row.value(origin_key or str(food_id))) for row, food_id, origin_key in rows]


def news_since(caller: Caller, first_day: date, since: int) -> ShelfNews:
    """What was said at the shelf since an event: of each food the last word, opened again included.

    Raises:
        NotFound: when there is no such week.
    """
    with caller.transaction() as session:
        week_id = session.scalar(select(WeekRow.id).where(WeekRow.first_day == first_day))
        if week_id is None:
            raise NotFound("week")
        events = _events(session, week_id, since)
        return ShelfNews(events[-1][0].seq if events else since, {event.food_key: event for _, event in events})
