"""Fifty households cooking at once, on the same cores as the app: they read their day, say what they ate, weigh in,
accept boxes and tick the list, each with three to nine seconds between (whoever cooks has both hands full)."""

import asyncio
import os
import random
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from io import BytesIO
from pathlib import Path
from uuid import uuid4

import httpx2

from bench.crowd import ARRIVING_S, MONDAY, Crowd, answering, cpu_s, resident_mb
from goodcrate.db.migrate import upgrade
from goodcrate.db.reports import database_status
from goodcrate.db.server import EmbeddedServer, free_port, running
from goodcrate.db.session import Database
from goodcrate.demo.load import load_demo
from goodcrate.services import people
from goodcrate.services.archive import work
from goodcrate.services.archive.export import write_archive

HOUSEHOLDS, SECONDS, PAUSE_S, ROUNDS = 50, 60.0, 6.0, 4
AS_BROWSERS = httpx2.Limits(keepalive_expiry=60)
"""A connection stays open while nothing is asked: browsers keep one for minutes, this client for five seconds."""
Sign = tuple[str, str]


def some_households(database: Database, count: int) -> list[Sign]:
    """The demo household, so often, each with somebody who signs in: names and passwords."""
    demo, file = load_demo(database, date.fromisoformat(MONDAY)), BytesIO()
    write_archive(demo, file)
    signs = []
    for n in range(count):
        beside = work.take_in(people.nobody(database), file, work.ARCHIVE_WINS)
        signs.append((f"cook-{n}", people.settle_in(beside, f"cook-{n}")))
    return signs


@dataclass(frozen=True)
class Served:
    """The start command at work: where it answers, its process and its database's, and who signs in."""

    address: str
    pid: int
    database_pid: int
    signs: list[Sign]
    megabytes: float


