"""What processes report of themselves, and the database of itself: counts and times, no household's values."""

from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Engine, String, delete, select, text
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.document import Document
from goodcrate.db.accounts import UtcTime
from goodcrate.db.base import Base
from goodcrate.db.stored import Stored

FORGOTTEN_AFTER = timedelta(hours=1)
"""A process that reported nothing for so long is left out."""
STATUS = (
    "Uptime",
    "Threads_connected",
    "Threads_running",
    "Questions",
    "Slow_queries",
    "Innodb_row_lock_waits",
    "Innodb_row_lock_time_avg",
    "Innodb_deadlocks",
    "Innodb_buffer_pool_reads",
    "wsrep_cluster_size",
    "wsrep_cluster_status",
    "wsrep_ready",
    "wsrep_local_cert_failures",
    "wsrep_local_bf_aborts",
    "wsrep_flow_control_paused",
)


class ProcessReportRow(Base):
    """The latest report of one process: which, since when, and its figures."""

    __tablename__ = "process_report"

    process: Mapped[str] = mapped_column(String(120), primary_key=True)
    began_at: Mapped[datetime] = mapped_column(UtcTime)
    said_at: Mapped[datetime] = mapped_column(UtcTime)
    figures: Mapped[Document] = mapped_column(Stored)


def report(engine: Engine, process: str, began_at: datetime, figures: Document, now: datetime) -> None:
    """Write down what a process says of itself; what was silent for long is let go."""
    there = {"process": process, "began_at": began_at, "said_at": now, "figures": figures}
    row = insert(ProcessReportRow).values(there)
    with engine.begin() as connection:
        connection.execute(row.on_duplicate_key_update(said_at=now, figures=row.inserted.figures))
        connection.execute(delete(ProcessReportRow).where(ProcessReportRow.said_at < now - FORGOTTEN_AFTER))


def reports(engine: Engine) -> Sequence[Mapping[str, Any]]:
    """What every process said last."""
    rows = select(ProcessReportRow.__table__).order_by(ProcessReportRow.process)
    with engine.connect() as connection:
        return [dict(row) for row in connection.execute(rows).mappings()]


def job_times(engine: Engine) -> Sequence[Mapping[str, Any]]:
    """How long work took that was begun within a day, by kind and how it ended: counts, mean and longest in s."""
    times = text(
        "SELECT kind, status, COUNT(*) AS count, AVG(TIMESTAMPDIFF(MICROSECOND, started_at, beat_at)) / 1e6 AS mean_s, "
        "MAX(TIMESTAMPDIFF(MICROSECOND, started_at, beat_at)) / 1e6 AS longest_s FROM job "
        "WHERE started_at > UTC_TIMESTAMP() - INTERVAL 1 DAY GROUP BY kind, status ORDER BY kind, status"
    )
    with engine.connect() as connection:
        return [dict(row) for row in connection.execute(times).mappings()]


def database_status(engine: Engine) -> Mapping[str, str]:
    """What the database server counts of itself, and how many MB its tables take."""
    size = text(
        "SELECT SUM(data_length + index_length) / 1e6 FROM information_schema.tables WHERE table_schema = DATABASE()"
    )
    with engine.connect() as connection:
        counted = {str(row[0]): str(row[1]) for row in connection.execute(text("SHOW GLOBAL STATUS"))}
        mb = connection.scalar(size)
    return {**{name: counted[name] for name in STATUS if name in counted}, "megabytes": f"{mb or 0:.1f}"}
