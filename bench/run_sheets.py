"""Run sheets of seeded sessions: first sheet, proof or gap, dishes kept together; against one by one, longest first."""

import random
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from itertools import count
from statistics import median

from goodcrate.core.cook.free_order import in_better_order
from goodcrate.core.cook.running import BEGUN, DONE, MORE, StepState, Tick, in_same_order, look_key, states_of
from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_problem import Sheet, SheetKitchen, SheetProblem, Task, Within, heats_of, longest_chain
from goodcrate.core.cook.sheet_solver import one_after_another, shortest_sheet

KITCHEN = SheetKitchen(1, {"hob": 3, "oven": 2, "blender": 1, "rice_cooker": 1, "cooling": 4})
Dish = Callable[[str, random.Random], Iterator[Task]]
HANDS, HOB, OVEN, COOL = (True, ""), (True, "hob"), (False, "oven"), (False, "cooling")
SIMMER, RICE, BLEND = (False, "hob"), (False, "rice_cooker"), (True, "blender")
Kind = tuple[tuple[str, int, int, tuple[bool, str]], ...]
"""Steps one after the other: name, from and to minutes, hands-on and place."""
KINDS: tuple[Kind, ...] = (
    (
        ("peel", 4, 8, HANDS),
        ("chop", 8, 14, HANDS),
        ("brown", 8, 12, HOB),
        ("sweat", 5, 9, HOB),
        ("simmer", 35, 75, SIMMER),
        ("season", 2, 3, HANDS),
    ),
    (("peel", 4, 8, HANDS), ("cut", 6, 12, HANDS), ("oil", 2, 4, HANDS), ("roast", 30, 50, OVEN)),
    (("slice", 8, 14, HANDS), ("sauce", 6, 10, HOB), ("layer", 4, 7, HANDS), ("bake", 35, 55, OVEN)),
    (("rinse", 2, 4, HANDS), ("boil", 15, 35, RICE), ("fluff", 2, 3, HANDS)),
    (
        ("chop", 6, 12, HANDS),
        ("sweat", 5, 8, HOB),
        ("simmer", 20, 35, SIMMER),
        ("blend", 3, 6, BLEND),
        ("season", 2, 3, HANDS),
    ),
    (("drain", 2, 4, HANDS), ("blend", 4, 8, BLEND), ("season", 2, 3, HANDS)),
    (("weigh", 3, 6, HANDS), ("mix", 6, 10, HANDS), ("fill", 3, 6, HANDS), ("bake", 18, 28, OVEN)),
    (("boil", 8, 11, SIMMER), ("peel", 5, 9, HANDS), ("halve", 2, 4, HANDS)),
    (
        ("rub", 4, 8, HANDS),
        ("sear", 6, 10, HOB),
        ("roast", 60, 100, OVEN),
        ("rest", 10, 15, COOL),
        ("carve", 4, 8, HANDS),
    ),
    (("wash", 3, 6, HANDS), ("chop", 8, 14, HANDS), ("dress", 3, 5, HANDS)),
)
HEATS = ((150, 160), (160, 190), (180, 200), (200, 220))
SIZES = ((4, 6, 2.0), (8, 6, 5.0), (14, 5, 5.0), (14, 5, 20.0))
"""Recipes, seeds and the solver's seconds."""


