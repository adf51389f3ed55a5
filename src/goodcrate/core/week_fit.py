"""Fit: recipes stay where they are, portion sizes move until the days keep to their bands.

One portion size per eater and recipe, for that is how boxes are packed. Two linear programmes by HiGHS for each eater
(eaters do not share a portion): first the least miss of all bands and floors, then, with that miss held, the least
relative change. Grams are then rounded to the step and repaired by small moves. The linear programme's miss is a bound
that no rounding can beat.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil, floor
from typing import Any

import numpy as np

from goodcrate.core.errors import Inconsistent, InvalidInput, InvalidInputs

SMALLEST_SERVINGS, LARGEST_SERVINGS = 0.5, 2.0
"""How far a portion may move from the recipe's own serving, unless the cook sets other limits."""
STEPS_G = (1, 5, 10)
NEGLIGIBLE = 1e-6


@dataclass(frozen=True, slots=True)
class FitPortion:
    """One eater's portion of one recipe: its present grams, what a gram holds, and how far it may move.

    `days` are the days it is eaten on, one entry per meal. `piece_g` keeps discrete things whole; a held portion stays.
    """

    eater_key: str
    recipe_key: str
    grams: float
    kcal_per_g: float
    protein_per_g: float
    low_g: float
    high_g: float
    days: tuple[int, ...]
    piece_g: float | None = None
    is_held: bool = False


@dataclass(frozen=True, slots=True)
class FitDay:
    """One eater's day: its energy band, its protein floor, and what is eaten besides the portions (packed, extras)."""

    eater_key: str
    day: int
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    fixed_kcal: float = 0.0
    fixed_protein_g: float = 0.0


@dataclass(frozen=True, slots=True)
class WeekFitProblem:
    """Portions and days of a week."""

    portions: tuple[FitPortion, ...]
    days: tuple[FitDay, ...]
    step_g: int = 5


@dataclass(frozen=True, slots=True)
class FittedPortion:
    """A portion before and after, in g."""

    eater_key: str
    recipe_key: str
    before_g: float
    after_g: float

    @property
    def moved_g(self) -> float:
        """Grams more, or (negative) less."""
        return self.after_g - self.before_g


@dataclass(frozen=True, slots=True)
class FittedDay:
    """A day's totals before and after, and by how much they miss: kcal outside the band, g under the floor."""

    eater_key: str
    day: int
    kcal_before: float
    kcal: float
    protein_before_g: float
    protein_g: float
    miss_kcal: float
    miss_protein_g: float

    @property
    def is_met(self) -> bool:
        """Inside its band and above its floor."""
        return self.miss_kcal < 0.5 and self.miss_protein_g < 0.5


@dataclass(frozen=True, slots=True)
class WeekFit:
    """The fitted week. `miss` is the sum of relative misses, `bound` the least any sizes can reach."""

    portions: tuple[FittedPortion, ...]
    days: tuple[FittedDay, ...]
    miss: float
    bound: float

    @property
    def is_proven_best(self) -> bool:
        """No other sizes miss less."""
        return self.miss <= self.bound + NEGLIGIBLE

    @property
    def gap_pct(self) -> float:
        """How far the miss is from the least there can be, in % of a day's target."""
        return (self.miss - self.bound) * 100

    @property
    def days_met(self) -> int:
        """Days inside their bands and above their floors."""
        return sum(day.is_met for day in self.days)


