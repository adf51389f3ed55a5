"""The book of long work: what was asked for, how far it is, and how it ended."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.wording import Saying
from goodcrate.db.jobs import JobRow
from goodcrate.db.session import HouseholdSession
from goodcrate.services.again import done_again, patient
from goodcrate.services.calling import Caller, existing, utc_now

WAITING, RUNNING, DONE, STOPPED, FAILED = "waiting", "running", "done", "stopped", "failed"
UNDER_WAY = (WAITING, RUNNING)
DEAD_AFTER = timedelta(seconds=20)
"""A worker that said nothing for so long is gone: its job is reported as stopped."""
STARTS_WITHIN = timedelta(seconds=90)
"""The same before its first word: until it has loaded a solver, which a small or busy machine does slowly."""
WAITS_AT_MOST = timedelta(minutes=10)
"""A job that no worker took for so long is let go, and reported as stopped."""
SAYS_WITHIN_S, TAKES_WITHIN_S = 15.0, 60.0
"""So long a worker tries to say something, or to take a job, while the database is away."""
WAITS = Saying("it waits for a free worker")
NOT_TAKEN = Saying("No worker took it within 10 minutes. Ask for it again.")
NOT_NEEDED = Saying("It was stopped before a worker took it.")
GONE = Saying("It was stopped when the app went down. What it had found by then is below.")


@dataclass(frozen=True)
class Job:
    """A job as it stands: `seconds` it took so far, or until it ended."""

    id: UUID
    kind: str
    status: str
    said: str
    input: ReadDocument
    best: tuple[ReadDocument, ...]
    result: ReadDocument
    seconds: float

    @property
    def is_running(self) -> bool:
        """Whether a worker is at it, or will be."""
        return self.status in UNDER_WAY


def job_of(row: JobRow) -> Job:
    """A job's row as a value; one whose worker fell silent, or that no worker took, has stopped."""
    status, said = row.status, row.said
    silent_at_most = STARTS_WITHIN if row.beat_at == row.started_at else DEAD_AFTER
    if status == RUNNING and utc_now() - row.beat_at > silent_at_most:
        status, said = STOPPED, GONE
    if status == WAITING and utc_now() - row.beat_at > WAITS_AT_MOST:
        status, said = STOPPED, NOT_TAKEN
    until = utc_now() if status in UNDER_WAY else row.beat_at
    seconds = max(0.0, (until - row.started_at).total_seconds())
    return Job(row.id, row.kind, status, said, row.input, tuple(row.best), result=row.result, seconds=seconds)


def running_job(session: HouseholdSession, kind: str, week_id: UUID) -> UUID | None:
    """The job of a kind that is under way for a week, inside the caller's transaction, which has it to itself."""
    at_it = (JobRow.kind == kind, JobRow.week_id == week_id, JobRow.status.in_(UNDER_WAY))
    rows = session.scalars(select(JobRow).where(*at_it).with_for_update()).all()
    return next((row.id for row in rows if job_of(row).is_running), None)


def begin(session: HouseholdSession, job_id: UUID, kind: str, week_id: UUID | None, asked: Document) -> None:
    """Write a job down, inside the caller's transaction; `process.launch` gives it to a worker afterwards."""
    now = utc_now()
    session.add(
        JobRow(
            id=job_id,
            kind=kind,
            week_id=week_id,
            status=RUNNING,
            input=asked,
            best=[],
            result={},
            said="",
            wants_stop=False,
            started_at=now,
            beat_at=now,
        )
    )


def newest(session: HouseholdSession, kind: str, week_id: UUID) -> Job | None:
    """The newest job of a kind for a week, or None; inside the caller's transaction."""
    here = select(JobRow).where(JobRow.kind == kind, JobRow.week_id == week_id)
    row = session.scalar(here.order_by(JobRow.started_at.desc()).limit(1))
    return None if row is None else job_of(row)


def stop(caller: Caller, job_id: UUID) -> None:
    """Ask a job to stop; it keeps the best it has.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        row = existing(session, JobRow, job_id, "job")
        row.wants_stop = True
        if row.status == WAITING:
            row.status, row.said = STOPPED, str(NOT_NEEDED)


def let_wait(caller: Caller, job_id: UUID) -> None:
    """A job waits for a worker, who `take`s it.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        row = existing(session, JobRow, job_id, "job")
        row.status, row.said = WAITING, str(WAITS)


def waits(caller: Caller, job_id: UUID) -> bool:
    """Whether a job waits for a worker."""
    with caller.transaction() as session:
        row = session.find(JobRow, job_id)
        return row is not None and row.status == WAITING and job_of(row).is_running


@patient(TAKES_WITHIN_S)
@done_again
def take(caller: Caller, job_id: UUID) -> bool:
    """Take a job that was begun and that no worker took yet, so that it is done once, however often it is delivered;
    False when it is not there to be taken: somebody has it or had it, it is to stop, or it waited too long."""
    with caller.transaction() as session:
        row = session.get(JobRow, (caller.household_id, job_id), with_for_update=True)
        if row is None or row.beat_at != row.started_at or not job_of(row).is_running:
            return False
        now = utc_now()
        row.status, row.said, row.started_at, row.beat_at = RUNNING, "", now, now + timedelta(microseconds=1)
        return True


@patient(SAYS_WITHIN_S)
@done_again
def beat(caller: Caller, job_id: UUID, **news: Any) -> bool:
    """What a worker says while it lives (`status`, `said`, `best`, `result`); answers whether to go on.

    Raises:
        NotFound: when the household has no such job.
    """
    with caller.transaction() as session:
        row = existing(session, JobRow, job_id, "job")
        for name, value in news.items():
            setattr(row, name, value)
        row.beat_at = utc_now()
        return not row.wants_stop
