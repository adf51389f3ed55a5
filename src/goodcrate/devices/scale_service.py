"""The simulated kitchen scale: a small TCP service of its own that speaks the scale's line protocol.

    python -m goodcrate.devices.scale_service [port [--with-starter]]

It settles as a real one does, and can be told to drift, tremble, never stand still, send nonsense, fall silent, switch
itself off or drop its line (`docs/formats/scale-line.md`). Each named pan is a scale of its own. It prints its address
when it listens; with --with-starter it ends when its input does.
"""

import asyncio
import os
import random
import signal
import sys
import threading
import time
from collections import OrderedDict
from contextlib import suppress
from math import exp, isfinite

TICK_S = 0.1
SETTLES_S = 0.12
"""Time constant of the pan's spring: within a gram of a full box after about 0.7 s."""
STANDS_FOR = 5
"""So many readings alike, half a second, and it stands still."""
MOST_G, STEP_G = 5000.0, 1.0
OFF_AFTER_S = 300.0
"""A scale that nobody touches switches itself off."""
MOST_PANS = 200
CALM, TREMBLES, DRIFTS, RESTLESS, NONSENSE, SILENT = "calm", "trembles", "drifts", "restless", "nonsense", "silent"
MODES = (CALM, TREMBLES, DRIFTS, RESTLESS, NONSENSE, SILENT)
GARBAGE = (
    "weight NaN g stable",
    "weight 1e9 g stable",
    "weight -1e9 g stable",
    "weight g",
    "wäight 12 g stable",
    "\x00ÿ",
)


class Pan:
    """One simulated scale: what lies on it in g, what its spring shows, its tare and its manners."""

    def __init__(self, seed: int = 0) -> None:
        self.load_g = self.spring_g = self.tare_g = self.drift_g = 0.0
        self.pours_g, self.per_s = 0.0, 0.0
        self.mode, self.is_on = CALM, True
        self._alike, self._last, self._touched_s = 0, 0.0, 0.0
        self._random = random.Random(seed)  # noqa: S311 — a tremble, not a secret
        self._garbage = 0

    def tell(self, words: list[str]) -> bool:
        """Do what a line says; False for what it does not know or cannot do now."""
        match words:
            case ["tare"] if self.is_on and self.load_g <= MOST_G:
                self.tare_g = self._in_steps(self.load_g + self.drift_g)
            case ["zero"] if self.is_on:
                self.tare_g, self.drift_g = 0.0, -self.load_g
            case ["on"]:
                self.is_on, self.tare_g, self.drift_g = True, 0.0, 0.0
            case ["off"]:
                self.is_on = False
            case ["mode", mode] if mode in MODES:
                self.mode, self.drift_g = mode, 0.0
            case ["put", grams]:
                return self._put(self.load_g + _number(grams))
            case ["load", grams]:
                return self._put(_number(grams))
            case ["pour", grams, per_s]:
                self.pours_g, self.per_s = max(0.0, _number(grams)), max(1.0, _number(per_s))
            case ["clear"]:
                return self._put(0.0)
            case _:
                return False
        self._touched_s = 0.0
        return True

    def _put(self, grams: float) -> bool:
        if not isfinite(grams):
            return False
        self.load_g, self.pours_g, self._touched_s = min(max(0.0, grams), 2 * MOST_G), 0.0, 0.0
        return True

    def _in_steps(self, grams: float) -> float:
        return round(grams / STEP_G) * STEP_G

    def tick(self, seconds: float = TICK_S) -> str | None:
        """Let some time go by; the line it then sends, None when it says nothing."""
        if self.pours_g > 0:
            now_g = min(self.pours_g, self.per_s * seconds)
            self.load_g, self.pours_g, self._touched_s = self.load_g + now_g, self.pours_g - now_g, 0.0
        self.spring_g += (self.load_g - self.spring_g) * (1 - exp(-seconds / SETTLES_S))
        self._touched_s += seconds
        if self._touched_s > OFF_AFTER_S:
            self.is_on = False
        if not self.is_on:
            return "off"
        if self.mode == SILENT:
            return None
        if self.mode == NONSENSE:
            self._garbage += 1
            return GARBAGE[self._garbage % len(GARBAGE)]
        if self.spring_g > MOST_G:
            return f"over max={MOST_G:.0f}"
        return self._weight(seconds)

    def _weight(self, seconds: float) -> str:
        noise_g = {TREMBLES: 1.2, RESTLESS: 3.0}.get(self.mode, 0.0)
        if self.mode == DRIFTS:
            self.drift_g += 0.4 * seconds
        shown = self._in_steps(self.spring_g + self.drift_g + self._random.uniform(-noise_g, noise_g)) - self.tare_g
        self._alike = self._alike + 1 if abs(shown - self._last) <= STEP_G else 0
        self._last = shown
        stands = self._alike >= STANDS_FOR and self.mode != RESTLESS
        at = int(time.time() * 1000)
        return f"weight {shown + 0.0:.1f} g {'stable' if stands else 'moving'} tare={self.tare_g:.1f} at={at}"


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        return float("nan")


