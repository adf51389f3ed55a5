"""Killing the app and the database right after an acknowledged weighing loses nothing."""

import os
import re
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import uuid4

import httpx2

from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD


@contextmanager
def crate_demo(data_dir: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """The real start command on its real, durable settings."""
    environment = os.environ | {"GOODCRATE_DATA_DIR": str(data_dir), "GOODCRATE_PORT": str(port())}
    process = subprocess.Popen(
        [sys.executable, "-m", "goodcrate", "demo", "--today", "2026-11-23"],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    said: list[str] = []
    address = None
    for line in process.stdout:
        said.append(line)
        if found := re.search(r"(http://\S+?)/ ", line):
            address = found[1]
        if "Ctrl-C" in line:
            break
    assert address is not None, "".join(said)
    yield process, address
    if process.poll() is None:
        process.send_signal(signal.SIGINT)
        process.wait(120)
    process.stdout.close()


def port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def signed_in(address: str) -> tuple[httpx2.Client, str]:
    client = httpx2.Client(base_url=address, follow_redirects=True, timeout=120)
    token = re.search(r'name="csrf" value="([^"]+)"', client.get("/sign-in").text)
    assert token is not None
    form = {"csrf": token[1], "name": SIGN_IN_NAME, "password": SIGN_IN_PASSWORD}
    page = client.post("/sign-in", data=form).text
    token = re.search(r'name="csrf" value="([^"]+)"', page)
    assert token is not None
    return client, token[1]


def mariadb_pid(data_dir: Path) -> int:
    return int((data_dir / "mariadb.pid").read_text())


def is_running(pid: int) -> bool:
    try:
        return "mariadbd" in Path(f"/proc/{pid}/cmdline").read_text()
    except OSError:
        return False


def test_an_acknowledged_weighing_survives_kill_nine(tmp_path: Path) -> None:
    data_dir = tmp_path / "demo"
    with crate_demo(data_dir) as (process, address):
        client, csrf = signed_in(address)
        pot = re.search(r'href="(/cook/2026-11-23/[^"]+)"><b>soaked rye', client.get("/cook").text)
        assert pot is not None
        client.post(f"{pot[1]}/start", data={"csrf": csrf})
        line = re.search(rf'action="({pot[1]}/lines/[0-9a-f-]+)"', client.get(pot[1]).text)
        assert line is not None
        database = mariadb_pid(data_dir)
        answer = client.post(
            line[1], data={"csrf": csrf, "net": "641 g", "event": str(uuid4())}, follow_redirects=False
        )
        os.kill(process.pid, signal.SIGKILL)
        os.kill(database, signal.SIGKILL)
        assert answer.status_code == 303
        process.wait(60)
        client.close()
    with crate_demo(data_dir) as (_, address):
        client, _csrf = signed_in(address)
        page = client.get(pot[1]).text
        assert re.search(r"weighed</span>\s*<span class=\"num ok\">641<", page)
        client.close()
        database = mariadb_pid(data_dir)
        assert is_running(database)
    assert not is_running(database), "Ctrl-C stops the database too"


def test_killing_the_app_alone_takes_its_database_with_it(tmp_path: Path) -> None:
    data_dir = tmp_path / "demo"
    with crate_demo(data_dir) as (process, _):
        database = mariadb_pid(data_dir)
        os.kill(process.pid, signal.SIGKILL)
        process.wait(60)
        for _attempt in range(600):
            if not is_running(database):
                break
            time.sleep(0.1)
        assert not is_running(database)
    with crate_demo(data_dir) as (process, address):
        client, _csrf = signed_in(address)
        assert "54 of 56 placed" in client.get("/week").text  # the second start kept the data
        client.close()
        process.send_signal(signal.SIGTERM)  # a polite end is an end like Ctrl-C
        assert process.wait(120) == 0
        assert not list(data_dir.glob("mariadb.pid"))
