"""Server times of the thin path, and the time from packages to a served demo. Prints; never judges."""

import json
import os
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path
from uuid import uuid4

from bench.archive import measure_archive
from bench.crowd import measure_crowd
from bench.failover import measure_failover
from bench.households import measure_households
from bench.lines import main as print_lines
from bench.many_foods import measure_many_foods
from bench.planning import measure_weeks
from bench.portioning import measure_portioning
from bench.review import measure_review
from bench.run_sheets import measure_run_sheets
from bench.server_times import Visit, serving
from bench.shopping import measure_at_the_shelf, measure_shopping
from bench.storms import measure_kills, measure_requests
from bench.table import measure_table
from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.formats.recipe_jsonld import find_recipes
from goodcrate.formats.reference import reference_foods
from goodcrate.services.accounts import add_household
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import recipe_files
from goodcrate.settings import CHECKOUT

MONDAY = date(2026, 11, 23)
ROUNDS = 120


def p95(times_ms: list[float]) -> float:
    """The 95th percentile."""
    return statistics.quantiles(times_ms, n=20)[18]


def report(name: str, times_ms: list[float], reach: str) -> None:
    """One line: median, 95th percentile, and what we want to reach."""
    print(f"  {name:<58} median {statistics.median(times_ms):6.1f} ms   p95 {p95(times_ms):6.1f} ms   wanted: {reach}")


def yardstick() -> float:
    """Milliseconds this machine takes for a fixed piece of Python just now, to compare runs by."""
    began = time.perf_counter()
    sum(n * n for n in range(300_000))
    return (time.perf_counter() - began) * 1000


