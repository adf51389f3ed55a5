"""Archives as files in the database: for a day, until they are fetched or taken in."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from tempfile import TemporaryFile
from typing import BinaryIO
from uuid import UUID, uuid5

from sqlalchemy import delete, select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.db.archive import ArchiveFileRow, ArchivePartRow
from goodcrate.formats.archive.container import LARGEST_ARCHIVE_BYTES
from goodcrate.services.calling import Caller, add_new, existing, let_go, utc_now

OUT, IN = "out", "in"
KEPT_FOR, MOST_KEPT = timedelta(days=1), 3
"""So long, and so many of each way: the oldest makes room."""
PART_BYTES = 1_000_000


@dataclass(frozen=True)
class ArchiveFile:
    """An archive that is kept for a day."""

    id: UUID
    way: str
    name: str
    size: int
    kept_at: datetime


def keep(caller: Caller, file_id: UUID, way: str, name: str, file: BinaryIO) -> None:
    """Keep an archive under an id made by the client; keeping it twice keeps one.

    Raises:
        InvalidInput: when it is empty, or larger than any archive.
    """
    size = file.seek(0, 2)
    file.seek(0)
    if not size:
        raise InvalidInput("file", say("The file is empty."), say("Choose an archive that Good Crate made."))
    if size > LARGEST_ARCHIVE_BYTES:
        raise InvalidInput("file", say("This is larger than {mb} MB.", mb=LARGEST_ARCHIVE_BYTES // 1_000_000))
    with caller.transaction() as session:
        let_go(session, ArchiveFileRow, ArchiveFileRow.kept_at < utc_now() - KEPT_FOR)
        if session.find(ArchiveFileRow, file_id) is not None:
            return
        there = select(ArchiveFileRow.id).where(ArchiveFileRow.way == way).order_by(ArchiveFileRow.kept_at.desc())
        too_many = session.scalars(there).all()[MOST_KEPT - 1 :]
        if too_many:
            session.execute(delete(ArchiveFileRow).where(ArchiveFileRow.id.in_(too_many)))
        add_new(session, ArchiveFileRow(id=file_id, way=way, name=name[:160], size=size, kept_at=utc_now()))
        number = 0
        while part := file.read(PART_BYTES):
            session.add(ArchivePartRow(id=uuid5(file_id, str(number)), file_id=file_id, number=number, content=part))
            session.flush()
            session.expunge_all()
            number += 1


def find(caller: Caller, file_id: UUID) -> ArchiveFile:
    """What is known of a kept archive.

    Raises:
        NotFound: when the household has none under this id, or has no more.
    """
    with caller.transaction() as session:
        row = existing(session, ArchiveFileRow, file_id, "archive")
        return ArchiveFile(row.id, row.way, row.name, row.size, row.kept_at)


def kept(caller: Caller, way: str) -> list[ArchiveFile]:
    """The archives that are kept, the newest first."""
    with caller.transaction() as session:
        here = (ArchiveFileRow.way == way, ArchiveFileRow.kept_at > utc_now() - KEPT_FOR)
        rows = session.scalars(select(ArchiveFileRow).where(*here).order_by(ArchiveFileRow.kept_at.desc()))
        return [ArchiveFile(row.id, row.way, row.name, row.size, row.kept_at) for row in rows]


def parts(caller: Caller, file_id: UUID) -> Iterator[bytes]:
    """The bytes of a kept archive, part by part."""
    number = 0
    while True:
        with caller.transaction() as session:
            here = (ArchivePartRow.file_id == file_id, ArchivePartRow.number == number)
            part = session.scalar(select(ArchivePartRow.content).where(*here))
        if part is None:
            return
        yield part
        number += 1


@contextmanager
def opened(caller: Caller, file_id: UUID) -> Iterator[BinaryIO]:
    """A kept archive as an open file.

    Raises:
        NotFound: when the household has none under this id.
    """
    find(caller, file_id)
    with TemporaryFile() as file:
        for part in parts(caller, file_id):
            file.write(part)
        file.seek(0)
        yield file
