"""Fitting one serving: “about 520 kcal and at least 38 g of protein” by moving named ingredients within limits.

Two programmes in whole grams and pieces, solved by HiGHS: first the least miss of what was asked, then, with that miss
held, the least relative change of the ingredients. Everything is per serving: a component's nutrients do not depend on
the water in it.
"""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil, floor
from typing import Any

from goodcrate.core.ground.errors import Inconsistent, InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import BY_KEY
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short, shown
from goodcrate.core.recipes.component import IngredientLine
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.scaling import is_discrete

DEFAULT_BAND = 0.03
"""“About” is ± 3 %, as in the bands of a day."""


@dataclass(frozen=True, slots=True)
class Aim:
    """What one nutrient of a serving should come to: at least `low`, at most `high`, in its unit; None is open."""

    nutrient: str
    low: float | None = None
    high: float | None = None

    def miss(self, value: float) -> float:
        """How far a value is outside, as a share of the bound; 0 inside."""
        if self.low is not None and value < self.low:
            return (self.low - value) / self.low if self.low > 0 else 0.0
        if self.high is not None and value > self.high:
            return (value - self.high) / self.high if self.high > 0 else value
        return 0.0


def about(nutrient: str, value: float, band: float = DEFAULT_BAND) -> Aim:
    """Within a band around a value."""
    return Aim(nutrient, value * (1 - band), value * (1 + band))


@dataclass(frozen=True, slots=True)
class Limits:
    """How far a line may move, in g of the whole recipe."""

    line_key: str
    low_g: float
    high_g: float


@dataclass(frozen=True, slots=True)
class FitProblem:
    """A recipe, what a serving should come to, and which lines may move."""

    recipe: Recipe
    aims: tuple[Aim, ...]
    limits: tuple[Limits, ...]


@dataclass(frozen=True, slots=True)
class MovedLine:
    """A line that may move: grams in the recipe before and after, and whether a limit held it."""

    line_key: str
    name: str
    before_g: float
    after_g: float
    at_limit: str

    @property
    def change_g(self) -> float:
        """Grams more (or, negative, less) in the whole recipe."""
        return self.after_g - self.before_g


@dataclass(frozen=True, slots=True)
class Fit:
    """The fitted recipe. `misses` are the aims that could not be met, with the value a serving then has."""

    recipe: Recipe
    moves: tuple[MovedLine, ...]
    before: Mapping[str, float]
    after: Mapping[str, float]
    misses: tuple[tuple[Aim, float], ...]

    @property
    def is_met(self) -> bool:
        """Whether every aim is met."""
        return not self.misses


def check_problem(problem: FitProblem) -> None:
    """Refuse what cannot be asked.

    Raises:
        InvalidInputs: naming every aim or limit that cannot be used.
    """
    faults: list[InvalidInput] = []
    if not problem.aims:
        faults.append(InvalidInput("fit-kcal", say("What should a serving come to?"), say("Such as 520 kcal.")))
    if not problem.limits:
        faults.append(InvalidInput("fit-lines", say("No ingredient may move."), say("Tick one or more.")))
    faults += [
        InvalidInput(f"fit-{key}", say("This ingredient is limited twice."), say("Once is enough."))
        for key, times in Counter(x.line_key for x in problem.limits).items()
        if times > 1
    ]
    faults += _aim_faults(problem.aims)
    faults += _limit_faults(problem)
    if faults:
        raise InvalidInputs(faults)


MOST_G = 10_000


def _limit_faults(problem: FitProblem) -> Iterator[InvalidInput]:
    lines = {line.key: line for line in problem.recipe.lines}
    for limit in problem.limits:
        place = f"fit-{limit.line_key}"
        line = lines.get(limit.line_key)
        if line is None:
            yield InvalidInput(place, say("This ingredient is not in the recipe."))
        elif line.is_poured_off or line.is_discarded:
            yield InvalidInput(place, say("What leaves the pot cannot be moved."))
        elif not 0 <= limit.low_g <= limit.high_g <= MOST_G:
            yield InvalidInput(place, say("From less to more grams."), say("0 to {MOST_G} g.", MOST_G=shown(MOST_G)))


