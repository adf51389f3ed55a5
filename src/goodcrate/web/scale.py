"""The kitchen scale on a page: what it says, live, and what it is told."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import aclosing, suppress
from json import dumps
from time import monotonic
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response
from fastapi.sse import EventSourceResponse, format_sse_event
from starlette.concurrency import run_in_threadpool

from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.portion.on_scale import ScaleReading
from goodcrate.devices.scale import ASKS, NoScale, Scale, ScaleUnavailable
from goodcrate.services.portion.filling import has_begun, last_weighed
from goodcrate.web.again import AgainRoute
from goodcrate.web.security import Posted, Signed, Visitor, text

router = APIRouter(prefix="/scale", route_class=AgainRoute)
LISTENS_S, LOOKS_EVERY_S = 600.0, 0.4
"""A page that listens is answered so long, then asks anew; so often is looked whether something was weighed."""
PAN_WORDS = ("put", "load", "pour", "clear", "mode", "off", "drop")
"""What the pan on the screen tells a simulated scale."""


def scale_of(request: Request) -> Scale | None:
    """The kitchen's scale, None where there is none."""
    scale: Scale = request.app.state.scale
    return None if isinstance(scale, NoScale) else scale


def _told(reading: ScaleReading) -> str:
    return dumps(
        {
            "g": reading.grams,
            "stable": reading.is_stable,
            "tare": reading.tare_g,
            "state": reading.state,
            "at": reading.at_ms,
        }
    )


async def _heard(scale: Scale, pan: str, queue: "asyncio.Queue[bytes]") -> None:
    async with aclosing(scale.listen(pan)) as heard:  # so that the line is given back when the page goes
        async for reading in heard:
            if not queue.full():  # who does not keep up misses readings, never the last for long
                queue.put_nowait(format_sse_event(data_str=_told(reading), retry=500))


async def _watched(visitor: Visitor, batch_id: UUID, queue: "asyncio.Queue[bytes]") -> None:
    shown = None
    while True:
        mark = await run_in_threadpool(last_weighed, visitor.caller, batch_id)
        if mark != shown:
            shown = mark
            await queue.put(format_sse_event(data_str=str(mark), event="batch"))
        await asyncio.sleep(LOOKS_EVERY_S)


async def _live(request: Request, visitor: Visitor, scale: Scale | None, batch_id: UUID | None) -> AsyncIterator[bytes]:
    """What the scale says as it says it, and that something was weighed, on whichever device."""
    queue: asyncio.Queue[bytes] = asyncio.Queue(20)
    sources = [] if scale is None else [_heard(scale, str(visitor.caller.household_id), queue)]
    sources += [] if batch_id is None else [_watched(visitor, batch_id, queue)]
    tasks = [asyncio.create_task(source) for source in sources]
    until = monotonic() + LISTENS_S
    try:
        while monotonic() < until and not await request.is_disconnected():
            with suppress(TimeoutError):
                yield await asyncio.wait_for(queue.get(), 1.0)
    finally:
        for task in tasks:
            task.cancel()


@router.get("/live")
async def live(request: Request, visitor: Signed, batch: str = "") -> Response:
    """Server-sent events: the scale's readings as they come, and a mark whenever something of a batch is weighed. With
    neither scale nor a batch that was begun there is nothing to tell (204)."""
    batch_id, scale = id_of(batch), scale_of(request)
    if batch_id is not None and not await run_in_threadpool(has_begun, visitor.caller, batch_id):
        batch_id = None
    if scale is None and batch_id is None:
        return Response(status_code=204)
    told = _live(request, visitor, scale, batch_id)
    return EventSourceResponse(told, headers={"cache-control": "no-store"})


@router.post("/tell")
async def tell(request: Request, visitor: Signed, form: Posted) -> Response:
    """Tell the scale to tare, to zero or to switch on; a simulated one also what lies on its pan."""
    scale, words = scale_of(request), text(form, "words").strip()
    known = (*ASKS, *PAN_WORDS) if scale is not None and scale.has_pan else ASKS
    if words.partition(" ")[0] not in known or not words.isascii() or not words.isprintable() or len(words) > 60:
        return PlainTextResponse(say("No scale can be told that."), 422)
    try:
        if scale is None:
            raise ScaleUnavailable(say("No scale is connected."))
        await scale.tell(str(visitor.caller.household_id), words)
    except ScaleUnavailable as gone:
        return PlainTextResponse(gone.why, 409)
    return Response(status_code=204)
