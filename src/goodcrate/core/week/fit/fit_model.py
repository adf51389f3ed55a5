"""One eater's portions against their days as rows of numbers: linear programmes by HiGHS, then rounding and repair.

Whole blocks are rounded to like any step: a programme in whole numbers was tried and took 60 to 1,100 ms for one eater.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import ceil, floor, inf
from typing import Any

import numpy as np

from goodcrate.core.ground.errors import Inconsistent
from goodcrate.core.ground.wording import say
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion
from goodcrate.core.week.week_problem import PlanMean

Array = np.ndarray[Any, Any]

SLOT_TOLERANCE = 0.1
"""How far a meal may be from its slot's share before it counts as off it, as a part of the share."""
REPAIRS = 60
EXACT_GAP = 1e-9


@dataclass(frozen=True)
class Rows:
    """What sums of grams must keep to: each row a sum of portions times `per_g`, from `low` to `high`, weighed."""

    per_g: Array
    low: Array
    high: Array
    weight: Array
    """What missing by one unit counts, below and above: rows × 2."""

    @classmethod
    def of(cls, aims: Iterable["Aim"], portions: int) -> "Rows":
        """A miss counts relative to the end that is missed."""
        rows = list(aims)
        if not rows:
            return cls(np.zeros((0, portions)), np.zeros(0), np.zeros(0), np.zeros((0, 2)))
        low, high, fixed = (np.array([getattr(row, k) for row in rows]) for k in ("low", "high", "fixed"))
        times = np.array([row.times for row in rows])
        size = [np.where(np.isfinite(end), np.maximum(end, 1.0), 1.0) for end in (low, high)]
        per_g = np.array([row.per_g for row in rows])
        return cls(per_g, low - fixed, high - fixed, times[:, None] / np.stack(size, axis=1))

    def miss(self, grams: Array) -> Array:
        """Sum of weighed misses for each row of portion sizes."""
        sums = grams @ self.per_g.T
        short = np.maximum(0, np.where(np.isfinite(self.low), self.low - sums, 0))
        over = np.maximum(0, np.where(np.isfinite(self.high), sums - self.high, 0))
        return np.asarray((short * self.weight[:, 0] + over * self.weight[:, 1]).sum(axis=-1))


@dataclass(frozen=True)
class Aim:
    """One sum to be kept between `low` and `high`, `fixed` of it there already; a miss counts `times`."""

    per_g: Array
    low: float
    high: float
    fixed: float = 0.0
    times: float = 1.0


def day_aims(portions: Sequence[FitPortion], days: Sequence[FitDay]) -> Iterator[Aim]:
    """in_its_energy_band, above_its_protein_floor, in_every_other_band: what each day must keep to."""
    kcal, protein = (np.array([getattr(p, k) for p in portions]) for k in ("kcal_per_g", "protein_per_g"))
    for d in days:
        meals = np.array([p.days.count(d.day) for p in portions], dtype=float)
        yield Aim(meals * kcal, d.energy_low_kcal, d.energy_high_kcal, d.fixed_kcal)
        yield Aim(meals * protein, d.protein_floor_g, inf, d.fixed_protein_g)
        for band in d.bands:
            per_g = np.array([p.others_per_g.get(band.key, 0.0) for p in portions])
            low = -inf if band.low is None else band.low
            yield Aim(meals * per_g, low, inf if band.high is None else band.high, band.extra)


