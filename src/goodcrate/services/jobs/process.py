"""The processes that do long work: one waits with all loaded while a cook looks at the form, each job has its own.

Loading a solver takes seconds; a week is found in tenths. A worker outlives the request and a restart of the app; one
that waits without a job ends with the app, or after a while.
"""

import os
import subprocess
import sys
import threading
from uuid import UUID

from goodcrate.services.calling import Caller

WAITS_SECONDS = 600.0
"""How long a process waits for a job before it is let go."""
_lock = threading.Lock()
_waiting: dict[str, subprocess.Popen[bytes]] = {}
"""By database: at most one process that waits for a job."""


def get_ready(caller: Caller) -> subprocess.Popen[bytes]:
    """Let a process load what work takes, so that a job asked for soon begins at once; answers the one that waits."""
    url = _url_of(caller)
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
    """Give a job to the process that waits, or to a new one."""
    url = _url_of(caller)
    with _lock:
        process = _waiting.pop(url, None)
    line = f"{caller.household_id} {kind} {job_id}\n".encode()
    if process is None or not _told(process, line):
        process = _begin(url)
        _told(process, line)
    threading.Thread(target=process.wait, name="worker", daemon=True).start()  # no zombie is left behind


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


def _url_of(caller: Caller) -> str:
    return str(caller.database.engine.url.render_as_string(hide_password=False))
