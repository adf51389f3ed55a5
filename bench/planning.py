"""Fit and plan on random weeks: seconds to the first week in band and to the end, and quality by a greedy cook's."""

import statistics
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace

from bench.anchors import Best, best_of, kept, small_week
from bench.weeks import SHARES, random_week
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.plan.week_eased import eased
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import Conflict, PlanDish, WeekPlan, WeekPlanProblem

INSTANCES = [
    (1, 20, 1, 1),
    (1, 60, 2, 3),
    (2, 20, 2, 1),
    (2, 20, 2, 7),
    (2, 60, 1, 2),
    (2, 60, 1, 8),
    (2, 60, 2, 2),
    (2, 60, 2, 11),
    (4, 60, 2, 1),
    (4, 200, 2, 1),
    (4, 200, 2, 3),
    (6, 500, 2, 1, 14),
    (6, 500, 2, 2, 14),
]
REACH = {
    2: "first in band under 0.5 s, proven under 3 s",
    4: "first in band under 1 s, proven under 8 s",
    6: "first in band under 5 s, gap at most 5 % at 30 s",
}


@dataclass(frozen=True)
class Quality:
    """What a week is worth to a cook."""

    in_band: int
    days: int
    protein_short_g: float
    too_old: int
    batches: int
    minutes: float
    left_g: float

    def words(self) -> str:
        """For a table."""
        return (
            f"{self.in_band:>2}/{self.days:<2} days  {self.protein_short_g:5.0f} g short  {self.too_old:>2} too old  "
            f"{self.batches:>3} batches   {self.minutes:4.0f} min  {self.left_g:5.0f} g left over"
        )


def quality(problem: WeekPlanProblem, meals: list[tuple[str, int, str, str, float, str]]) -> Quality:
    """Of meals (eater, day, slot, dish, grams, session)."""
    dish = {d.key: d for d in problem.dishes}
    on = {s.key: s.day for s in problem.sessions}
    in_band, short = 0, 0.0
    for band in problem.days:
        mine = [(dish[m[3]], m[4]) for m in meals if (m[0], m[1]) == (band.eater_key, band.day)]
        kcal = sum(d.kcal_per_g * grams for d, grams in mine)
        lack = band.protein_floor_g - sum(d.protein_per_g * grams for d, grams in mine)
        in_band += band.energy_low_kcal - 0.5 <= kcal <= band.energy_high_kcal + 0.5 and lack <= 0.5
        short += max(lack, 0.0)
    too_old = sum(m[1] - on[m[5]] > dish[m[3]].keeps_days and not dish[m[3]].freezes for m in meals)
    cooked = {(m[5], m[3]) for m in meals}
    batches, minutes = sum(dish[d].batches for _, d in cooked), sum(dish[d].hands_on_min for _, d in cooked)
    made: dict[tuple[str, str], float] = {}
    for m in meals:
        made[m[5], m[3]] = made.get((m[5], m[3]), 0.0) + m[4]
    left = sum(-grams % unit for (_, key), grams in made.items() if (unit := dish[key].unit_g))
    return Quality(in_band, len(problem.days), short, too_old, batches, minutes, left_g=left)


def greedy(problem: WeekPlanProblem) -> list[tuple[str, int, str, str, float, str]]:
    """A cook's rule of thumb: per slot the recipe whose own serving is nearest its share of the day, all week."""
    dish = {d.key: d for d in problem.dishes}
    bands = {(d.eater_key, d.day): d for d in problem.days}
    chosen: dict[tuple[str, str], PlanDish] = {}
    meals = []
    for slot in problem.slots:
        band = bands[slot.eater_key, slot.day]
        share = SHARES[slot.slot_key] * (band.energy_low_kcal + band.energy_high_kcal) / 2
        key = (slot.eater_key, slot.slot_key)
        if key not in chosen:
            chosen[key] = min((dish[k] for k in slot.dishes), key=lambda d: abs(d.serving_g * d.kcal_per_g - share))
        d = chosen[key]
        grams = min(max(share / d.kcal_per_g, d.low_g), d.high_g)
        able = [s for s in problem.sessions if (slot.eater_key, slot.day, slot.slot_key) in s.serves]
        session = max(able, key=lambda s: s.day)
        meals.append((slot.eater_key, slot.day, slot.slot_key, d.key, grams, session.key))
    return meals


