"""How the server is doing, for whoever runs it: request times, job times, the database. No household's values."""

import os
import socket
import threading
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import text

from goodcrate.core.ground.document import Document
from goodcrate.db import reports
from goodcrate.db.migrate import newest_version, version_of
from goodcrate.db.session import Database
from goodcrate.services.calling import utc_now

SAYS_EVERY_S = 10.0
BOUNDS_MS = (5, 10, 25, 50, 100, 200, 300, 500, 1000, 2500, 5000, 10_000)
"""Up to so many ms a request is counted; the last count is of all that took longer."""


@dataclass
class Counted:
    """Requests of one route with one kind of answer: how many took how long."""

    counts: list[int] = field(default_factory=lambda: [0] * (len(BOUNDS_MS) + 1))
    total_ms: float = 0.0

    def add(self, ms: float) -> None:
        """One more."""
        place = next((n for n, bound in enumerate(BOUNDS_MS) if ms <= bound), len(BOUNDS_MS))
        self.counts[place] += 1
        self.total_ms += ms

    def join(self, counts: list[int], total_ms: float) -> None:
        """Those of another process."""
        self.counts = [a + b for a, b in zip(self.counts, counts, strict=True)]
        self.total_ms += total_ms

    @property
    def count(self) -> int:
        """How many in all."""
        return sum(self.counts)

    def within(self, share: float) -> int | None:
        """The bound in ms that so great a share kept to; None when it is beyond the last."""
        seen, wanted = 0, share * self.count
        for bound, count in zip(BOUNDS_MS, self.counts, strict=False):
            seen += count
            if seen >= wanted:
                return bound
        return None


class Tally:
    """What one process counts of its requests, by route and kind of answer."""

    def __init__(self) -> None:
        self._lock, self._counted = threading.Lock(), dict[str, Counted]()
        self.process = f"{socket.gethostname()[:60]}:{os.getpid()}"
        self.began_at = utc_now()

    def add(self, method: str, route: str, status: int, ms: float) -> None:
        """One more request; `route` is the address as the app names it, without anybody's ids."""
        with self._lock:
            self._counted.setdefault(f"{method} {route} {status // 100}xx", Counted()).add(ms)

    def figures(self) -> Document:
        """All of it, as it is kept."""
        with self._lock:
            return {name: [counted.counts, counted.total_ms] for name, counted in self._counted.items()}


def say(database: Database, tally: Tally) -> None:
    """Write down what this process counted."""
    reports.report(database.engine, tally.process, tally.began_at, tally.figures(), utc_now())


def say_regularly(database: Database, tally: Tally, ends: threading.Event) -> None:
    """Do so every few seconds until it ends; a database that is away hears it the next time."""
    while not ends.wait(SAYS_EVERY_S):
        with suppress(Exception):
            say(database, tally)


@dataclass(frozen=True)
class ProcessSaid:
    """A process that reported: since when, and when last."""

    process: str
    began_at: datetime
    said_at: datetime


@dataclass(frozen=True)
class ServerReport:
    """The whole: processes, requests by route and answer, jobs of a day, and the database."""

    processes: tuple[ProcessSaid, ...]
    requests: Mapping[str, Counted]
    jobs: tuple[Mapping[str, Any], ...]
    database: Mapping[str, str]


def server_report(database: Database) -> ServerReport:
    """What all processes said, added up."""
    said, requests = reports.reports(database.engine), dict[str, Counted]()
    for row in said:
        for name, (counts, total_ms) in row["figures"].items():
            requests.setdefault(name, Counted()).join(counts, total_ms)
    return ServerReport(
        tuple(ProcessSaid(row["process"], row["began_at"], row["said_at"]) for row in said),
        dict(sorted(requests.items(), key=lambda one: -one[1].total_ms)),
        tuple(reports.job_times(database.engine)),
        reports.database_status(database.engine),
    )


def why_not_ready(database: Database) -> str:
    """Why no request can be answered: empty when they can. It names nothing secret."""
    try:
        with database.engine.connect() as connection:
            connection.execute(text("SELECT 1"))
            now = version_of(connection)
            is_of_cluster = connection.scalar(text("SELECT @@wsrep_on"))
            ready = connection.execute(text("SHOW STATUS LIKE 'wsrep_ready'")).all()
    except Exception as error:  # whatever it is, nothing can be answered
        return f"the database does not answer ({type(error).__name__})"
    if now != newest_version():
        return f"the tables are of version {now}, this app needs {newest_version()}"
    if is_of_cluster and ready and ready[0][1] == "OFF":
        return "this node is no part of its cluster"
    return ""
