"""The process that plans a week: `python -m goodcrate.services.plan_worker HOUSEHOLD FIRST_DAY JOB`.

It reads the week once, plans it aim after aim, and says in the job's row what it has. It ends by itself, when asked to
stop, or with its time.
"""

import os
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import asdict, replace
from datetime import date
from typing import Any
from uuid import UUID

from goodcrate.core.errors import GoodCrateError
from goodcrate.core.week_plan import plan_week
from goodcrate.core.week_problem import AIMS, LOWEST_COST, WeekPlan
from goodcrate.db.session import Database
from goodcrate.db.week import PlanJobRow
from goodcrate.services.calling import Caller, existing
from goodcrate.services.plan_problem import Wishes, problem_of
from goodcrate.services.planning import DONE, FAILED, STOPPED, as_stored, beat
from goodcrate.services.week import existing_week, load_picture

BEAT_SECONDS = 2.0


def run(caller: Caller, first_day: date, job_id: UUID) -> None:
    """Plan, aim after aim; whatever happens is said in the job's row."""
    try:
        _plan(caller, first_day, job_id)
    except GoodCrateError as error:
        beat(caller, job_id, status=FAILED, said=str(error)[:200])
    except Exception:
        beat(caller, job_id, status=FAILED, said="The planner broke off. Nothing in the week was changed.")
        raise


def keep_alive(caller: Caller, job_id: UUID, leave: Callable[[], None]) -> None:
    """Say every other second that the worker lives; leave when somebody wants it to stop. What it has is in the row."""
    while True:
        time.sleep(BEAT_SECONDS)
        if not beat(caller, job_id):
            beat(caller, job_id, status=STOPPED, said="Stopped. What it had found by then is below.")
            leave()


def _plan(caller: Caller, first_day: date, job_id: UUID) -> None:
    with caller.transaction() as session:
        wishes = Wishes(**existing(session, PlanJobRow, job_id, "plan").rules)
        picture = load_picture(session, existing_week(session, first_day))
        problem = problem_of(session, picture, wishes)
        real = problem_of(session, picture, replace(wishes, lower_floors_g=0, widen_bands_kcal=0))
    plans: list[dict[str, Any]] = []
    base: WeekPlan | None = None
    for aim in AIMS:
        if aim == LOWEST_COST and any(d.cost_per_g is None for d in problem.dishes if not d.family):
            continue  # without every price there is no lowest cost
        asked = replace(problem, rules=replace(problem.rules, aim=aim))

        def better(week: WeekPlan, aim: str = aim) -> bool:
            so_far = [p for p in plans if p["aim"] != aim]
            words = f"{AIMS[aim]}: {week.batches} batches so far"
            return beat(caller, job_id, plans=[*so_far, as_stored(week, real, first_day, aim)], said=words)

        result = plan_week(asked, better, base)
        if result.plan is None:
            said = "The time was not enough to tell whether a week can be." if result.ran_out else ""
            beat(caller, job_id, status=DONE, conflicts=[asdict(c) for c in result.conflicts], said=said)
            return
        base = base or result.plan
        stored = as_stored(result.plan, real, first_day, aim)
        if not any(_same(stored, p) for p in plans):
            plans.append(stored)
        if not beat(caller, job_id, plans=plans, said=""):
            beat(caller, job_id, status=STOPPED, said="Stopped. What it had found by then is below.")
            return
    beat(caller, job_id, status=DONE, plans=plans, said="")


def _same(a: dict[str, Any], b: dict[str, Any]) -> bool:
    """Whether two weeks are too alike to be a choice: the same dishes in the same slots."""

    def key(p: dict[str, Any]) -> set[tuple[str, str, str, str]]:
        return {(m["eater"], m["slot"], m["day"], m["recipe"]) for m in p["meals"]}

    return key(a) == key(b)


def main() -> None:
    """Run one job."""
    household, first_day, job = sys.argv[1:4]
    database = Database(os.environ["GOODCRATE_WORKER_DATABASE"])
    caller, job_id = Caller(database, UUID(household)), UUID(job)
    threading.Thread(target=keep_alive, args=(caller, job_id, lambda: os._exit(0)), daemon=True).start()
    try:
        run(caller, date.fromisoformat(first_day), job_id)
    finally:
        database.close()


if __name__ == "__main__":
    main()
