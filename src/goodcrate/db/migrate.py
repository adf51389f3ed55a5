"""Bring a database to the newest tables, whole or not at all.

MariaDB commits every change of a table at once, so an upgrade that is cut off leaves some of its steps done. Before the
first step a copy of all data is made and a mark is set beside it; as long as the mark is there, the next start puts the
copy back and begins again. An empty database needs no copy: it is emptied again.
"""

import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, create_engine, inspect, text

from goodcrate.db.dump import empty_database, load_dump, settle, write_dump
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
            now, versions = version_of(connection), _versions()
            newest = versions[-1]
            connection.commit()  # a snapshot held open would keep the tables from being changed
            if now is not None and now not in versions:
                raise DatabaseFailed(_NOT_OURS[now < OLDEST].format(now=now))
            if now == newest and fill is None:
                return
            copy = _copy(url, folder, now) if now is not None else None
            set_mark(folder, copy, is_first=now is None or fill is not None)
            if now != newest:
                upgrade(url)
            if fill is not None:
                fill()
            remove_mark(folder)
            if now not in (None, newest):
                say(f"Upgraded from table version {now} to {newest}. The copy made before is {copy}.")
    finally:
        engine.dispose()


def _versions() -> list[str]:
    """Every version of the tables, oldest first: the number that a migration's file name begins with."""
    return sorted(file.name.split("_")[0] for file in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def newest_version() -> str:
    """The version of the tables that this Good Crate needs."""
    return _versions()[-1]


def version_of(connection: Connection) -> str | None:
    """The version a database's tables are of; None when there are none."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    version: str | None = connection.scalar(text("SELECT version_num FROM alembic_version"))
    return version


def set_mark(folder: Path, copy: Path | None, *, is_first: bool, says: str = "") -> None:
    """From now on the next start puts a copy of the folder back (an empty database where there is none), until
    `remove_mark`; `says` is what it says then."""
    folder.mkdir(parents=True, exist_ok=True)
    fresh = folder / f"{MARK}.new"
    with open(fresh, "w", encoding="utf-8") as file:
        where = None if copy is None else str(copy.relative_to(folder))
        json.dump({"copy": where, "first": is_first, "says": says}, file)
        file.flush()
        os.fsync(file.fileno())
    fresh.rename(folder / MARK)
    settle(folder)


def remove_mark(folder: Path) -> None:
    """What was under way is done."""
    (folder / MARK).unlink()
    settle(folder)


def _put_back_if_cut_off(connection: Connection, url: str, folder: Path, say: Said) -> None:
    mark = folder / MARK
    if not mark.exists():
        return
    marked = json.loads(mark.read_text(encoding="utf-8"))
    empty_database(connection)
    if marked["copy"] is not None:
        load_dump(url, folder / (COPIES if "/" not in marked["copy"] else "") / marked["copy"])
    if marked.get("says"):
        say(marked["says"])
    elif marked["first"]:
        say("The first start was cut off before it was done: it begins again.")
    else:
        say("An upgrade was cut off. The copy made before it is back, nothing is lost; the upgrade begins again.")
    remove_mark(folder)


def _copy(url: str, folder: Path, revision: str) -> Path:
    """Everything in the database as one file of SQL, complete under its name or not there; old ones are let go."""
    place = folder / COPIES
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    whole = place / f"{revision}.sql"
    write_dump(url, whole)
    for old in sorted(place.glob("*.sql"), key=lambda p: p.stat().st_mtime)[:-MOST_COPIES]:
        old.unlink()
    return whole
