"""A kitchen with 20,000 foods: how long taking them in takes, and how fast the finder answers."""

import random
import time
from collections.abc import Callable
from uuid import uuid4

from goodcrate.db.session import Database
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.foods import food_files, own_foods
from goodcrate.services.foods.own_foods import NO_FILTERS, Filters
from goodcrate.web.app import settle_memory

MANY = 20_000
MARKS = ("smoked", "dried", "fresh", "organic", "sliced", "whole", "ground", "light", "spiced", "sweet", "salted",
         "fine", "coarse", "early", "late", "red", "white", "yellow", "green", "black")  # fmt: skip


def many_foods_csv(seed: int = 7) -> str:
    """20,000 made-up foods: typical ones with marks and numbers to their names, figures shifted a little."""
    pick, typical = random.Random(seed), list(reference_foods().values())
    lines = ["name,kcal,protein_g,fat_g,carbohydrate_g,fibre_g,group,state,allergens"]
    for n in range(MANY):
        food = pick.choice(typical)
        figures = food.composition
        name = f"{pick.choice(MARKS)} {food.name.replace(',', '')} {pick.choice(MARKS)} {n}"
        protein, fat = (round((figures.get(k) or 0) * pick.uniform(0.9, 1.0), 1) for k in ("protein_g", "fat_g"))
        fibre = figures.get("fibre_g") or 0
        carbohydrate = max(fibre, round((figures.get("carbohydrate_g") or 0) * 0.95, 1))
        kcal = round(4 * protein + 9 * fat + 4 * (carbohydrate - fibre) + 2 * fibre, 1)
        allergens = "|".join(sorted(food.allergens))
        lines.append(f"{name},{kcal},{protein},{fat},{carbohydrate},{fibre},{food.group},{food.state},{allergens}")
    return "\n".join(lines) + "\n"


QUERIES: tuple[tuple[str, str, Filters], ...] = (
    ("three letters", "bar", NO_FILTERS),
    ("three common letters", "raw", NO_FILTERS),
    ("two words, other order", "dry barley", NO_FILTERS),
    ("one slip", "hazlenuts", NO_FILTERS),
    ("two words, a slip in each", "chikcen rosated", NO_FILTERS),
    ("nothing like it", "xylophone", NO_FILTERS),
    ("letters and filters", "che", Filters("dairy", frozenset({"celery"}), 8.0, 300.0)),
    ("filters only", "", Filters("legume", frozenset({"soya"}), 6.0, None)),
)


def measure_many_foods(database: Database, caller: Caller, report: Callable[[str, list[float], str], None]) -> None:
    """Take 20,000 foods into a kitchen, then ask the finder each query in turn."""
    text, file_id = many_foods_csv(), uuid4()
    began = time.perf_counter()
    food_files.upload(caller, file_id, "many.csv", text.encode())
    seen = food_files.report(caller, file_id)
    reported = time.perf_counter()
    done = food_files.apply(caller, file_id)
    ended = time.perf_counter()
    print(
        f"  {MANY:,} foods from a file of {len(text) / 1e6:.1f} MB: report {reported - began:.1f} s, taking in "
        f"{ended - reported:.1f} s ({done['added']:,} added, {len(seen.of('refused')):,} refused)"
    )
    began = time.perf_counter()
    own_foods.find_foods(caller, "barley")
    print(f"  first search after so many changes: {(time.perf_counter() - began) * 1000:.0f} ms")
    settle_memory()  # as the server does when it starts
    everything: list[float] = []
    for name, query, filters in QUERIES:
        times = []
        for _ in range(40):
            start = time.perf_counter()
            own_foods.find_foods(caller, query, filters=filters)
            times.append((time.perf_counter() - start) * 1000)
        everything += times[5:]
        report(f"finder, {MANY:,} foods: {name}", times[5:], "-")
    report(f"finder, {MANY:,} foods: all of these", everything, "p95 under 50 ms")