def check_fit_problem(problem: WeekFitProblem) -> None:
    """Refuse what cannot be fitted.

    Raises:
        InvalidInputs: naming every portion or day that cannot be.
    """
    faults: list[InvalidInput] = []
    if problem.step_g not in STEPS_G:
        faults.append(InvalidInput("step_g", f"Steps of {problem.step_g} g are not possible.", "1, 5 or 10 g."))
    for n, p in enumerate(problem.portions):
        if not 0 <= p.low_g <= p.high_g <= 5000 or p.grams < 0:
            faults.append(InvalidInput(f"portions.{n}", "From fewer to more grams.", "0 to 5,000 g."))
        if not 0 <= p.kcal_per_g <= 9.1 or not 0 <= p.protein_per_g <= 1:
            faults.append(InvalidInput(f"portions.{n}", "No food holds that much in a gram.", "At most 9.1 kcal, 1 g."))
    seen = set()
    for n, d in enumerate(problem.days):
        if not 0 < d.energy_low_kcal <= d.energy_high_kcal <= 12_000 or not 0 <= d.protein_floor_g <= 500:
            faults.append(InvalidInput(f"days.{n}", "The band goes from less to more.", "Up to 12,000 kcal, 500 g."))
        if (d.eater_key, d.day) in seen:
            faults.append(InvalidInput(f"days.{n}", "This day stands here twice."))
        seen.add((d.eater_key, d.day))
    if faults:
        raise InvalidInputs(faults)


def fit_week(problem: WeekFitProblem) -> WeekFit:
    """Move portions until the days miss their bands and floors as little as can be, changing as little as it takes.

    Same input, same answer; ties go to the earlier portion.

    Raises:
        InvalidInputs: for portions or days that cannot be.
    """
    check_fit_problem(problem)
    after: dict[int, float] = {}
    bound = 0.0
    for eater in dict.fromkeys(d.eater_key for d in problem.days):
        mine = [n for n, p in enumerate(problem.portions) if p.eater_key == eater]
        days = [d for d in problem.days if d.eater_key == eater]
        table = _Table([problem.portions[n] for n in mine], days, problem.step_g)
        exact, least = table.solve()
        bound += least
        after |= dict(zip(mine, table.rounded(exact), strict=True))
    return _answer(problem, after, bound)


