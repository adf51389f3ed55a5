"""Killing the app and the database right after acknowledged weighings, spoons and ticks loses nothing."""

import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from uuid import uuid4

import httpx2
import pytest

from goodcrate.db.migrate import MARK
from goodcrate.demo.recipes import RECIPES
from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from tests.conftest import text_of

DEMO = [sys.executable, "-m", "goodcrate", "demo", "--today", "2026-11-23"]


def begun(data_dir: Path, command: Sequence[str] = DEMO, **settings: str) -> subprocess.Popen[str]:
    """The real start command on its real, durable settings."""
    environment = os.environ | {"GOODCRATE_DATA_DIR": str(data_dir), "GOODCRATE_PORT": str(port()), **settings}
    return subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


@contextmanager
def crate_demo(
    data_dir: Path, command: Sequence[str] = DEMO, **settings: str
) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """The start command once it answers, and its address."""
    process = begun(data_dir, command, **settings)
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


def cooking(client: httpx2.Client, csrf: str) -> tuple[str, str]:
    """Begin the demo's session: where it is cooked, and the step that is in hand."""
    sheet = re.search(r'href="(/cook/2026-11-23/sheet/[^"]+)"', client.get("/cook").text)
    assert sheet is not None
    client.post(sheet[1], data={"csrf": csrf, "id": str(uuid4())})
    now = sheet[1].replace("/sheet/", "/now/")
    for _ in range(600):
        client.post(f"{sheet[1]}/begin", data={"csrf": csrf})
        page = client.get(now)
        if page.status_code == 200:
            return now, re.findall(r'name="step" value="([^"]+)"', page.text)[0]
        time.sleep(0.2)
    raise AssertionError("the run sheet was not made")


def told_of(page: str) -> tuple[str, list[str]]:
    """Until when the step in hand runs by the kitchen's page, and the steps that are in hand and next."""
    until = re.search(r"until (\d\d:\d\d)", page)
    assert until is not None
    return until[1], re.findall(r'name="step" value="([^"]+)"', page)


def spooned(client: httpx2.Client, csrf: str) -> str:
    """The address at which spoons of some ingredient are counted."""
    for there in re.findall(r'href="(/cook/2026-11-23/[0-9a-f-]+)"', client.get("/cook/2026-11-23").text):
        client.post(f"{there}/start", data={"csrf": csrf})
        if found := re.search(r'action="(/cook/[^"]+/spoon)"', client.get(there).text):
            return found[1]
    raise AssertionError("nothing is counted in spoons")


def box_on_bench(client: httpx2.Client) -> tuple[str, str]:
    """The demo's weighed pot, and where its first box is filled."""
    pot = re.search(r'href="(/portion/2026-11-23/[^"]+)"[^>]*>\s*<b>swede mash', client.get("/portion/2026-11-23").text)
    assert pot is not None
    box = re.search(rf'action="({pot[1]}/boxes/[0-9a-f-]+)"', client.get(pot[1]).text)
    assert box is not None
    return pot[1], box[1]


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
            line[1], data={"csrf": csrf, "net": "641 g", "sure": "641 g", "event": str(uuid4())}, follow_redirects=False
        )
        now, step = cooking(client, csrf)
        spoon = spooned(client, csrf)
        tapped = [client.post(spoon, data={"csrf": csrf, "spoon": "teaspoon", "event": str(uuid4())}) for _ in range(2)]
        said = {"csrf": csrf, "step": step, "kind": "more", "event": str(uuid4())}
        ticked = client.post(f"{now}/steps", data=said, follow_redirects=False)
        shown = told_of(client.get(now).text)
        bench, box = box_on_bench(client)
        filled = {"csrf": csrf, "net_g": "231.0", "scale_tare": "94", "event": str(uuid4())}
        accepted = client.post(box, data=filled, follow_redirects=False)
        os.kill(process.pid, signal.SIGKILL)
        os.kill(database, signal.SIGKILL)
        assert answer.status_code == ticked.status_code == accepted.status_code == 303
        assert [one.status_code for one in tapped] == [200, 200]
        process.wait(60)
        client.close()
    with crate_demo(data_dir) as (_, address):
        client, _csrf = signed_in(address)
        page = client.get(pot[1]).text
        assert re.search(r"weighed</span>\s*<span class=\"num ok\">641<", page)
        assert "2 tsp" in client.get(spoon.partition("/lines/")[0]).text
        assert told_of(client.get(now).text) == shown
        assert "231 g ✓" in text_of(client.get(bench).text), "a box the scale had accepted"
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


def eventually(is_so: Callable[[], object]) -> None:
    """Wait as long as a busy machine takes; five minutes is never."""
    for _ in range(3000):
        if is_so():
            return
        time.sleep(0.1)
    raise AssertionError("it never came about")


