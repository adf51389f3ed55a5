"""Today and the map of the house with three years of four eaters behind them: the server's own time, and slip moves."""

import random
import statistics
import time
from datetime import date, timedelta
from datetime import time as clock_time
from uuid import UUID, uuid4

from sqlalchemy import null, select

from bench.server_times import Visit
from goodcrate.core.store.box import EATEN, PACKED
from goodcrate.core.store.slip_moves import DayNow, Movable, slip_moves
from goodcrate.core.targets.day_target import DayTarget
from goodcrate.db.accounts import Household
from goodcrate.db.store import BoxContentRow, BoxEventRow, BoxRow
from goodcrate.db.week import PlacementRow, WeekRow
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.recipes import library
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.targets import household_eaters

WEEKS, EATERS, SLOTS, ROUNDS = 156, 4, 4, 30


def measure_table(visit: Visit, today: date) -> None:
    """Print the times; the years are made in the demo's own household."""
    _slips()
    assert visit.database is not None
    with visit.database.accounts() as session:
        household_id = session.scalar(select(Household.id))
    assert household_id is not None
    boxes = _three_years(Caller(visit.database, household_id), today)
    for path, name in (("/today", "today"), ("/store", "the map of the house"), (f"/today?day={today}", "another day")):
        times = []
        for _ in range(ROUNDS):
            before = len(visit.server_ms)
            visit.get(path)
            times.append(visit.server_ms[before])
        p95 = statistics.quantiles(times, n=20)[18]
        told = f"{name}, {boxes:,} boxes of three years behind it"
        print(f"  {told:<58} median {statistics.median(times):6.1f} ms   p95 {p95:6.1f} ms   wanted: under 60 ms")


def _slips() -> None:
    dice, target = random.Random(3), DayTarget(2300, 110, 5)
    times = []
    for _ in range(ROUNDS):
        days = [DayNow(n, dice.uniform(1900, 2900), dice.uniform(80, 160), target) for n in range(7)]
        portions = [
            Movable(f"{day}-{n}", day, dice.uniform(150, 600), dice.uniform(0.7, 2.2), dice.uniform(0.03, 0.15))
            for day in range(7)
            for n in range(4)
        ]
        house = [Movable(f"h{n}", 0, dice.uniform(50, 400), dice.uniform(0.5, 6), 0.1) for n in range(12)]
        began = time.perf_counter()
        slip_moves(0, days, portions, house)
        times.append((time.perf_counter() - began) * 1000)
    told = "moves after a slip: 28 meals to come, 12 foods in the house"
    p95 = statistics.quantiles(times, n=20)[18]
    print(f"  {told:<58} median {statistics.median(times):6.1f} ms   p95 {p95:6.1f} ms   wanted: under 200 ms")


def _three_years(caller: Caller, today: date) -> int:
    """Weeks that are over, every meal of them packed and eaten. Answers how many boxes."""
    eaters = _eaters(caller)
    recipes = [(UUID(p.recipe.key), UUID(p.recipe.components[0].key)) for p in library.list_recipes(caller)]
    dice, boxes = random.Random(7), 0
    monday = today - timedelta(days=today.weekday())
    for n in range(1, WEEKS + 1):
        first_day, now = monday - timedelta(days=7 * n), utc_now()
        with caller.transaction() as session:
            week = WeekRow(id=uuid4(), first_day=first_day, days=7, recipe_versions={}, closed_at=now)
            session.add(week)
            session.flush()
            meals = [
                (uuid4(), eater, slot, first_day + timedelta(days=day), *dice.choice(recipes))
                for eater, slots in eaters
                for slot in slots
                for day in range(7)
            ]
            session.add_all(
                PlacementRow(
                    id=meal,
                    week_id=week.id,
                    eater_id=eater,
                    slot_id=slot,
                    recipe_id=recipe,
                    day=day,
                    servings=1.0,
                    live=1,
                )
                for meal, eater, slot, day, recipe, _ in meals
            )
            session.flush()
            session.add_all(
                BoxRow(
                    id=own_box_id(meal),
                    recipe_id=recipe,
                    packed_for=meal,
                    lot=own_box_id(meal),
                    cooked_on=first_day,
                    live=null(),
                )
                for meal, _, _, _, recipe, _ in meals
            )
            session.flush()
            for meal, _, _, _, _, component in meals:
                box = own_box_id(meal)
                session.add(BoxContentRow(id=uuid4(), box_id=box, component_id=component, planned_g=400))
                for kind in (PACKED, EATEN):
                    session.add(BoxEventRow(id=uuid4(), box_id=box, kind=kind, place="fridge", happened_at=now))
            boxes += len(meals)
    return boxes


def _eaters(caller: Caller) -> list[tuple[UUID, list[UUID]]]:
    found = [(e.id, [s.id for s in e.slots][:SLOTS]) for e in household_eaters.list_eaters(caller)]
    for n in range(EATERS - len(found)):
        day = household_eaters.DayTypeInput(uuid4(), "every day", 2000, 90, weekdays=tuple(range(7)))
        slots = tuple(household_eaters.SlotInput(uuid4(), f"meal {k}", clock_time(7 + 4 * k)) for k in range(SLOTS))
        eater = household_eaters.EaterInput(uuid4(), f"Guest {n}", (day,), slots)
        household_eaters.save_eater(caller, eater)
        found.append((eater.id, [s.id for s in slots]))
    return found