class _Table:
    """One eater's portions and days as arrays."""

    def __init__(self, portions: Sequence[FitPortion], days: Sequence[FitDay], step_g: int) -> None:
        self.portions, self.days = portions, days
        at = {d.day: n for n, d in enumerate(days)}
        meals = np.zeros((len(days), len(portions)))
        for j, p in enumerate(portions):
            for day in p.days:
                if day in at:
                    meals[at[day], j] += 1
        self.kcal = meals * np.array([p.kcal_per_g for p in portions]).reshape(1, -1)
        self.protein = meals * np.array([p.protein_per_g for p in portions]).reshape(1, -1)
        self.low_kcal = np.array([d.energy_low_kcal for d in days])
        self.high_kcal = np.array([d.energy_high_kcal for d in days])
        self.floor_g = np.array([d.protein_floor_g for d in days])
        self.fixed_kcal = np.array([d.fixed_kcal for d in days])
        self.fixed_protein = np.array([d.fixed_protein_g for d in days])
        self.before = np.array([p.grams for p in portions])
        self.step = np.array([p.piece_g or float(step_g) for p in portions])
        held = [p.is_held for p in portions]
        self.low = np.array([p.grams if h else p.low_g for p, h in zip(portions, held, strict=True)])
        self.high = np.array([p.grams if h else p.high_g for p, h in zip(portions, held, strict=True)])
        self.held = np.array(held, dtype=bool)

    def miss(self, grams: "np.ndarray[Any, Any]") -> "np.ndarray[Any, Any]":
        """Sum of relative misses for each row of portion sizes."""
        kcal = grams @ self.kcal.T + self.fixed_kcal
        protein = grams @ self.protein.T + self.fixed_protein
        short = np.maximum(0, self.low_kcal - kcal) / self.low_kcal
        over = np.maximum(0, kcal - self.high_kcal) / self.high_kcal
        lacking = np.maximum(0, self.floor_g - protein) / np.maximum(self.floor_g, 1)
        return np.asarray((short + over + lacking).sum(axis=-1))

    def change(self, grams: "np.ndarray[Any, Any]") -> "np.ndarray[Any, Any]":
        """Sum of relative changes for each row of portion sizes."""
        return np.asarray((np.abs(grams - self.before) / np.maximum(self.before, 1)).sum(axis=-1))

    def solve(self) -> tuple["np.ndarray[Any, Any]", float]:
        """Exact portion sizes, and the least miss."""
        if not self.portions:
            return np.zeros(0), float(self.miss(np.zeros((1, 0)))[0]) if self.days else 0.0
        import highspy

        n, d = len(self.portions), len(self.days)
        solver: Any = highspy.Highs()
        solver.setOptionValue("output_flag", False)
        inf = highspy.kHighsInf
        # Columns: n portions, then per day short and over (kcal) and lacking (g), then n relative changes.
        for low, high in zip(self.low, self.high, strict=True):
            solver.addVar(float(low), float(high))
        for _ in range(3 * d + n):
            solver.addVar(0.0, inf)
        cost = [0.0] * n + [0.0] * (3 * d + n)
        for i in range(d):
            kcal_at, kcal = self._row(self.kcal[i])
            solver.addRow(float(self.low_kcal[i] - self.fixed_kcal[i]), inf, len(kcal_at) + 1, [*kcal_at, n + i],
                          [*kcal, 1.0])  # fmt: skip
            solver.addRow(-inf, float(self.high_kcal[i] - self.fixed_kcal[i]), len(kcal_at) + 1, [*kcal_at, n + d + i],
                          [*kcal, -1.0])  # fmt: skip
            prot_at, prot = self._row(self.protein[i])
            solver.addRow(float(self.floor_g[i] - self.fixed_protein[i]), inf, len(prot_at) + 1,
                          [*prot_at, n + 2 * d + i], [*prot, 1.0])  # fmt: skip
            cost[n + i] = 1 / float(self.low_kcal[i])
            cost[n + d + i] = 1 / float(self.high_kcal[i])
            cost[n + 2 * d + i] = 1 / max(float(self.floor_g[i]), 1.0)
        for j in range(n):
            size, was = max(float(self.before[j]), 1.0), float(self.before[j])
            solver.addRow(-was, inf, 2, [j, n + 3 * d + j], [-1.0, size])
            solver.addRow(was, inf, 2, [j, n + 3 * d + j], [1.0, size])
        least = self._minimise(solver, cost)
        columns = [k for k, c in enumerate(cost) if c]
        solver.addRow(-inf, least + 1e-9 + 1e-7 * least, len(columns), columns, [cost[k] for k in columns])
        self._minimise(solver, [0.0] * (n + 3 * d) + [1.0] * n)
        return np.array(solver.getSolution().col_value[:n]), least

    @staticmethod
    def _row(values: "np.ndarray[Any, Any]") -> tuple[list[int], list[float]]:
        at = [int(j) for j in np.nonzero(values)[0]]
        return at, [float(values[j]) for j in at]

    @staticmethod
    def _minimise(solver: Any, cost: Sequence[float]) -> float:
        import highspy

        solver.changeColsCost(len(cost), list(range(len(cost))), list(cost))
        solver.run()
        if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            raise Inconsistent("A fit with free misses has an answer, and the solver found none.")
        return float(solver.getInfo().objective_function_value)

    def rounded(self, exact: "np.ndarray[Any, Any]") -> list[float]:
        """Sizes on the step, repaired by steps, double steps and pairs while the miss (then the change) falls."""
        if not len(exact):
            return []
        first = np.array([ceil(v / s - 1e-9) * s for v, s in zip(self.low, self.step, strict=True)])
        last = np.array([floor(v / s + 1e-9) * s for v, s in zip(self.high, self.step, strict=True)])
        grams = np.clip(np.round(exact / self.step) * self.step, first, np.maximum(first, last))
        stays = self.held | (first > last) | (np.abs(exact - self.before) < 0.5)  # what need not move keeps its size
        grams = np.where(stays, self.before, grams)
        free = np.nonzero(~self.held & (first <= last))[0]
        moves = self._moves(free, len(exact))
        score = (float(self.miss(grams[None])[0]), float(self.change(grams[None])[0]))
        for _ in range(60):
            if not len(moves):
                break
            tries = np.where(moves == 0, grams, np.round((grams + moves) / self.step) * self.step)
            fits = ((tries >= first - 1e-9) & (tries <= last + 1e-9) | (moves == 0)).all(axis=1)
            miss = np.where(fits, self.miss(tries), np.inf)
            best = np.lexsort((self.change(tries), np.round(miss, 9)))[0]
            found = (float(miss[best]), float(self.change(tries[best][None])[0]))
            better = found[0] < score[0] - 1e-9 or (found[0] < score[0] + 1e-9 and found[1] < score[1] - 1e-9)
            if not better:
                break
            grams, score = tries[best], found
        return [float(g) for g in grams]

    def _moves(self, free: "np.ndarray[Any, Any]", n: int) -> "np.ndarray[Any, Any]":
        steps = []
        for j in free:
            for k in (-2, -1, 1, 2):
                move = np.zeros(n)
                move[j] = k * self.step[j]
                steps.append(move)
        singles = [s for s in steps if np.abs(s).max() == self.step[np.abs(s).argmax()]]
        at = [int(np.abs(s).argmax()) for s in singles]
        pairs = [a + b for a, i in zip(singles, at, strict=True) for b, j in zip(singles, at, strict=True) if i < j]
        return np.array([*steps, *pairs])


