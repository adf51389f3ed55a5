"""Workers elsewhere: a job waits in the queue, is done once however often it is delivered, and its end is said."""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from datetime import timedelta
from pathlib import Path
from uuid import UUID, uuid4

import pytest
from dramatiq import Message
from dramatiq.brokers.stub import StubBroker

from goodcrate.db.jobs import JobRow
from goodcrate.db.server import free_port
from goodcrate.db.session import Database
from goodcrate.jobs.elsewhere import worker_of
from goodcrate.services.archive import work
from goodcrate.services.calling import Caller
from goodcrate.services.jobs import ledger, process
from goodcrate.services.jobs.queue import QUEUE, WORK, BrokerQueue, broker_at
from goodcrate.settings import CHECKOUT

REDIS = shutil.which("redis-server")


@pytest.fixture
def here_again(database: Database) -> Iterator[None]:
    yield
    process.send_elsewhere(database, None)


def begun(caller: Caller) -> UUID:
    job_id = uuid4()
    work.begin(caller, job_id, work.OUT_JOB, {})
    return job_id


def ended(caller: Caller, job_id: UUID) -> ledger.Job:
    until = time.monotonic() + 300
    while time.monotonic() < until:
        job = work.find(caller, job_id)
        if not job.is_running:
            return job
        time.sleep(0.05)
    raise AssertionError("it did not end")


def change(caller: Caller, job_id: UUID, act: Callable[[JobRow], object]) -> None:
    with caller.transaction() as session:
        act(session.get_one(JobRow, (caller.household_id, job_id)))


@pytest.mark.usefixtures("here_again")
def test_a_job_in_the_queue_is_done_by_a_worker_and_once(household: Caller) -> None:
    broker = StubBroker(middleware=[])
    broker.declare_queue(QUEUE)
    process.send_elsewhere(household.database, BrokerQueue(broker))
    job_id = begun(household)
    waiting = work.find(household, job_id)
    assert (waiting.status, waiting.said, waiting.is_running) == ("waiting", "it waits for a free worker", True)
    worker = worker_of(broker, process.url_of(household.database), 1)
    worker.start()
    try:
        done = ended(household, job_id)
        assert (done.status, done.said) == ("done", "")
        change(household, job_id, lambda row: setattr(row, "said", "as it was"))
        args = (str(household.household_id), work.OUT_JOB, str(job_id))
        broker.enqueue(Message(queue_name=QUEUE, actor_name=WORK, args=args, kwargs={}, options={}))
        broker.join(QUEUE, timeout=120_000)
        worker.join()
        assert work.find(household, job_id).said == "as it was"
    finally:
        worker.stop()


def test_a_job_is_taken_once(household: Caller) -> None:
    with household.transaction() as session:
        ledger.begin(session, job_id := uuid4(), work.OUT_JOB, None, {})
    ledger.let_wait(household, job_id)
    assert ledger.take(household, job_id)
    assert not ledger.take(household, job_id)
    assert work.find(household, job_id).status == "running"
    assert not ledger.take(household, uuid4())


def test_a_job_that_is_stopped_or_waited_too_long_is_not_taken(household: Caller) -> None:
    with household.transaction() as session:
        ledger.begin(session, stopped := uuid4(), work.OUT_JOB, None, {})
        ledger.begin(session, old := uuid4(), work.OUT_JOB, None, {})
    for job_id in (stopped, old):
        ledger.let_wait(household, job_id)
    ledger.stop(household, stopped)
    assert not ledger.take(household, stopped)
    assert (work.find(household, stopped).status, work.find(household, stopped).said) == (
        "stopped",
        "It was stopped before a worker took it.",
    )

    def wait_for(minutes: int) -> Callable[[JobRow], None]:
        def back(row: JobRow) -> None:
            row.beat_at = row.started_at = row.started_at - timedelta(minutes=minutes)

        return back

    change(household, old, wait_for(9))
    assert work.find(household, old).is_running
    change(household, old, wait_for(2))
    assert work.find(household, old).said == "No worker took it within 10 minutes. Ask for it again."
    assert not ledger.take(household, old)


