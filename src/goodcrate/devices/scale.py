"""Kitchen scales: a stream of readings, and the few words a scale can be told.

A real scale goes in here: anything with `listen` and `tell`. What ships is a line protocol over TCP
(`docs/formats/scale-line.md`) and a simulated scale that speaks it (`goodcrate.devices.scale_service`). A scale that
cannot be reached, or sends what makes no sense, is a reading too: who listens is never left without one.
"""

import asyncio
from collections import deque
from collections.abc import AsyncGenerator, AsyncIterator
from contextlib import aclosing, asynccontextmanager, suppress
from typing import Protocol

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.portion.on_scale import GARBLED, GRAMS_IN, LOST, OVERLOADED, SWITCHED_OFF, ScaleReading

TARE, ZERO, ON = "tare", "zero", "on"
ASKS = (TARE, ZERO, ON)
"""What any scale can be told."""
LONGEST_LINE = 200
LAGS_BY = 20
"""So many readings wait for a listener that does not keep up."""
PATIENCE_S, AGAIN_S, SILENT_S = 2.0, 0.5, 3.0
"""How long an answer may take, after which a lost scale is tried again, and how long a live one may say nothing."""


class ScaleUnavailable(Exception):
    """The scale cannot be told anything now; `why` says so for the cook."""

    def __init__(self, why: str) -> None:
        self.why = why
        super().__init__(why)


class Scale(Protocol):
    """Anything that weighs. `pan` is whose scale: a household's id."""

    @property
    def has_pan(self) -> bool:
        """Whether things are put on it on the screen (a simulated one)."""

    def listen(self, pan: str) -> AsyncGenerator[ScaleReading]:
        """Its readings from now on, for as long as somebody listens."""

    async def tell(self, pan: str, words: str) -> None:
        """Tell it something, such as `tare`."""


class NoScale:
    """For a kitchen whose scale is read by eye: nothing is ever said."""

    has_pan = False

    async def listen(self, pan: str) -> AsyncGenerator[ScaleReading]:  # noqa: ARG002
        """No reading."""
        for reading in tuple[ScaleReading, ...]():
            yield reading

    async def tell(self, pan: str, words: str) -> None:  # noqa: ARG002
        """There is nobody to tell.

        Raises:
            ScaleUnavailable: always.
        """
        raise ScaleUnavailable(say("No scale is connected."))


def read_line(line: bytes) -> ScaleReading | None:
    """What a line of the protocol says, None for one that says nothing of a weight (a greeting, an answer).

    What makes no sense is a garbled reading, never a number.
    """
    words = line.decode("utf-8", "replace").split()
    match words[:1]:
        case [] | ["hello"] | ["ok"] | ["no"]:
            return None
        case ["off"]:
            return ScaleReading(None, state=SWITCHED_OFF)
        case ["over"]:
            return ScaleReading(None, state=OVERLOADED)
        case ["weight"]:
            try:
                return _weight(words)
            except (InvalidInput, ValueError, KeyError, OverflowError):
                pass
    return ScaleReading(None, state=GARBLED)


def _weight(words: list[str]) -> ScaleReading:
    _, figure, unit, steady, *more = words
    if steady not in ("stable", "moving"):
        raise ValueError(steady)
    extra = dict(word.split("=", 1) for word in more)
    in_g = GRAMS_IN[unit]
    tare_g = float(extra.get("tare", "0")) * in_g
    at_ms = int(extra["at"]) if "at" in extra else None
    return ScaleReading(round(float(figure) * in_g, 2), steady == "stable", round(tare_g, 2), at_ms=at_ms)