def _answer(problem: WeekFitProblem, after: Mapping[int, float], bound: float) -> WeekFit:
    portions = tuple(
        FittedPortion(p.eater_key, p.recipe_key, p.grams, after.get(n, p.grams)) for n, p in enumerate(problem.portions)
    )
    days, miss = [], 0.0
    for d in problem.days:
        totals = (
            _totals(problem, d, [p.grams for p in problem.portions]),
            _totals(problem, d, [p.after_g for p in portions]),
        )
        (kcal_before, protein_before), (kcal, protein) = totals
        outside = max(0.0, d.energy_low_kcal - kcal) + max(0.0, kcal - d.energy_high_kcal)
        lacking = max(0.0, d.protein_floor_g - protein)
        days.append(FittedDay(d.eater_key, d.day, kcal_before, kcal, protein_before, protein, outside, lacking))
        miss += outside / (d.energy_low_kcal if kcal < d.energy_low_kcal else d.energy_high_kcal)
        miss += lacking / max(d.protein_floor_g, 1.0)
    return WeekFit(portions, tuple(days), miss, bound)


def _totals(problem: WeekFitProblem, d: FitDay, grams: Sequence[float]) -> tuple[float, float]:
    kcal, protein = d.fixed_kcal, d.fixed_protein_g
    for p, g in zip(problem.portions, grams, strict=True):
        if p.eater_key == d.eater_key:
            meals = p.days.count(d.day)
            kcal += meals * g * p.kcal_per_g
            protein += meals * g * p.protein_per_g
    return kcal, protein


def check_week_fit(problem: WeekFitProblem, fit: WeekFit) -> list[str]:
    """What is wrong with an answer, from the answer alone; empty when nothing is."""
    wrong = []
    for p, f in zip(problem.portions, fit.portions, strict=True):
        if p.is_held and f.after_g != p.grams:
            wrong.append(f"{p.recipe_key} of {p.eater_key} was held and moved")
        if not p.is_held and f.after_g != p.grams and not p.low_g - 1e-6 <= f.after_g <= p.high_g + 1e-6:
            wrong.append(f"{p.recipe_key} of {p.eater_key} left its limits")
        step = p.piece_g or problem.step_g
        if f.after_g != p.grams and abs(f.after_g / step - round(f.after_g / step)) > 1e-6:
            wrong.append(f"{p.recipe_key} of {p.eater_key} is off its step")
    for d, f_day in zip(problem.days, fit.days, strict=True):
        kcal, protein = _totals(problem, d, [f.after_g for f in fit.portions])
        if abs(kcal - f_day.kcal) > 1e-6 or abs(protein - f_day.protein_g) > 1e-6:
            wrong.append(f"day {d.day} of {d.eater_key} does not add up")
    if fit.miss < fit.bound - 1e-6:
        wrong.append("the miss is under its bound")
    return wrong
