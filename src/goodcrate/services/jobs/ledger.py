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
from goodcrate.services.calling import Caller, existing, utc_now

RUNNING, DONE, STOPPED, FAILED = "running", "done", "stopped", "failed"
DEAD_AFTER = timedelta(seconds=20)
"""A worker that said nothing for so long is gone: its job is reported as stopped."""
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
        """Whether a worker is at it."""
        return self.status == RUNNING


def job_of(row: JobRow) -> Job:
    """A job's row as a value; one whose worker fell silent has stopped."""
    status, said = row.status, row.said
    if status == RUNNING and utc_now() - row.beat_at > DEAD_AFTER:
        status, said = STOPPED, GONE
    until = utc_now() if status == RUNNING else row.beat_at
    seconds = max(0.0, (until - row.started_at).total_seconds())
    return Job(row.id, row.kind, status, said, row.input, tuple(row.best), result=row.result, seconds=seconds)


def running_job(session: HouseholdSession, kind: str, week_id: UUID) -> UUID | None:
    """The job of a kind that a worker is at for a week, inside the caller's transaction, which has it to itself."""
    at_it = (JobRow.kind == kind, JobRow.week_id == week_id, JobRow.status == RUNNING)
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
        existing(session, JobRow, job_id, "job").wants_stop = True


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
