"""The command line: start the app, test it, measure it, and compute without it."""

import importlib
import logging
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import date
from pathlib import Path
from typing import Annotated, Any

import typer

from goodcrate.core.errors import GoodCrateError, InvalidInput, InvalidInputs
from goodcrate.settings import CHECKOUT, Settings

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False,
                  help="Good Crate: a week of boxed meals, weighed, computed and divided at home.")  # fmt: skip
compute = typer.Typer(no_args_is_help=True, help="What the pages compute, from files: JSON in, JSON out, no server.")
app.add_typer(compute, name="compute")


def say(text: str) -> None:
    """A line for the person at the terminal."""
    print(text, flush=True)


@app.command()
def demo(
    today: Annotated[str | None, typer.Option(help="Load and show the demo as of this day (YYYY-MM-DD).")] = None,
) -> None:
    """Start with the demo household, the Lockside boat."""
    settings = Settings()
    if "GOODCRATE_DATA_DIR" not in os.environ:
        settings = settings.model_copy(update={"data_dir": CHECKOUT / "var" / "demo"})
    _serve(settings, demo=True, today=date.fromisoformat(today) if today else None)


@app.command()
def start() -> None:
    """Start with your own data; the first visit makes your account."""
    _serve(Settings(), demo=False, today=None)


def _serve(settings: Settings, *, demo: bool, today: date | None) -> None:
    from goodcrate.db.server import DatabaseFailed, EmbeddedServer

    began = time.perf_counter()
    # A polite end by the system is an end like Ctrl-C: the database is stopped too.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(levelname)s %(name)s: %(message)s")
    server = EmbeddedServer(settings.data_dir) if settings.database_url is None else None
    stand_in: subprocess.Popen[str] | None = None
    try:
        # The app is imported while the database starts. Not the other way round: a server is told to stop when the
        # thread that started it ends.
        importing = threading.Thread(target=importlib.import_module, args=("goodcrate.web.app",))
        importing.start()
        stand_in = _stand_in_catalogue() if settings.catalogue_url is None else None
        if server is not None:
            server.start()
        importing.join()
        url = settings.database_url or (server.url if server else "")
        with suppress(KeyboardInterrupt):
            address = _address_of(stand_in) if stand_in else settings.catalogue_url
            _run(settings, url, demo=demo, today=today, began=began, server_port=server.port if server else None,
                 catalogue_url=address)  # fmt: skip
    except DatabaseFailed as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None
    finally:
        if stand_in is not None:
            stand_in.terminate()
            stand_in.communicate(timeout=5)
        if server is not None:
            server.stop()
    say("Stopped. Your data stays in " + str(settings.data_dir) if server else "Stopped.")


def _stand_in_catalogue() -> subprocess.Popen[str]:
    """The stand-in barcode catalogue, a process of its own on a free port; it ends when we do."""
    command = [sys.executable, "-m", "goodcrate.devices.catalogue_service", "0", "--with-starter"]
    environment = os.environ | {"PYTHONPATH": str(CHECKOUT / "src")}
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=environment)


def _address_of(stand_in: subprocess.Popen[str]) -> str | None:
    return (stand_in.stdout.readline().strip() if stand_in.stdout else "") or None


def _run(
    settings: Settings, url: str, *, demo: bool, today: date | None, began: float, server_port: int | None,
    catalogue_url: str | None,
) -> None:  # fmt: skip
    import uvicorn

    from goodcrate.db.migrate import upgrade
    from goodcrate.db.session import Database
    from goodcrate.demo.load import load_demo
    from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
    from goodcrate.devices.catalogue import Catalogue, HttpCatalogue, NoCatalogue
    from goodcrate.services.accounts import has_account
    from goodcrate.web.app import create_app

    upgrade(url)
    database = Database(url)
    clock: Callable[[], date] = (lambda: today) if today else date.today
    if demo and not has_account(database):
        load_demo(database, clock())
    has_catalogue = catalogue_url not in (None, "none")
    catalogue: Catalogue = HttpCatalogue(str(catalogue_url)) if has_catalogue else NoCatalogue()
    listener = _listen(settings.host, settings.port)
    port = listener.getsockname()[1]

    class Server(uvicorn.Server):
        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets)
            say(f"Good Crate is at http://{settings.host}:{port}/   (ready after {time.perf_counter() - began:.1f} s)")
            if demo:
                say(f"Demo sign-in: name {SIGN_IN_NAME}, password {SIGN_IN_PASSWORD}")
            if server_port:
                say(f"Database on 127.0.0.1:{server_port}, data in {settings.data_dir}")
            if catalogue_url and settings.catalogue_url is None:
                say(f"Stand-in barcode catalogue, made-up goods: {catalogue_url}/")
            say("Ctrl-C stops everything.")

    config = uvicorn.Config(
        create_app(database, settings, clock, catalogue), log_level="warning", http="httptools", loop="uvloop",
        lifespan="on", timeout_graceful_shutdown=2, proxy_headers=True, forwarded_allow_ips=settings.trusted_proxies,
        server_header=False,
    )  # fmt: skip
    Server(config).run(sockets=[listener])


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
        return listener
    raise SystemExit(f"No free port on {host}.")