def measure_fit() -> None:
    """Two eaters, four slots, seven days, in steps of 5 g, without whole pieces and with: CPU time."""
    import highspy  # noqa: F401 (the first import is not the fit)

    for words, pieces in (("no pieces", False), ("a third in whole pieces", True)):
        times, proven = _fit_times(pieces=pieces)
        middle, most = statistics.median(times), max(times)
        print(f"  fit, 2 eaters, 5 g steps, 20 weeks, {words}: CPU median {middle:.1f} ms, most {most:.1f} ms", end="")
        print(f", {proven} proven best   wanted: under 25 ms, exact or the bound shown")


def _fit_times(*, pieces: bool) -> tuple[list[float], int]:
    """CPU ms of twenty fits, and how many of them are proven best."""
    times, proven = [], 0
    for seed in range(20):
        problem = random_week(2, 20, 2, seed)
        dish = {d.key: d for d in problem.dishes}
        slots = dict.fromkeys((s.eater_key, s.slot_key) for s in problem.slots)
        firsts = {k: next(s for s in problem.slots if (s.eater_key, s.slot_key) == k) for k in slots}
        portions = [
            FitPortion(
                eater,
                d.key,
                d.serving_g,
                d.kcal_per_g,
                d.protein_per_g,
                d.low_g,
                high_g=d.high_g,
                days=days,
                piece_g=round(d.serving_g / 3, 1) if pieces and n % 3 == 0 else None,
            )
            for n, ((eater, _), slot) in enumerate(firsts.items())
            for d in (dish[slot.dishes[seed % len(slot.dishes)]],)
            for days in ((0, 3, 6), (1, 2, 4, 5))
        ]
        bands = [
            FitDay(d.eater_key, d.day, d.energy_low_kcal, d.energy_high_kcal, d.protein_floor_g) for d in problem.days
        ]
        began = time.process_time()
        done = fit_week(WeekFitProblem(tuple(portions), tuple(bands)))
        proven += done.is_proven_best
        times.append((time.process_time() - began) * 1000)
    return times, proven


def measure_plan(eaters: int, recipes: int, sessions: int, seed: int, days: int = 7) -> None:
    """One week: when the first in band came, when one was proven, when it was over, and what it is worth."""
    problem = random_week(eaters, recipes, sessions, seed, days)
    seen: list[float] = []
    proven: list[float] = []
    began = time.perf_counter()

    def better(week: WeekPlan) -> bool:
        seen.append(time.perf_counter() - began)
        if week.is_proven_best:
            proven.append(seen[-1])
        return True

    plan = plan_week(problem, better).plan
    took = time.perf_counter() - began
    print(f"  plan {eaters} × {recipes}, {sessions} session(s), seed {seed}: ", end="")
    if plan is None:
        print(f"no week, said after {took:.1f} s")
        return
    gap = "proven best" if plan.is_proven_best else f"bound {plan.bound_batches} batches, {plan.bound_min:.0f} min"
    if not plan.is_proven_best:  # a batch counts as 1,000 minutes
        reached, least = (
            1000 * b + m for b, m in ((plan.batches, plan.hands_on_min), (plan.bound_batches, plan.bound_min))
        )
        gap += f", gap {100 * (reached - least) / reached:.1f} %"
    if plan.polish_gap_pct is not None:
        gap += f", left over and sizes at most {plan.polish_gap_pct:.1f} % from the best"
    proof = f", proven {proven[0]:.2f} s" if proven else ""
    print(f"first in band {seen[0]:.2f} s{proof}, polished and over {took:.2f} s, {gap}")
    mine = [(m.eater_key, m.day, m.slot_key, m.dish_key, m.grams, m.session_key) for m in plan.meals]
    print(f"      wanted    {REACH[2 if eaters <= 2 else 4 if eaters <= 4 else 6]}")
    print(f"      planned   {quality(problem, mine).words()}")
    print(f"      greedy    {quality(problem, greedy(problem)).words()}")


