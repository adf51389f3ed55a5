"""The app factory. Nothing connects at import; tests call `create_app` with their own database and clock."""

import ctypes
import gc
import logging
import os
import signal
import threading
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from datetime import date
from uuid import uuid4

import anyio.to_thread
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Receive, Scope, Send

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import TODAY
from goodcrate.devices.catalogue import Catalogue, NoCatalogue
from goodcrate.devices.printer import NoPrinter, Printer
from goodcrate.devices.scale import NoScale, Scale
from goodcrate.formats.line_words import reference_lexicon
from goodcrate.formats.reference import measure_table
from goodcrate.services.archive.restore import let_go_regularly
from goodcrate.services.calling import Database, MetAnother, NotFound, SentOtherwise, StaleWrite, is_database_away
from goodcrate.services.jobs.process import send_elsewhere
from goodcrate.services.server_report import SAYS_EVERY_S, Tally, say_regularly
from goodcrate.settings import Settings
from goodcrate.web import (
    archive,
    cook,
    door,
    foods,
    people,
    portion,
    recipes,
    review,
    server,
    shop,
    store,
    targets,
    today,
    week,
)
from goodcrate.web import scale as scales
from goodcrate.web import settings as household_settings
from goodcrate.web.delivery import SMALLEST_SQUEEZED, SQUEEZE, KeptFiles, Timed
from goodcrate.web.pages import STATIC, read_templates, render
from goodcrate.web.request_log import Counted, route_in
from goodcrate.web.security import Shield, SignInFirst, our_hosts

logger = logging.getLogger("goodcrate")
THREADS = 8
ARENAS = -8
"""The C library's name for the number of its heaps (`M_ARENA_MAX` of glibc)."""


GIVES_BACK_EVERY_S = 20.0


def settle_memory() -> None:
    """Take what start-up made (modules, templates, tables) out of the garbage collector's rounds.

    Without it every full round walks them again, and some request pays for it.
    """
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(ARENAS, 4)  # a heap for every thread holds memory that none of them uses
    gc.enable()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


def give_back_regularly(ends: threading.Event) -> None:
    """Give back what the C library holds and nothing uses: many pages made at once leave a good deal of it."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    while trim is not None and not ends.wait(GIVES_BACK_EVERY_S):
        trim(0)


@asynccontextmanager
async def _lifespan(app: FastAPI) -> AsyncIterator[None]:
    # As many threads as connections are useful; the default of 40 only makes them queue at the database.
    anyio.to_thread.current_default_thread_limiter().total_tokens = THREADS
    reading = threading.Thread(target=_read_tables, name="tables", daemon=True)
    reading.start()
    ends = threading.Event()
    saying = threading.Thread(
        target=say_regularly, args=(app.state.database, app.state.tally, ends), name="report", daemon=True
    )
    saying.start()
    threading.Thread(target=let_go_regularly, args=(app.state.database, ends), name="tidy", daemon=True).start()
    threading.Thread(target=give_back_regularly, args=(ends,), name="memory", daemon=True).start()
    yield
    ends.set()
    reading.join()
    saying.join(SAYS_EVERY_S)
    app.state.database.close()


def _read_tables() -> None:
    """Read every shipped table, and every template, while the first page is shown; a row that cannot be right ends the
    app."""
    try:
        measure_table()
        reference_lexicon()
    except InvalidInputs as faults:
        logger.critical("the shipped tables cannot be used: %s", faults)
        os.kill(os.getpid(), signal.SIGTERM)
    read_templates()
    settle_memory()


def create_app(
    database: Database,
    settings: Settings,
    clock: Callable[[], date] = date.today,
    catalogue: Catalogue | None = None,
    *,
    scale: Scale | None = None,
    printer: Printer | None = None,
) -> FastAPI:
    """The whole web application on one database; `clock` says what day it is, `catalogue` knows barcodes, `scale` what
    lies on it, and `printer` prints labels."""
    app = FastAPI(title="Good Crate", docs_url=None, redoc_url=None, openapi_url=None, lifespan=_lifespan)
    app.state.database, app.state.settings, app.state.clock = database, settings, clock
    if settings.broker_url is not None:
        from goodcrate.services.jobs.queue import BrokerQueue, broker_at

        send_elsewhere(database, BrokerQueue(broker_at(settings.broker_url)))
    app.state.catalogue = catalogue or NoCatalogue()
    app.state.tally = Tally()
    app.state.scale, app.state.printer = scale or NoScale(), printer or NoPrinter()
    app.add_middleware(Dated, clock=clock)
    app.add_middleware(GZipMiddleware, minimum_size=SMALLEST_SQUEEZED, compresslevel=SQUEEZE)
    app.add_middleware(Timed)
    app.add_middleware(Counted, tally=app.state.tally)
    app.add_middleware(Shield, hosts=our_hosts(settings.hosts), broken=_broken)
    app.mount("/static", KeptFiles(directory=STATIC), name="static")
    # They are asked in this order: first where every key press is a request, last what is asked once a day.
    for room in (
        recipes,
        week,
        cook,
        shop,
        portion,
        scales,
        store,
        today,
        foods,
        targets,
        door,
        household_settings,
        review,
        archive,
        people,
        server,
    ):
        app.include_router(room.router)
    _answer_errors(app)
    return app


class Dated:
    """Every request knows what day it is when it comes."""

    def __init__(self, app: ASGIApp, clock: Callable[[], date]) -> None:
        self.app, self.clock = app, clock

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Set the day, then answer."""
        TODAY.set(self.clock())
        await self.app(scope, receive, send)


