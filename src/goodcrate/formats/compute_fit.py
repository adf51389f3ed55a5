"""The fitting part of `crate compute week`: portions move, recipes stay."""

from typing import Annotated, Literal

from pydantic import Field

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.week.fit.fit_check import check_week_fit
from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, FittedDay, FittedPortion, WeekFit, WeekFitProblem
from goodcrate.core.week.fit.week_fit import fit_week
from goodcrate.core.week.week_faults import band_faults, mean_faults, twice
from goodcrate.core.week.week_problem import PlanBand, PlanMean
from goodcrate.formats.compute import Model

Key = Annotated[str, Field(min_length=1, max_length=80)]
PerGram = Annotated[float, Field(ge=0, le=2000)]
Day = Annotated[int, Field(ge=0, le=13, description="Day of the plan, from 0.")]


class PortionIn(Model):
    """One eater's portion of one recipe; `days` has an entry per meal."""

    eater: Key
    recipe: Key
    grams: float = Field(ge=0, le=5000)
    kcal_per_g: float = Field(ge=0, le=9.1)
    protein_per_g: float = Field(ge=0, le=1)
    low_g: float = Field(ge=0, le=5000)
    high_g: float = Field(ge=0, le=5000)
    days: list[Day] = Field(max_length=112)
    piece_g: float | None = Field(None, ge=0.05, le=5000, description="Grams of a piece, for what stays whole.")
    held: bool = False
    others_per_g: dict[str, PerGram] = Field(default_factory=dict, description="Other nutrients in a gram, for bands.")
    wanted_kcal: list[float | None] = Field(
        default_factory=list, max_length=112, description="For each meal, its slot's share of the day; null for none."
    )
    sizes_g: list[Annotated[float, Field(gt=0, le=5000)]] = Field(
        default_factory=list, max_length=60, description="The only sizes it may have (whole blocks); none is any size."
    )


class OtherBandIn(Model):
    """From `low` to `high` of another nutrient on a day, in its unit; `extra` of it is eaten besides."""

    nutrient: Key
    low: float | None = Field(None, ge=0, le=100_000)
    high: float | None = Field(None, ge=0, le=100_000)
    extra: float = Field(0, ge=0, le=100_000)


class BandIn(Model):
    """An eater's day: its energy band in kcal, its protein floor in g, and what is eaten besides."""

    eater: Key
    day: Day
    energy_low_kcal: float = Field(gt=0, le=12_000)
    energy_high_kcal: float = Field(gt=0, le=12_000)
    protein_floor_g: float = Field(ge=0, le=500)
    fixed_kcal: float = Field(0, ge=0, le=12_000)
    fixed_protein_g: float = Field(0, ge=0, le=1000)
    kind: str = Field("", max_length=40, description="Days of one kind share portion sizes when planning.")
    bands: list[OtherBandIn] = Field(default_factory=list, max_length=20)

    @property
    def other_bands(self) -> tuple[PlanBand, ...]:
        """The other bands as core takes them."""
        return tuple(PlanBand(b.nutrient, b.low, b.high, b.extra) for b in self.bands)


class MeanIn(Model):
    """What the mean of an eater's days must keep to, a day: each of the days has the same other bands, with `extra`."""

    eater: Key
    energy_low_kcal: float = Field(gt=0, le=12_000)
    energy_high_kcal: float = Field(gt=0, le=12_000)
    protein_floor_g: float = Field(ge=0, le=500)
    bands: list[OtherBandIn] = Field(default_factory=list, max_length=20)

    @property
    def value(self) -> PlanMean:
        """The mean as core takes it."""
        bands = tuple(PlanBand(b.nutrient, b.low, b.high) for b in self.bands)
        return PlanMean(self.eater, self.energy_low_kcal, self.energy_high_kcal, self.protein_floor_g, bands)


class FitWeekIn(Model):
    """Recipes stay, portions move."""

    portions: list[PortionIn] = Field(max_length=600)
    days: list[BandIn] = Field(min_length=1, max_length=84)
    means: list[MeanIn] = Field(default_factory=list, max_length=12)
    step_g: Literal[1, 5, 10] = 5


class PortionOut(Model):
    """A portion before and after, in g."""

    eater: str
    recipe: str
    before_g: float
    after_g: float


class DayOut(Model):
    """A day before and after a fit, and by how much it misses."""

    eater: str
    day: int | None = Field(description="Null is the mean of the eater's days.")
    kcal_before: float
    kcal: float
    protein_before_g: float
    protein_g: float
    miss_kcal: float
    miss_protein_g: float
    missed: dict[str, float] = Field(description="Other bands it misses: nutrient, and by how much in its unit.")


