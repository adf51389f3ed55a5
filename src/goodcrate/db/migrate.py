"""Bring a database to the newest tables, whole or not at all.

MariaDB commits every change of a table at once, so an upgrade that is cut off leaves some of its steps done. Before the
first step a copy of all data is made and a mark is set beside it; as long as the mark is there, the next start puts the
copy back and begins again. An empty database needs no copy: it is emptied again.
"""

import json
import os
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, create_engine, inspect, text
from sqlalchemy.engine import URL, make_url

from goodcrate.db.server import DatabaseFailed

if TYPE_CHECKING:
    from alembic.config import Config

MIGRATIONS = Path(__file__).parent / "migrations"
MARK, COPIES = "upgrade-in-progress.json", "before-upgrade"
MOST_COPIES = 3
ONE_AT_A_TIME = "goodcrate-upgrade"
OLDEST = "0037"
"""The first version of the tables that this Good Crate can upgrade."""
_NOT_OURS = (
    "This data was made by a newer Good Crate (table version {now}): update the app.",
    f"This data is too old (table version {{now}}): start a Good Crate with table version {OLDEST} on it first.",
)
Said = Callable[[str], object]


def alembic_config(url: str) -> "Config":
    """Alembic's settings for one database."""
    from alembic.config import Config  # read only when tables are changed: most starts have nothing to do

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["url"] = url
    return config


def upgrade(url: str, revision: str = "head") -> None:
    """Run every migration the database has not seen, without any copy: for databases that can be made again."""
    from alembic import command

    command.upgrade(alembic_config(url), revision)


def bring_up(url: str, folder: Path, say: Said, fill: Callable[[], object] | None = None) -> None:
    """Make a database usable: put back what a cut-off upgrade left, copy, upgrade, and fill it if so wished.

    `folder` takes the copies and the mark. `fill` puts first data in, all of it or none; leave it out when there is
    some already.

    Raises:
        DatabaseFailed: for data of a newer Good Crate, or when no copy can be made.
    """
    engine = create_engine(url)
    try:
        with engine.connect() as connection:
            if not connection.scalar(text("SELECT GET_LOCK(:name, 60)"), {"name": ONE_AT_A_TIME}):
                raise DatabaseFailed("Another start is upgrading this database. Try again when it is done.")
            connection.commit()
            _put_back_if_cut_off(connection, url, folder, say)
            now, versions = _revision(connection), _versions()
            newest = versions[-1]
            connection.commit()  # a snapshot held open would keep the tables from being changed
            if now is not None and now not in versions:
                raise DatabaseFailed(_NOT_OURS[now < OLDEST].format(now=now))
            if now == newest and fill is None:
                return
            copy = _copy(url, folder, now) if now is not None else None
            _set_mark(folder, copy, is_first=now is None or fill is not None)
            if now != newest:
                upgrade(url)
            if fill is not None:
                fill()
            _remove_mark(folder)
            if now not in (None, newest):
                say(f"Upgraded from table version {now} to {newest}. The copy made before is {copy}.")
    finally:
        engine.dispose()


def _versions() -> list[str]:
    """Every version of the tables, oldest first: the number that a migration's file name begins with."""
    return sorted(file.name.split("_")[0] for file in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def _revision(connection: Connection) -> str | None:
    """The tables' version; None when there are none."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    version: str | None = connection.scalar(text("SELECT version_num FROM alembic_version"))
    return version


def _set_mark(folder: Path, copy: Path | None, *, is_first: bool) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    fresh = folder / f"{MARK}.new"
    with open(fresh, "w", encoding="utf-8") as file:
        json.dump({"copy": None if copy is None else copy.name, "first": is_first}, file)
        file.flush()
        os.fsync(file.fileno())
    fresh.rename(folder / MARK)
    _settle(folder)


def _remove_mark(folder: Path) -> None:
    (folder / MARK).unlink()
    _settle(folder)


def _settle(folder: Path) -> None:
    """What was renamed or removed in a folder is so after a power cut too."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _put_back_if_cut_off(connection: Connection, url: str, folder: Path, say: Said) -> None:
    mark = folder / MARK
    if not mark.exists():
        return
    marked = json.loads(mark.read_text(encoding="utf-8"))
    _empty(connection)
    if marked["copy"] is not None:
        load_copy(url, folder / COPIES / marked["copy"])
    if marked["first"]:
        say("The first start was cut off before it was done: it begins again.")
    else:
        say("An upgrade was cut off. The copy made before it is back, nothing is lost; the upgrade begins again.")
    _remove_mark(folder)


def _empty(connection: Connection) -> None:
    """Drop every table and sequence; triggers go with their tables."""
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
    quote = connection.dialect.identifier_preparer.quote
    for table in inspect(connection).get_table_names():
        connection.execute(text(f"DROP TABLE IF EXISTS {quote(table)}"))
    for sequence in inspect(connection).get_sequence_names():
        connection.execute(text(f"DROP SEQUENCE IF EXISTS {quote(sequence)}"))
    connection.execute(text("SET FOREIGN_KEY_CHECKS = 1"))
    connection.commit()


def _copy(url: str, folder: Path, revision: str) -> Path:
    """Everything in the database as one file of SQL, complete under its name or not there; old ones are let go."""
    place = folder / COPIES
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    whole = place / f"{revision}.sql"
    part = whole.with_suffix(".part")
    with open(part, "wb") as file:
        os.chmod(part, 0o600)
        _run("mariadb-dump", url, ["--single-transaction", "--no-tablespaces", "--triggers", "--hex-blob"], out=file)
        os.fsync(file.fileno())
    part.rename(whole)
    _settle(place)
    for old in sorted(place.glob("*.sql"), key=lambda p: p.stat().st_mtime)[:-MOST_COPIES]:
        old.unlink()
    return whole


def load_copy(url: str, copy: Path) -> None:
    """Run a copy's SQL in a database."""
    with open(copy, "rb") as file:
        _run("mariadb", url, ["--batch"], given=file)


def _run(program: str, url: str, options: list[str], *, given: object = None, out: object = None) -> None:
    tool = shutil.which(program)
    if tool is None:
        raise DatabaseFailed(f"{program} is missing: install Debian’s mariadb-client.")
    at = make_url(url)
    done = subprocess.run(
        [tool, "--no-defaults", *_where(at), *options, str(at.database)],
        env={**os.environ, "MYSQL_PWD": str(at.password or "")},
        stdin=given,
        stdout=out,  # type: ignore[call-overload]
        stderr=subprocess.PIPE,
        check=False,
    )
    if done.returncode != 0:
        raise DatabaseFailed(f"{program} failed: {done.stderr.decode(errors='replace')[-400:]}")


def _where(at: URL) -> list[str]:
    socket = at.query.get("unix_socket")
    place = [f"--socket={socket}"] if socket else [f"--host={at.host or '127.0.0.1'}", f"--port={at.port or 3306}"]
    return [*place, f"--user={at.username or ''}", "--default-character-set=utf8mb4"]
