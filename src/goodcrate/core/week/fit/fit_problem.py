"""What a week to be fitted is, and what a fitted one says: values without a solver."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.week.week_faults import mean_faults
from goodcrate.core.week.week_problem import PlanBand, PlanMean

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
    """Portions and days of a week; for eaters who are judged on it, what the mean of their days must keep to."""

    portions: tuple[FitPortion, ...]
    days: tuple[FitDay, ...]
    step_g: int = 5
    means: tuple[PlanMean, ...] = ()


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
    other bands (nutrient, amount outside in its unit), where it misses one. `day` None is the mean of all days."""

    eater_key: str
    day: int | None
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
    """The fitted week. `miss` is the sum of relative misses, `bound` the least any sizes can reach. A mean that is
    missed counts as if each of its days missed as much."""

    portions: tuple[FittedPortion, ...]
    days: tuple[FittedDay, ...]
    miss: float
    bound: float
    means: tuple[FittedDay, ...] = ()

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
        faults.append(
            InvalidInput(
                "step_g", say("Steps of {step_g} g are not possible.", step_g=problem.step_g), say("1, 5 or 10 g.")
            )
        )
    faults += _portion_faults(problem)
    faults += _day_faults(problem)
    faults += mean_faults("means", problem.means, [(d.eater_key, d.bands) for d in problem.days])
    if faults:
        raise InvalidInputs(faults)


def _portion_faults(problem: WeekFitProblem) -> Iterator[InvalidInput]:
    for n, p in enumerate(problem.portions):
        if not 0 <= p.low_g <= p.high_g <= 5000 or p.grams < 0:
            yield InvalidInput(say("portions.{n}", n=n), say("From fewer to more grams."), say("0 to 5,000 g."))
        if len(p.wanted_kcal) not in (0, len(p.days)):
            yield InvalidInput(
                say("portions.{n}", n=n), say("A slot's share for each meal, or none."), say("As many as days.")
            )
        if any(not 0 < size <= 5000 for size in p.sizes_g):
            yield InvalidInput(say("portions.{n}", n=n), say("A size is above 0 g."), say("Up to 5,000 g."))
        if not 0 <= p.kcal_per_g <= 9.1 or not 0 <= p.protein_per_g <= 1:
            yield InvalidInput(
                say("portions.{n}", n=n), say("No food holds that much in a gram."), say("At most 9.1 kcal, 1 g.")
            )


def _day_faults(problem: WeekFitProblem) -> Iterator[InvalidInput]:
    seen = set()
    for n, d in enumerate(problem.days):
        if not 0 < d.energy_low_kcal <= d.energy_high_kcal <= 12_000 or not 0 <= d.protein_floor_g <= 500:
            yield InvalidInput(
                say("days.{n}", n=n), say("The band goes from less to more."), say("Up to 12,000 kcal, 500 g.")
            )
        if (d.eater_key, d.day) in seen:
            yield InvalidInput(say("days.{n}", n=n), say("This day stands here twice."))
        seen.add((d.eater_key, d.day))


def block_sizes_g(
    block_sums: Sequence[int], kcal_per_g: float, low_g: float, high_g: float, step_g: int
) -> tuple[float, ...]:
    """The portions between two sizes (g) whose energy is that of whole blocks (kcal), on the step; maybe none."""
    sizes = {round(kcal / kcal_per_g / step_g) * float(step_g) for kcal in block_sums if kcal_per_g > 0}
    return tuple(sorted(size for size in sizes if low_g - step_g <= size <= high_g + step_g and size > 0))
