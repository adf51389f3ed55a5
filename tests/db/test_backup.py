"""The restore drill: a backup made while somebody writes, put back somewhere else, and every way it can be cut off."""

import gzip
import json
import threading
from collections.abc import Iterator
from datetime import date, datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import create_engine, text

from goodcrate.db import backup
from goodcrate.db.backup import DAILY, KEPT_DAYS, DailyCopies, copy_of_today, daily_copies, put_back
from goodcrate.db.dump import write_dump
from goodcrate.db.migrate import MARK, bring_up
from goodcrate.db.server import DatabaseFailed, EmbeddedServer
from goodcrate.db.session import Database
from goodcrate.services.calling import Caller
from tests.services.kitchen import furnish

NOW = datetime(2026, 11, 30, 12)
TODAY = date(2026, 11, 30)


def quiet(_: str) -> None:
    """Nobody listens."""


@pytest.fixture
def other(server: EmbeddedServer) -> Iterator[str]:
    """An empty database of its own on the same server."""
    name = f"goodcrate_drill_{threading.get_ident() % 100_000}"
    engine = create_engine(server.url)
    url = engine.url.set(database=name).render_as_string(hide_password=False)
    owner = server._connect_as_owner()
    with owner, owner.cursor() as cursor:
        cursor.execute(f"DROP DATABASE IF EXISTS {name}")
        cursor.execute(f"CREATE DATABASE {name}")
        for host in ("localhost", "127.0.0.1"):
            cursor.execute(f"GRANT ALL ON {name}.* TO 'goodcrate'@'{host}'")
        yield url
        engine.dispose()
        owner.ping()
        cursor.execute(f"DROP DATABASE {name}")


def counts(url: str) -> dict[str, int]:
    engine = create_engine(url)
    with engine.connect() as connection:
        tables = connection.scalars(text("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'")).all()
        found = {t: connection.scalar(text(f"SELECT COUNT(*) FROM `{t}`")) or 0 for t in tables}  # noqa: S608
    engine.dispose()
    return found


def test_a_backup_of_a_database_in_use_is_put_back_elsewhere(
    household: Caller, server: EmbeddedServer, other: str, tmp_path: Path
) -> None:
    furnish(household)
    ends = threading.Event()
    wrote = 0

    def writing() -> None:
        nonlocal wrote
        database = Database(server.url)
        while not ends.is_set():
            with database.engine.begin() as connection:  # two rows that belong together
                for key in ("a", "b"):
                    told = {"n": f"{key}{wrote}"}
                    connection.execute(
                        text("INSERT INTO sign_in_try VALUES (:n, 'drill', 1, '2026-11-30', '2026-11-30')"), told
                    )
            wrote += 1
        database.close()

    writer = threading.Thread(target=writing)
    writer.start()
    while wrote < 3:
        threading.Event().wait(0.01)
    place = tmp_path / "kitchen.sql.gz"
    write_dump(server.url, place)
    ends.set()
    writer.join()
    assert put_back(other, tmp_path, place, NOW, quiet) is None, "there was nothing to keep"
    there = counts(other)
    assert there["sign_in_try"] % 2 == 0, "of one moment"
    assert there["sign_in_try"] >= 6
    assert there["placement"] == counts(server.url)["placement"]
    engine = create_engine(other)
    with engine.connect() as connection:
        triggers = connection.execute(text("SHOW TRIGGERS")).all()
        number = connection.scalar(text("SELECT NEXTVAL(weighing_order)"))
    engine.dispose()
    assert len(triggers) >= 12
    assert number is not None
    assert oct(place.stat().st_mode)[-3:] == "600"