def mean_aims(portions: Sequence[FitPortion], days: Sequence[FitDay], means: Iterable[PlanMean]) -> Iterator[Aim]:
    """the_mean_in_its_bands: what an eater's days come to on their mean, counted as each of them missing as much."""
    n = len(days)
    a_day = np.array([sum(p.days.count(d.day) for d in days) / n for p in portions]) if n else np.zeros(len(portions))
    kcal, protein = (a_day * np.array([getattr(p, k) for p in portions]) for k in ("kcal_per_g", "protein_per_g"))
    for mean in means if n else ():
        there = sum(d.fixed_kcal for d in days) / n
        yield Aim(kcal, mean.energy_low_kcal, mean.energy_high_kcal, there, n)
        yield Aim(protein, mean.protein_floor_g, inf, sum(d.fixed_protein_g for d in days) / n, n)
        for band in mean.bands:
            per_g = a_day * np.array([p.others_per_g.get(band.key, 0.0) for p in portions])
            low, high = (-inf if band.low is None else band.low), (inf if band.high is None else band.high)
            yield Aim(per_g, low, high, sum(own.extra for d in days for own in d.bands if own.key == band.key) / n, n)


def slot_aims(portions: Sequence[FitPortion]) -> Iterator[Aim]:
    """near_the_slots_share: a meal's energy, for slots that have a share of their day."""
    for j, p in enumerate(portions):
        for wanted in sorted({w for w in p.wanted_kcal if w is not None and w > 0}):
            per_g = np.zeros(len(portions))
            per_g[j] = p.kcal_per_g
            low, high = wanted * (1 - SLOT_TOLERANCE), wanted * (1 + SLOT_TOLERANCE)
            yield Aim(per_g, low, high, times=float(p.wanted_kcal.count(wanted)))