def _plain_page(status: int, title: str, text: str, kept: str = "") -> HTMLResponse:
    response = HTMLResponse(render("error.html", title=title, text=text, kept=kept), status_code=status)
    response.headers["HX-Push-Url"] = "false"
    return response


DATABASE_AWAY = Saying("It ended by itself, or its disk is full. It is being started again.")
KEPT_AWAY = Saying(
    "Nothing was half saved, and what you typed is still in its form: wait a moment, then send it again."
)
KEPT_BROKEN = Saying("What you sent was not saved, and what you typed is still in its form.")
_TITLES = {
    403: Saying("Not for you"),
    404: Saying("Not here"),
    405: Saying("Not this way"),
    408: Saying("Not all of it came"),
    413: Saying("Too large"),
}


def _answer_errors(app: FastAPI) -> None:
    @app.exception_handler(SignInFirst)
    def to_the_door(request: Request, error: SignInFirst) -> Response:
        return RedirectResponse(f"/sign-in?next={error.target}", status_code=303)

    @app.exception_handler(NotFound)
    def not_found(request: Request, error: NotFound) -> Response:
        return _plain_page(
            404, say("Not here"), say("{error} It may have been removed, or the address is mistyped.", error=error)
        )

    @app.exception_handler(RequestValidationError)
    def not_an_address(request: Request, error: RequestValidationError) -> Response:
        return _plain_page(404, say("Not here"), say("There is nothing at this address."))

    @app.exception_handler(InvalidInput)
    @app.exception_handler(InvalidInputs)
    def invalid(request: Request, error: InvalidInput | InvalidInputs) -> Response:
        faults = (error,) if isinstance(error, InvalidInput) else error.faults
        return _plain_page(422, say("Not possible"), " ".join(fault.message for fault in faults))

    @app.exception_handler(SentOtherwise)
    def sent_otherwise(request: Request, error: SentOtherwise) -> Response:
        return _plain_page(409, say("Saved before, otherwise"), str(error))

    @app.exception_handler(StaleWrite)
    def stale(request: Request, error: StaleWrite) -> Response:
        return _plain_page(409, say("Changed elsewhere"), say("{error} Go back, reload and try again.", error=error))

    @app.exception_handler(MetAnother)
    def met(request: Request, error: MetAnother) -> Response:
        words = say("Somebody else is writing to the same thing at this moment.")
        return _plain_page(409, say("Changed elsewhere"), say("{words} Go back, reload and try again.", words=words))

    @app.exception_handler(HTTPException)
    def refused(request: Request, error: HTTPException) -> Response:
        text = error.detail if error.status_code in (403, 408, 413) else say("There is nothing at this address.")
        return _plain_page(error.status_code, _TITLES.get(error.status_code, "Not possible"), text)


def _broken(scope: Scope, error: Exception) -> Response:
    """The page for what nobody foresaw, and for a database that is away."""
    mark = uuid4().hex[:8]
    if is_database_away(error):
        logger.error("database away: %s %s [%s]: %s", scope["method"], route_in(scope), mark, type(error).__name__)
        response = _plain_page(503, say("The database is away"), DATABASE_AWAY, KEPT_AWAY)
        response.headers["retry-after"] = "5"
        return response
    logger.error("failed %s %s [%s]", scope["method"], route_in(scope), mark, exc_info=error)
    return _plain_page(
        500,
        say("Something broke"),
        say("It is our fault, not yours. Mark for the log: {mark}.", mark=mark),
        KEPT_BROKEN,
    )