def test_what_was_there_is_kept_and_can_be_put_back(other: str, tmp_path: Path) -> None:
    bring_up(other, tmp_path, quiet)
    empty = tmp_path / "empty.sql.gz"
    write_dump(other, empty)
    engine = create_engine(other)
    with engine.begin() as connection:
        connection.execute(text("INSERT INTO sign_in_try VALUES ('x', 'drill', 1, '2026-11-30', '2026-11-30')"))
    before = put_back(other, tmp_path, empty, NOW, quiet)
    assert before is not None
    assert counts(other)["sign_in_try"] == 0
    put_back(other, tmp_path, before, NOW + timedelta(seconds=1), quiet)
    assert counts(other)["sign_in_try"] == 1
    engine.dispose()


def test_no_whole_backup_changes_nothing(other: str, tmp_path: Path) -> None:
    bring_up(other, tmp_path, quiet)
    whole = tmp_path / "whole.sql.gz"
    write_dump(other, whole)
    cut = tmp_path / "cut.sql.gz"
    cut.write_bytes(whole.read_bytes()[:-2000])
    short = tmp_path / "short.sql.gz"
    short.write_bytes(gzip.compress(gzip.decompress(whole.read_bytes())[:-400]))
    none = tmp_path / "none.sql"
    none.write_text("a letter")
    there = counts(other)
    for place in (cut, short, none, tmp_path / "nowhere.sql"):
        with pytest.raises(DatabaseFailed):
            put_back(other, tmp_path, place, NOW, quiet)
        assert counts(other) == there
        assert not (tmp_path / MARK).exists()


def test_one_that_cannot_be_run_leaves_what_was_there(other: str, tmp_path: Path) -> None:
    bring_up(other, tmp_path, quiet)
    there = counts(other)
    wrong = tmp_path / "wrong.sql"
    wrong.write_text("CREATE TABLE half (id INT);\nTHIS IS NO SQL;\n-- Dump completed\n")
    with pytest.raises(DatabaseFailed):
        put_back(other, tmp_path, wrong, NOW, quiet)
    assert counts(other) == there


def test_a_restore_that_was_cut_off_is_undone_by_the_next_start(
    other: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bring_up(other, tmp_path, quiet)
    there = counts(other)
    whole = tmp_path / "whole.sql.gz"
    write_dump(other, whole)

    def killed(url: str, place: Path) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(backup, "load_dump", killed)
    with pytest.raises(KeyboardInterrupt):
        put_back(other, tmp_path, whole, NOW, quiet)
    assert counts(other) == {}
    assert "says" in json.loads((tmp_path / MARK).read_text())
    said: list[str] = []
    bring_up(other, tmp_path, said.append)
    assert counts(other) == there
    assert "A restore was cut off" in said[0]


def test_the_app_keeps_a_copy_of_each_of_seven_days(server: EmbeddedServer, tmp_path: Path) -> None:
    for n in range(KEPT_DAYS + 2):
        assert copy_of_today(server.url, tmp_path, TODAY + timedelta(days=n)) is not None
    assert copy_of_today(server.url, tmp_path, TODAY + timedelta(days=KEPT_DAYS + 1)) is None, "one a day"
    kept = [copy.name for copy in daily_copies(tmp_path)]
    assert kept == [f"{TODAY + timedelta(days=n)}.sql.gz" for n in range(2, KEPT_DAYS + 2)]


def test_a_copy_that_cannot_be_made_leaves_the_others_and_is_said(
    server: EmbeddedServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    copy_of_today(server.url, tmp_path, TODAY)
    wrong = create_engine(server.url).url.set(database="nowhere").render_as_string(hide_password=False)
    said: list[str] = []
    monkeypatch.setattr(backup, "FIRST_LOOK_S", 0.0)
    copies = DailyCopies(wrong, tmp_path, said.append, lambda: TODAY + timedelta(days=1))
    copies.start()
    while not said:
        threading.Event().wait(0.01)
    copies.stop()
    assert "could not be made" in said[0]
    assert [copy.name for copy in daily_copies(tmp_path)] == [f"{TODAY}.sql.gz"]
    assert not list((tmp_path / DAILY).glob("*.part"))
