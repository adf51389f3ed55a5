"""How fast a week of four eaters is looked back on, and three years of closed weeks."""

import statistics
import time
from collections.abc import Callable
from datetime import date, timedelta

from sqlalchemy import select

from bench.server_times import Visit
from goodcrate.db.accounts import Household
from goodcrate.services.at_table import off_plan
from goodcrate.services.calling import Caller
from goodcrate.services.review.over_time import over_time
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import new_id

ROUNDS = 30


def measure_review(visit: Visit, today: date) -> None:
    """Print the times of a household that has three years of weeks (`bench.table`)."""
    assert visit.database is not None
    with visit.database.accounts() as session:
        household_id = session.scalar(select(Household.id))
    assert household_id is not None
    caller = Caller(visit.database, household_id)
    week = today - timedelta(days=today.weekday() + 7)
    eater = household_eaters.list_eaters(caller)[0].id

    def changed() -> None:
        off_plan.note(caller, eater, week, new_id(), "cake, 350 kcal")

    _report("review of a week, four eaters, after a change", _times(visit, f"/review/{week}", changed), "-")
    _report("review of a week, four eaters", _times(visit, f"/review/{week}"), "p95 under 100 ms")
    began, weeks = time.perf_counter(), 0
    while (told := over_time(caller)).to_come:
        weeks = len(told.weeks)
    took = 1000 * (time.perf_counter() - began) / max(1, len(told.weeks))
    print(f"  {f'a closed week worked out once, of {weeks + 1} or more':<58} mean   {took:6.1f} ms")
    name = f"over time, {len(told.weeks)} weeks, four eaters"
    _report(name, _times(visit, "/review/over-time?of=fibre_g"), "p95 under 300 ms")


def _times(visit: Visit, path: str, before: Callable[[], None] = lambda: None) -> list[float]:
    times = []
    visit.get(path)
    for _ in range(ROUNDS):
        before()
        at = len(visit.server_ms)
        visit.get(path)
        times.append(visit.server_ms[at])
    return times


def _report(name: str, times: list[float], reach: str) -> None:
    p95 = statistics.quantiles(times, n=20)[18]
    print(f"  {name:<58} median {statistics.median(times):6.1f} ms   p95 {p95:6.1f} ms   wanted: {reach}")