def killed(process: subprocess.Popen[str], data_dir: Path) -> None:
    """Kill -9 for the app and its database."""
    process.kill()
    with suppress(OSError, ValueError):
        os.kill(mariadb_pid(data_dir), signal.SIGKILL)
    process.communicate()


def test_a_first_start_killed_anywhere_begins_again(tmp_path: Path) -> None:
    """Killed while tables are made, and again while the demo is put in: the third start has all of it."""
    data_dir, mark = tmp_path / "demo", tmp_path / "demo" / MARK
    for is_filling in (False, True):
        process = begun(data_dir)
        eventually(lambda: mark.exists() and (not is_filling or json.loads(mark.read_text() or "{}").get("copy")))  # noqa: B023
        killed(process, data_dir)
        assert mark.exists()
    with crate_demo(data_dir) as (_, address):
        client, _csrf = signed_in(address)
        assert "54 of 56 placed" in client.get("/week").text
        assert len(set(re.findall(r'href="/recipes/([0-9a-f-]{36})"', client.get("/recipes").text))) >= len(RECIPES)
        client.close()
    assert not mark.exists()


def test_a_database_that_dies_is_back_and_the_page_says_so(tmp_path: Path) -> None:
    """Two processes answer; neither the database's end nor one process' takes the app down."""
    data_dir = tmp_path / "demo"
    with crate_demo(data_dir, GOODCRATE_PROCESSES="2") as (process, address):
        client, _csrf = signed_in(address)
        os.kill(mariadb_pid(data_dir), signal.SIGKILL)
        answer = client.get("/week")
        if answer.status_code != 200:  # a quick restart may have been quicker
            assert answer.status_code == 503
            assert "database is away" in answer.text
            assert "what you typed is still in its form" in answer.text
            assert answer.headers["content-security-policy"]
        eventually(lambda: client.get("/week").status_code == 200)
        answering = children(process.pid, "goodcrate.serving")
        assert len(answering) == 2
        os.kill(answering[0], signal.SIGKILL)
        eventually(lambda: _answers(client))
        eventually(lambda: len(children(process.pid, "goodcrate.serving")) == 2)
        client.close()


def _answers(client: httpx2.Client) -> bool:
    with suppress(httpx2.TransportError):
        return client.get("/week").status_code == 200
    return False


def children(pid: int, words: str) -> list[int]:
    """Running processes that one began, by words of their command."""
    found = []
    for entry in Path("/proc").iterdir():
        with suppress(OSError, ValueError):
            parent = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
            if parent == pid and words in (entry / "cmdline").read_text():
                found.append(int(entry.name))
    return found


IN_A_SMALL_ROOM = ["unshare", "-m", "sh", "-c", 'mount -t tmpfs -o size=420m tmpfs "$0" && exec "$@"']


def test_a_full_disk_is_said_and_room_made_later_is_enough(tmp_path: Path) -> None:
    data_dir = tmp_path / "demo"
    data_dir.mkdir()
    if subprocess.run([*IN_A_SMALL_ROOM, str(data_dir), "true"], check=False, capture_output=True).returncode != 0:
        pytest.skip("no file system of our own can be mounted here")
    with crate_demo(data_dir, [*IN_A_SMALL_ROOM, str(data_dir), *DEMO]) as (process, address):
        room = Path(f"/proc/{process.pid}/root{data_dir}")
        client, csrf = signed_in(address)
        fill = room / "fill"
        with suppress(OSError), open(fill, "wb", buffering=0) as file:
            while True:
                file.write(b"x" * 65_536)
        upload = {"file": ("many.csv", MANY.encode(), "text/csv")}
        answers = set()
        for _ in range(40):
            with suppress(httpx2.TransportError):
                answer = client.post(
                    "/foods/files", data={"csrf": csrf, "id": str(uuid4())}, files=upload, follow_redirects=False
                )
                answers.add(answer.status_code)
            if 503 in answers:
                break
        assert answers & {503}, answers  # full: it says so
        assert 500 not in answers
        fill.unlink()

        def is_taken() -> bool:
            return (
                client.post(
                    "/foods/files", data={"csrf": csrf, "id": str(uuid4())}, files=upload, follow_redirects=False
                ).status_code
                == 303
            )

        eventually(is_taken)
        assert "54 of 56 placed" in client.get("/week").text
        client.close()


MANY = "name,kcal,protein_g,fat_g,carbohydrate_g,group\n" + "".join(
    f"Barley no {n},340,10,2,70,grain\n" for n in range(20_000)
)
"""A file of about 700 kB."""
