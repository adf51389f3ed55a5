"""The command line: start the app, test it, measure it, and compute without it."""

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import Annotated, Any

import typer

from goodcrate.core.ground.errors import GoodCrateError, InvalidInput, InvalidInputs
from goodcrate.serving import say, serve
from goodcrate.settings import CHECKOUT, Settings, WrongSettings, read_settings

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    help="Good Crate: a week of boxed meals, weighed, computed and divided at home.",
)
compute = typer.Typer(no_args_is_help=True, help="What the pages compute, from files: JSON in, JSON out, no server.")
app.add_typer(compute, name="compute")


@app.command()
def demo(
    today: Annotated[str | None, typer.Option(help="Load and show the demo as of this day (YYYY-MM-DD).")] = None,
) -> None:
    """Start with the demo household, the Lockside boat."""
    settings = _settings()
    if "GOODCRATE_DATA_DIR" not in os.environ:
        settings = settings.model_copy(update={"data_dir": CHECKOUT / "var" / "demo"})
    _serve(settings, demo=True, today=date.fromisoformat(today) if today else None)


@app.command()
def start() -> None:
    """Start with your own data; the first visit makes your account."""
    _serve(_settings(), demo=False, today=None)


@app.command()
def worker() -> None:
    """Take long work from the queue, for an app on whatever machine: needs GOODCRATE_BROKER_URL and _DATABASE_URL."""
    from goodcrate.jobs import elsewhere
    from goodcrate.log_lines import log_to

    settings, ends = _settings(), threading.Event()
    missing = [name for name in ("broker_url", "database_url") if getattr(settings, name) is None]
    if missing:
        names = " and ".join(f"GOODCRATE_{name.upper()}" for name in missing)
        print(f"A worker needs {names}: what the app has there, for the same queue and database.", file=sys.stderr)
        raise typer.Exit(2)
    log_to(settings.log)
    for polite in (signal.SIGTERM, signal.SIGINT):
        signal.signal(polite, lambda *_: ends.set())
    at_once = f"{settings.processes} at once" if settings.processes > 1 else "one at a time"
    elsewhere.work(settings, ends, lambda: say(f"A worker takes jobs, {at_once}. Ctrl-C ends it."))


MOST_PROCESSES = 4


def _settings() -> Settings:
    try:
        return read_settings()
    except WrongSettings as error:
        print(error, file=sys.stderr)
        raise typer.Exit(2) from None


def _serve(settings: Settings, *, demo: bool, today: date | None) -> None:
    from goodcrate.db.server import DatabaseFailed

    try:
        serve(settings, demo=demo, today=today)
    except DatabaseFailed as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None


def _step(name: str, *command: str) -> None:
    say(f"\n— {name}")
    began = time.perf_counter()
    code = subprocess.run(command, cwd=CHECKOUT, check=False).returncode
    say(f"  {name}: {'ok' if code == 0 else f'failed ({code})'} in {time.perf_counter() - began:.1f} s")
    if code != 0:
        raise typer.Exit(code)


@app.command(context_settings={"allow_extra_args": True, "ignore_unknown_options": True})
def test(context: typer.Context) -> None:
    """The whole suite: lint, types, import contract, assets, dependency audit, tests on real MariaDB and real Chromium.

    Arguments are handed to pytest, and then only pytest runs: ./crate test tests/core -k divide
    """
    if not context.args:
        places = ["src", "tests", "bench"]
        _step("ruff check", "ruff", "check", *places)
        _step("ruff format", "ruff", "format", "--check", *places)
        _step("mypy", "mypy")
        _step("import contract", "lint-imports", "--no-cache")
        _step("static assets", "bash", "assets/build.sh", "--check")
        _step("dependency audit", sys.executable, "-m", "goodcrate.dependency_audit")
    _step("pytest", sys.executable, "-m", "pytest", *(context.args or _over_all_cores()))


def _over_all_cores() -> tuple[str, ...]:
    """The suite in as many processes as there are cores; each has a database of its own."""
    return ("-n", str(min(os.cpu_count() or 1, MOST_PROCESSES)), "--dist", "worksteal")


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
    """Write the JSON Schemas of `crate compute` and of the archive to docs/formats."""
    from goodcrate.formats.schemas import SCHEMAS, schema_text
    from goodcrate.services.archive.schema import schema_texts

    folder.mkdir(parents=True, exist_ok=True)
    for name in SCHEMAS:
        (folder / f"{name}.schema.json").write_text(schema_text(name), encoding="utf-8")
    for name, schema in schema_texts().items():
        (folder / f"{name}.schema.json").write_text(schema, encoding="utf-8")


