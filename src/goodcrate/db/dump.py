"""The whole database as SQL in a file, by MariaDB's own programs: of one moment while it is in use, and back again."""

import gzip
import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from io import BufferedReader
from pathlib import Path
from typing import IO

from sqlalchemy import Connection, inspect, text
from sqlalchemy.engine import URL, make_url

from goodcrate.db.server import DatabaseFailed

DUMPED = ["--single-transaction", "--no-tablespaces", "--triggers", "--hex-blob"]
WHOLE = b"-- Dump completed"
"""The words a dump ends with; a file without them is not all of it."""
LAST_BYTES = 400


def write_dump(url: str, place: Path) -> None:
    """Everything in a database as one file of SQL, packed when its name ends in `.gz`: complete under its name, or not
    there.

    Raises:
        DatabaseFailed: when it cannot be made.
    """
    part = place.with_name(f"{place.name}.part")
    try:
        with open(part, "wb") as file:
            os.chmod(part, 0o600)
            if place.suffix == ".gz":
                with (
                    _running("mariadb-dump", url, DUMPED, stdout=subprocess.PIPE) as process,
                    gzip.GzipFile(fileobj=file, mode="wb", compresslevel=5, mtime=0) as packed,
                ):
                    shutil.copyfileobj(_pipe(process.stdout), packed, 1 << 20)
            else:
                with _running("mariadb-dump", url, DUMPED, stdout=file):
                    pass
            file.flush()
            os.fsync(file.fileno())
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    part.rename(place)
    settle(place.parent)


def look_at_dump(place: Path) -> None:
    """Read a dump to its end.

    Raises:
        DatabaseFailed: when it is not there, is none, or not all of it.
    """
    last = b""
    try:
        with _opened(place) as file:
            while piece := file.read(1 << 20):
                last = (last + piece)[-LAST_BYTES:]
    except (OSError, EOFError, gzip.BadGzipFile) as error:
        raise DatabaseFailed(f"{place} cannot be read: {error}") from None
    if WHOLE not in last:
        raise DatabaseFailed(f"{place} is no backup of a database, or not all of it.")


def load_dump(url: str, place: Path) -> None:
    """Run a dump's SQL in a database.

    Raises:
        DatabaseFailed: when it cannot be run to its end.
    """
    with _opened(place) as file, _running("mariadb", url, ["--batch"], stdin=subprocess.PIPE) as process:
        into = _pipe(process.stdin)
        try:
            shutil.copyfileobj(file, into, 1 << 20)
            into.close()
        except BrokenPipeError:
            pass  # it ended: its status says why


def empty_database(connection: Connection) -> None:
    """Drop every table and sequence; triggers go with their tables."""
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
    quote = connection.dialect.identifier_preparer.quote
    for table in inspect(connection).get_table_names():
        connection.execute(text(f"DROP TABLE IF EXISTS {quote(table)}"))
    for sequence in inspect(connection).get_sequence_names():
        connection.execute(text(f"DROP SEQUENCE IF EXISTS {quote(sequence)}"))
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
    connection.commit()


def settle(folder: Path) -> None:
    """What was renamed or removed in a folder is so after a power cut too."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _opened(place: Path) -> gzip.GzipFile | BufferedReader:
    return gzip.open(place) if place.suffix == ".gz" else open(place, "rb")


def _pipe(pipe: IO[bytes] | None) -> IO[bytes]:
    if pipe is None:
        raise DatabaseFailed("The program has no pipe.")
    return pipe


@contextmanager
def _running(
    program: str, url: str, options: list[str], *, stdin: int | None = None, stdout: IO[bytes] | int | None = None
) -> Iterator[subprocess.Popen[bytes]]:
    """One of MariaDB's programs at work; its end is waited for.

    Raises:
        DatabaseFailed: when it is missing or fails.
    """
    tool = shutil.which(program)
    if tool is None:
        raise DatabaseFailed(f"{program} is missing: install Debian’s mariadb-client.")
    at = make_url(url)
    command = [tool, "--no-defaults", *_where(at), *options, str(at.database)]
    environment = {**os.environ, "MYSQL_PWD": str(at.password or "")}
    with subprocess.Popen(
        command, env=environment, stdin=stdin, stdout=stdout, stderr=subprocess.PIPE, bufsize=0
    ) as process:
        yield process
        said = _pipe(process.stderr).read().decode(errors="replace")
    if process.returncode != 0:
        raise DatabaseFailed(f"{program} failed: {said[-400:]}")


def _where(at: URL) -> list[str]:
    socket = at.query.get("unix_socket")
    place = [f"--socket={socket}"] if socket else [f"--host={at.host or '127.0.0.1'}", f"--port={at.port or 3306}"]
    return [*place, f"--user={at.username or ''}", "--default-character-set=utf8mb4"]
