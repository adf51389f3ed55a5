"""Running the app: the database under it, the process or processes that answer, and the stand-in devices beside it.

One process answers by itself. With more, this one holds the database and the listening socket, and starts again
whatever ends: none goes down with another.
"""

import gc
import importlib
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import date
from typing import IO

from goodcrate.db.backup import DailyCopies
from goodcrate.db.server import EmbeddedServer
from goodcrate.log_lines import log_to
from goodcrate.settings import CHECKOUT, Settings

HANDED_DOWN = "GOODCRATE_HANDED_DOWN"
"""The variable in which a process of several gets its socket and its day."""
LONGEST_WAIT_S = 30.0
STEADY_S = 20.0
"""A process that answered so long begins again at once when it ends."""
KEPT_OPEN_S = 75
"""How long an idle connection stays: longer than a proxy keeps its own (60 s), or one is closed while it is used."""
SIMULATED = "simulated"
"""What the setting of the scale's address says for the simulated one, and what its address is marked with."""
Say = Callable[[str], object]


def say(text: str) -> None:
    """A line for the person at the terminal."""
    print(text, flush=True)


def serve(settings: Settings, *, demo: bool, today: date | None) -> None:
    """Run everything until Ctrl-C.

    Raises:
        DatabaseFailed: when the database cannot be made, started or upgraded.
    """
    began = time.perf_counter()
    # A polite end by the system is an end like Ctrl-C: the database is stopped too.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    signal.signal(signal.SIGINT, signal.default_int_handler)  # a shell's background job is started deaf to it
    log_to(settings.log)
    server = EmbeddedServer(settings.data_dir) if settings.database_url is None else None
    stand_ins: dict[str, subprocess.Popen[str]] = {}
    copies: DailyCopies | None = None
    try:
        # The app is imported while the database starts. Not the other way round: a server is told to stop when the
        # thread that started it ends.
        gc.disable()  # a start only makes things, and the app sets the collector itself when it stands
        importing = threading.Thread(target=importlib.import_module, args=("goodcrate.web.app",))
        importing.start()
        if settings.catalogue_url is None:
            stand_ins["catalogue"] = _stand_in("catalogue_service")
        if settings.scale_url == SIMULATED or (settings.scale_url is None and demo):
            stand_ins["scale"] = _stand_in("scale_service")
        if server is not None:
            server.start()
            threading.Thread(target=server.keep_running, args=(say,), name="database", daemon=True).start()
        if settings.printer_url is None and demo:
            stand_ins["printer"] = _stand_in("printer_service")
        importing.join()
        url = settings.database_url or (server.url if server else "")
        with suppress(KeyboardInterrupt):
            ours = {f"{name}_url": _address_of(process) for name, process in stand_ins.items()}
            if ours.get("scale_url"):
                ours["scale_url"] = f"{SIMULATED}+{ours['scale_url']}"
            _bring_up(settings, url, demo=demo, today=today)
            listener = _listen(settings.host, settings.port)
            settings = settings.model_copy(update={"database_url": url, **ours})

            copies = DailyCopies(url, settings.data_dir, say) if server is not None else None

            def ready() -> None:
                if copies is not None:
                    copies.start()
                address = f"http://{settings.host}:{listener.getsockname()[1]}/"
                say(f"Good Crate is at {address}   (ready after {time.perf_counter() - began:.1f} s)")
                _say_more(settings, set(stand_ins), demo=demo, server=server)

            if settings.processes == 1:
                answer(settings, listener, today, ready)
            else:
                _answer_in_several(settings, listener, today, ready)
    finally:
        if copies is not None:
            copies.stop()
        for stand_in in stand_ins.values():
            stand_in.terminate()
        for stand_in in stand_ins.values():
            stand_in.communicate(timeout=5)
        if server is not None:
            server.stop()
    say(f"Stopped. Your data stays in {settings.data_dir}" if server else "Stopped.")


def _say_more(settings: Settings, stand_ins: set[str], *, demo: bool, server: EmbeddedServer | None) -> None:
    if demo:
        from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD

        say(f"Demo sign-in: name {SIGN_IN_NAME}, password {SIGN_IN_PASSWORD}")
    if server is not None:
        say(f"Database on 127.0.0.1:{server.port}, data in {settings.data_dir}")
    if "catalogue" in stand_ins:
        say(f"Stand-in barcode catalogue, made-up goods: {settings.catalogue_url}/")
    if "printer" in stand_ins:
        say(f"Stand-in label printer, what came out: {settings.printer_url}/")
    if "scale" in stand_ins:
        say(f"Simulated kitchen scale: {str(settings.scale_url).partition('+')[2]}; its pan is on the page of a pot")
    say("Ctrl-C stops everything.")


def _bring_up(settings: Settings, url: str, *, demo: bool, today: date | None) -> None:
    from goodcrate.db.migrate import bring_up
    from goodcrate.db.session import Database
    from goodcrate.services.accounts import has_account

    bring_up(url, settings.data_dir, say)
    if demo:
        database = Database(url)
        if not has_account(database):
            from goodcrate.demo.eaten import live_last_week
            from goodcrate.demo.load import load_demo

            bring_up(
                url, settings.data_dir, say, lambda: live_last_week(load_demo(database, today or date.today()), today)
            )
        database.close()