@app.command()
def forget_demo() -> None:
    """Remove the demo's data, so that the next start loads it afresh."""
    from goodcrate.db.server import DatabaseFailed, locked

    folder = CHECKOUT / "var" / "demo"
    if not folder.exists():
        say("There is no demo to forget.")
        return
    try:
        held = locked(folder)
    except DatabaseFailed:
        print("The demo is running: stop it first (Ctrl-C where it was started).", file=sys.stderr)
        raise typer.Exit(1) from None
    with held:
        shutil.rmtree(folder)
    say("The demo's data is gone; the next start makes it again.")


def _done(act: Callable[[], str]) -> None:
    """Do something with the household's data, and say what was done; or why not, with status 1."""
    from goodcrate.db.server import DatabaseFailed

    try:
        say(act())
    except (DatabaseFailed, GoodCrateError, OSError) as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None


ArchiveFile = Annotated[Path, typer.Argument(help="The archive, a zip file.")]
BackupFile = Annotated[Path, typer.Argument(help="The backup, such as kitchen.sql.gz.")]
Whose = Annotated[str | None, typer.Option("--as", help="Whose household: a sign-in name. The only one needs no name.")]


@app.command()
def export(file: ArchiveFile, whose: Whose = None) -> None:
    """Write the household's archive: all that it has, in documented JSON and CSV. The app may run meanwhile."""
    from goodcrate import whole_data

    _done(lambda: whole_data.export(_settings(), file, whose))


@app.command("import")
def take_in(
    file: ArchiveFile,
    whose: Whose = None,
    wins: Annotated[str | None, typer.Option(help="Where both have data: archive, or here.")] = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Only say what would come.")] = False,
) -> None:
    """Take an archive in, all of it or nothing. The app may run meanwhile."""
    from goodcrate import whole_data

    if dry_run:
        _done(lambda: "\n".join(whole_data.look(_settings(), file, whose)))
    else:
        _done(lambda: whole_data.take_in(_settings(), file, whose, wins))


@app.command()
def backup(file: BackupFile) -> None:
    """Write the whole database, all households and accounts, to a file. The app may run meanwhile."""
    from goodcrate import whole_data

    _done(lambda: whole_data.backup(_settings(), file))


@app.command()
def restore(file: BackupFile) -> None:
    """Put a backup in the place of the database. Stop the app first; what was there is kept beside."""
    from goodcrate import whole_data

    _done(lambda: whole_data.restore(_settings(), file))


def _answer(file: Path, model: Any, act: Callable[[Any], Any]) -> None:
    """Read a request and print the result."""
    from goodcrate.formats.compute import read_request

    _print(file, lambda text: act(read_request(model, text)))


def _print(file: Path, act: Callable[[str], Any]) -> None:
    """Print what a file comes to as JSON; bad input ends with status 2 and every fault on standard error."""
    try:
        text = sys.stdin.read() if str(file) == "-" else file.read_text(encoding="utf-8")
        print(act(text).model_dump_json(indent=2))
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


@compute.command("lines")
def compute_lines(file: Annotated[Path, typer.Argument(help="A text file, one ingredient a line, or -.")]) -> None:
    """Ingredient lines understood: food, grams, what is asked and what else each may mean."""
    from goodcrate.formats import compute_lines as formats

    _print(file, formats.compute_lines)


@compute.command("week")
def week(
    file: RequestFile,
    verify: Annotated[Path | None, typer.Option(help="An answer to hold against the request, instead of one.")] = None,
) -> None:
    """Portions fitted to days, or the gaps of a week planned, with bounds and reasons; or an answer verified.

    Ends with status 1 when the verified answer does not hold.
    """
    from goodcrate.formats.compute import read_request
    from goodcrate.formats.compute_week import WeekRequest, WeekResult, compute_week, verify_week

    if verify is None:
        _answer(file, WeekRequest, compute_week)
        return
    faults: list[str] = []

    def verified(text: str) -> Any:
        answer = read_request(WeekResult, verify.read_text(encoding="utf-8"))
        done = verify_week(read_request(WeekRequest, text), answer)
        faults.extend(done.faults)
        return done

    _print(file, verified)
    if faults:
        raise typer.Exit(1)


@compute.command("shop")
def compute_shop(file: RequestFile) -> None:
    """Needs, packs and the house: the shopping list in whole packs, what is over and what it costs."""
    from goodcrate.formats.compute_shop import ShopRequest, compute_shop

    _answer(file, ShopRequest, compute_shop)


@compute.command("runsheet")
def compute_runsheet(file: RequestFile) -> None:
    """A prep session's tasks over a kitchen: the run sheet that is over soonest, with its bound."""
    from goodcrate.formats.compute_runsheet import RunSheetRequest, compute_runsheet

    _answer(file, RunSheetRequest, compute_runsheet)


@compute.command("review")
def compute_review(file: RequestFile) -> None:
    """Look back on a week: planned, weighed, eaten → its days, nutrients and proposals. See docs/review.md."""
    from goodcrate.formats.compute_review import ReviewRequest, compute_review

    _answer(file, ReviewRequest, compute_review)


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
