"""One eater's portions against their days as rows of numbers: linear programmes by HiGHS, then rounding and repair."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import ceil, floor, inf
from typing import TYPE_CHECKING, Any

import numpy as np

from goodcrate.core.errors import Inconsistent

if TYPE_CHECKING:
    from goodcrate.core.week_fit import FitDay, FitPortion

Array = np.ndarray[Any, Any]

SLOT_TOLERANCE = 0.1
"""How far a meal may be from its slot's share before it counts as off it, as a part of the share."""
REPAIRS = 60


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


def day_aims(portions: Sequence["FitPortion"], days: Sequence["FitDay"]) -> Iterator[Aim]:
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


def slot_aims(portions: Sequence["FitPortion"]) -> Iterator[Aim]:
    """near_the_slots_share: a meal's energy, for slots that have a share of their day."""
    for j, p in enumerate(portions):
        for wanted in sorted({w for w in p.wanted_kcal if w is not None and w > 0}):
            per_g = np.zeros(len(portions))
            per_g[j] = p.kcal_per_g
            low, high = wanted * (1 - SLOT_TOLERANCE), wanted * (1 + SLOT_TOLERANCE)
            yield Aim(per_g, low, high, times=float(p.wanted_kcal.count(wanted)))


class FitModel:
    """One eater's portions and days as arrays."""

    def __init__(self, portions: Sequence["FitPortion"], days: Sequence["FitDay"], step_g: int) -> None:
        self.portions = portions
        self.days = Rows.of(day_aims(portions, days), len(portions))
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
        for option, value in (("output_flag", False), ("threads", 1), ("mip_rel_gap", 0.0), ("mip_abs_gap", 1e-9)):
            solver.setOptionValue(option, value)
        for low, high in zip(self.low, self.high, strict=True):
            solver.addVar(float(low), float(high))
        costs = [self._misses(solver, self.days), self._misses(solver, self.slots)]
        changes: dict[int, float] = {}
        for j in range(n):
            size, was, at = max(float(self.before[j]), 1.0), float(self.before[j]), solver.getNumCol()
            solver.addVar(0.0, highspy.kHighsInf)
            solver.addRow(-was, highspy.kHighsInf, 2, [j, at], [-1.0, size])
            solver.addRow(was, highspy.kHighsInf, 2, [j, at], [1.0, size])
            changes[at] = 1.0
        for j in map(int, np.nonzero(self.sized)[0]):
            self._choose_a_size(solver, j)
        least = self._hold(solver, costs[0])
        if costs[1]:
            self._hold(solver, costs[1])
        _minimise(solver, changes)
        return np.array(solver.getSolution().col_value[:n]), least

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

    def _choose_a_size(self, solver: Any, j: int) -> None:
        """only_whole_blocks: the portion is one of its sizes."""
        import highspy

        sizes, first = self.portions[j].sizes_g, solver.getNumCol()
        columns = list(range(first, first + len(sizes)))
        for column in columns:
            solver.addVar(0.0, 1.0)
            solver.changeColIntegrality(column, highspy.HighsVarType.kInteger)
        solver.addRow(1.0, 1.0, len(columns), columns, [1.0] * len(columns))
        solver.addRow(0.0, 0.0, len(columns) + 1, [j, *columns], [-1.0, *sizes])

    @staticmethod
    def _hold(solver: Any, cost: dict[int, float]) -> float:
        """Minimise, and let no later stage miss more."""
        import highspy

        least = _minimise(solver, cost)
        most = least + 1e-9 + 1e-7 * least
        solver.addRow(-highspy.kHighsInf, most, len(cost), list(cost), list(cost.values()))
        return least

    def rounded(self, exact: Array) -> list[float]:
        """Sizes on the step, repaired by steps, double steps and pairs while the misses (then the change) fall."""
        if not len(exact):
            return []
        first = np.array([ceil(v / s - 1e-9) * s for v, s in zip(self.low, self.step, strict=True)])
        last = np.array([floor(v / s + 1e-9) * s for v, s in zip(self.high, self.step, strict=True)])
        grams = np.clip(np.round(exact / self.step) * self.step, first, np.maximum(first, last))
        stays = self.held | (first > last) | (np.abs(exact - self.before) < 0.5)  # what need not move keeps its size
        grams = np.where(stays, self.before, grams)
        for j in map(int, np.nonzero(self.sized)[0]):
            sizes = np.array(self.portions[j].sizes_g)
            grams[j] = sizes[np.abs(sizes - exact[j]).argmin()]
        moves = self._moves(np.nonzero(~self.held & ~self.sized & (first <= last))[0], len(exact))
        score = self._scores(grams[None])[0]
        for _ in range(REPAIRS if len(moves) else 0):
            tries = np.where(moves == 0, grams, np.round((grams + moves) / self.step) * self.step)
            fits = ((tries >= first - 1e-9) & (tries <= last + 1e-9) | (moves == 0)).all(axis=1)
            scores = np.where(fits[:, None], self._scores(tries), np.inf)
            best = np.lexsort(scores.T[::-1])[0]
            if not tuple(scores[best]) < tuple(score):
                break
            grams, score = tries[best], scores[best]
        return [float(g) for g in grams]

    def _scores(self, tries: Array) -> Array:
        """Misses of days, misses of slots, change, for each row of portion sizes: to be compared in this order."""
        return np.round(np.stack([self.days.miss(tries), self.slots.miss(tries), self.change(tries)], axis=1), 9)

    def _moves(self, free: Array, n: int) -> Array:
        """One portion by one or two steps; two portions by a step each."""
        singles = []
        for j in free:
            for k in (-2, -1, 1, 2):
                move = np.zeros(n)
                move[j] = k * self.step[j]
                singles.append((abs(k), int(j), move))
        small = [(j, move) for k, j, move in singles if k == 1]
        pairs = [a + b for i, a in small for j, b in small if i < j]
        return np.array([*(move for _, _, move in singles), *pairs])


def _minimise(solver: Any, cost: dict[int, float]) -> float:
    import highspy

    columns = list(range(solver.getNumCol()))
    solver.changeColsCost(len(columns), columns, [cost.get(k, 0.0) for k in columns])
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise Inconsistent("A fit with free misses has an answer, and the solver found none.")
    return float(solver.getInfo().objective_function_value)