def _aim_faults(aims: Sequence[Aim]) -> Iterator[InvalidInput]:
    for aim in aims:
        if aim.nutrient not in BY_KEY:
            yield InvalidInput(f"fit-{aim.nutrient}", say("This is not a nutrient we know."))
        elif aim.low is None and aim.high is None:
            yield InvalidInput(
                f"fit-{aim.nutrient}", say("What should it come to?"), say("At least, at most, or about.")
            )
        elif any(bound is not None and not 0 <= bound <= 10_000 for bound in (aim.low, aim.high)):
            yield InvalidInput(
                f"fit-{aim.nutrient}",
                say("This is not possible in a serving."),
                say("0 to {shown}.", shown=shown(10000)),
            )
        elif aim.low is not None and aim.high is not None and aim.low > aim.high:
            yield InvalidInput(
                f"fit-{aim.nutrient}",
                say("{low} is more than {high}.", low=short(aim.low), high=short(aim.high)),
                say("Swap them."),
            )


def fit_serving(problem: FitProblem) -> Fit:
    """Move the named lines until a serving comes as near to the aims as the limits let it, with the least change.

    Grams are whole (tenths under 10 g), discrete things whole pieces. A nutrient that is unknown in some food counts
    there as nothing, so an “at least” is safe and an “about” is a lower figure.

    Raises:
        InvalidInputs: for aims or limits that cannot be used.
    """
    check_problem(problem)
    return _answer(problem, _solve(problem))


@dataclass(frozen=True, slots=True)
class _Grid:
    """The grams a line may take: `low_n` to `high_n` times `unit_g`, or one weight alone."""

    unit_g: float
    low_n: int
    high_n: int
    only_g: float | None = None

    def grams(self, n: float) -> float:
        """The grams of a place on the grid, free of the solver's last digits."""
        return self.only_g if self.only_g is not None else round(round(n) * self.unit_g, 6)


def _grid_of(line: IngredientLine, limit: Limits) -> _Grid:
    """Whole pieces for what comes in pieces, else whole grams, tenths where all of its range is under 10 g.

    A range that holds none of them leaves its lower end alone.
    """
    piece_g = (line.food.pack_g if line.amount.measure == "pack" else line.food.each_g) if is_discrete(line) else None
    unit_g = piece_g or (0.1 if limit.high_g < 10 else 1.0)
    low_n, high_n = ceil(limit.low_g / unit_g - 1e-9), floor(limit.high_g / unit_g + 1e-9)
    return _Grid(unit_g, low_n, high_n, limit.low_g if low_n > high_n else None)


