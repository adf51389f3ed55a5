"""The scale's line protocol and the simulated scale: whatever is sent, a reading comes of it that can be believed."""

import asyncio
from collections.abc import Awaitable, Callable, Iterator
from contextlib import aclosing, suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.portion.on_scale import GARBLED, LIVE, LOST, OVERLOADED, SWITCHED_OFF, ScaleReading
from goodcrate.devices.scale import LineScale, NoScale, ScaleUnavailable, read_line, scale_at
from goodcrate.devices.scale_service import MODES, NONSENSE, OFF_AFTER_S, RESTLESS, SILENT, TREMBLES, Pan, in_thread

Heard = Callable[[ScaleReading], bool]


def test_a_line_is_read_with_its_unit_and_its_tare() -> None:
    assert read_line(b"weight 186.4 g stable tare=94.0 at=17\n") == ScaleReading(186.4, True, 94.0, at_ms=17)
    assert read_line(b"weight 10 oz moving") == ScaleReading(283.5, False)
    assert read_line(b"weight -94 g stable") == ScaleReading(-94.0, True)
    assert read_line(b"over max=5000") == ScaleReading(None, state=OVERLOADED)
    assert read_line(b"off") == ScaleReading(None, state=SWITCHED_OFF)
    assert read_line(b"hello scale 1 max=5000 step=1") is None
    assert read_line(b"ok") is None


@pytest.mark.parametrize(
    "line",
    [
        b"weight NaN g stable",
        b"weight inf g stable",
        b"weight 1e9 g stable",
        b"weight -1e9 g stable",
        b"weight 5 stone stable",
        b"weight 5 g",
        b"weight 5 g still",
        b"weight 5 g stable tare=NaN",
        b"weight 5 g stable tare",
        b"\xff\xfe",
        b"wait",
        b"weight " + b"9" * 5000 + b" g stable",
        b"weight 5 g stable at=1e5",
    ],
)
def test_what_makes_no_sense_is_no_number(line: bytes) -> None:
    assert read_line(line) == ScaleReading(None, state=GARBLED)


@given(st.binary(max_size=120))
def test_any_bytes_are_a_reading_or_nothing(line: bytes) -> None:
    reading = read_line(line)
    assert reading is None or reading.grams is None or abs(reading.grams) <= 40_000


def lines(pan: Pan, seconds: float) -> list[ScaleReading]:
    said = (pan.tick() for _ in range(round(seconds * 10)))
    return [reading for line in said if line is not None and (reading := read_line(line.encode())) is not None]


def test_a_pan_settles_on_what_lies_on_it_and_tares() -> None:
    pan = Pan()
    assert pan.tell(["put", "94"])
    first, *_, last = lines(pan, 3)
    assert not first.is_stable
    assert last == ScaleReading(94.0, True, 0.0, at_ms=last.at_ms)
    assert pan.tell(["tare"])
    assert pan.tell(["pour", "255", "100"])
    rising = [r.grams or 0.0 for r in lines(pan, 2)]
    assert rising == sorted(rising)
    assert lines(pan, 3)[-1].grams == 255
    assert pan.tell(["clear"])
    assert lines(pan, 3)[-1].grams == -94


def test_it_has_the_faults_of_a_real_one() -> None:
    pan = Pan(seed=7)
    pan.tell(["load", "200"])
    lines(pan, 3)
    assert pan.tell(["mode", RESTLESS])
    assert not any(r.is_stable for r in lines(pan, 60)), "unstable for ever"
    pan.tell(["mode", TREMBLES])
    assert all(abs((r.grams or 0) - 200) <= 2 for r in lines(pan, 10))
    pan.tell(["mode", "drifts"])
    drifted = [r.grams or 0.0 for r in lines(pan, 20)]
    assert drifted[-1] - drifted[0] >= 5
    pan.tell(["mode", NONSENSE])
    assert {r.state for r in lines(pan, 5)} == {GARBLED}
    pan.tell(["mode", SILENT])
    assert lines(pan, 5) == []
    pan.tell(["mode", "calm"])
    pan.tell(["load", "6000"])
    assert lines(pan, 3)[-1].state == OVERLOADED
    assert not pan.tell(["tare"])
    pan.tell(["load", "100"])
    assert lines(pan, OFF_AFTER_S + 5)[-1].state == SWITCHED_OFF
    assert not pan.tell(["zero"])
    assert pan.tell(["on"])
    assert lines(pan, 3)[-1].state == LIVE
    for nonsense in (["put", "NaN"], ["load", "inf"], ["mode", "dances"], ["jump"], [], ["put"]):
        assert not pan.tell(nonsense)
    assert len(MODES) == 6