def dish(name: str, kind: Kind, dice: random.Random) -> Iterator[Task]:
    """A dish's tasks, cooled where it was hot, and boxed."""
    low, high = dice.choice(HEATS)
    before: tuple[str, ...] = ()
    hot = any(place in ("hob", "oven", "rice_cooker") for *_, (_, place) in kind)
    boxed: Kind = ((("cool", 20, 35, COOL),) if hot else ()) + (("box", 3, 8, HANDS),)
    for step, least, most, (hands, place) in (*kind, *boxed):
        minutes = dice.randint(least, most)
        looks = (minutes // 2,) if not hands and place in ("hob", "oven") and minutes >= 20 else ()
        heat = (low, high) if place == "oven" else (None, None)
        key = f"{name}.{step}"
        yield Task(key, name, minutes, hands, place, heat[0], high_c=heat[1], after=before, checks=looks)
        before = (key,)


def session(recipes: int, seed: int, cooks: int = 1) -> SheetProblem:
    """A seeded session: dishes of these kinds in turn, boxed within two hours of their heat."""
    dice = random.Random(seed)
    tasks, within = list[Task](), list[Within]()
    for n in range(recipes):
        own = list(dish(f"dish {n}", KINDS[(n + seed) % len(KINDS)], dice))
        tasks += own
        hot = [t for t in own if t.place in ("hob", "oven", "rice_cooker")]
        if hot:
            within.append(Within(hot[-1].key, own[-1].key, 120))
    kitchen = SheetKitchen(cooks, KITCHEN.places)
    return SheetProblem(tuple(tasks), kitchen, tuple(within))


class _Placed:
    """A session as a cook fills it in: who is busy and what is taken, minute by minute."""

    def __init__(self, problem: SheetProblem) -> None:
        self.problem = problem
        self.hands: Counter[int] = Counter()
        self.taken: Counter[tuple[str, int]] = Counter()
        self.starts: dict[str, int] = {}
        self.looks: dict[tuple[str, int], int] = {}
        self.heats: dict[str, int] = {}

    def place(self, block: Sequence[Task], ready: int) -> int:
        """Put a block where it first fits, one task at the end of the other; answers its end."""
        for start in count(ready):
            if self._fits(block, start):
                return self.starts[block[-1].key] + block[-1].minutes
        raise AssertionError("time ends")

    def _fits(self, block: Sequence[Task], start: int) -> bool:
        before = (self.hands.copy(), self.taken.copy(), dict(self.starts), dict(self.looks), dict(self.heats))
        for task in block:
            if not self._take(task, start):
                self.hands, self.taken, self.starts, self.looks, self.heats = before
                return False
            start += task.minutes
        return True

    def _take(self, task: Task, start: int) -> bool:
        kitchen, end = self.problem.kitchen, start + task.minutes
        if task.is_hands_on and any(self.hands[m] >= kitchen.hands for m in range(start, end)):
            return False
        until = end + (kitchen.wash_min if task.place == "blender" else 0)
        if task.place and any(self.taken[task.place, m] >= kitchen.places[task.place] for m in range(start, until)):
            return False
        if task.place == "oven":
            heat = next((h for h in heats_of(task) if self._oven_is_at(h, start, end)), None)
            if heat is None:
                return False
            self.heats[task.key] = heat
        self.hands.update(range(start, end) if task.is_hands_on else ())
        self.taken.update((task.place, m) for m in range(start, until) if task.place)
        self.starts[task.key] = start
        for n, due in enumerate(() if task.is_hands_on else task.checks):
            at = next((m for m in range(start + due - 2, start + due + 3) if self.hands[m] < kitchen.hands), None)
            if at is None:
                return False
            self.hands[at] += 1
            self.looks[task.key, n] = at
        return True

    def _oven_is_at(self, heat: int, start: int, end: int) -> bool:
        kitchen = self.problem.kitchen
        if start < kitchen.preheat_min:
            return False
        others = ((self.starts[k], self.problem.by_key[k].minutes) for k, h in self.heats.items() if h != heat)
        return all(end + kitchen.reheat_min <= at or at + long + kitchen.reheat_min <= start for at, long in others)


def longest_first(problem: SheetProblem) -> int:
    """Minutes of a cook who, of what can be begun, plans what the longest chain waits for where it first fits.

    What is on the heat last is planned in one with cooling and boxing, so that every rule is kept; the checker agrees.
    """
    chains, placed = longest_chain(problem.tasks), _Placed(problem)
    last_heats = {pair.earlier for pair in problem.within}
    blocks: list[tuple[Task, ...]] = []
    for name in dict.fromkeys(task.dish for task in problem.tasks):
        own = [task for task in problem.tasks if task.dish == name]
        cut = next((n for n, task in enumerate(own) if task.key in last_heats), len(own))
        blocks += [(task,) for task in own[:cut]] + ([tuple(own[cut:])] if own[cut:] else [])
    while blocks:
        free = [b for b in blocks if all(key in placed.starts for key in b[0].after)]
        block = max(free, key=lambda b: (chains[b[0].key], b[0].key))
        ready = max((placed.starts[k] + problem.by_key[k].minutes for k in block[0].after), default=0)
        placed.place(block, ready)
        blocks.remove(block)
    minutes = max(at + problem.by_key[key].minutes for key, at in placed.starts.items())
    sheet = Sheet(placed.starts, placed.looks, placed.heats, minutes, 0)
    assert check_sheet(problem, sheet) == []
    return minutes


def half_done(problem: SheetProblem, sheet: Sheet, seed: int) -> tuple[dict[str, StepState], int]:
    """The states of a session at half of its time: what was due is begun or done, and of what runs half needs 10 min
    more."""
    dice, now, ticks = random.Random(seed), sheet.minutes // 2, list[Tick]()
    for task in sorted(problem.tasks, key=lambda t: sheet.starts[t.key]):
        start = sheet.starts[task.key]
        if start < now:
            ticks.append(Tick(task.key, BEGUN, start))
        if start + task.minutes <= now:
            ticks.append(Tick(task.key, DONE, start + task.minutes))
        elif start < now and dice.random() < 0.5:
            ticks.append(Tick(task.key, MORE, now, 10))
    ticks += [Tick(look_key(*look), DONE, at) for look, at in sheet.looks.items() if at < now]
    return dict(states_of(problem, sheet, ticks)), now


def measure_replans(recipes: int, seeds: int) -> None:
    """Print what it takes to go on after an overrun, in the order there was and in a free one."""
    kept_ms, free_ms, late, other = [], [], [], 0
    for seed in range(seeds):
        problem = session(recipes, seed)
        sheet = shortest_sheet(problem, 5.0)
        assert sheet is not None
        states, now = half_done(problem, sheet, seed)
        began = time.perf_counter()
        kept = in_same_order(problem, sheet, states, now)
        kept_ms.append((time.perf_counter() - began) * 1000)
        began = time.perf_counter()
        order = in_better_order(problem, sheet, states, now)
        free_ms.append((time.perf_counter() - began) * 1000)
        late.append(kept.sheet.minutes - sheet.minutes)
        other += order is not None
    print(
        f"  goes on after an overrun, {recipes} recipes: order kept {median(kept_ms):.0f} ms "
        f"(most {max(kept_ms):.0f}), {median(late):.0f} min later; free order {median(free_ms):.0f} ms "
        f"(most {max(free_ms):.0f}), "
        f"taken in {other} of {seeds}"
    )


def measure_run_sheets() -> None:
    """Print each size: the first sheet, to proof or what is left of the gap, and two other ways."""
    for recipes, seeds, limit_s in SIZES:
        firsts, took, gaps, gains, longest, proven, tasks = [], [], [], [], [], 0, []
        for seed in range(seeds):
            problem = session(recipes, seed)
            began, seen = time.perf_counter(), list[float]()

            def better(_: Sheet, began: float = began, seen: list[float] = seen) -> bool:
                seen.append(time.perf_counter() - began)
                return True

            sheet = shortest_sheet(problem, limit_s, on_better=better)
            took.append(time.perf_counter() - began)
            assert sheet is not None
            assert check_sheet(problem, sheet) == []
            firsts.append(seen[0])
            proven += sheet.is_proven_shortest
            gaps.append(100 * (sheet.minutes - sheet.bound) / sheet.minutes)
            gains.append(one_after_another(problem) / sheet.minutes)
            longest.append(longest_first(problem) / sheet.minutes)
            tasks.append(len(problem.tasks))
        print(
            f"  run sheet of {recipes} recipes, {round(median(tasks))} tasks, {limit_s:g} s of the solver's: first "
            f"{median(firsts):.2f} s (most {max(firsts):.2f}), whole {median(took):.2f} s (most {max(took):.2f}), "
            f"proven {proven} of {seeds}, gap {median(gaps):.1f} % (most {max(gaps):.1f}); one after another takes "
            f"{median(gains):.2f} ×, longest first {median(longest):.2f} ×\n"
            f"    one after another of each: {', '.join(f'{g:.2f}' for g in gains)}; "
            f"longest first of each: {', '.join(f'{g:.2f}' for g in longest)}"
        )
    for recipes in (4, 8, 14):
        measure_replans(recipes, 8)
