"""More of what the tests do a little of: requests by chance over every route, and starts killed at any moment."""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import date
from pathlib import Path

from fastapi.testclient import TestClient

from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.demo.load import load_demo
from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from goodcrate.services.jobs import process
from goodcrate.settings import Settings
from goodcrate.web.app import create_app
from tests.conftest import sign_in
from tests.hostile import Generator, routes_of, walk

MONDAY = date(2026, 11, 23)


def measure_requests(count: int = 12_000, seed: int = 2026) -> None:
    """Print how many of so many requests by chance were answered how; none may be 500."""
    process.launch = lambda *_: None
    with (
        tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder,
        running(EmbeddedServer(Path(folder), durable=False)) as server,
    ):
        upgrade(server.url)
        database = Database(server.url)
        load_demo(database, MONDAY)
        app = create_app(database, Settings(data_dir=Path(folder)), clock=lambda: MONDAY)
        with TestClient(app, base_url="http://localhost", raise_server_exceptions=False) as client:
            cook = sign_in(client, SIGN_IN_NAME, SIGN_IN_PASSWORD)
            generator = Generator(routes_of(app), seed)
            walk(generator, lambda url: client.get(url).text, 120)
            answers, slowest = Counter[int](), (0.0, "")
            for request in generator.requests(count, cook.csrf):
                data: dict[str, list[str]] = {}
                for name, value in request.fields:
                    data.setdefault(name, []).append(value)
                files = None if request.file is None else {"file": ("a.json", request.file)}
                began = time.perf_counter()
                answer = client.request(
                    request.method, request.url, data=data or None, files=files, follow_redirects=False
                )
                slowest = max(slowest, (time.perf_counter() - began, request.said()[:100]))
                answers[answer.status_code] += 1
                if answer.headers.get("location") == "/sign-in" and "/first-run" not in request.url:
                    cook = sign_in(client, SIGN_IN_NAME, SIGN_IN_PASSWORD)
                    print(f"      signed out by {request.said()[:200]}")
                if answer.status_code >= 500:
                    print(f"      {answer.status_code}: {request.said()[:300]}")
            print(f"  {count} requests by chance: {dict(sorted(answers.items()))}   wanted: no 500")
            print(f"      the slowest took {slowest[0]:.1f} s: {slowest[1]}")


@contextmanager
def _begun(folder: str) -> Iterator["subprocess.Popen[str]"]:
    environment = os.environ | {"GOODCRATE_DATA_DIR": folder, "GOODCRATE_PORT": "18090"}
    process = subprocess.Popen(
        [sys.executable, "-m", "goodcrate", "demo", "--today", MONDAY.isoformat()],
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    try:
        yield process
    finally:
        process.kill()
        with suppress(OSError, ValueError):
            os.kill(int((Path(folder) / "mariadb.pid").read_text()), signal.SIGKILL)
        process.communicate()


def measure_kills(rounds: int = 10, seed: int = 7) -> None:
    """Print how many first starts, each killed twice at a moment by chance, come up whole at the third."""
    dice = random.Random(seed)
    whole = 0
    for _ in range(rounds):
        with tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder:
            for _kill in range(2):
                with _begun(folder):
                    time.sleep(dice.uniform(0.5, 8))
            with _begun(folder) as process:
                said = []
                for line in process.stdout or ():
                    said.append(line)
                    if "Ctrl-C" in line:
                        whole += 1
                        break
                else:
                    print("      " + "".join(said[-3:]))
    print(f"  {rounds} first starts killed twice at any moment: {whole} came up at the third   wanted: all")


if __name__ == "__main__":
    measure_requests(int(sys.argv[1]) if len(sys.argv) > 1 else 12_000)
    measure_kills(int(sys.argv[2]) if len(sys.argv) > 2 else 10)
