"""The embedded MariaDB: one server a folder, nothing left behind, nothing reachable from outside."""

import errno
import os
import signal
import stat
import subprocess
import sys
import threading
import time
from pathlib import Path

import pymysql
import pytest
import typer

from goodcrate import cli
from goodcrate.db.server import ACCOUNT, DatabaseFailed, EmbeddedServer, locked, running


def test_a_folder_is_served_once_and_restarts_with_its_data(tmp_path: Path) -> None:
    with running(EmbeddedServer(tmp_path / "db", durable=False)) as server:
        with pytest.raises(DatabaseFailed, match="already running"):
            EmbeddedServer(tmp_path / "db").start()
        with pymysql.connect(unix_socket=str(server.socket), user=ACCOUNT, password=password(server)) as connection:
            connection.cursor().execute("CREATE TABLE goodcrate.kept (id INT)")
        refused = EmbeddedServer(tmp_path / "db")
        with pytest.raises(DatabaseFailed, match="already running"):
            refused.start()
        refused.stop()  # whoever was refused takes nothing of the first one's with it
        with pymysql.connect(unix_socket=str(server.socket), user=ACCOUNT, password=password(server)) as connection:
            connection.cursor().execute("SELECT 1")
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


def test_an_installation_that_a_killed_start_left_behind_is_not_the_next_ones(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It may still be running, and write on: two in one folder spoil each other's tables."""
    install, folders = subprocess.run, list[str]()

    def killed_at_first(command: list[str], **options: object) -> object:
        folders.append(next(word for word in command if word.startswith("--datadir=")))
        if len(folders) == 1:
            Path(folders[0].removeprefix("--datadir=")).mkdir()
            raise KeyboardInterrupt
        return install(command, **options)  # type: ignore[call-overload]

    monkeypatch.setattr("goodcrate.db.server.subprocess.run", killed_at_first)
    with pytest.raises(KeyboardInterrupt):
        EmbeddedServer(tmp_path / "db").start()
    with running(EmbeddedServer(tmp_path / "db", durable=False)):
        first, second = folders
        assert first != second
        assert not list((tmp_path / "db").glob("data.new*"))


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


def test_an_old_process_number_that_is_somebody_elses_now_blocks_nothing(
    tmp_path: Path, server: EmbeddedServer
) -> None:
    """The number in the pid file is another MariaDB's, on another folder, or no MariaDB's at all."""
    for n, pid in enumerate((server.pid, os.getpid())):
        folder = tmp_path / f"{n}"
        with running(EmbeddedServer(folder, durable=False)):
            pass
        (folder / "mariadb.pid").write_text(str(pid))
        with running(EmbeddedServer(folder, durable=False)) as again:
            assert again.pid not in (None, pid)


def test_a_server_that_a_killed_app_left_behind_is_ended(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """One that does not hear the first word is ended for good; nobody has to look for its number."""
    told = ((0.1, signal.SIGTERM), (0.5, signal.SIGKILL))
    monkeypatch.setattr("goodcrate.db.server.LEFTOVER_TOLD", told)
    folder = tmp_path / "db"
    with running(EmbeddedServer(folder, durable=False)):
        pass
    deaf = "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print(1, flush=True); time.sleep(600)"
    command = [sys.executable, "-c", deaf, "mariadbd", f"--datadir={folder / 'data'}"]
    with subprocess.Popen(command, stdout=subprocess.PIPE) as left:
        assert left.stdout is not None
        left.stdout.readline()
        (folder / "mariadb.pid").write_text(str(left.pid))
        with running(EmbeddedServer(folder, durable=False)) as again:
            assert again.pid not in (None, left.pid)
        assert left.wait(60) == -signal.SIGKILL


def test_a_database_that_ends_is_started_again(tmp_path: Path) -> None:
    said: list[str] = []
    with running(EmbeddedServer(tmp_path / "db", durable=False)) as embedded:
        watcher = threading.Thread(target=embedded.keep_running, args=(said.append,))
        watcher.start()
        first = embedded.pid
        assert first is not None
        os.kill(first, signal.SIGKILL)
        while not said or said[-1] != "The database is back.":
            time.sleep(0.05)
        assert embedded.pid not in (None, first)
        with pymysql.connect(unix_socket=str(embedded.socket), user=ACCOUNT, password=password(embedded)) as connection:
            connection.cursor().execute("SELECT 1")
    watcher.join(60)
    assert not watcher.is_alive()
    assert said[0] == "The database ended by itself; it is started again."


@pytest.mark.parametrize(
    ("number", "words"),
    [(errno.ENOSPC, "its disk is full"), (errno.EROFS, "its disk is read-only"), (errno.EACCES, "we may not write")],
)
def test_a_folder_that_takes_nothing_in_is_said_in_one_line(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int, words: str
) -> None:
    def refuse(*_: object) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr("goodcrate.db.server.os.fsync", refuse)
    with pytest.raises(DatabaseFailed, match=words) as refused:
        EmbeddedServer(tmp_path / "db").start()
    assert "\n" not in str(refused.value)
    monkeypatch.undo()
    monkeypatch.setattr("goodcrate.db.server.LEAST_FREE_FIRST_MB", 10**9)
    with pytest.raises(DatabaseFailed, match="MB are needed"):
        EmbeddedServer(tmp_path / "db").start()


def test_the_demo_is_not_forgotten_while_it_runs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("goodcrate.cli.CHECKOUT", tmp_path)
    folder = tmp_path / "var" / "demo"
    folder.mkdir(parents=True)
    with locked(folder), pytest.raises(typer.Exit):
        cli.forget_demo()
    assert folder.exists()
    cli.forget_demo()
    assert not folder.exists()
    cli.forget_demo()


def test_servers_that_are_made_at_once_do_not_clear_each_others_folders(tmp_path: Path) -> None:
    failed: list[BaseException] = []

    def make(name: str) -> None:
        try:
            with running(EmbeddedServer(tmp_path / name, durable=False)):
                pass
        except DatabaseFailed as error:
            failed.append(error)

    makers = [threading.Thread(target=make, args=(f"db{n}",)) for n in range(4)]
    for maker in makers:
        maker.start()
    for maker in makers:
        maker.join()
    assert failed == []
