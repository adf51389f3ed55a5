"""A worker on whatever machine: takes jobs from the queue and gives each to a process of its own (`jobs.worker`)."""

import threading
from collections.abc import Callable
from uuid import UUID

from dramatiq import Actor, Broker, Worker

from goodcrate.services.jobs import process
from goodcrate.services.jobs.queue import QUEUE, WORK, broker_at
from goodcrate.settings import Settings

LOOKS_EVERY_MS = 500
ENDS_WITHIN_MS = 60_000
"""Told to end, it takes nothing more, and waits so long for what it has. That goes on by itself afterwards."""


def work(settings: Settings, ends: threading.Event, ready: Callable[[], object]) -> None:
    """Work until it ends; `ready` is called once it takes jobs."""
    worker = worker_of(broker_at(str(settings.broker_url)), str(settings.database_url), settings.processes)
    worker.start()
    try:
        ready()
        ends.wait()
    finally:
        worker.stop(timeout=ENDS_WITHIN_MS)


def worker_of(broker: Broker, url: str, at_once: int) -> Worker:
    """What takes jobs of the database at `url` from a broker, so many at once. It is not started yet."""

    def do(household_id: str, kind: str, job_id: str) -> None:
        doing = process.begin_beside(url, UUID(household_id), kind, UUID(job_id))
        process.get_ready_beside(url)  # for the next one
        doing.wait()

    # The job's row takes care that it is done once: a message that failed here is not sent again.
    Actor(do, broker=broker, actor_name=WORK, queue_name=QUEUE, priority=0, options={})
    process.get_ready_beside(url)
    worker = Worker(broker, worker_timeout=LOOKS_EVERY_MS, worker_threads=at_once)
    worker.queue_prefetch = at_once  # it fetches what it can do: the rest is for whoever is free
    return worker
