"""A day at the table: its week, what is done of its small jobs, and what tomorrow asks for tonight."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from uuid import UUID, uuid5

from goodcrate.core.foods.food import Food
from goodcrate.core.store.box import THAWED, BoxEvent, standing
from goodcrate.core.week.storing import FREEZER
from goodcrate.db.changes import Kept
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxRow
from goodcrate.db.week import PlacementRow
from goodcrate.services.at_table import off_plan
from goodcrate.services.at_table.table import Table, done_on, table_in
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.store.boxes import box_in, boxes_with, happened, own_box_id, undo
from goodcrate.services.store.house import foods_in_house
from goodcrate.services.store.pantry import food_kept
from goodcrate.services.week.weeks import week_in

AS_IT_IS = frozenset({"ready", "cooked", "canned_drained", "smoked"})
NO_SNACK = frozenset({"fat", "condiment", "spice", "baking", "sweet", "drink", "herb", "supplement"})
"""Groups of foods that nobody eats by themselves."""
LEAST_KCAL_PER_G = 0.2
"""Food with less energy than that fills no gap: leaves, water."""


@dataclass(frozen=True)
class Snack:
    """A food in the house that can be eaten as it is: grams there are, and what a gram holds."""

    id: UUID
    food: Food
    grams: float

    @property
    def kcal_per_g(self) -> float:
        """Its energy, in kcal."""
        return (self.food.composition.get("energy_kcal") or 0.0) / 100

    @property
    def protein_per_g(self) -> float:
        """Its protein, in g."""
        return (self.food.composition.get("protein_g") or 0.0) / 100


@dataclass(frozen=True)
class TodayPicture:
    """A day of a week, and the next one's table (the same one as a rule); `done` are the day's ticked jobs, `snacks`
    what is in the house to eat besides."""

    day: date
    table: Table
    tomorrow: Table | None
    done: frozenset[str]
    snacks: tuple[Snack, ...] = ()

    @property
    def first_day(self) -> date:
        """The first day of its week."""
        return self.table.picture.week.first_day


def today_of(caller: Caller, day: date) -> TodayPicture | None:
    """A day at the table, None where no week holds it."""
    with caller.transaction() as session:
        return _TODAYS.get(session, (day,), lambda: _today(session, day))


_TODAYS: Kept[TodayPicture | None] = Kept(64)


def _today(session: HouseholdSession, day: date) -> TodayPicture | None:
    first_day, then = week_in(session, day), week_in(session, day + timedelta(days=1))
    table = None if first_day is None else table_in(session, first_day)
    if table is None:
        return None
    tomorrow = None if then is None else table_in(session, then)
    done = frozenset(subject for _, subject in done_on(session, frozenset({day})))
    snacks = _SNACKS.get(session, (day,), lambda: tuple(_snacks(session, day)))
    return TodayPicture(day, table, tomorrow, done, snacks)


_SNACKS: Kept[tuple[Snack, ...]] = Kept(64)


def _snacks(session: HouseholdSession, day: date) -> Iterator[Snack]:
    """Foods that can be eaten as they are, none past its last day."""
    kept = food_kept(session)
    keeps = {f.id: f.open for f in foods_in_house(session, kept)}
    for row, food_row, thing in kept:
        food = food_row.value()
        is_past = row.id in keeps and keeps[row.id].is_past(day)
        eaten_so = food.state in AS_IT_IS and food.group not in NO_SNACK
        if eaten_so and not is_past and (food.composition.get("energy_kcal") or 0.0) / 100 >= LEAST_KCAL_PER_G:
            yield Snack(row.id, food, thing.grams)


def tick(caller: Caller, day: date, subject: str, event_id: UUID, *, is_done: bool) -> None:
    """Tick a small job, or take the tick back. A box that is taken out to thaw is in the fridge by that.

    Raises:
        NotFound: when whoever only eats ticks a job of somebody else's meal.
    """
    if caller.only_eater is not None:
        with caller.transaction() as session:
            meal_row = session.find(PlacementRow, UUID(subject.split(":")[1]))
            caller.acts_for(None if meal_row is None else meal_row.eater_id)
    off_plan.tick(caller, day, subject, event_id, is_done=is_done)
    kind, _, meal = subject.partition(":")
    if kind == "thaw":
        with caller.transaction() as session:
            _thaw(session, caller, own_box_id(UUID(meal)), event_id, is_done=is_done)


def _thaw(session: HouseholdSession, caller: Caller, box_id: UUID, event_id: UUID, *, is_done: bool) -> None:
    if not boxes_with(session, BoxRow.id == box_id):
        return
    box = box_in(session, box_id)
    if is_done and box.is_there and box.place == FREEZER:
        happened(session, caller, box, BoxEvent(str(uuid5(event_id, "thawed")), THAWED, utc_now()))
    thawed = [e for e in standing(box.log) if e.kind == THAWED]
    if not is_done and thawed:
        undo(session, caller, UUID(thawed[-1].key))