def _step(name: str, *command: str) -> None:
    say(f"\n— {name}")
    began = time.perf_counter()
    code = subprocess.run(command, cwd=CHECKOUT, check=False).returncode
    say(f"  {name}: {'ok' if code == 0 else f'failed ({code})'} in {time.perf_counter() - began:.1f} s")
    if code != 0:
        raise typer.Exit(code)


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def test(context: typer.Context) -> None:
    """The whole suite: lint, types, import contract, assets, tests on real MariaDB and real Chromium.

    Arguments are handed to pytest, and then only pytest runs: ./crate test tests/core -k divide
    """
    if not context.args:
        places = ["src", "tests", "bench"]
        _step("ruff check", "ruff", "check", *places)
        _step("ruff format", "ruff", "format", "--check", *places)
        _step("mypy", "mypy")
        _step("import contract", "lint-imports", "--no-cache")
        _step("static assets", "bash", "assets/build.sh", "--check")
    _step("pytest", sys.executable, "-m", "pytest", *context.args)


@app.command()
def assets(check: bool = typer.Option(False, "--check", help="Only check that what is committed is current.")) -> None:
    """Build the style sheet, and copy fonts and htmx, from pinned npm packages."""
    _step("static assets", "bash", "assets/build.sh", *(["--check"] if check else []))


@app.command()
def bench() -> None:
    """Measure speed on this machine and print it."""
    _step("bench", sys.executable, "-m", "bench")


@app.command()
def schemas(folder: Path = CHECKOUT / "docs" / "formats") -> None:
    """Write the JSON Schemas of `crate compute` to docs/formats."""
    from goodcrate.formats.schemas import SCHEMAS, schema_text

    folder.mkdir(parents=True, exist_ok=True)
    for name in SCHEMAS:
        (folder / f"{name}.schema.json").write_text(schema_text(name), encoding="utf-8")


@app.command()
def forget_demo() -> None:
    """Remove the demo's data, so that the next start loads it afresh."""
    shutil.rmtree(CHECKOUT / "var" / "demo", ignore_errors=True)


def _answer(file: Path, model: Any, act: Callable[[Any], Any]) -> None:
    """Read a request, print the result as JSON; bad input ends with status 2 and every fault on standard error."""
    from goodcrate.formats.compute import read_request

    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8")
        print(act(read_request(model, text)).model_dump_json(indent=2))
    except (OSError, UnicodeDecodeError) as error:
        print(f"{file}: {error}", file=sys.stderr)
    except InvalidInputs as error:
        for fault in error.faults:
            print(fault, file=sys.stderr)
    except (InvalidInput, GoodCrateError) as error:
        print(error, file=sys.stderr)
    else:
        return
    raise typer.Exit(2)


RequestFile = Annotated[Path, typer.Argument(help="A JSON file, or - for standard input.")]


@compute.command("serving")
def serving(file: RequestFile) -> None:
    """A recipe per serving and per batch, with errors and working; also scaled, fitted, swapped, and its variants."""
    from goodcrate.formats.compute_serving import compute_serving
    from goodcrate.formats.serving_request import ServingRequest

    _answer(file, ServingRequest, compute_serving)


@compute.command("week")
def week(file: RequestFile) -> None:
    """Portions fitted to days, or the gaps of a week planned, with bounds and reasons."""
    from goodcrate.formats.compute_week import WeekRequest, compute_week

    _answer(file, WeekRequest, compute_week)


@compute.command("label")
def compute_label(file: RequestFile) -> None:
    """A typed label per 100 g, with its working and the queries raised."""
    from goodcrate.formats import compute as formats

    _answer(file, formats.LabelRequest, formats.compute_label)


@compute.command("divide")
def compute_divide(file: RequestFile) -> None:
    """A weighed batch divided into boxes, also with some already filled."""
    from goodcrate.formats import compute as formats

    _answer(file, formats.DivideRequest, formats.compute_divide)