def _stand_in(service: str) -> subprocess.Popen[str]:
    """A stand-in device, a process of its own on a free port; it ends when we do."""
    command = [sys.executable, "-m", f"goodcrate.devices.{service}", "0", "--with-starter"]
    environment = os.environ | {"PYTHONPATH": str(CHECKOUT / "src")}
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=environment)


def _address_of(stand_in: subprocess.Popen[str]) -> str | None:
    return (stand_in.stdout.readline().strip() if stand_in.stdout else "") or None


def answer(settings: Settings, listener: socket.socket, today: date | None, ready: Callable[[], object]) -> None:
    """Answer requests in this process until it is told to stop; `ready` is called once it does."""
    import uvicorn

    from goodcrate.db.session import Database
    from goodcrate.devices.catalogue import Catalogue, HttpCatalogue, NoCatalogue
    from goodcrate.devices.printer import printer_at
    from goodcrate.devices.scale import scale_at
    from goodcrate.web.app import create_app
    from goodcrate.web.wire import ImpatientProtocol

    class Server(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            ready()

    clock: Callable[[], date] = (lambda: today) if today else date.today
    has_catalogue = settings.catalogue_url not in (None, "none")
    catalogue: Catalogue = HttpCatalogue(str(settings.catalogue_url)) if has_catalogue else NoCatalogue()
    scale = scale_at(settings.scale_url)
    printer = printer_at(settings.printer_url)
    config = uvicorn.Config(
        create_app(Database(str(settings.database_url)), settings, clock, catalogue, scale=scale, printer=printer),
        log_level="warning",
        http=ImpatientProtocol,
        loop="uvloop",
        lifespan="on",
        timeout_graceful_shutdown=2,
        timeout_keep_alive=KEPT_OPEN_S,
        server_header=False,
        proxy_headers=bool(settings.trusted_proxies),
        forwarded_allow_ips=settings.trusted_proxies,
    )
    Server(config).run(sockets=[listener])


def _answer_in_several(
    settings: Settings, listener: socket.socket, today: date | None, ready: Callable[[], object]
) -> None:
    """Keep as many processes as wished answering on one socket until we are told to stop."""
    ends = threading.Event()
    answering = threading.Semaphore(0)
    keepers = [
        threading.Thread(target=_keep_one, args=(settings, listener, today, ends, answering), name=f"process {n}")
        for n in range(1, settings.processes + 1)
    ]
    try:
        for keeper in keepers:
            keeper.start()
        for _ in keepers:
            answering.acquire()
        ready()
        while not ends.wait(3600):
            pass
    finally:
        ends.set()
        for keeper in keepers:
            keeper.join()


def _keep_one(
    settings: Settings,
    listener: socket.socket,
    today: date | None,
    ends: threading.Event,
    answering: threading.Semaphore,
) -> None:
    """One process of several, started again when it ends by itself."""
    wait, is_first = 1.0, True
    handed = {
        "fd": listener.fileno(),
        "today": today and today.isoformat(),
        "settings": settings.model_dump(mode="json"),
    }
    while not ends.is_set():
        began = time.monotonic()
        process = subprocess.Popen(
            [sys.executable, "-m", "goodcrate.serving"],
            pass_fds=[listener.fileno()],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            start_new_session=True,
            env=os.environ | {HANDED_DOWN: json.dumps(handed), "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)},
        )
        if process.stdout is not None:
            process.stdout.readline()  # it answers, or it has ended
        if is_first:
            answering.release()
            is_first = False
        while process.poll() is None and not ends.wait(0.2):
            pass
        if ends.is_set():
            process.terminate()
            process.communicate()
            return
        process.communicate()
        wait = 1.0 if time.monotonic() - began > STEADY_S else min(2 * wait, LONGEST_WAIT_S)
        say(f"A process ended by itself (status {process.returncode}); it is started again in {wait:.0f} s.")
        ends.wait(wait)


def _listen(host: str, port: int) -> socket.socket:
    """A listening socket on the wanted port, or on the next free one."""
    for candidate in [*range(port, min(port + 50, 65_536)), 0]:
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind((host, candidate))
        except OSError:
            listener.close()
            continue
        listener.listen(1024)
        return listener
    raise SystemExit(f"No free port on {host}.")


def _end_with(parent: IO[str]) -> None:
    """Whoever started us has ended when its end of the pipe has."""
    parent.read()
    os.kill(os.getpid(), signal.SIGTERM)


def one_of_several() -> None:
    """A process that answers on a socket it was handed, until its starter ends it or ends."""
    handed = json.loads(os.environ.pop(HANDED_DOWN))
    log_to(handed["settings"]["log"])
    threading.Thread(target=_end_with, args=(sys.stdin,), daemon=True).start()
    today = date.fromisoformat(handed["today"]) if handed["today"] else None
    answer(Settings(**handed["settings"]), socket.socket(fileno=handed["fd"]), today, lambda: say("ready"))


if __name__ == "__main__":
    one_of_several()
