"""Run sheets of seeded sessions: how soon the first, how soon proven, how far from the bound; against one by one."""

import random
import time
from collections.abc import Callable, Iterator
from statistics import median

from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_problem import SheetKitchen, SheetProblem, Task, Within
from goodcrate.core.cook.sheet_solver import one_after_another, shortest_sheet

KITCHEN = SheetKitchen(1, {"hob": 3, "oven": 2, "blender": 1, "rice_cooker": 1, "cooling": 4})
Dish = Callable[[str, random.Random], Iterator[Task]]


def _then(dish: str, *steps: tuple[str, int, bool, str]) -> Iterator[Task]:
    """Steps one after the other: name, minutes, hands-on, place."""
    before: tuple[str, ...] = ()
    heat = random.Random(dish).choice(((150, 160), (170, 180), (180, 200), (200, 220)))
    for name, minutes, hands, place in steps:
        checks = (minutes // 2,) if not hands and place in ("hob", "oven") and minutes >= 20 else ()
        low, high = heat if place == "oven" else (None, None)
        yield Task(f"{dish}.{name}", dish, minutes, hands, place, low, high_c=high, after=before, checks=checks)
        before = (f"{dish}.{name}",)


def _boxed(dish: str, dice: random.Random, *steps: tuple[str, int, bool, str]) -> Iterator[Task]:
    cool, box = dice.randint(20, 35), dice.randint(3, 8)
    return _then(dish, *steps, ("cool", cool, False, "cooling"), ("box", box, True, ""))


DISHES: tuple[Dish, ...] = (
    lambda d, r: _boxed(
        d,
        r,
        ("chop", r.randint(8, 18), True, ""),
        ("fry", r.randint(5, 9), True, "hob"),
        ("simmer", r.randint(30, 70), False, "hob"),
    ),
    lambda d, r: _boxed(d, r, ("cut", r.randint(6, 14), True, ""), ("roast", r.randint(25, 50), False, "oven")),
    lambda d, r: _boxed(
        d,
        r,
        ("slice", r.randint(8, 14), True, ""),
        ("sauce", r.randint(6, 10), True, "hob"),
        ("bake", r.randint(35, 60), False, "oven"),
    ),
    lambda d, r: _boxed(d, r, ("rinse", r.randint(2, 4), True, ""), ("boil", r.randint(15, 35), False, "rice_cooker")),
    lambda d, r: _boxed(
        d,
        r,
        ("chop", r.randint(6, 12), True, ""),
        ("simmer", r.randint(20, 35), False, "hob"),
        ("blend", r.randint(3, 6), True, "blender"),
    ),
    lambda d, r: _then(d, ("blend", r.randint(4, 8), True, "blender"), ("box", r.randint(3, 6), True, "")),
    lambda d, r: _boxed(d, r, ("mix", r.randint(8, 15), True, ""), ("bake", r.randint(18, 28), False, "oven")),
    lambda d, r: _then(
        d, ("boil", r.randint(8, 11), False, "hob"), ("peel", r.randint(5, 9), True, ""), ("box", 3, True, "")
    ),
)


def session(recipes: int, seed: int) -> SheetProblem:
    """A seeded session: dishes of these kinds in turn, boxed within two hours of their heat."""
    dice = random.Random(seed)
    tasks, within = list[Task](), list[Within]()
    for n in range(recipes):
        own = list(DISHES[(n + seed) % len(DISHES)](f"dish {n}", dice))
        tasks += own
        hot = [t for t in own if not t.is_hands_on and t.place in ("hob", "oven", "rice_cooker")]
        if hot and own[-1].key != hot[-1].key:
            within.append(Within(hot[-1].key, own[-1].key, 120))
    return SheetProblem(tuple(tasks), KITCHEN, tuple(within))


def measure_run_sheets() -> None:
    """Print each size: the time to proof or to the limit, what is left of the gap, and the gain on one by one."""
    for recipes, seeds, limit_s in ((4, 6, 5.0), (8, 6, 5.0), (14, 3, 5.0)):
        took, gaps, gains, proven, tasks = [], [], [], 0, []
        for seed in range(seeds):
            problem = session(recipes, seed)
            began = time.perf_counter()
            sheet = shortest_sheet(problem, limit_s)
            took.append(time.perf_counter() - began)
            assert sheet is not None
            assert check_sheet(problem, sheet) == []
            proven += sheet.is_proven_shortest
            gaps.append(100 * (sheet.minutes - sheet.bound) / sheet.minutes)
            gains.append(one_after_another(problem) / sheet.minutes)
            tasks.append(len(problem.tasks))
        print(
            f"  run sheet of {recipes} recipes, {round(median(tasks))} tasks: median {median(took):.2f} s, proven "
            f"{proven} of {seeds}, gap {median(gaps):.1f} %, one after another takes {median(gains):.2f} ×"
        )
