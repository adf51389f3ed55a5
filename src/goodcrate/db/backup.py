"""Backups of the whole database: by hand, every day by the app itself, and back again."""

import threading
from collections.abc import Callable
from contextlib import suppress
from datetime import date, datetime
from pathlib import Path

from sqlalchemy import Engine, create_engine, inspect

from goodcrate.db.dump import empty_database, load_dump, look_at_dump, write_dump
from goodcrate.db.migrate import bring_up, remove_mark, set_mark
from goodcrate.db.server import DatabaseFailed

DAILY, BEFORE = "daily", "before-restore"
"""Folders of the data folder: the copy of each day, and what was there when a backup was put back."""
KEPT_DAYS = 7
FIRST_LOOK_S, LOOKS_EVERY_S = 30.0, 900.0
"""A start is over before the first copy begins."""
Said = Callable[[str], object]


def daily_copies(folder: Path) -> list[Path]:
    """The daily copies of a data folder, oldest first."""
    return sorted((folder / DAILY).glob("????-??-??.sql.gz"))


def copy_of_today(url: str, folder: Path, today: date) -> Path | None:
    """Make today's copy unless it is there, and let the oldest go; None when it was there.

    Raises:
        DatabaseFailed: when it cannot be made; the others stay then.
    """
    place = folder / DAILY
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    copy = place / f"{today.isoformat()}.sql.gz"
    if copy.exists():
        return None
    write_dump(url, copy)
    for old in daily_copies(folder)[:-KEPT_DAYS]:
        old.unlink()
    return copy


class DailyCopies:
    """Makes the copy of each day while the app runs, soon after its first start on that day."""

    def __init__(self, url: str, folder: Path, say: Said, today: Callable[[], date] = date.today) -> None:
        self._url, self._folder, self._say, self._today = url, folder, say, today
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._run, name="daily copies", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; a copy that is being made is finished first."""
        self._ends.set()
        if self._thread.is_alive():
            self._thread.join(60)

    def _run(self) -> None:
        wait = FIRST_LOOK_S
        while not self._ends.wait(wait):
            wait = LOOKS_EVERY_S
            try:
                copy_of_today(self._url, self._folder, self._today())
            except (OSError, DatabaseFailed) as error:
                self._say(f"Today’s copy of the database could not be made, we try again: {error}")


def put_back(url: str, folder: Path, backup: Path, now: datetime, say: Said) -> Path | None:
    """Put a backup in the place of what the database holds, and bring its tables up to date.

    What was there is kept as a backup of its own, whose path is the answer (None for an empty database).

    Raises:
        DatabaseFailed: when the file is no whole backup; then nothing is changed. When it cannot be run to its end,
            what was there is put back first.
    """
    look_at_dump(backup)
    engine = create_engine(url)
    try:
        before = _kept_before(engine, url, folder, now)
        try:
            _replace(engine, url, folder, backup, before)
            bring_up(url, folder, say)
        except DatabaseFailed:
            _replace(engine, url, folder, before, before)
            raise
    finally:
        engine.dispose()
    return before


def _replace(engine: Engine, url: str, folder: Path, by: Path | None, before: Path | None) -> None:
    """Empty the database and run a dump in it; cut off, the next start puts back what was there."""
    set_mark(folder, before, is_first=before is None, says="A restore was cut off. What was there before it is back.")
    with engine.connect() as connection:
        empty_database(connection)
    if by is not None:
        load_dump(url, by)
    remove_mark(folder)


def _kept_before(engine: Engine, url: str, folder: Path, now: datetime) -> Path | None:
    with engine.connect() as connection:
        if not inspect(connection).get_table_names():
            return None
    place = folder / BEFORE
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    kept = place / f"{now:%Y-%m-%dT%H-%M-%S}.sql.gz"
    write_dump(url, kept)
    for old in sorted(place.glob("*.sql.gz"))[:-KEPT_DAYS]:
        with suppress(OSError):
            old.unlink()
    return kept
