"""The embedded MariaDB: a private server with its own data folder, on loopback, started and stopped by us."""

import errno
import fcntl
import hashlib
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, Any

import pymysql
from sqlalchemy.engine import URL

DURABLE = ["--innodb-flush-log-at-trx-commit=1", "--innodb-doublewrite=1", "--innodb-buffer-pool-size=256M"]
"""An acknowledged weighing survives kill -9 and a power cut."""
FAST = [
    "--innodb-flush-log-at-trx-commit=0",
    "--innodb-doublewrite=0",
    "--innodb-flush-method=nosync",
    "--innodb-fast-shutdown=2",
    "--innodb-buffer-pool-dump-at-shutdown=0",
    "--innodb-buffer-pool-load-at-startup=0",
]
"""For throw-away test servers only: loses acknowledged rows on kill -9."""

_COMMON = [
    "--bind-address=127.0.0.1",
    "--skip-name-resolve",
    "--skip-log-bin",
    "--max-allowed-packet=64M",
    "--default-time-zone=+00:00",
    "--character-set-server=utf8mb4",
    "--collation-server=utf8mb4_unicode_ci",
    "--sql-mode=STRICT_ALL_TABLES,ONLY_FULL_GROUP_BY,ERROR_FOR_DIVISION_BY_ZERO,NO_ZERO_DATE,NO_ZERO_IN_DATE,"
    "NO_ENGINE_SUBSTITUTION",
]
DATABASE, ACCOUNT = "goodcrate", "goodcrate"
LEAST_FREE_MB, LEAST_FREE_FIRST_MB = 16, 400
"""Free space without which a start is refused: to go on, and to make the folder (a fresh one takes about 200 MB)."""
LONGEST_WAIT_S = 30.0
"""Between tries to start a database that ended: 1 s at first, doubled up to this."""


class DatabaseFailed(RuntimeError):
    """The embedded database cannot be made or started; the message says why and where its log is."""


