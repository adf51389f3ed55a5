"""The processes that do long work: one waits with all loaded while a cook looks at the form, each job has its own.

Loading a solver takes seconds; a week is found in tenths. A worker outlives the request and a restart of the app; one
that waits without a job ends with the app, or after a while. Where a queue is set, the processes are elsewhere, and a
job waits there for one.
"""

import os
import subprocess
import sys
import threading
from contextlib import suppress
from typing import Protocol
from uuid import UUID

from goodcrate.core.ground.wording import say
from goodcrate.services.calling import Caller, Database
from goodcrate.services.jobs.ledger import FAILED, beat, let_wait, waits


class QueueAway(Exception):
    """The queue cannot be reached, or takes nothing in."""


class JobQueue(Protocol):
    """Where jobs wait for workers elsewhere."""

    def send(self, household_id: UUID, kind: str, job_id: UUID) -> None:
        """Put a job in, or raise `QueueAway`."""


WAITS_SECONDS = 600.0
"""How long a process waits for a job before it is let go."""
_lock = threading.Lock()
_waiting: dict[str, subprocess.Popen[bytes]] = {}
"""By database: at most one process that waits for a job."""
_elsewhere: dict[str, JobQueue] = {}
"""By database: the queue of those whose workers are elsewhere."""


def send_elsewhere(database: Database, queue: JobQueue | None) -> None:
    """From now on the jobs of a database wait in a queue for workers on whatever machine; None: they are done here."""
    if queue is None:
        _elsewhere.pop(url_of(database), None)
    else:
        _elsewhere[url_of(database)] = queue


def get_ready(database: Database) -> None:
    """Let a process load what work takes, so that a job asked for soon begins at once; workers elsewhere have one."""
    url = url_of(database)
    if url not in _elsewhere:
        get_ready_beside(url)


def get_ready_beside(url: str) -> subprocess.Popen[bytes]:
    """The same on this machine, whatever is elsewhere; answers the one that waits. `url` is the database's."""
    with _lock:
        there = _waiting.get(url)
        if there is not None and there.poll() is None:
            return there
        _waiting[url] = process = _begin(url)
    timer = threading.Timer(WAITS_SECONDS, _let_go, (url, process))
    timer.daemon = True
    timer.start()
    return process


def launch(caller: Caller, kind: str, job_id: UUID) -> None:
    """Give a job to a process on this machine, or to the queue; a queue that is away is said in the job's row."""
    url = url_of(caller.database)
    queue = _elsewhere.get(url)
    if queue is None:
        process = begin_beside(url, caller.household_id, kind, job_id)
        threading.Thread(target=process.wait, name="worker", daemon=True).start()  # no zombie is left behind
        return
    let_wait(caller, job_id)
    try:
        queue.send(caller.household_id, kind, job_id)
    except QueueAway:
        beat(caller, job_id, status=FAILED, said=say("The workers cannot be reached just now. Ask for it again."))


def send_again(caller: Caller, kind: str, job_id: UUID) -> None:
    """A job that still waits is asked for again: its first sender may have gone down before it was in the queue. A
    worker takes it once, however often it is there. Nothing is written: its row may be locked by who asks, and it may
    be in the queue, so it goes on waiting when that is away.
    """
    queue = _elsewhere.get(url_of(caller.database))
    if queue is not None and waits(caller, job_id):
        with suppress(QueueAway):
            queue.send(caller.household_id, kind, job_id)


def begin_beside(url: str, household_id: UUID, kind: str, job_id: UUID) -> subprocess.Popen[bytes]:
    """Give a job to the process of this machine that waits, or to a new one, and answer it; `url` is the
    database's."""
    with _lock:
        process = _waiting.pop(url, None)
    line = f"{household_id} {kind} {job_id}\n".encode()
    if process is None or not _told(process, line):
        process = _begin(url)
        _told(process, line)
    return process


def _begin(url: str) -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "goodcrate.jobs.worker"]
    environment = os.environ | {"GOODCRATE_WORKER_DATABASE": url, "PYTHONPATH": os.pathsep.join(sys.path)}
    return subprocess.Popen(
        command,
        env=environment,
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )


def _told(process: subprocess.Popen[bytes], line: bytes) -> bool:
    """Whether a process got its job."""
    if process.stdin is None or process.poll() is not None:
        return False
    try:
        process.stdin.write(line)
        process.stdin.close()
    except OSError:
        return False
    return True


def _let_go(url: str, process: subprocess.Popen[bytes]) -> None:
    """End a process that still waits: without a line of its own, it leaves."""
    with _lock:
        if _waiting.get(url) is not process:
            return
        del _waiting[url]
    if process.stdin is not None:
        process.stdin.close()
    process.wait()


def url_of(database: Database) -> str:
    """A database's address with its password, as its processes are given it."""
    return str(database.engine.url.render_as_string(hide_password=False))
