"""Small weeks with their best, by a plain integer programme and another solver (HiGHS): the planner is held against it.

The programme is written anew from the rules (`docs/planning.md`) and shares no code with the planner: a binary for
every slot, dish and session, whole steps of 5 g for every portion, one size for each eater, dish and kind of day.
"""

import csv
import random
import sys
from collections.abc import Iterator
from dataclasses import dataclass, fields
from hashlib import sha256
from math import ceil, floor
from pathlib import Path
from typing import Any

from goodcrate.core.week.week_problem import (
    PlanBand,
    PlanDay,
    PlanDish,
    PlanRules,
    PlanSession,
    PlanSlot,
    WeekPlanProblem,
)

KEPT = Path(__file__).with_name("anchors.csv")
"""Seeds with their best, made by `python -m bench.anchors 64 > bench/anchors.csv`; the digest is of the problem, so
that a change of `small_week` is seen."""
STEP_G = 5
EDGE = 1e-6
LIMIT_S = 60.0


def small_week(seed: int) -> WeekPlanProblem:
    """A week of 2 to 7 days for one or two eaters, with few dishes whose sizes are narrow: some have no answer."""
    rng = random.Random(seed)
    days, slots = rng.randint(2, 7), ("breakfast", "lunch", "dinner")[: rng.randint(2, 3)]
    dishes = []
    for n in range(rng.randint(4, 10)):
        kcal_per_g = round(rng.uniform(0.8, 2.6), 3)
        middle = rng.uniform(350, 800) / kcal_per_g
        spread = rng.choice((0.0, 0.1, 0.25, 0.5))
        low = max(5, round(middle * (1 - spread) / 5) * 5)
        dishes.append(
            PlanDish(
                f"d{n}",
                f"dish {n}",
                kcal_per_g,
                round(kcal_per_g * rng.uniform(0.04, 0.11), 4),
                low,
                max(low, round(middle * (1 + spread) / 5) * 5),
                batches=rng.choice((1, 1, 2)),
                hands_on_min=rng.randint(8, 45),
                keeps_days=rng.choice((2, 3, 4)),
                freezes=rng.random() < 0.5,
                others_per_g={"fat_g": round(kcal_per_g * rng.uniform(0.02, 0.05), 4)},
            )
        )
    bands, places = [], []
    for e in range(rng.choice((1, 1, 2))):
        base, width = rng.choice((600, 650, 720)) * len(slots), rng.choice((0.02, 0.03, 0.05))
        asks_fat = rng.random() < 0.3
        for day in range(days):
            kcal = base + (150 if day % 3 == 0 else 0)
            fat = (PlanBand("fat_g", round(kcal * 0.028), round(kcal * 0.042)),) if asks_fat else ()
            kind = "training" if day % 3 == 0 else "rest"
            floor_g = round(kcal * rng.choice((0.05, 0.06, 0.07)))
            bands.append(PlanDay(f"e{e}", day, kind, kcal * (1 - width), kcal * (1 + width), floor_g, bands=fat))
            for slot in slots:
                fits = tuple(d.key for d in dishes if rng.random() < 0.75) or ("d0",)
                places.append(PlanSlot(f"e{e}", day, slot, fits))
    sessions = [PlanSession("first", -1, frozenset((s.eater_key, s.day, s.slot_key) for s in places))]
    if days > 4 and rng.random() < 0.6:
        later = frozenset((s.eater_key, s.day, s.slot_key) for s in places if s.day >= 3)
        sessions.append(PlanSession("second", 2, later))
    rules = PlanRules(different=rng.choice((2, 3)), repeats=rng.choice((4, 7, 14)), freezer_boxes=60)
    return WeekPlanProblem(tuple(places), tuple(bands), tuple(dishes), tuple(sessions), rules)


def digest_of(problem: WeekPlanProblem) -> str:
    """A problem, short enough to be compared."""
    return sha256(repr(sorted_problem(problem)).encode()).hexdigest()[:12]


def sorted_problem(problem: WeekPlanProblem) -> object:
    """The same whatever order its sets come in."""
    sessions = [(s.key, s.day, sorted(s.serves)) for s in problem.sessions]
    parts = (problem.slots, problem.days, problem.dishes, (problem.rules,))
    return [[_said(one) for one in part] for part in parts], sessions


def _said(one: Any) -> list[tuple[str, object]]:
    """What is said of it beyond what it is when nothing is said: a new field with a default changes no digest."""
    values = ((f.name, getattr(one, f.name), f.default) for f in fields(one))
    return [(name, value) for name, value, default in values if value != default]


def kept() -> list[tuple[int, str, "Best"]]:
    """The weeks that are kept with their best: seed, digest, best."""
    with KEPT.open(encoding="utf-8", newline="") as file:
        return [
            (int(row["seed"]), row["digest"], Best(row["status"], int(row["batches"]), int(row["minutes"])))
            for row in csv.DictReader(file)
        ]


@dataclass(frozen=True)
class Best:
    """What the independent programme found: `status` is best, none or open; batches and minutes of the best week."""

    status: str
    batches: int = 0
    minutes: int = 0


class _Programme:
    """A programme in whole numbers, a column or a row at a time."""

    def __init__(self) -> None:
        import highspy

        self.h: Any = highspy.Highs()
        self.inf = highspy.kHighsInf
        self.whole = highspy.HighsVarType.kInteger
        self.h.setOptionValue("output_flag", False)
        self.h.setOptionValue("mip_rel_gap", 0.0)
        self.h.setOptionValue("mip_feasibility_tolerance", 1e-7)
        self.h.setOptionValue("time_limit", LIMIT_S)

    def column(self, most: float, cost: float = 0.0) -> int:
        """A whole number from 0 to `most`."""
        at = int(self.h.getNumCol())
        self.h.addVar(0.0, float(most))
        self.h.changeColIntegrality(at, self.whole)
        self.h.changeColCost(at, cost)
        return at

    def row(self, terms: list[tuple[int, float]], low: float | None, high: float | None) -> None:
        """A sum between two ends, None is open."""
        ends = (-self.inf if low is None else low, self.inf if high is None else high)
        self.h.addRow(*ends, len(terms), [at for at, _ in terms], [by for _, by in terms])