def measure_no_week(eaters: int, recipes: int, sessions: int, seed: int) -> None:
    """Weeks that cannot be: when the rules in the way were named, and when every way out was known."""
    problem = random_week(eaters, recipes, sessions, seed)
    rules = problem.rules
    high = tuple(replace(d, protein_floor_g=d.protein_floor_g * 2) for d in problem.days)
    far = tuple(
        replace(d, energy_low_kcal=d.energy_low_kcal * 2.4, energy_high_kcal=d.energy_high_kcal * 2.4)
        for d in problem.days
    )
    impossible = {
        "floors doubled": replace(problem, days=high),
        "bands far up": replace(problem, days=far),
        "one dish a slot, three times": replace(problem, rules=replace(rules, different=1, repeats=3)),
        "fridge for 5, 20 boxes": replace(problem, rules=replace(rules, fridge_boxes=5, box_count=20)),
    }
    print(
        f"  no week, {eaters} × {recipes}, {sessions} session(s), seed {seed}   wanted: named / all ways out under",
        end="",
    )
    print(" 2 / 6 s" if eaters <= 2 else " 5 / 15 s")
    for words, asked in impossible.items():
        named: list[float] = []
        began = time.perf_counter()
        conflicts = plan_week(asked, report=lambda _: named.append(time.perf_counter() - began)).conflicts  # noqa: B023
        took = time.perf_counter() - began
        print(
            f"      {words:<28} named {named[0]:.2f} s, ways out {took:.2f} s: {', '.join(c.change for c in conflicts)}"
        )


def measure_truth(random_weeks: int = 200, larger_weeks: int = 30) -> None:
    """What is said of small weeks, against another solver's programme: the anchors, as many random ones, and some with
    so many dishes that they are planned in parts."""
    anchors = [(small_week(seed), best) for seed, _, best in kept()]
    drawn = [(small_week(seed), None) for seed in range(10_000, 10_000 + random_weeks)]
    larger = [(larger_week(seed), None) for seed in range(larger_weeks)]
    for words, weeks in (("anchors", anchors), ("random weeks", drawn), ("weeks of 42 to 51 dishes", larger)):
        said: Counter[str] = Counter()
        began = time.perf_counter()
        for problem, best in weeks:
            said.update(_said_falsely(problem, best or best_of(problem)))
        took = time.perf_counter() - began
        print(f"  {len(weeks)} {words}, {took:.0f} s: ", end="")
        print(
            ", ".join(
                f"{said[of]} {of}" for of in ("false no", "false bound", "false proof", "false way out", "not told")
            )
        )


def larger_week(seed: int) -> WeekPlanProblem:
    """Two or three days of one to three eaters with a library that is planned in parts."""
    problem = random_week(1 + seed % 3, 42 + seed % 10, 1 + seed % 2, seed, 2 + seed % 2)
    rules = replace(problem.rules, different=1 + seed % 3, repeats=1 + seed % 4, freezer_boxes=(1, 4, 14)[seed % 3])
    return replace(problem, rules=rules)


def _said_falsely(problem: WeekPlanProblem, best: Best) -> Iterator[str]:
    """What of an answer is false, and whether it was not told in time."""
    result = plan_week(problem)
    if result.plan is not None:
        reached, bound = (
            (result.plan.batches, result.plan.hands_on_min),
            (result.plan.bound_batches, result.plan.bound_min),
        )
        if best.status == "best" and bound > (best.batches, best.minutes):
            yield "false bound"
        if best.status == "best" and result.plan.is_proven_best and reached != (best.batches, best.minutes):
            yield "false proof"
        if not result.plan.is_proven_best:
            yield "not told"
        return
    if result.ran_out:
        yield "not told"
    elif best.status == "best":
        yield "false no"
    ways: dict[int, list[Conflict]] = {}
    for conflict in result.conflicts:
        ways.setdefault(conflict.way, []).append(conflict)
    for way in ways.values():
        if all(conflict.is_tried for conflict in way):
            freed = problem
            for conflict in way:
                freed = eased(freed, conflict)
            if plan_week(freed, explain=False).plan is None:
                yield "false way out"


def measure_weeks() -> None:
    """Print all of them."""
    import ortools.sat.python.cp_model  # noqa: F401 (a job's process has it loaded before it is asked)

    measure_fit()
    measure_truth()
    for instance in INSTANCES:
        measure_plan(*instance)
    for instance in ((2, 60, 2, 2), (4, 200, 2, 3)):
        measure_no_week(*instance)


if __name__ == "__main__":
    measure_weeks()
