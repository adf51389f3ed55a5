"""Fifty people at once, on the same cores as the app: how long pages take, what fails, and how memory grows.

Each pauses 1 to 3 s after a page: of their requests a third are the week, the others the finder, a recipe, the pots,
and one in ten a pot opened, with an ingredient weighed or the batch begun.
"""

import asyncio
import os
import random
import re
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode
from uuid import uuid4

import httpx2

from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD

PEOPLE, PAUSE_S, SECONDS, WEIGHINGS = 50, 2.0, 60.0, 3600
ARRIVING_S = 20.0
"""They come one after another, and are timed once all are there."""
MONDAY = "2026-11-23"


@dataclass
class Crowd:
    """What was measured: milliseconds by kind of request, answers that were no good, and what was sent in all."""

    times_ms: dict[str, list[float]] = field(default_factory=dict)
    errors: list[str] = field(default_factory=list)
    sent: int = 0

    def all(self) -> list[float]:
        """Every request's time."""
        return [t for times in self.times_ms.values() for t in times]


@contextmanager
def started(processes: int) -> Iterator[tuple[str, int]]:
    """The start command on a demo of its own: its address and process id."""
    with tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        environment = os.environ | {
            "GOODCRATE_DATA_DIR": folder,
            "GOODCRATE_PORT": str(port),
            "GOODCRATE_PROCESSES": str(processes),
        }
        process = subprocess.Popen(
            [sys.executable, "-m", "goodcrate", "demo", "--today", MONDAY],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        address = ""
        for line in process.stdout or ():
            if found := re.search(r"(http://\S+?)/ ", line):
                address = found[1]
            if "Ctrl-C" in line:
                break
        try:
            yield address, process.pid
        finally:
            process.send_signal(signal.SIGTERM)
            process.communicate(timeout=60)


def answering(pid: int) -> list[int]:
    """The processes that answer, of a start command's."""
    pids = [pid]
    for entry in Path("/proc").iterdir():
        try:
            parent = int((entry / "stat").read_text().rsplit(")", 1)[1].split()[1])
            if parent == pid and "goodcrate.serving" in (entry / "cmdline").read_text():
                pids.append(int(entry.name))
        except (OSError, ValueError, IndexError):
            continue
    return pids[1:] or pids


def resident_mb(pid: int) -> list[float]:
    """Memory of the processes that answer, each in MB."""
    pids = answering(pid)
    return [int(re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{p}/status").read_text())[1]) / 1024 for p in pids]  # type: ignore[index]


def cpu_s(pids: Iterable[int]) -> float:
    """Seconds of a core that processes have used so far, those of the system for them too."""
    told = [Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split() for pid in pids]
    return sum(int(fields[11]) + int(fields[12]) for fields in told) / os.sysconf("SC_CLK_TCK")


def _token(html: str) -> str:
    found = re.search(r'name="csrf" value="([^"]+)"', html)
    assert found is not None
    return found[1]


async def signed_in(client: httpx2.AsyncClient) -> str:
    """Sign a client in; answers the token of its forms."""
    door = _token((await client.get("/sign-in")).text)
    form = {"csrf": door, "name": SIGN_IN_NAME, "password": SIGN_IN_PASSWORD}
    return _token((await client.post("/sign-in", data=form, follow_redirects=True)).text)


async def person(n: int, address: str, since: float, until: float, crowd: Crowd) -> None:
    """One cook at the app: pages of the week, the finder, a pot, an ingredient weighed, with a pause after each."""
    dice = random.Random(n)
    async with httpx2.AsyncClient(base_url=address, follow_redirects=True, timeout=30) as client:
        await asyncio.sleep(n / PEOPLE * ARRIVING_S)

        async def timed(kind: str, method: str, url: str, **sent: object) -> str:
            began = time.perf_counter()
            try:
                answer = await client.request(method, url, **sent)  # type: ignore[arg-type]
                if answer.status_code >= 400:
                    crowd.errors.append(f"{kind} {answer.status_code}")
                text: str = answer.text
            except httpx2.TransportError as error:
                crowd.errors.append(f"{kind} {type(error).__name__}")
                text = ""
            if time.perf_counter() > since:
                crowd.times_ms.setdefault(kind, []).append((time.perf_counter() - began) * 1000)
            return text

        csrf = await signed_in(client)
        week = await timed("week", "GET", f"/week/{MONDAY}")
        boxes = re.findall(r'href="(/week/[^"]+\?box=[^"]+)"', week)
        pots = re.findall(r'href="(/cook/2026-11-23/[0-9a-f-]{36})"', await timed("cook", "GET", "/cook"))
        recipes = re.findall(r'href="(/recipes/[0-9a-f-]{36})"', await timed("recipes", "GET", "/recipes"))
        while time.perf_counter() < until:
            await asyncio.sleep(PAUSE_S * (0.5 + dice.random()))
            what = dice.random()
            if what < 0.35:
                await timed("week", "GET", dice.choice(boxes).replace("&amp;", "&"))
            elif what < 0.5:
                letters = dice.choice(("bar", "oat", "tom", "len", "sal"))
                await timed("finder", "GET", f"/foods?part=rows&q={letters}")
            elif what < 0.7:
                await timed("recipe", "GET", dice.choice(recipes))
            elif what < 0.9:
                await timed("portion", "GET", f"/portion/{MONDAY}")
            else:
                pot = dice.choice(pots)
                page = await timed("pot", "GET", pot)
                lines = re.findall(rf'action="({re.escape(pot)}/lines/[0-9a-f-]+)"', page)
                if lines:
                    fields = {"csrf": csrf, "event": str(uuid4()), "net": f"{dice.randint(5, 60)} g"}
                    await timed("weigh", "POST", dice.choice(lines), data=fields)
                else:
                    await timed("start a batch", "POST", f"{pot}/start", data={"csrf": csrf})


async def weigh_often(address: str, count: int) -> None:
    """So many weighings, one after another in four hands."""

    async def hand(n: int) -> None:
        async with httpx2.AsyncClient(base_url=address, follow_redirects=False, timeout=30) as client:
            csrf = await signed_in(client)
            home = (await client.get("/cook", follow_redirects=True)).text
            pots = re.findall(r'href="(/cook/2026-11-23/[0-9a-f-]{36})"', home)
            lines: list[str] = []
            for pot in pots[n::4]:  # one whose ingredients are all weighed shows no lines
                await client.post(f"{pot}/start", data={"csrf": csrf})
                lines = re.findall(rf'action="({re.escape(pot)}/lines/[0-9a-f-]+)"', (await client.get(pot)).text)
                if lines:
                    break
            for m in range(count // 4):
                form = urlencode({"csrf": csrf, "event": str(uuid4()), "net": f"{5 + m % 40} g"})
                headers = {"content-type": "application/x-www-form-urlencoded"}
                await client.post(lines[m % len(lines)], content=form, headers=headers)

    await asyncio.gather(*(hand(n) for n in range(4)))


async def fifty(address: str, seconds: float) -> Crowd:
    """Everybody at once, for so long."""
    crowd = Crowd()
    since = time.perf_counter() + 1.2 * ARRIVING_S
    await asyncio.gather(*(person(n, address, since, since + seconds, crowd) for n in range(PEOPLE)))
    return crowd


def measure_crowd(seconds: float = SECONDS, weighings: int = WEIGHINGS) -> None:
    """Print what fifty people see with one process and with two, and what the memory does."""
    for processes, wanted in ((1, "p95 under 600 ms"), (2, "p95 under 400 ms")):
        with started(processes) as (address, pid):
            at_first = resident_mb(pid)
            crowd = asyncio.run(fifty(address, seconds))
            times = crowd.all()
            p95 = statistics.quantiles(times, n=20)[18]
            print(
                f"  {PEOPLE} people, {processes} process{'es' if processes > 1 else ''}, {seconds:.0f} s: "
                f"{len(times)} requests, median {statistics.median(times):.0f} ms, p95 {p95:.0f} ms, "
                f"{len(crowd.errors)} errors   wanted: {wanted}, 0 errors"
            )
            for kind, took in sorted(crowd.times_ms.items()):
                if len(took) > 1:
                    slow = statistics.quantiles(took, n=20)[18]
                    print(
                        f"      {kind:<22} {len(took):5} median {statistics.median(took):5.0f} ms   p95 {slow:5.0f} ms"
                    )
            for error in sorted(set(crowd.errors))[:5]:
                print(f"      {crowd.errors.count(error)} × {error}")
            after_crowd = resident_mb(pid)
            memory = [f"{sum(at_first):.0f} MB at first", f"{sum(after_crowd):.0f} after the crowd"]
            if processes == 1 and weighings:
                asyncio.run(weigh_often(address, weighings))
                memory.append(f"{sum(resident_mb(pid)):.0f} after {weighings} weighings")
                asyncio.run(fifty(address, seconds))
                memory.append(f"{sum(resident_mb(pid)):.0f} after the crowd again")
            print(f"      memory: {', '.join(memory)}   wanted: under 300 MB, flat afterwards")


if __name__ == "__main__":
    measure_crowd(
        float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS, int(sys.argv[2]) if len(sys.argv) > 2 else WEIGHINGS
    )
