"""The process that does long work: `python -m goodcrate.jobs.worker`, told household, kind and job in one line.

It loads what the kinds take and waits for the line; without one it leaves. It ends by itself, when asked to stop, or
with its time; whatever happens is said in the job's row.
"""

import os
import select
import sys
import threading
import time
from collections.abc import Callable
from contextvars import copy_context
from uuid import UUID

from goodcrate.core.ground.errors import GoodCrateError, StoppedEarly
from goodcrate.core.ground.wording import say
from goodcrate.db.session import Database
from goodcrate.services import household
from goodcrate.services.archive.work import IN_KIND, LOOK_KIND, OUT_KIND
from goodcrate.services.calling import Caller
from goodcrate.services.cook.run_sheet import RUN_SHEET_KIND
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.jobs.ledger import FAILED, STOPPED, beat, take
from goodcrate.services.plan.run import PLANNING_KIND

BEAT_SECONDS = 2.0
KINDS: dict[str, JobKind] = {kind.name: kind for kind in (PLANNING_KIND, RUN_SHEET_KIND, OUT_KIND, LOOK_KIND, IN_KIND)}
"""What a worker can do. A stage that has long work adds its kind here."""


def run(caller: Caller, kind: JobKind, job_id: UUID) -> None:
    """Do a job; whatever happens is said in its row."""
    try:
        kind.run(caller, job_id)
    except StoppedEarly as early:
        beat(caller, job_id, status=STOPPED, said=f"{early} {say(kind.when_cut_off)}"[:200])
    except GoodCrateError as error:
        beat(caller, job_id, status=FAILED, said=str(error)[:200])
    except Exception:
        beat(caller, job_id, status=FAILED, said=say(kind.when_failed))
        raise


def keep_alive(caller: Caller, kind: JobKind, job_id: UUID, leave: Callable[[], None]) -> None:
    """Say every other second that the worker lives; leave when somebody wants it to stop. What it has is in the row."""
    while True:
        time.sleep(BEAT_SECONDS)
        if not beat(caller, job_id):
            beat(caller, job_id, status=STOPPED, said=say(kind.when_stopped))
            leave()


def main() -> None:
    """Load what the kinds take, then do one job; who has it already loads only what that takes."""
    if not select.select([sys.stdin], [], [], 0)[0]:
        for kind in KINDS.values():
            kind.get_ready()
    told = sys.stdin.readline().split()
    if len(told) != 3 or told[1] not in KINDS:
        return
    asking, name, job = told
    KINDS[name].get_ready()
    database = Database(os.environ["GOODCRATE_WORKER_DATABASE"])
    caller, job_id, kind = Caller(database, UUID(asking)), UUID(job), KINDS[name]
    household.speak_for(caller)
    if not take(caller, job_id):
        return
    alive = (keep_alive, caller, kind, job_id, lambda: os._exit(0))
    threading.Thread(target=copy_context().run, args=alive, daemon=True).start()
    try:
        run(caller, kind, job_id)
    finally:
        database.close()


if __name__ == "__main__":
    main()