class ScaleService:
    """The service on one loopback port: pans by name, each ticking while the service runs."""

    def __init__(self) -> None:
        self.pans: OrderedDict[str, Pan] = OrderedDict()
        self._lines: dict[str, set[asyncio.StreamWriter]] = {}
        self._away_until: dict[str, float] = {}
        self._all: set[asyncio.StreamWriter] = set()
        self._server: asyncio.Server | None = None

    async def start(self, port: int = 0) -> int:
        """Listen; the port."""
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", port, limit=1000)
        self._ticking = asyncio.create_task(self._tick())
        return int(self._server.sockets[0].getsockname()[1])

    async def stop(self) -> None:
        """Hang up on everybody and end."""
        self._ticking.cancel()
        if self._server is not None:
            self._server.close()
        open_ = list(self._all)
        for writer in open_:
            writer.close()
        await asyncio.gather(*(writer.wait_closed() for writer in open_), return_exceptions=True)
        while self._all:  # whoever answered them has noticed
            await asyncio.sleep(0.01)

    def pan(self, name: str) -> Pan:
        """The scale of this name, a new one when nobody used it yet; the one unused for longest gives way."""
        if name not in self.pans:
            self.pans[name] = Pan()
            while len(self.pans) > MOST_PANS:
                self.pans.popitem(last=False)
        self.pans.move_to_end(name)
        return self.pans[name]

    async def _tick(self) -> None:
        while True:
            await asyncio.sleep(TICK_S)
            for name, pan in list(self.pans.items()):
                line = pan.tick()
                for writer in list(self._lines.get(name, ())):
                    if line is not None and writer.transport.get_write_buffer_size() < 10_000:
                        writer.write(f"{line}\n".encode())

    def _drop(self, name: str, away_s: float = 0.0) -> None:
        self._away_until[name] = time.monotonic() + away_s
        for writer in self._lines.pop(name, set()):
            writer.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        name = ""
        self._all.add(writer)
        writer.write(f"hello scale 1 max={MOST_G:.0f} step={STEP_G:.0f}\n".encode())
        with suppress(OSError, ValueError, asyncio.IncompleteReadError):
            while line := await reader.readline():
                words = line.decode("utf-8", "replace").split()
                if words[:1] == ["pan"] and len(words) == 2:
                    self._lines.get(name, set()).discard(writer)
                    name = words[1][:60]
                    self.pan(name)
                    if time.monotonic() < self._away_until.get(name, 0.0):
                        break
                    self._lines.setdefault(name, set()).add(writer)
                elif words[:1] == ["drop"] and name:
                    writer.write(b"ok\n")
                    self._drop(name, _number(words[1]) if len(words) > 1 else 0.0)
                    break
                elif words and name:
                    writer.write(b"ok\n" if self.pan(name).tell(words) else b"no\n")
        self._lines.get(name, set()).discard(writer)
        writer.close()
        with suppress(OSError):
            await writer.wait_closed()
        self._all.discard(writer)


class _InThread:
    """The service in a thread of this process, for tests and measurements."""

    def __init__(self) -> None:
        self.service = ScaleService()
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._loop.run_forever, daemon=True)

    def __enter__(self) -> str:
        self._thread.start()
        port = asyncio.run_coroutine_threadsafe(self.service.start(), self._loop).result(10)
        return f"tcp://127.0.0.1:{port}"

    def __exit__(self, *_: object) -> None:
        asyncio.run_coroutine_threadsafe(self.service.stop(), self._loop).result(10)
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(10)
        self._loop.close()


def in_thread() -> _InThread:
    """A context with the service on a free port; its address."""
    return _InThread()


async def _serve_until_told() -> None:
    service, ends = ScaleService(), asyncio.Event()
    port = await service.start(int(sys.argv[1]) if len(sys.argv) > 1 else 0)
    loop = asyncio.get_running_loop()
    loop.add_signal_handler(signal.SIGTERM, ends.set)
    loop.add_signal_handler(signal.SIGINT, lambda: None)  # Ctrl-C goes to the app, which then ends this service
    if "--with-starter" in sys.argv:  # even one that is killed closes its end of our input

        def wait_for_end() -> None:
            while os.read(0, 1024):
                pass
            loop.call_soon_threadsafe(ends.set)

        threading.Thread(target=wait_for_end, daemon=True).start()
    print(f"tcp://127.0.0.1:{port}", flush=True)
    await ends.wait()
    await service.stop()


def main() -> None:
    """Serve until told to stop."""
    asyncio.run(_serve_until_told())


if __name__ == "__main__":
    main()