class _Line:
    """One connection to a scale, for all who listen to it or tell it something: many scales take no second one.

    Call it with a running loop. What is heard goes to every listener; who comes later hears the last at once.
    """

    def __init__(self, host: str, port: int, pan: str) -> None:
        self._host, self._port, self._pan = host, port, pan
        self._heard_by = set[asyncio.Queue[ScaleReading]]()
        self._last: ScaleReading | None = None
        self._writer: asyncio.StreamWriter | None = None
        self._is_there = asyncio.Event()
        self._asked = deque[asyncio.Future[bool]]()
        self.users = 0
        self.task = asyncio.create_task(self._keep())

    async def _keep(self) -> None:
        """Pass on what comes; `lost` once whenever the scale is gone, which is tried again until it is back."""
        while True:
            with suppress(OSError, TimeoutError):
                await self._read()
            self._pass_on(ScaleReading(None, state=LOST))
            await asyncio.sleep(AGAIN_S)

    async def _read(self) -> None:
        writer = None
        try:
            coming = asyncio.open_connection(self._host, self._port, limit=LONGEST_LINE)
            reader, writer = await asyncio.wait_for(coming, PATIENCE_S)
            writer.write(f"pan {self._pan}\n".encode())
            self._writer = writer
            self._is_there.set()
            while line := await asyncio.wait_for(_next_line(reader), SILENT_S):
                if line.startswith((b"ok", b"no")):
                    self._answered(is_ok=line.startswith(b"ok"))
                elif (reading := read_line(line)) is not None:
                    self._pass_on(reading)
        finally:
            self._is_there.clear()
            while self._asked:
                self._asked.popleft().cancel()
            await _hang_up(writer)

    def _answered(self, *, is_ok: bool) -> None:
        asked = self._asked.popleft() if self._asked else None
        if asked is not None and not asked.done():
            asked.set_result(is_ok)

    def _pass_on(self, reading: ScaleReading) -> None:
        self._last = reading
        for queue in self._heard_by:
            if queue.full():  # who does not keep up misses the oldest
                queue.get_nowait()
            queue.put_nowait(reading)

    async def listen(self) -> AsyncGenerator[ScaleReading]:
        queue: asyncio.Queue[ScaleReading] = asyncio.Queue(LAGS_BY)
        if self._last is not None:
            queue.put_nowait(self._last)
        self._heard_by.add(queue)
        try:
            while True:
                yield await queue.get()
        finally:
            self._heard_by.discard(queue)

    async def ask(self, words: str) -> bool | None:
        """Whether it said `ok`, None where it said nothing in time."""
        answer: asyncio.Future[bool] = asyncio.get_running_loop().create_future()
        with suppress(OSError):
            async with asyncio.timeout(PATIENCE_S):
                await self._is_there.wait()
                if self._writer is not None:
                    self._asked.append(answer)
                    self._writer.write(f"{words}\n".encode())
                    await asyncio.wait([answer])
        return answer.result() if answer.done() and not answer.cancelled() else None


class LineScale:
    """A scale behind `tcp://host:port` that speaks the line protocol; with a pan when it is the simulated one.

    Each pan has one connection, while anybody listens or asks. A real scale is one for all.

    Raises:
        ValueError: for an address that is none.
    """

    def __init__(self, address: str, *, has_pan: bool = False) -> None:
        host, _, port = address.removeprefix("tcp://").rpartition(":")
        if not address.startswith("tcp://") or not host or not port.isdigit():
            raise ValueError("a scale's address is tcp://host:port")
        self._host, self._port, self.has_pan = host, int(port), has_pan
        self._lines: dict[str, _Line] = {}

    @asynccontextmanager
    async def _line(self, pan: str) -> AsyncIterator[_Line]:
        key = pan if self.has_pan else ""
        line = self._lines.get(key)
        if line is None or line.task.done():
            line = self._lines[key] = _Line(self._host, self._port, pan)
        line.users += 1
        try:
            yield line
        finally:
            line.users -= 1
            if not line.users:
                line.task.cancel()
                if self._lines.get(key) is line:
                    del self._lines[key]

    async def listen(self, pan: str) -> AsyncGenerator[ScaleReading]:
        """Readings as they come; `lost` once whenever the scale is gone, which is tried again until it is back."""
        async with self._line(pan) as line, aclosing(line.listen()) as heard:
            async for reading in heard:
                yield reading

    async def tell(self, pan: str, words: str) -> None:
        """Say a line to it and wait for its `ok`.

        Raises:
            ScaleUnavailable: when it cannot be reached, does not answer, or says no.
        """
        async with self._line(pan) as line:
            is_ok = await line.ask(words)
        if is_ok is None:
            raise ScaleUnavailable(say("The scale does not answer."))
        if not is_ok:
            raise ScaleUnavailable(say("The scale does not do that now."))


async def _hang_up(writer: asyncio.StreamWriter | None) -> None:
    if writer is not None:
        writer.close()
        with suppress(OSError):
            await writer.wait_closed()


async def _next_line(reader: asyncio.StreamReader) -> bytes:
    """The next line, empty at the end. Of one that is too long the rest is passed over: it makes no sense."""
    try:
        return await reader.readuntil(b"\n")
    except asyncio.IncompleteReadError:
        return b""
    except asyncio.LimitOverrunError as error:
        await reader.readexactly(max(1, error.consumed))
        return b"?\n"


def scale_at(address: str | None) -> Scale:
    """The scale behind a setting's address; none without one. `simulated+tcp://…` is one with a pan on the screen.

    Raises:
        ValueError: for an address that is none.
    """
    if address in (None, "", "none"):
        return NoScale()
    marked, _, where = str(address).rpartition("+")
    return LineScale(where, has_pan=marked == "simulated")