def free_port() -> int:
    """A TCP port on loopback that is free at this moment."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


def _os_user() -> str:
    """The account we really run as; LOGNAME may say otherwise."""
    return pwd.getpwuid(os.getuid()).pw_name


LEFTOVER_TOLD = ((5.0, signal.SIGTERM), (30.0, signal.SIGTERM), (60.0, signal.SIGKILL))
"""After so many seconds a server that a killed app left behind is told to end."""


class EmbeddedServer:
    """One MariaDB server on one data folder. `start` makes the folder when it is absent."""

    def __init__(self, folder: Path, *, durable: bool = True) -> None:
        self.folder = folder.resolve()
        self._options = DURABLE if durable else FAST
        self._process: subprocess.Popen[bytes] | None = None
        self._lock: IO[str] | None = None
        self._ends = threading.Event()
        self._turn = threading.Lock()
        self.port = 0
        # A socket path may hold 107 characters, a checkout's path more: the socket lives in a short private folder.
        mark = hashlib.sha256(str(self.folder).encode()).hexdigest()[:12]
        self.run_dir = Path(tempfile.gettempdir()) / f"goodcrate-{os.getuid()}-{mark}"
        self.socket = self.run_dir / "m.sock"

    @property
    def pid(self) -> int | None:
        """Process id of the running server."""
        return self._process.pid if self._process else None

    @property
    def url(self) -> str:
        """SQLAlchemy address of the app's database, with its password."""
        password = (self.folder / "app-password").read_text().strip()
        query = {"unix_socket": str(self.socket), "charset": "utf8mb4"}
        address = URL.create("mariadb+pymysql", ACCOUNT, password, "localhost", database=DATABASE, query=query)
        return address.render_as_string(hide_password=False)

    def start(self) -> None:
        """Start and wait until it answers.

        Raises:
            DatabaseFailed: when the programs are missing, the folder is in use, or the server exits.
        """
        with _said_in_one_line(self.folder):
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._take_lock()
        try:
            with _said_in_one_line(self.folder):
                self._look_for_room()
                self.run_dir.mkdir(exist_ok=True, mode=0o700)
            if self.run_dir.stat().st_uid != os.getuid():
                raise DatabaseFailed(f"{self.run_dir} belongs to somebody else.")
            self._ends.clear()
            self._start_locked()
        except BaseException:
            self.stop()
            raise

    def _start_locked(self) -> None:
        if not (self.folder / "data" / "mysql").is_dir():
            self._install()
        self._wait_for_leftover()
        for attempt in range(3):
            self._launch()
            if self._wait_until_ready():
                break
            if attempt == 2:
                raise DatabaseFailed(f"MariaDB did not start. Its last words:\n{self._log_tail()}")
        self._make_app_account()

    def _look_for_room(self) -> None:
        """Write a little, and see what is free."""
        least = LEAST_FREE_MB if (self.folder / "data" / "mysql").is_dir() else LEAST_FREE_FIRST_MB
        free = shutil.disk_usage(self.folder).free // 1_000_000
        if free < least:
            raise DatabaseFailed(
                f"The disk of {self.folder} has {free} MB free, {least} MB are needed: free some, then start again."
            )
        probe = self.folder / "probe"
        with open(probe, "wb") as file:
            file.write(b"x" * 65_536)
            file.flush()
            os.fsync(file.fileno())
        probe.unlink()

    def keep_running(self, say: Callable[[str], object]) -> None:
        """Start the server again whenever it ends by itself, waiting longer from try to try, until `stop`.

        Call it in a thread that lives as long as the app: the kernel ends a server with the thread that started it.
        """
        wait = 1.0
        while not self._ends.wait(0.25):
            if self._process is None or self._process.poll() is None:
                continue
            say("The database ended by itself; it is started again.")
            while not self._ends.wait(wait):
                with self._turn:
                    if self._ends.is_set():
                        return
                    with suppress(OSError, DatabaseFailed):
                        self._launch()
                        if self._wait_until_ready():
                            say("The database is back.")
                            wait = 1.0
                            break
                wait = min(2 * wait, LONGEST_WAIT_S)
                say(
                    f"The database does not start yet; next try in {wait:.0f} s. Its log: {self.folder / 'mariadb.log'}"
                )

    def stop(self) -> None:
        """Stop cleanly; safe to call twice. A server that hangs is ended after 20 s."""
        self._ends.set()
        with self._turn:
            self._stop()

    def _stop(self) -> None:
        if self._lock is None:
            return  # never ours: the folder and its socket are somebody's who runs
        process, self._process = self._process, None
        if process is not None and process.poll() is None:
            process.send_signal(signal.SIGTERM)  # it ignores SIGINT
            try:
                process.wait(20)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
        shutil.rmtree(self.run_dir, ignore_errors=True)
        self._lock.close()
        self._lock = None

    def _take_lock(self) -> None:
        self._lock = locked(self.folder)

    def _install(self) -> None:
        tool = shutil.which("mariadb-install-db")
        if tool is None:
            raise DatabaseFailed(
                "mariadb-install-db is missing: install Debian's mariadb-server-core and mariadb-client."
            )
        for left in self.folder.glob("data.new*"):
            shutil.rmtree(left, ignore_errors=True)
        # A name of its own: the installation of a start that was killed may still be writing to its own folder.
        fresh = self.folder / f"data.new-{secrets.token_hex(4)}"
        user = _os_user()
        done = subprocess.run(
            [
                tool,
                "--no-defaults",
                f"--datadir={fresh}",
                f"--user={user}",
                "--auth-root-authentication-method=socket",
                f"--auth-root-socket-user={user}",
                "--skip-test-db",
                "--skip-name-resolve",
            ],
            check=False,
            capture_output=True,
            text=True,
            # A starting server clears its folder for temporary tables: two that are installed at once would clear
            # each other's.
            env={**os.environ, "TMPDIR": str(self.run_dir)},
        )
        if done.returncode != 0:
            raise DatabaseFailed(f"mariadb-install-db failed:\n{done.stdout[-600:]}{done.stderr[-600:]}")
        fresh.rename(self.folder / "data")  # a folder that was half made is never taken for a whole one

    def _wait_for_leftover(self) -> None:
        """After kill -9 of the app its server is told to stop by the kernel; give it time to finish.

        One that was still starting may not have heard it: it is told again, and ended when that does not help. It is
        ours, for this folder is locked by us; what it had acknowledged is on the disk.
        """
        pid_file = self.folder / "mariadb.pid"
        began, told = time.monotonic(), 0
        while True:
            try:
                pid = int(pid_file.read_text())
                words = Path(f"/proc/{pid}/cmdline").read_bytes()
                if b"mariadbd" not in words or f"--datadir={self.folder / 'data'}".encode() not in words:
                    return  # an old number that another process has now
                waited = time.monotonic() - began
                if told < len(LEFTOVER_TOLD) and waited > LEFTOVER_TOLD[told][0]:
                    os.kill(pid, LEFTOVER_TOLD[told][1])
                    told += 1
            except (OSError, ValueError):
                return
            if waited > LEFTOVER_TOLD[-1][0] + 10:
                raise DatabaseFailed(f"An earlier MariaDB (process {pid}) still runs on {self.folder}. End it first.")
            time.sleep(0.05)

    def _launch(self) -> None:
        self.port = free_port()
        program = shutil.which("mariadbd") or "/usr/sbin/mariadbd"
        if not Path(program).exists():
            raise DatabaseFailed("mariadbd is missing: install Debian's mariadb-server-core.")
        guard = ["setpriv", "--pdeathsig", "TERM"] if shutil.which("setpriv") else []
        with open(self.folder / "mariadb.log", "ab") as log:
            self._process = subprocess.Popen(
                [
                    *guard,
                    program,
                    "--no-defaults",
                    f"--datadir={self.folder / 'data'}",
                    f"--user={_os_user()}",
                    f"--socket={self.socket}",
                    f"--pid-file={self.folder / 'mariadb.pid'}",
                    f"--tmpdir={self.run_dir}",
                    f"--port={self.port}",
                    *_COMMON,
                    *self._options,
                ],
                stdout=log,
                stderr=log,
                start_new_session=True,
            )

    def _wait_until_ready(self) -> bool:
        assert self._process is not None
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline and self._process.poll() is None and not self._ends.is_set():
            try:
                with socket.socket(socket.AF_UNIX) as probe:  # the driver leaves its own socket open when refused
                    probe.connect(str(self.socket))
                self._connect_as_owner().close()
            except (OSError, pymysql.Error):
                time.sleep(0.02)
            else:
                return True
        return False

    def _connect_as_owner(self) -> "pymysql.Connection[Any]":
        return pymysql.connect(unix_socket=str(self.socket), user=_os_user(), connect_timeout=2, autocommit=True)

    def _make_app_account(self) -> None:
        secret = self.folder / "app-password"
        if secret.exists():
            return
        password = secrets.token_urlsafe(24)
        connection = self._connect_as_owner()
        with connection, connection.cursor() as cursor:
            cursor.execute(f"CREATE DATABASE IF NOT EXISTS {DATABASE}")
            for host in ("localhost", "127.0.0.1"):  # socket and loopback are different accounts
                cursor.execute(f"CREATE OR REPLACE USER '{ACCOUNT}'@'{host}' IDENTIFIED BY '{password}'")
                cursor.execute(f"GRANT ALL ON {DATABASE}.* TO '{ACCOUNT}'@'{host}'")
        handle = os.open(secret, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(password)

    def _log_tail(self) -> str:
        try:
            return (self.folder / "mariadb.log").read_text(errors="replace")[-800:]
        except OSError:
            return "(no log)"


def locked(folder: Path) -> IO[str]:
    """The folder's lock, held until it is closed.

    Raises:
        DatabaseFailed: when somebody holds it.
    """
    lock = open(folder / "lock", "a")  # noqa: SIM115 - held until stop
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        lock.close()
        raise DatabaseFailed(f"Good Crate is already running on {folder}. Stop it first.") from None
    return lock


@contextmanager
def _said_in_one_line(folder: Path) -> Iterator[None]:
    """A folder that cannot be written to, as one sentence that says what to do."""
    try:
        yield
    except OSError as error:
        why = {
            errno.ENOSPC: "its disk is full: free some space, then start again.",
            errno.EDQUOT: "its disk quota is used up: free some space, then start again.",
            errno.EROFS: "its disk is read-only: mount it writable, or set GOODCRATE_DATA_DIR to another folder.",
            errno.EACCES: "we may not write there: change its owner, or set GOODCRATE_DATA_DIR to another folder.",
        }.get(error.errno or 0, f"{error.strerror}.")
        raise DatabaseFailed(f"Nothing can be written to {folder}: {why}") from None


@contextmanager
def running(server: EmbeddedServer) -> Iterator[EmbeddedServer]:
    """Start a server for the length of a block."""
    server.start()
    try:
        yield server
    finally:
        server.stop()
