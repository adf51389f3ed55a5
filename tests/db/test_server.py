"""The embedded MariaDB: one server a folder, nothing left behind, nothing reachable from outside."""

import os
import stat
from pathlib import Path

import pymysql
import pytest

from goodcrate.db.server import ACCOUNT, DatabaseFailed, EmbeddedServer, running


def test_a_folder_is_served_once_and_restarts_with_its_data(tmp_path: Path) -> None:
    with running(EmbeddedServer(tmp_path / "db", durable=False)) as server:
        with pytest.raises(DatabaseFailed, match="already running"):
            EmbeddedServer(tmp_path / "db").start()
        with pymysql.connect(unix_socket=str(server.socket), user=ACCOUNT, password=password(server)) as connection:
            connection.cursor().execute("CREATE TABLE goodcrate.kept (id INT)")
        pid = server.pid
    assert not server.run_dir.exists()
    assert pid is not None
    assert not Path(f"/proc/{pid}").exists()
    with (
        running(EmbeddedServer(tmp_path / "db", durable=False)) as again,
        pymysql.connect(unix_socket=str(again.socket), user=ACCOUNT, password=password(again)) as connection,
    ):
        cursor = connection.cursor()
        cursor.execute("SHOW TABLES FROM goodcrate")
        assert cursor.fetchall() == (("kept",),)
        cursor.execute("SELECT @@bind_address, @@sql_mode")
        address, mode = cursor.fetchall()[0]
        assert address == "127.0.0.1"
        assert "STRICT_ALL_TABLES" in mode


def password(server: EmbeddedServer) -> str:
    return (server.folder / "app-password").read_text()


def test_the_password_is_for_the_owner_alone_and_needed(tmp_path: Path) -> None:
    with running(EmbeddedServer(tmp_path / "db", durable=False)) as server:
        assert stat.S_IMODE(os.stat(server.folder / "app-password").st_mode) == 0o600
        for way in ({"unix_socket": str(server.socket)}, {"host": "127.0.0.1", "port": server.port}):
            with pytest.raises(pymysql.err.OperationalError, match="Access denied"):
                pymysql.connect(user=ACCOUNT, password="wrong", **way)
        with pymysql.connect(host="127.0.0.1", port=server.port, user=ACCOUNT, password=password(server)) as connection:
            cursor = connection.cursor()
            cursor.execute("SHOW DATABASES")
            assert ("mysql",) not in cursor.fetchall()


def test_a_server_that_cannot_start_says_why(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("goodcrate.db.server.shutil.which", lambda _: None)
    with pytest.raises(DatabaseFailed, match="mariadb-install-db is missing"):
        EmbeddedServer(tmp_path / "db").start()


def test_a_long_path_still_has_a_short_socket(tmp_path: Path) -> None:
    deep = tmp_path / ("a" * 60) / ("b" * 60)
    assert len(str(EmbeddedServer(deep).socket)) < 100