class FitModel:
    """One eater's portions and days as arrays; the mean of the days is one more row of them."""

    def __init__(
        self, portions: Sequence[FitPortion], days: Sequence[FitDay], step_g: int, means: Sequence[PlanMean] = ()
    ) -> None:
        self.portions = portions
        self.days = Rows.of([*day_aims(portions, days), *mean_aims(portions, days, means)], len(portions))
        self.slots = Rows.of(slot_aims(portions), len(portions))
        self.before = np.array([p.grams for p in portions])
        self.step = np.array([p.piece_g or float(step_g) for p in portions])
        self.held = np.array([p.is_held for p in portions], dtype=bool)
        self.sized = np.array([bool(p.sizes_g) and not p.is_held for p in portions], dtype=bool)
        self.low = np.array([p.grams if p.is_held else min(p.sizes_g, default=p.low_g) for p in portions])
        self.high = np.array([p.grams if p.is_held else max(p.sizes_g, default=p.high_g) for p in portions])

    def change(self, grams: Array) -> Array:
        """Sum of relative changes for each row of portion sizes."""
        return np.asarray((np.abs(grams - self.before) / np.maximum(self.before, 1)).sum(axis=-1))

    def missed(self, grams: Sequence[float]) -> float:
        """Sum of the days' relative misses with portions of so many grams."""
        return float(self.days.miss(np.array(grams, dtype=float).reshape(1, -1))[0])

    def solve(self) -> tuple[Array, float]:
        """Exact portion sizes, and the least miss of the days: then the slots' shares, then as little change."""
        if not self.portions:
            return np.zeros(0), self.missed([])
        import highspy

        n = len(self.portions)
        solver: Any = highspy.Highs()
        solver.setOptionValue("output_flag", False)
        for low, high in zip(self.low, self.high, strict=True):
            solver.addVar(float(low), float(high))
        costs = [self._misses(solver, self.days), self._misses(solver, self.slots)]
        changes = self._changes(solver)
        least = self._hold(solver, costs[0])
        if costs[1]:
            self._hold(solver, costs[1])
        _minimise(solver, changes)
        return np.array(solver.getSolution().col_value[:n]), least

    def _changes(self, solver: Any) -> dict[int, float]:
        """How much each portion moves, as a share of what it was: columns that weigh the same."""
        import highspy

        changes: dict[int, float] = {}
        for j, was in enumerate(map(float, self.before)):
            size, at = max(was, 1.0), solver.getNumCol()
            solver.addVar(0.0, highspy.kHighsInf)
            solver.addRow(-was, highspy.kHighsInf, 2, [j, at], [-1.0, size])
            solver.addRow(was, highspy.kHighsInf, 2, [j, at], [1.0, size])
            changes[at] = 1.0
        return changes

    @staticmethod
    def _misses(solver: Any, rows: Rows) -> dict[int, float]:
        """A column for what each row is short or over by; gives what they cost."""
        import highspy

        cost: dict[int, float] = {}
        for i in range(len(rows.low)):
            at = [int(j) for j in np.nonzero(rows.per_g[i])[0]]
            per_g = [float(rows.per_g[i, j]) for j in at]
            for end, sign, weight in ((rows.low[i], 1.0, rows.weight[i, 0]), (rows.high[i], -1.0, rows.weight[i, 1])):
                if not np.isfinite(end):
                    continue
                column = solver.getNumCol()
                solver.addVar(0.0, highspy.kHighsInf)
                bounds = (float(end), highspy.kHighsInf) if sign > 0 else (-highspy.kHighsInf, float(end))
                solver.addRow(*bounds, len(at) + 1, [*at, column], [*per_g, sign])
                cost[column] = float(weight)
        return cost

    @staticmethod
    def _hold(solver: Any, cost: dict[int, float]) -> float:
        """Minimise, and let no later stage miss more."""
        import highspy

        least = _minimise(solver, cost)
        most = least + 1e-9 + 1e-7 * least
        solver.addRow(-highspy.kHighsInf, most, len(cost), list(cost), list(cost.values()))
        return least

    def rounded(self, exact: Array) -> list[float]:
        """Sizes on the step (or whole blocks), repaired by small moves while the misses (then the change) fall."""
        grams = self.before.copy()
        for j, sizes in enumerate(self._choices(j) for j in range(len(exact))):
            if len(sizes) and (self.sized[j] or abs(exact[j] - self.before[j]) >= 0.5):  # else it keeps its size
                grams[j] = sizes[np.abs(sizes - exact[j]).argmin()]
        return self.repaired(grams)

    def repaired(self, sizes: Sequence[float] | Array) -> list[float]:
        """Sizes that may be, moved by small moves while the misses (then the change) fall."""
        grams = np.array(sizes, dtype=float)
        if not len(grams):
            return []
        choices = [self._choices(j) for j in range(len(grams))]
        score = self._scores(grams[None])[0]
        for _ in range(REPAIRS):
            tries = self._moves(grams, choices)
            if not len(tries):
                break
            scores = self._scores(tries)
            best = np.lexsort(scores.T[::-1])[0]
            if not tuple(scores[best]) < tuple(score):
                break
            grams, score = tries[best], scores[best]
        return [float(g) for g in grams]

    def in_steps(self, most_nodes: int) -> tuple[list[float] | None, float]:
        """The sizes on the step (or whole blocks, or as they are) with the least miss of the days, by a programme in
        whole numbers; and the least miss that any such sizes can have, as far as was seen in so many nodes.

        None where it found no sizes in them.
        """
        import highspy

        solver: Any = highspy.Highs()
        for option, value in (("output_flag", False), ("threads", 1), ("mip_max_nodes", most_nodes)):
            solver.setOptionValue(option, value)
        for option in ("mip_rel_gap", "mip_abs_gap"):
            solver.setOptionValue(option, EXACT_GAP)
        for low, high in zip(self.low, self.high, strict=True):
            solver.addVar(float(min(low, high)), float(high))
        for j in range(len(self.portions)):
            if not self.held[j]:
                self._whole(solver, j)
        cost = self._misses(solver, self.days)
        columns = list(range(solver.getNumCol()))
        solver.changeColsCost(len(columns), columns, [cost.get(k, 0.0) for k in columns])
        solver.run()
        info = solver.getInfo()
        bound = max(0.0, float(info.mip_dual_bound)) if np.isfinite(info.mip_dual_bound) else 0.0
        if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            return None, bound
        found = solver.getSolution().col_value[: len(self.portions)]
        return [self._nearest(j, float(grams)) for j, grams in enumerate(found)], bound

    def _whole(self, solver: Any, j: int) -> None:
        """A portion's size is one of those it may have, or what it was (whole blocks only those)."""
        import highspy

        sizes, was = self._choices(j), float(self.before[j])
        stays = solver.getNumCol()
        solver.addVar(0.0, 0.0 if self.sized[j] and len(sizes) else 1.0)
        solver.changeColIntegrality(stays, highspy.HighsVarType.kInteger)
        solver.changeColBounds(j, min([was, *sizes]), max([was, *sizes]))
        if self.sized[j]:
            chosen = list(range(stays + 1, stays + 1 + len(sizes)))
            for column in chosen:
                solver.addVar(0.0, 1.0)
                solver.changeColIntegrality(column, highspy.HighsVarType.kInteger)
            solver.addRow(1.0, 1.0, len(chosen) + 1, [stays, *chosen], [1.0] * (len(chosen) + 1))
            solver.addRow(0.0, 0.0, len(chosen) + 2, [j, stays, *chosen], [-1.0, was, *map(float, sizes)])
            return
        if not len(sizes):
            solver.changeColBounds(j, was, was)
            return
        step, steps = float(self.step[j]), stays + 1
        least, most = round(float(sizes[0]) / step), round(float(sizes[-1]) / step)
        solver.addVar(0.0, float(most))
        solver.changeColIntegrality(steps, highspy.HighsVarType.kInteger)
        solver.addRow(float(least), highspy.kHighsInf, 2, [steps, stays], [1.0, float(least)])
        solver.addRow(-highspy.kHighsInf, float(most), 2, [steps, stays], [1.0, float(most)])
        solver.addRow(0.0, 0.0, 3, [j, steps, stays], [-1.0, step, was])

    def _nearest(self, j: int, grams: float) -> float:
        """The size a portion may have that the solver means, free of its tolerances."""
        sizes = self._choices(j)
        if not (self.sized[j] and len(sizes)):
            sizes = np.append(sizes, self.before[j])
        return float(sizes[np.abs(sizes - grams).argmin()])

    def _choices(self, j: int) -> Array:
        """The sizes a portion may have, from the smallest on; none for one that is held."""
        if self.held[j]:
            return np.zeros(0)
        if self.sized[j]:
            return np.array(sorted(self.portions[j].sizes_g))
        step = self.step[j]
        return np.asarray(np.arange(ceil(self.low[j] / step - 1e-9), floor(self.high[j] / step + 1e-9) + 1) * step)

    def _scores(self, tries: Array) -> Array:
        """Misses of days, misses of slots, change, for each row of portion sizes: to be compared in this order."""
        return np.round(np.stack([self.days.miss(tries), self.slots.miss(tries), self.change(tries)], axis=1), 9)

    @staticmethod
    def _moves(grams: Array, choices: Sequence[Array]) -> Array:
        """One portion by one or two of its sizes; two portions by one each."""
        singles: list[tuple[int, float, bool]] = []
        for j, sizes in enumerate(choices):
            smaller, larger = sizes[sizes < grams[j] - 1e-6], sizes[sizes > grams[j] + 1e-6]
            for near, order in ((smaller, -1), (larger, 1)):
                singles += [(j, float(size), n == 0) for n, size in enumerate(near[::order][:2])]
        pairs = [(a, b) for a in singles for b in singles if a[0] < b[0] and a[2] and b[2]]
        tries = np.repeat(grams[None], len(singles) + len(pairs), axis=0)
        for row, (j, size, _) in enumerate(singles):
            tries[row, j] = size
        for row, moves in enumerate(pairs, len(singles)):
            for j, size, _ in moves:
                tries[row, j] = size
        return tries


def _minimise(solver: Any, cost: dict[int, float]) -> float:
    import highspy

    columns = list(range(solver.getNumCol()))
    solver.changeColsCost(len(columns), columns, [cost.get(k, 0.0) for k in columns])
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise Inconsistent(say("A fit with free misses has an answer, and the solver found none."))
    return float(solver.getInfo().objective_function_value)