@pytest.fixture(scope="module")
def scale() -> Iterator[LineScale]:
    with in_thread() as address:
        yield LineScale(address, has_pan=True)


async def until(scale: LineScale, pan: str, found: Heard) -> ScaleReading:
    """The first reading of a kind; the others before it do not matter."""
    async with aclosing(scale.listen(pan)) as listening:
        async for reading in listening:
            if found(reading):
                return reading
    raise AssertionError


def run(work: Awaitable[ScaleReading]) -> ScaleReading:
    return asyncio.run(asyncio.wait_for(work, 60))


def test_readings_come_over_the_line_and_each_pan_is_a_scale_of_its_own(scale: LineScale) -> None:
    async def work() -> ScaleReading:
        await scale.tell("boat", "load 186")
        await scale.tell("quay", "load 20")
        quay = await until(scale, "quay", lambda r: r.is_stable and r.grams == 20)
        assert quay.tare_g == 0
        return await until(scale, "boat", lambda r: r.is_stable and r.grams == 186)

    assert run(work()).at_ms is not None


def test_a_line_that_drops_is_taken_up_again(scale: LineScale) -> None:
    async def work() -> ScaleReading:
        await scale.tell("drops", "load 50")
        heard: list[str] = []

        def back(reading: ScaleReading) -> bool:
            heard.append(reading.state)
            return LOST in heard and reading.state == LIVE and reading.grams == 50

        listening = asyncio.create_task(until(scale, "drops", back))
        await until(scale, "drops", lambda r: r.grams == 50)
        await scale.tell("drops", "drop 1")
        return await listening

    assert run(work()).grams == 50


def test_a_scale_that_is_not_there_says_so_and_keeps_trying() -> None:
    async def work() -> ScaleReading:
        nobody = LineScale("tcp://127.0.0.1:9")
        with pytest.raises(ScaleUnavailable):
            await nobody.tell("boat", "tare")
        with pytest.raises(ScaleUnavailable):
            await NoScale().tell("boat", "tare")
        assert [r async for r in NoScale().listen("boat")] == []
        return await until(nobody, "boat", lambda r: r.state == LOST)

    assert run(work()).grams is None


def test_a_scale_refuses_what_it_cannot_do(scale: LineScale) -> None:
    async def work() -> ScaleReading:
        with pytest.raises(ScaleUnavailable):
            await scale.tell("refuses", "dance")
        return await until(scale, "refuses", lambda r: r.state == LIVE)

    assert run(work()).grams == 0


def test_a_line_without_end_is_passed_over() -> None:
    async def work() -> ScaleReading:
        ended = asyncio.Event()

        async def sends(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            await reader.readline()
            writer.write(b"z" * 100_000 + b"\nweight 12 g stable\n")
            await reader.read()
            writer.close()
            with suppress(OSError):
                await writer.wait_closed()
            ended.set()

        server = await asyncio.start_server(sends, "127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        reading = await until(LineScale(f"tcp://127.0.0.1:{port}"), "x", lambda r: r.state == LIVE)
        server.close()
        await ended.wait()
        return reading

    assert run(work()).grams == 12


def test_addresses_are_checked() -> None:
    for address in ("http://127.0.0.1:1", "tcp://nowhere", "tcp://:x"):
        with pytest.raises(ValueError, match="tcp://host:port"):
            LineScale(address)
    assert isinstance(scale_at(None), NoScale)
    assert isinstance(scale_at("none"), NoScale)


def test_all_who_listen_and_tell_share_one_connection_that_ends_with_the_last() -> None:
    async def work() -> ScaleReading:
        lines, ended = list[bytes](), asyncio.Event()

        async def takes_one(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            lines.append(b"connected")
            writer.write(b"weight 7 g stable\n")  # once: who comes later hears it too
            while line := await reader.readline():
                lines.append(line)
                if line == b"tare\n":
                    writer.write(b"ok\n")
            writer.close()
            ended.set()

        server = await asyncio.start_server(takes_one, "127.0.0.1", 0)
        only = LineScale(f"tcp://127.0.0.1:{server.sockets[0].getsockname()[1]}")
        async with aclosing(only.listen("boat")) as first:
            assert (await anext(first)).grams == 7
            async with aclosing(only.listen("quay")) as second:
                reading = await anext(second)
            await only.tell("boat", "tare")
            assert lines == [b"connected", b"pan boat\n", b"tare\n"]
            assert not ended.is_set()
        await ended.wait()
        server.close()
        return reading

    assert run(work()).grams == 7