@contextmanager
def served(processes: int) -> Iterator[Served]:
    """The start command on a durable database with fifty households."""
    with tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder:
        port = free_port()
        with running(EmbeddedServer(Path(folder))) as server:
            upgrade(server.url)
            database = Database(server.url)
            signs = some_households(database, HOUSEHOLDS)
            megabytes = float(database_status(database.engine)["megabytes"])
            database.close()
            environment = os.environ | {
                "GOODCRATE_DATA_DIR": folder,
                "GOODCRATE_DATABASE_URL": server.url,
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
            for line in process.stdout or ():
                if "Ctrl-C" in line:
                    break
            try:
                yield Served(f"http://127.0.0.1:{port}", process.pid, server.pid or 0, signs, megabytes)
            finally:
                process.terminate()
                process.communicate(timeout=60)


@dataclass
class Hands:
    """One cook of a household of their own, signed in; what they do is timed once all are there."""

    client: httpx2.AsyncClient
    crowd: Crowd
    dice: random.Random
    is_timed: bool = False
    csrf: str = ""
    pots: tuple[str, ...] = ()
    ticks: tuple[str, ...] = ()

    async def timed(self, kind: str, method: str, url: str, /, **sent: str) -> str:
        """A page, or a form that is sent."""
        began, text = time.perf_counter(), ""
        data = {"csrf": self.csrf, "event": str(uuid4()), **sent} if method == "POST" else None
        try:
            answer = await self.client.request(method, url, data=data)
            text = answer.text
            if answer.status_code >= 400:
                self.crowd.errors.append(f"{kind} {answer.status_code}")
        except httpx2.TransportError as error:
            self.crowd.errors.append(f"{kind} {type(error).__name__}")
        self.crowd.sent += 1
        if self.is_timed:
            self.crowd.times_ms.setdefault(kind, []).append((time.perf_counter() - began) * 1000)
        return text

    async def come_in(self, sign: Sign) -> None:
        """Sign in, and see what there is to cook and to buy."""
        for form in ({}, {"name": sign[0], "password": sign[1]}):
            sent = {"csrf": self.csrf, **form}
            answer = await (self.client.post("/sign-in", data=sent) if form else self.client.get("/sign-in"))
            found = re.search(r'name="csrf" value="([^"]+)"', answer.text)
            assert found is not None
            self.csrf = found[1]
        cook, shop = await self.timed("cook", "GET", "/cook"), await self.timed("list", "GET", f"/shop/{MONDAY}")
        self.pots = tuple(sorted(set(re.findall(rf'href="(/cook/{MONDAY}/[0-9a-f-]{{36}})"', cook))))
        self.ticks = tuple(sorted(set(re.findall(r'name="tick"\s+value="([^"]+)"', shop))))

    async def read_and_eat(self) -> None:
        """Look at the day, and say what was eaten; or that it was not."""
        page = await self.timed("read: today", "GET", "/today")
        meals = re.findall(rf'action="(/today/{MONDAY}/[0-9a-f-]{{36}}/eaten)"', page)
        said = re.findall(rf'action="(/today/{MONDAY}/undo)".*?name="event" value="([^"]+)"', page, re.S)
        if meals:
            await self.timed("tick: eaten", "POST", self.dice.choice(meals), kind="eaten")
        elif said:
            await self.timed("tick: undo", "POST", said[0][0], event=said[0][1])

    async def weigh(self) -> None:
        """Weigh an ingredient in, or begin the batch."""
        pot = self.dice.choice(self.pots)
        page = await self.timed("read: pot", "GET", pot)
        lines = re.findall(rf'action="({re.escape(pot)}/lines/[0-9a-f-]+)".*?placeholder="([\d.,]+)', page, re.S)
        if lines:
            line, planned = self.dice.choice(lines)
            await self.timed("weigh", "POST", line, net=f"{planned.replace(',', '')} g")
        else:
            await self.timed("start a batch", "POST", f"{pot}/start")

    async def accept(self) -> None:
        """Accept a box at the bench."""
        pot = self.dice.choice(self.pots).replace("/cook/", "/portion/")
        page = await self.timed("read: bench", "GET", pot)
        boxes = re.findall(rf'action="({re.escape(pot)}/boxes/[0-9a-f-]+)"', page)
        if boxes:
            target = re.search(r'data-target="([\d.]+)"', page)
            await self.timed("accept", "POST", boxes[0], net_g=f"{target[1] if target else 300} g")

    async def act(self) -> None:
        """One thing of many."""
        what = self.dice.random()
        if what < 0.25:
            await self.timed("read: week", "GET", f"/week/{MONDAY}")
        elif what < 0.4:
            await self.read_and_eat()
        elif what < 0.5 and self.ticks:
            await self.timed("tick: list", "POST", f"/shop/{MONDAY}/ticks", tick=self.dice.choice(self.ticks))
        elif what < 0.75:
            await self.weigh()
        else:
            await self.accept()


async def household(sign: Sign, n: int, address: str, seconds: float, crowd: Crowd, there: asyncio.Barrier) -> None:
    """One household's cook, from the door until it is over: so many seconds once all are there."""
    async with httpx2.AsyncClient(base_url=address, follow_redirects=True, timeout=30, limits=AS_BROWSERS) as client:
        await asyncio.sleep(n / HOUSEHOLDS * ARRIVING_S)
        hands = Hands(client, crowd, random.Random(n))
        await hands.come_in(sign)
        await there.wait()
        hands.is_timed, until = True, time.perf_counter() + seconds
        while time.perf_counter() < until:
            await asyncio.sleep(PAUSE_S * (0.5 + hands.dice.random()))
            await hands.act()


async def _all(address: str, signs: list[Sign], seconds: float) -> Crowd:
    crowd, there = Crowd(), asyncio.Barrier(len(signs))
    await asyncio.gather(*(household(sign, n, address, seconds, crowd, there) for n, sign in enumerate(signs)))
    return crowd


def measure_households(seconds: float = SECONDS, processes: int = 2, rounds: int = ROUNDS) -> None:
    """Print what fifty households see, what it costs, and what memory does."""
    with served(processes) as there:
        memory = [sum(resident_mb(there.pid))]
        print(f"  {HOUSEHOLDS} households take {there.megabytes / HOUSEHOLDS:.2f} MB each in the database")
        for minute in range(1, rounds + 1):
            used = [cpu_s(answering(there.pid)), cpu_s([there.database_pid])]
            crowd = asyncio.run(_all(there.address, there.signs, seconds))
            app_s, database_s = cpu_s(answering(there.pid)) - used[0], cpu_s([there.database_pid]) - used[1]
            memory.append(sum(resident_mb(there.pid)))
            times, sent = crowd.all(), crowd.sent
            p95 = statistics.quantiles(times, n=20)[18]
            print(
                f"  {HOUSEHOLDS} households, {processes} processes, {seconds:.0f} s, time {minute}: "
                f"{len(times)} requests, median {statistics.median(times):.0f} ms, p95 {p95:.0f} ms, "
                f"{len(crowd.errors)} errors   wanted: p95 under 300 ms, 0 errors"
            )
            print(
                f"      of a core for each of {sent} requests since they came: app {1000 * app_s / sent:.0f} ms, "
                f"database {1000 * database_s / sent:.0f} ms"
            )
            for kind, took in sorted(crowd.times_ms.items()):
                if len(took) > 1:
                    slow = statistics.quantiles(took, n=20)[18]
                    print(
                        f"      {kind:<22} {len(took):5} median {statistics.median(took):5.0f} ms   p95 {slow:5.0f} ms"
                    )
            for error in sorted(set(crowd.errors))[:5]:
                print(f"      {crowd.errors.count(error)} × {error}")
        told = ", ".join(f"{mb:.0f}" for mb in memory)
        print(f"      memory of both processes: {told} MB at first and after each   wanted: flat afterwards")


if __name__ == "__main__":
    measure_households(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)
