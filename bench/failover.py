"""Three database servers, two web processes, a worker and a proxy under load; in the middle one server and one web
process are killed. Was anything lost that had been acknowledged, and how long was nobody served?"""

import asyncio
import random
import statistics
import sys
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from uuid import UUID, uuid4

import httpx2

from bench.cluster import Node, Site, missing_packages, site
from bench.crowd import MONDAY, Crowd
from bench.households import AS_BROWSERS, Hands, Sign, some_households
from goodcrate.db.session import Database

HOUSEHOLDS, SECONDS, PAUSE_S = 12, 60.0, 2.0
TRIES, BETWEEN_S = 40, 0.5
"""A form that was not answered is sent again, with the same id, so often and after so long."""
LEAVES_A_ROW = {"tick: eaten", "tick: list", "weigh", "accept", "archive"}
"""What is stored under the id that was sent with it."""


@dataclass
class Answer:
    """One request as its sender saw it; times by the clock of this process."""

    kind: str
    began: float
    ended: float
    is_good: bool


@dataclass
class Seen:
    """What all senders saw: every answer, and the ids of writes that were acknowledged, with when."""

    answers: list[Answer] = field(default_factory=list)
    acknowledged: dict[UUID, tuple[str, float]] = field(default_factory=dict)
    never: list[str] = field(default_factory=list)
    refused: Counter[str] = field(default_factory=Counter)


@dataclass
class Insisting(Hands):
    """A cook who sends again what was not answered."""

    seen: Seen = field(default_factory=Seen)

    async def timed(self, kind: str, method: str, url: str, /, **sent: str) -> str:
        """A page, or a form that is sent until it is answered."""
        event = uuid4()
        data = {"csrf": self.csrf, "event": str(event), "id": str(event), **sent} if method == "POST" else None
        for _ in range(TRIES):
            began, status, is_written, text = time.perf_counter(), 0, False, ""
            try:
                answer = await self.client.request(method, url, data=data)
                status, text = answer.status_code, answer.text
                is_written = method == "POST" and (bool(answer.history) or status < 300)
            except httpx2.TransportError:
                pass
            is_good = is_written or 0 < status < 500
            self.seen.answers.append(Answer(kind, began, time.perf_counter(), is_good))
            if is_good:
                if is_written and kind in LEAVES_A_ROW:
                    self.seen.acknowledged[event] = (kind, time.perf_counter())
                elif status >= 400:
                    self.seen.refused[f"{kind} {status}"] += 1
                return text
            await asyncio.sleep(BETWEEN_S)
        self.seen.never.append(kind)
        return ""

    async def act(self) -> None:
        """One thing of many; now and then an archive, which a worker makes."""
        what = self.dice.random()
        if what < 0.03:
            await self.timed("archive", "POST", "/archive/make")
        elif what < 0.5 and self.ticks:
            await self.timed("tick: list", "POST", f"/shop/{MONDAY}/ticks", tick=self.dice.choice(self.ticks))
        elif what < 0.6:
            await self.read_and_eat()
        else:
            await super().act()


async def _household(sign: Sign, n: int, address: str, until: float, seen: Seen) -> None:
    async with httpx2.AsyncClient(base_url=address, follow_redirects=True, timeout=30, limits=AS_BROWSERS) as client:
        await asyncio.sleep(n * 0.5)
        hands = Insisting(client, Crowd(), random.Random(n), seen=seen)
        await hands.come_in(sign)
        while time.perf_counter() < until:
            await asyncio.sleep(PAUSE_S * (0.5 + hands.dice.random()))
            await hands.act()


async def _load(address: str, signs: list[Sign], until: float, seen: Seen) -> None:
    await asyncio.gather(*(_household(sign, n, address, until, seen) for n, sign in enumerate(signs)))


def missing_on(node: Node, ids: list[UUID]) -> list[UUID]:
    """Which of these ids no table of a server has."""
    tables = node.said(
        "SELECT table_name, data_type FROM information_schema.columns "
        "WHERE table_schema = 'goodcrate' AND column_name = 'id' AND data_type IN ('uuid', 'char', 'binary')"
    )
    left = set(ids)
    for table, kind in tables:
        if left:
            words = ", ".join(f"'{one if kind == 'uuid' else one.hex}'" for one in left)
            found = node.said(f"SELECT id FROM `{table}` WHERE id IN ({words})")  # noqa: S608 — our own ids
            left -= {UUID(str(row[0])) for row in found}
    return sorted(left)


def measure_failover(seconds: float = SECONDS) -> None:
    """Print what was lost, and how long nobody was served."""
    if missing := missing_packages():
        print(f"  left out: needs Debian's {', '.join(missing)}")
        return
    signs: list[Sign] = []

    def fill(database: Database) -> None:
        signs.extend(some_households(database, HOUSEHOLDS))

    with site(MONDAY, fill) as there:
        seen, began = Seen(), time.perf_counter()
        killed: list[float] = []

        def kill() -> None:
            there.nodes[0].kill()
            there.webs[0].kill()
            killed.append(time.perf_counter())

        timer = threading.Timer(seconds / 2, kill)
        timer.start()
        asyncio.run(_load(there.address, signs, began + seconds, seen))
        timer.join()
        _report(there, seen, killed[0])


def _report(there: Site, seen: Seen, killed: float) -> None:
    took = [(answer.ended - answer.began) * 1000 for answer in seen.answers if answer.ended < killed]
    print(
        f"  {HOUSEHOLDS} households on three nodes, two web processes and a worker: {len(seen.answers)} requests; "
        f"before the kill median {statistics.median(took):.0f} ms, p95 {statistics.quantiles(took, n=20)[18]:.0f} ms"
    )
    for name, is_write in (("pages and other forms", False), ("writes looked for", True)):
        ours = [a for a in seen.answers if (a.kind in LEAVES_A_ROW) is is_write]
        good = [a.ended - killed for a in ours if a.is_good and a.began > killed]
        bad = [a.ended - killed for a in ours if not a.is_good]
        slow = [a.ended - a.began for a in ours if a.ended > killed]
        print(
            f"      {name}: {len(bad)} unanswered, the last {max(bad, default=0):.1f} s after the kill; the first "
            f"answered after {min(good, default=0):.1f} s; none took longer than {max(slow, default=0):.1f} s   "
            "wanted: back within 10 s"
        )
    ids = list(seen.acknowledged)
    print(f"      acknowledged writes: {len(ids)} {dict(Counter(kind for kind, _ in seen.acknowledged.values()))}")
    print(f"      given up: {len(seen.never)}   refused: {dict(seen.refused)}")
    before = [one for one in ids if seen.acknowledged[one][1] < killed]
    print(f"      {len(before)} of them before the kill, {len(ids) - len(before)} after it")
    made_up = uuid4()
    for node in there.nodes[1:]:
        _say_lost(node, ids, made_up)
    first = there.nodes[0]
    again = time.perf_counter()
    first.start(",".join(node.address for node in there.nodes))
    print(f"      db1 started again: a whole part after {time.perf_counter() - again:.1f} s")
    _say_lost(first, ids, made_up)
    jobs = there.nodes[1].said("SELECT status, COUNT(*) FROM job WHERE kind = 'archive_out' GROUP BY status")
    print(f"      archives asked for, as their jobs ended: {dict(jobs)}")


def _say_lost(node: Node, ids: list[UUID], made_up: UUID) -> None:
    lost = missing_on(node, [*ids, made_up])
    assert made_up in lost  # what was never written is missed
    print(f"      lost on db{node.n}: {len(lost) - 1}   wanted: 0")


if __name__ == "__main__":
    measure_failover(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)