class FitWeekOut(Model):
    """The fitted week; `bound` is the least sum of relative misses any sizes can reach."""

    portions: list[PortionOut]
    days: list[DayOut]
    means: list[DayOut]
    miss: float
    bound: float
    proven_best: bool


def fitted(given: FitWeekIn) -> FitWeekOut:
    """Fit the portions to the days.

    Raises:
        InvalidInputs: naming the fields that cannot be used.
    """
    portions, days = _fit_portions(given), _fit_days(given)
    faults = [
        *twice("fit.portions", [(p.eater_key, p.recipe_key) for p in portions]),
        *twice("fit.days", [(d.eater_key, d.day) for d in days]),
        *_fit_faults(given),
        *mean_faults("fit.means", [mean.value for mean in given.means], [(d.eater_key, d.bands) for d in days]),
    ]
    if faults:
        raise InvalidInputs(faults)
    means = tuple(mean.value for mean in given.means)
    return _fit_out(fit_week(WeekFitProblem(portions, days, given.step_g, means)))


def verify_fit(given: FitWeekIn, told: FitWeekOut) -> list[str]:
    """What is wrong with a fit, from the request and the answer alone.

    Raises:
        InvalidInput: for an answer to another request.
    """
    if len(told.portions) != len(given.portions) or len(told.days) != len(given.days):
        raise InvalidInput("fit", "It has other portions or days.", "Give the answer to this request.")
    means = tuple(mean.value for mean in given.means)
    portions = tuple(FittedPortion(p.eater, p.recipe, p.before_g, p.after_g) for p in told.portions)
    days, on_mean = (
        tuple(
            FittedDay(
                d.eater,
                d.day,
                d.kcal_before,
                d.kcal,
                d.protein_before_g,
                d.protein_g,
                miss_kcal=d.miss_kcal,
                miss_protein_g=d.miss_protein_g,
                missed=tuple(d.missed.items()),
            )
            for d in some
        )
        for some in (told.days, told.means)
    )
    fit = WeekFit(portions, days, told.miss, told.bound, on_mean)
    return check_week_fit(WeekFitProblem(_fit_portions(given), _fit_days(given), given.step_g, means), fit)


def _fit_portions(given: FitWeekIn) -> tuple[FitPortion, ...]:
    return tuple(
        FitPortion(
            p.eater,
            p.recipe,
            p.grams,
            p.kcal_per_g,
            p.protein_per_g,
            p.low_g,
            high_g=p.high_g,
            days=tuple(p.days),
            piece_g=p.piece_g,
            is_held=p.held,
            others_per_g=p.others_per_g,
            wanted_kcal=tuple(p.wanted_kcal),
            sizes_g=tuple(p.sizes_g),
        )
        for p in given.portions
    )


def _fit_days(given: FitWeekIn) -> tuple[FitDay, ...]:
    return tuple(
        FitDay(
            d.eater,
            d.day,
            d.energy_low_kcal,
            d.energy_high_kcal,
            d.protein_floor_g,
            d.fixed_kcal,
            fixed_protein_g=d.fixed_protein_g,
            bands=d.other_bands,
        )
        for d in given.days
    )


def _fit_faults(given: FitWeekIn) -> list[InvalidInput]:
    faults: list[InvalidInput] = []
    for n, d in enumerate(given.days):
        if d.energy_low_kcal > d.energy_high_kcal:
            words = f"From {d.energy_low_kcal:g} to {d.energy_high_kcal:g} kcal is no band."
            faults.append(InvalidInput(f"fit.days.{n}.energy_low_kcal", words, "From less to more."))
        faults.extend(band_faults(f"fit.days.{n}", d.other_bands))
    for n, p in enumerate(given.portions):
        if p.low_g > p.high_g:
            words = f"Sizes from {p.low_g:g} to {p.high_g:g} g are not possible."
            faults.append(InvalidInput(f"fit.portions.{n}.low_g", words, "From less to more."))
    return faults


def _fit_out(done: WeekFit) -> FitWeekOut:
    return FitWeekOut(
        portions=[
            PortionOut(eater=p.eater_key, recipe=p.recipe_key, before_g=p.before_g, after_g=p.after_g)
            for p in done.portions
        ],
        days=[_day_out(day) for day in done.days],
        means=[_day_out(mean) for mean in done.means],
        miss=done.miss,
        bound=done.bound,
        proven_best=done.is_proven_best,
    )


def _day_out(d: FittedDay) -> DayOut:
    return DayOut(
        eater=d.eater_key,
        day=d.day,
        kcal_before=d.kcal_before,
        kcal=d.kcal,
        protein_before_g=d.protein_before_g,
        protein_g=d.protein_g,
        miss_kcal=d.miss_kcal,
        miss_protein_g=d.miss_protein_g,
        missed=dict(d.missed),
    )
