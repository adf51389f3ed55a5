"""What the command line does with a household's data as a whole: archives out and in, backups made and put back.

The app may run meanwhile, but for a backup that is put back.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import NamedTemporaryFile

from goodcrate.core.ground.errors import GoodCrateError
from goodcrate.core.ground.writing import many
from goodcrate.db.backup import put_back
from goodcrate.db.dump import write_dump
from goodcrate.db.migrate import bring_up
from goodcrate.db.server import DatabaseFailed, EmbeddedServer, locked, running
from goodcrate.db.session import Database
from goodcrate.services import accounts, people
from goodcrate.services.archive import work
from goodcrate.services.archive.export import write_archive
from goodcrate.services.archive.restore import move_in
from goodcrate.services.calling import Caller, utc_now
from goodcrate.settings import Settings


class NotClear(GoodCrateError):
    """Something must be said first: which household, or which wins."""


@contextmanager
def address_of_database(settings: Settings) -> Iterator[str]:
    """The address of the database: of the one set, of the running app's, or of the app's own, started for a while.

    Raises:
        DatabaseFailed: when it cannot be reached or started.
    """
    if settings.database_url is not None:
        yield settings.database_url
        return
    server = EmbeddedServer(settings.data_dir)
    try:
        settings.data_dir.mkdir(parents=True, exist_ok=True, mode=0o700)
        locked(settings.data_dir).close()
    except DatabaseFailed:
        yield server.url  # the app runs on it
        return
    with running(server):
        yield server.url


@contextmanager
def _database(settings: Settings) -> Iterator[Database]:
    with address_of_database(settings) as url:
        bring_up(url, settings.data_dir, print)
        database = Database(url)
        try:
            yield database
        finally:
            database.close()


def _caller(database: Database, name: str | None) -> Caller:
    """The household of a sign-in name; without one, the only household there is."""
    if name is not None:
        found = accounts.caller_named(database, name)
        if found is None:
            raise NotClear(f"Nobody signs in as “{name}” here.")
        return found
    callers = people.households(database)
    if len(callers) != 1:
        how_many = "There is no household yet." if not callers else "There are several households."
        raise NotClear(f"{how_many} Say whose it is: --as SIGN-IN-NAME.")
    return callers[0]


def export(settings: Settings, place: Path, name: str | None) -> str:
    """Write a household's archive to a file; answers what was done.

    Raises:
        NotClear: when it is not clear whose.
    """
    with _database(settings) as database:
        caller = _caller(database, name)
        with NamedTemporaryFile(dir=place.parent or ".", prefix=".crate-", delete=False) as file:
            part = Path(file.name)
            try:
                manifest = write_archive(caller, file.file)
            except BaseException:
                part.unlink(missing_ok=True)
                raise
        part.rename(place)
    return f"{place}: {manifest.household}, {sum(manifest.rows.values())} rows."


def look(settings: Settings, place: Path, name: str | None) -> list[str]:
    """The dry run of an archive: what would come, whoever wins."""
    with _database(settings) as database, open(place, "rb") as file:
        callers = people.households(database)
        caller = _caller(database, name) if callers or name else people.nobody(database)
        reports = work.reports_on(caller, file)
    lines = [f"{reports['archive']['household']}, made {reports['archive']['made_at'][:16]} UTC"]
    for wins, words in (("archive", "If the archive wins"), ("here", "If what is here wins")):
        report = reports[wins]
        counts = ", ".join(many(count, kind) for kind, count in report["counts"].items())
        lines.append(f"{words}, {many(report['rows'], 'row')} come: {counts}.")
    lines += [f"  stays out: {kind} {called} ({why})" for kind, called, why in reports["here"]["out"]]
    return lines


def take_in(settings: Settings, place: Path, name: str | None, wins: str | None) -> str:
    """Take an archive in; into an empty installation as its first household, whose sign-in is printed.

    Raises:
        NotClear: when it is not clear whose it is, or which wins.
    """
    with _database(settings) as database, open(place, "rb") as file:
        if not accounts.has_account(database):
            if name is None:
                raise NotClear("There is nobody here yet. Say who will sign in: --as SIGN-IN-NAME.")
            beside = work.take_in(people.nobody(database), file, work.ARCHIVE_WINS)
            password = people.settle_in(beside, name)
            return f"Taken in. Sign in as {name} with the password {password} and change it there."
        caller = _caller(database, name)
        if wins is None:
            raise NotClear("Which wins, the archive or what is here? Say --wins archive or --wins here.")
        now = work.take_in(caller, file, wins)
        if now.household_id != caller.household_id:
            move_in(caller, now)
            return "Taken in; the household as it was is kept for 7 days (Settings, Your data: take it back)."
    return "Taken in what was not here yet."


def backup(settings: Settings, place: Path) -> str:
    """Write the whole database to a file while it is in use."""
    with address_of_database(settings) as url:
        write_dump(url, place)
    return f"{place}: {place.stat().st_size / 1e6:.1f} MB."


def restore(settings: Settings, place: Path) -> str:
    """Put a backup in the place of what the database holds. The app must not run.

    Raises:
        DatabaseFailed: when it runs, or the file is no whole backup.
    """
    if settings.database_url is not None:
        before = put_back(settings.database_url, settings.data_dir, place, utc_now(), print)
    else:
        with running(EmbeddedServer(settings.data_dir)) as server:
            before = put_back(server.url, settings.data_dir, place, utc_now(), print)
    return f"Restored from {place}." + (f" What was there before is {before}." if before else "")