def _solve(problem: FitProblem) -> dict[str, float]:
    """Grams of the movable lines: least miss on their grids, then least change with that miss held; a whole-number
    programme each, so that no rounding afterwards undoes what was met."""
    import highspy

    recipe = problem.recipe
    lines = {line.key: line for line in recipe.lines}
    shares = {x.key: _per_gram(recipe, x.key) for x in (lines[limit.line_key] for limit in problem.limits)}
    base = serving_of(recipe).tally
    solver: Any = highspy.Highs()
    solver.setOptionValue("output_flag", False)
    solver.setOptionValue("mip_rel_gap", 0.0)
    solver.setOptionValue("mip_abs_gap", 1e-9)
    grids = {limit.line_key: _grid_of(lines[limit.line_key], limit) for limit in problem.limits}
    at, counts = {}, {}
    for key, grid in grids.items():
        if grid.only_g is not None:
            at[key] = 1.0 * solver.addVariable(lb=grid.only_g, ub=grid.only_g)
            continue
        counts[key] = solver.addVariable(lb=grid.low_n, ub=grid.high_n, type=highspy.HighsVarType.kInteger)
        at[key] = grid.unit_g * counts[key]
    misses = []
    for aim in problem.aims:
        value = base.amount(aim.nutrient).value
        rest = value - sum(shares[key][aim.nutrient] * lines[key].amount.grams for key in at)
        total = solver.qsum([shares[key][aim.nutrient] * x for key, x in at.items()])
        for bound, sign in ((aim.low, 1.0), (aim.high, -1.0)):
            if bound is None:
                continue
            miss = solver.addVariable(lb=0.0)
            solver.addConstr(sign * total + max(bound, 1e-6) * miss >= sign * (bound - rest))
            misses.append(miss)
    _minimise(solver, solver.qsum(misses))
    least = sum(solver.val(miss) for miss in misses)
    solver.addConstr(solver.qsum(misses) <= least + 1e-7)
    changes = []
    for key, x in at.items():
        was = lines[key].amount.grams
        size = max(was, 1.0)
        change = solver.addVariable(lb=0.0)
        solver.addConstr(size * change >= x - was)
        solver.addConstr(size * change >= was - x)
        changes.append(change)
    _minimise(solver, solver.qsum(changes))
    return {key: grid.grams(solver.val(counts[key]) if key in counts else 0.0) for key, grid in grids.items()}


def _minimise(solver: Any, what: Any) -> None:
    import highspy

    solver.minimize(what)
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        raise Inconsistent(say("A fit with free misses has an answer, and the solver found none."))


def _per_gram(recipe: Recipe, line_key: str) -> dict[str, float]:
    """What one more gram of a line in the recipe adds to a serving, by nutrient."""
    for component in recipe.components:
        for line in component.lines:
            if line.key == line_key:
                servings = recipe.servings
                figures = line.food.composition.as_mapping()
                return {key: (f or 0.0) / 100 * line.kept_share / servings for key, f in figures.items()}
    raise Inconsistent(say("A line of the recipe is in none of its components."))


def _answer(problem: FitProblem, grams: Mapping[str, float]) -> Fit:
    recipe = problem.recipe
    limits = {limit.line_key: limit for limit in problem.limits}
    components, moves = [], []
    for component in recipe.components:
        lines = []
        for line in component.lines:
            if line.key in grams:
                after = grams[line.key]
                limit = limits[line.key]
                held = say("at its least") if after <= limit.low_g + 1e-9 else ""
                held = say("at its most") if after >= limit.high_g - 1e-9 else held
                moves.append(MovedLine(line.key, line.food.name, line.amount.grams, after, held))
                lines.append(replace(line, amount=line.amount.scaled_to(after)))
            else:
                lines.append(line)
        components.append(component.with_lines(lines) if not component.is_used else component)
    fitted = replace(recipe, components=tuple(components))
    before, after_tally = serving_of(recipe).tally, serving_of(fitted).tally
    keys = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g", "fibre_g", "sodium_mg")
    misses = tuple(
        (aim, value)
        for aim in problem.aims
        if aim.miss(value := after_tally.amount(aim.nutrient).value) > 0.004  # half a gram of rounding
    )
    return Fit(
        fitted,
        tuple(moves),
        {k: before.amount(k).value for k in keys},
        {k: after_tally.amount(k).value for k in keys},
        misses,
    )


def usual_limits(recipe: Recipe, keys: Sequence[str], low: float = 0.5, high: float = 2.0) -> tuple[Limits, ...]:
    """Limits of half to twice the present grams, for lines the cook ticked without setting any.

    Raises:
        InvalidInput: for a line that is not in the recipe.
    """
    lines = {line.key: line for line in recipe.lines}
    try:
        return tuple(
            Limits(k, round(lines[k].amount.grams * low, 1), round(lines[k].amount.grams * high, 1)) for k in keys
        )
    except KeyError:
        raise InvalidInput("fit-lines", say("This ingredient is not in the recipe.")) from None