def recipe_form(lines: int) -> dict[str, object]:
    """A typed recipe with so many ingredients in two components."""
    keys = [food.key for food in reference_foods().values() if food.group not in ("spice", "supplement")][:lines]
    form: dict[str, object] = {"name": "Bench pot", "servings": "6", "version": "0"}
    fields: list[tuple[str, str]] = []
    for n, key in enumerate(keys):
        if n in (0, lines // 2):
            component = str(uuid4())
            fields += [("component", component), (f"component-{component}-name", f"part {n}")]
            for text in ("Fry it in the oil for 12 minutes", "Cool it"):
                step = str(uuid4())
                fields += [
                    ("step", step),
                    (f"step-{step}-text", text),
                    (f"step-{step}-component", component),
                    (f"step-{step}-equipment", "hob"),
                    (f"step-{step}-minutes", "12"),
                ]
        line = str(uuid4())
        fields += [
            ("line", line),
            (f"line-{line}-food", key),
            (f"line-{line}-amount", str(50 + n)),
            (f"line-{line}-measure", "weighed"),
            (f"line-{line}-use", ""),
        ]
    form["fields"] = fields
    return form


def measure(visit: Visit) -> None:
    """Live recalculation and the week page, as the server's own clock saw them."""
    url = f"/recipes/{uuid4()}/compute"

    def times(act: Callable[[], str]) -> list[float]:
        for _ in range(10):
            act()
        visit.server_ms.clear()
        for _ in range(ROUNDS):
            act()
        return list(visit.server_ms)

    for lines in (25, 40):
        form = recipe_form(lines)
        fields = form.pop("fields")
        assert isinstance(fields, list)
        body = [("csrf", visit.csrf), *((k, str(v)) for k, v in form.items()), *fields]
        took = times(partial(visit.post, url, body))
        report(f"live recipe recalculation, {lines} ingredients, 2 steps a component", took, "p95 under 30 ms")
    week = f"/week/{MONDAY}"
    report("week page, 2 eaters, 54 meals, 34 batches", times(lambda: visit.get(week)), "p95 under 80 ms")
    box = re.search(r'href="(/week/[^"]+\?box=[^"]+)"', visit.get(week))
    assert box is not None
    address = box[1]
    report("week page with a box's working on the tape", times(lambda: visit.get(address)), "-")
    report("portion page", times(lambda: visit.get("/portion/" + str(MONDAY))), "-")
    report("food finder, three letters", times(lambda: visit.get("/foods?part=rows&q=bar")), "-")


def measure_import(database: Database, caller: Caller) -> None:
    """An archive of 200 recipes as text lines, taken in step by step as its page does."""
    names = [food.name for food in reference_foods().values() if food.group not in ("spice", "supplement")]
    graph = [
        {
            "@type": "Recipe",
            "name": f"Dish {n}",
            "recipeYield": "4",
            "recipeIngredient": [f"{50 + 10 * m} g {names[(n * 7 + m * 13) % len(names)]}" for m in range(10)],
            "recipeInstructions": ["Chop all of it, 10 minutes", "Simmer for 25 minutes", "Cool it"],
        }
        for n in range(200)
    ]
    began = time.perf_counter()
    found = find_recipes(json.dumps({"@graph": graph}))
    import_id, steps = uuid4(), 0
    recipe_files.upload(caller, import_id, "archive.json", found)
    while not (done := recipe_files.advance(caller, import_id)).is_finished:
        steps += 1
    took = time.perf_counter() - began
    added = sum(r["verdict"] == "added" for r in done.report)
    print(f"  archive of 2,000 lines, {added} of 200 recipes, {steps + 1} steps: {took:.1f} s   wanted: under 20 s")


def from_packages_to_demo() -> None:
    """A fresh copy of the checkout: no virtual environment, no data; Debian's packages are there."""
    with tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder:
        copy = Path(folder) / "goodcrate"
        subprocess.run(["git", "clone", "-q", str(CHECKOUT), str(copy)], check=True)
        environment = {k: v for k, v in os.environ.items() if not k.startswith(("GOODCRATE", "VIRTUAL", "PYTHON"))}
        began = time.perf_counter()
        process = subprocess.Popen(
            ["./crate", "demo"],
            cwd=copy,
            env=environment | {"GOODCRATE_PORT": "18080"},
            stdout=subprocess.PIPE,
            text=True,
        )
        assert process.stdout is not None
        for line in process.stdout:
            if "Good Crate is at" in line:
                print(f"  fresh clone to served demo, once: {time.perf_counter() - began:.1f} s   wanted: under 15 s")
                break
        process.terminate()
        process.wait(30)


def main() -> None:
    """Print all measurements."""
    print(f"Python {sys.version.split()[0]}, {os.cpu_count()} cores. Compare within one run only.")
    print(f"Yardstick before: {yardstick():.1f} ms")
    with serving(MONDAY) as visit:
        measure(visit)
        measure_at_the_shelf(visit, MONDAY)
    with (
        tempfile.TemporaryDirectory(prefix="goodcrate-bench-") as folder,
        running(EmbeddedServer(Path(folder))) as server,
    ):
        upgrade(server.url)
        database = Database(server.url)
        kitchen = add_household(database, "A large larder", "larder", "a-long-enough-password")
        measure_many_foods(database, kitchen, report)
        cook = add_household(database, "A new library", "library", "a-long-enough-password")
        measure_import(database, cook)
        database.close()
    print_lines()
    measure_shopping(MONDAY)
    measure_run_sheets()
    measure_portioning(MONDAY)
    with serving(MONDAY) as lived:
        measure_table(lived, MONDAY)
        measure_review(lived, MONDAY)
        measure_archive(lived)
    measure_weeks()
    measure_crowd()
    measure_households(rounds=2)
    measure_failover()
    if "--quick" not in sys.argv:
        measure_requests()
        measure_kills()
    print(f"Yardstick after: {yardstick():.1f} ms")
    if "--quick" not in sys.argv and shutil.which("git") and (CHECKOUT / ".git").exists():
        from_packages_to_demo()


if __name__ == "__main__":
    main()