@pytest.mark.usefixtures("here_again")
def test_a_job_that_never_came_into_the_queue_is_sent_when_it_is_asked_for_again(household: Caller) -> None:
    broker = StubBroker(middleware=[])
    broker.declare_queue(QUEUE)
    process.send_elsewhere(household.database, BrokerQueue(broker))
    with household.transaction() as session:
        ledger.begin(session, job_id := uuid4(), work.OUT_JOB, None, {})
    ledger.let_wait(household, job_id)  # and its sender went down
    work.begin(household, job_id, work.OUT_JOB, {})
    assert broker.queues[QUEUE].qsize() == 1
    assert ledger.take(household, job_id)
    work.begin(household, job_id, work.OUT_JOB, {})
    assert broker.queues[QUEUE].qsize() == 1


@pytest.mark.usefixtures("here_again")
def test_who_asks_again_holding_the_job_is_not_kept_by_a_queue_that_is_away(household: Caller) -> None:
    process.send_elsewhere(household.database, BrokerQueue(broker_at(f"redis://127.0.0.1:{free_port()}/0")))
    with household.transaction() as session:
        ledger.begin(session, job_id := uuid4(), work.OUT_JOB, None, {})
    ledger.let_wait(household, job_id)
    with household.transaction() as session:
        session.get_one(JobRow, (household.household_id, job_id), with_for_update=True)
        process.send_again(household, work.OUT_JOB, job_id)
    assert work.find(household, job_id).status == "waiting"


@pytest.mark.usefixtures("here_again")
def test_a_queue_that_is_away_is_said(household: Caller) -> None:
    process.send_elsewhere(household.database, BrokerQueue(broker_at(f"redis://127.0.0.1:{free_port()}/0")))
    job = work.find(household, begun(household))
    assert (job.status, job.said) == ("failed", "The workers cannot be reached just now. Ask for it again.")


@pytest.fixture
def redis_url(tmp_path: Path) -> Iterator[str]:
    port = free_port()
    words = ["--port", str(port), "--bind", "127.0.0.1", "--save", "", "--dir", str(tmp_path)]
    with subprocess.Popen([str(REDIS), *words], stdout=subprocess.PIPE, text=True) as server:
        try:
            assert any("Ready to accept connections" in line for line in server.stdout or ())
            yield f"redis://127.0.0.1:{port}/0"
        finally:
            server.terminate()


@pytest.mark.skipif(REDIS is None, reason="Debian's redis-server is not installed")
@pytest.mark.usefixtures("here_again")
def test_the_worker_command_takes_jobs_from_a_real_broker(household: Caller, redis_url: str) -> None:
    process.send_elsewhere(household.database, BrokerQueue(broker_at(redis_url)))
    settings = {"GOODCRATE_BROKER_URL": redis_url, "GOODCRATE_DATABASE_URL": process.url_of(household.database)}
    command = [sys.executable, "-m", "goodcrate", "worker"]
    environment = os.environ | {"PYTHONPATH": str(CHECKOUT / "src")} | settings
    first = begun(household)
    assert work.find(household, first).status == "waiting"
    with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True) as worker:
        try:
            assert worker.stdout is not None
            assert "one at a time" in worker.stdout.readline()
            second = begun(household)
            assert [ended(household, job_id).status for job_id in (first, second)] == ["done", "done"]
        finally:
            worker.send_signal(signal.SIGTERM)
    assert worker.returncode == 0


def test_a_worker_without_a_queue_says_what_it_needs() -> None:
    environment = {name: value for name, value in os.environ.items() if not name.startswith("GOODCRATE_")}
    environment["PYTHONPATH"] = str(CHECKOUT / "src")
    told = subprocess.run(
        [sys.executable, "-m", "goodcrate", "worker"], env=environment, capture_output=True, text=True, check=False
    )
    assert told.returncode == 2
    assert told.stderr.startswith("A worker needs GOODCRATE_BROKER_URL and GOODCRATE_DATABASE_URL")