def best_of(problem: WeekPlanProblem) -> Best:
    """The fewest batches, then minutes, of any week of a problem without placed meals, pots and house."""
    import highspy

    p = _Programme()
    dish = {d.key: d for d in problem.dishes}
    kind = {(d.eater_key, d.day): d.kind for d in problem.days}
    cooks: dict[tuple[int, str], int] = {}
    stands: dict[tuple[int, str], int] = {}
    steps: dict[tuple[int, str], int] = {}
    sizes: dict[tuple[str, str, str], int] = {}
    for n, slot in enumerate(problem.slots):
        here = []
        for key in slot.dishes:
            d = dish[key]
            first, last = ceil(d.low_g / STEP_G), floor(d.high_g / STEP_G)
            xs = [
                (s, p.column(1))
                for s, session in enumerate(problem.sessions)
                if (slot.eater_key, slot.day, slot.slot_key) in session.serves
                and (d.freezes or slot.day - session.day <= d.keeps_days)
            ]
            if not xs or first > last:
                continue
            for s, x in xs:
                if (s, key) not in cooks:
                    cooks[s, key] = p.column(1, 10_000 * d.batches + d.hands_on_min)
                p.row([(cooks[s, key], 1.0), (x, -1.0)], 0.0, None)
            stood = stands[n, key] = p.column(1)
            p.row([(stood, 1.0), *((x, -1.0) for _, x in xs)], 0.0, 0.0)
            count = steps[n, key] = p.column(last)
            p.row([(count, 1.0), (stood, -float(last))], None, 0.0)
            p.row([(count, 1.0), (stood, -float(first))], 0.0, None)
            of = (slot.eater_key, kind[slot.eater_key, slot.day], key)
            if of not in sizes:
                sizes[of] = p.column(last)
            p.row([(count, 1.0), (sizes[of], -1.0)], None, 0.0)
            p.row([(count, 1.0), (sizes[of], -1.0), (stood, -float(last))], -float(last), None)
            here.append((stood, 1.0))
        if not here:
            return Best("none")
        p.row(here, 1.0, 1.0)
    for terms, low, high in _sums(problem, steps, dish):
        p.row(terms, low, high)
    _variety(problem, p, stands)
    p.h.run()
    status = p.h.getModelStatus()
    if status == highspy.HighsModelStatus.kInfeasible:  # its presolve has called a week impossible that was not
        p.h.setOptionValue("presolve", "off")
        p.h.clearSolver()
        p.h.run()
        status = p.h.getModelStatus()
    if status == highspy.HighsModelStatus.kInfeasible:
        return Best("none")
    if status != highspy.HighsModelStatus.kOptimal:
        return Best("open")
    worth = round(p.h.getInfo().objective_function_value)
    return Best("best", worth // 10_000, worth % 10_000)


def _sums(
    problem: WeekPlanProblem, steps: dict[tuple[int, str], int], dish: dict[str, PlanDish]
) -> Iterator[tuple[list[tuple[int, float]], float | None, float | None]]:
    """Every band and floor of every day, in whole kcal and grams as they are shown."""
    for day in problem.days:
        mine = [n for n, s in enumerate(problem.slots) if (s.eater_key, s.day) == (day.eater_key, day.day)]
        at = [(column, dish[key]) for (n, key), column in steps.items() if n in mine]
        low, high = floor(day.energy_low_kcal + 0.5) - 0.5, floor(day.energy_high_kcal + 0.5) + 0.5
        yield [(column, STEP_G * d.kcal_per_g) for column, d in at], low, high - EDGE
        yield [(column, STEP_G * d.protein_per_g) for column, d in at], ceil(day.protein_floor_g) - 0.5, None
        for band in day.bands:
            ends = (
                None if band.low is None else ceil(band.low) - 0.5,
                None if band.high is None else floor(band.high) + 0.5 - EDGE,
            )
            yield [(column, STEP_G * d.others_per_g.get(band.key, 0.0)) for column, d in at], *ends


def _variety(problem: WeekPlanProblem, p: _Programme, stands: dict[tuple[int, str], int]) -> None:
    """At most so many different dishes of an eater's slot, none more often than so."""
    for eater in {s.eater_key for s in problem.slots}:
        for slot_key in {s.slot_key for s in problem.slots}:
            used = []
            for d in problem.dishes:
                here = [
                    column
                    for (n, key), column in stands.items()
                    if key == d.key and (problem.slots[n].eater_key, problem.slots[n].slot_key) == (eater, slot_key)
                ]
                if here:
                    flag = p.column(1)
                    used.append((flag, 1.0))
                    for column in here:
                        p.row([(flag, 1.0), (column, -1.0)], 0.0, None)
            p.row(used, None, float(problem.rules.different)) if used else None
        for d in problem.dishes:
            times = [
                (column, 1.0)
                for (n, key), column in stands.items()
                if key == d.key and problem.slots[n].eater_key == eater
            ]
            if times:
                p.row(times, None, float(problem.rules.repeats))


if __name__ == "__main__":
    writer = csv.writer(sys.stdout, lineterminator="\n")
    writer.writerow(("seed", "digest", "status", "batches", "minutes"))
    for number in range(int(sys.argv[1])):
        week = small_week(number)
        found = best_of(week)
        writer.writerow((number, digest_of(week), found.status, found.batches, found.minutes))
