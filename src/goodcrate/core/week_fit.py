"""Fit: recipes stay where they are, portion sizes move until the days keep to their bands.

One portion size per eater and recipe, for that is how boxes are packed. Linear programmes by HiGHS for each eater
(eaters do not share a portion), each with what the one before reached held: first the least miss of all bands and
floors, then of the slots' shares of the day where there are any, then the least relative change. Grams are then rounded
to the step and repaired by small moves. The first programme's miss is a bound that no rounding can beat.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from goodcrate.core.errors import InvalidInput, InvalidInputs
from goodcrate.core.fit_model import FitModel
from goodcrate.core.week_problem import PlanBand

SMALLEST_SERVINGS, LARGEST_SERVINGS = 0.5, 2.0
"""How far a portion may move from the recipe's own serving, unless the cook sets other limits."""
STEPS_G = (1, 5, 10)
NEGLIGIBLE = 1e-6


@dataclass(frozen=True, slots=True)
class FitPortion:
    """One eater's portion of one recipe: its present grams, what a gram holds, and how far it may move.

    `days` are the days it is eaten on, one entry per meal, and `wanted_kcal` for each of these its slot's share of the
    day, None without one. `piece_g` keeps discrete things whole, `sizes_g` are the only sizes there may be (whole
    blocks); a held portion stays. `others_per_g` is what a gram holds of nutrients that have a band.
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
    others_per_g: Mapping[str, float] = field(default_factory=dict)
    wanted_kcal: tuple[float | None, ...] = ()
    sizes_g: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class FitDay:
    """One eater's day: its energy band, its protein floor, any other bands, and what is eaten besides the portions
    (packed boxes, extras)."""

    eater_key: str
    day: int
    energy_low_kcal: float
    energy_high_kcal: float
    protein_floor_g: float
    fixed_kcal: float = 0.0
    fixed_protein_g: float = 0.0
    bands: tuple[PlanBand, ...] = ()


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
    """A day's totals before and after, and by how much they miss: kcal outside the band, g under the floor, and for
    other bands (nutrient, amount outside in its unit), where it misses one."""

    eater_key: str
    day: int
    kcal_before: float
    kcal: float
    protein_before_g: float
    protein_g: float
    miss_kcal: float
    miss_protein_g: float
    missed: tuple[tuple[str, float], ...] = ()
    was_met: bool = False

    @property
    def is_met(self) -> bool:
        """Inside all its bands and above its floor, in whole units as they are shown."""
        return self.miss_kcal < 0.5 and self.miss_protein_g < 0.5 and all(by < 0.5 for _, by in self.missed)


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
        if len(p.wanted_kcal) not in (0, len(p.days)):
            faults.append(InvalidInput(f"portions.{n}", "A slot's share for each meal, or none.", "As many as days."))
        if any(not 0 < size <= 5000 for size in p.sizes_g):
            faults.append(InvalidInput(f"portions.{n}", "A size is above 0 g.", "Up to 5,000 g."))
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


def block_sizes_g(
    block_sums: Sequence[int], kcal_per_g: float, low_g: float, high_g: float, step_g: int
) -> tuple[float, ...]:
    """The portions between two sizes (g) whose energy is that of whole blocks (kcal), on the step; maybe none."""
    sizes = {round(kcal / kcal_per_g / step_g) * float(step_g) for kcal in block_sums if kcal_per_g > 0}
    return tuple(sorted(size for size in sizes if low_g - step_g <= size <= high_g + step_g and size > 0))


def fit_week(problem: WeekFitProblem) -> WeekFit:
    """Move portions until the days miss their bands and floors as little as can be, changing as little as it takes.

    Same input, same answer; ties go to the earlier portion.

    Raises:
        InvalidInputs: for portions or days that cannot be.
    """
    check_fit_problem(problem)
    after = {n: p.grams for n, p in enumerate(problem.portions)}
    miss = bound = 0.0
    for eater in dict.fromkeys(d.eater_key for d in problem.days):
        mine = [n for n, p in enumerate(problem.portions) if p.eater_key == eater]
        days = [d for d in problem.days if d.eater_key == eater]
        model = FitModel([problem.portions[n] for n in mine], days, problem.step_g)
        exact, least = model.solve()
        sizes = model.rounded(exact)
        after |= dict(zip(mine, sizes, strict=True))
        miss, bound = miss + model.missed(sizes), bound + least
    portions = tuple(
        FittedPortion(p.eater_key, p.recipe_key, p.grams, after[n]) for n, p in enumerate(problem.portions)
    )
    return WeekFit(portions, _days(problem, portions), miss, bound)


def _days(problem: WeekFitProblem, portions: Sequence[FittedPortion]) -> tuple[FittedDay, ...]:
    days = []
    before, now = ([getattr(p, grams) for p in portions] for grams in ("before_g", "after_g"))
    for d in problem.days:
        was, sums = _totals(problem, d, before), _totals(problem, d, now)
        missed = {b.key: by for b in _all_bands(d) if (by := _outside(b, sums[b.key])) > NEGLIGIBLE}
        days.append(
            FittedDay(
                d.eater_key, d.day, was["kcal"], sums["kcal"], was["protein"], sums["protein"],
                missed.pop("kcal", 0.0), missed.pop("protein", 0.0), tuple(missed.items()),
                all(_outside(b, was[b.key]) < 0.5 for b in _all_bands(d)),
            )
        )  # fmt: skip
    return tuple(days)


def _all_bands(d: FitDay) -> tuple[PlanBand, ...]:
    """Energy and protein as bands, with the others."""
    energy = PlanBand("kcal", d.energy_low_kcal, d.energy_high_kcal)
    return (energy, PlanBand("protein", d.protein_floor_g, None), *d.bands)


def _outside(band: PlanBand, total: float) -> float:
    """How far a total is outside a band, in its unit."""
    under = 0.0 if band.low is None else band.low - total
    over = 0.0 if band.high is None else total - band.high
    return max(0.0, under, over)


def _totals(problem: WeekFitProblem, d: FitDay, grams: Sequence[float]) -> dict[str, float]:
    """What a day comes to with portions of so many grams: energy, protein and the nutrients it has bands for."""
    sums = {"kcal": d.fixed_kcal, "protein": d.fixed_protein_g, **{b.key: b.extra for b in d.bands}}
    for p, g in zip(problem.portions, grams, strict=True):
        if p.eater_key == d.eater_key and (meals := p.days.count(d.day)):
            sums["kcal"] += meals * g * p.kcal_per_g
            sums["protein"] += meals * g * p.protein_per_g
            for b in d.bands:
                sums[b.key] += meals * g * p.others_per_g.get(b.key, 0.0)
    return sums


def check_week_fit(problem: WeekFitProblem, fit: WeekFit) -> list[str]:
    """What is wrong with an answer, from the answer alone; empty when nothing is."""
    wrong = []
    for p, f in zip(problem.portions, fit.portions, strict=True):
        if p.is_held and f.after_g != p.grams:
            wrong.append(f"{p.recipe_key} of {p.eater_key} was held and moved")
        if (
            not p.is_held
            and f.after_g != p.grams
            and p.sizes_g == ()
            and not (p.low_g - 1e-6 <= f.after_g <= p.high_g + 1e-6)
        ):
            wrong.append(f"{p.recipe_key} of {p.eater_key} left its limits")
        step = p.piece_g or problem.step_g
        if p.sizes_g and not p.is_held:
            if f.after_g not in p.sizes_g:
                wrong.append(f"{p.recipe_key} of {p.eater_key} is none of its sizes")
        elif f.after_g != p.grams and abs(f.after_g / step - round(f.after_g / step)) > 1e-6:
            wrong.append(f"{p.recipe_key} of {p.eater_key} is off its step")
    miss = 0.0
    for d, f_day in zip(problem.days, fit.days, strict=True):
        sums = _totals(problem, d, [f.after_g for f in fit.portions])
        if abs(sums["kcal"] - f_day.kcal) > 1e-6 or abs(sums["protein"] - f_day.protein_g) > 1e-6:
            wrong.append(f"day {d.day} of {d.eater_key} does not add up")
        miss += sum(_relative_miss(b, sums[b.key]) for b in _all_bands(d))
    if abs(miss - fit.miss) > 1e-6:
        wrong.append("the misses do not add up")
    if fit.miss < fit.bound - 1e-6:
        wrong.append("the miss is under its bound")
    return wrong


def _relative_miss(band: PlanBand, total: float) -> float:
    """How far outside a band, relative to the end that is missed."""
    end = band.low if band.low is not None and total < band.low else band.high
    return _outside(band, total) / max(end or 0.0, 1.0)
