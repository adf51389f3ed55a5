"""Fit: recipes stay where they are, portion sizes move until the days keep to their bands.

One portion size per eater and recipe, for that is how boxes are packed. Linear programmes by HiGHS for each eater
(eaters do not share a portion), each with what the one before reached held: first the least miss of all bands and
floors, then of the slots' shares of the day where there are any, then the least relative change. Grams are then rounded
to the step and repaired by small moves. The first programme's miss is a bound that no rounding can beat; where rounding
misses more, a programme in whole numbers finds the sizes on the step that miss least, or says how little they could.
"""

from collections.abc import Mapping, Sequence

from goodcrate.core.week.fit.fit_model import FitModel
from goodcrate.core.week.fit.fit_problem import (
    NEGLIGIBLE,
    FitDay,
    FittedDay,
    FittedPortion,
    WeekFit,
    WeekFitProblem,
    check_fit_problem,
)
from goodcrate.core.week.week_problem import PlanBand, PlanMean

MOST_NODES = 400
"""How far the programme in whole numbers is followed, for one eater."""


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
        means = [m for m in problem.means if m.eater_key == eater]
        model = FitModel([problem.portions[n] for n in mine], days, problem.step_g, means)
        exact, least = model.solve()
        sizes = model.rounded(exact)
        if model.missed(sizes) > least + NEGLIGIBLE:
            sizes, least = _in_whole_steps(model, sizes, least)
        after |= dict(zip(mine, sizes, strict=True))
        miss, bound = miss + model.missed(sizes), bound + least
    portions = tuple(
        FittedPortion(p.eater_key, p.recipe_key, p.grams, after[n]) for n, p in enumerate(problem.portions)
    )
    return WeekFit(portions, _days(problem, portions), miss, bound, _means(problem, portions))


def _in_whole_steps(model: FitModel, sizes: list[float], least: float) -> tuple[list[float], float]:
    """Better sizes than the rounded ones, where there are, and the least miss that sizes on the step can have."""
    whole, bound = model.in_steps(MOST_NODES)
    if whole is not None and model.missed(whole) < model.missed(sizes) - NEGLIGIBLE:
        sizes = model.repaired(whole)
    return sizes, min(max(least, bound), model.missed(sizes))


def _days(problem: WeekFitProblem, portions: Sequence[FittedPortion]) -> tuple[FittedDay, ...]:
    before, now = ([getattr(p, grams) for p in portions] for grams in ("before_g", "after_g"))
    return tuple(
        _day((d.eater_key, d.day), _all_bands(d), _totals(problem, d, before), _totals(problem, d, now))
        for d in problem.days
    )


def _means(problem: WeekFitProblem, portions: Sequence[FittedPortion]) -> tuple[FittedDay, ...]:
    before, now = ([getattr(p, grams) for p in portions] for grams in ("before_g", "after_g"))
    found = []
    for mean in problem.means:
        days = [d for d in problem.days if d.eater_key == mean.eater_key]
        if days:
            was, sums = (_mean_of([_totals(problem, d, grams) for d in days]) for grams in (before, now))
            found.append(_day((mean.eater_key, None), _all_bands(mean), was, sums))
    return tuple(found)


def _mean_of(days: Sequence[Mapping[str, float]]) -> dict[str, float]:
    return {key: sum(d[key] for d in days) / len(days) for key in days[0] if all(key in d for d in days)}


def _day(
    whose: tuple[str, int | None], bands: Sequence[PlanBand], was: Mapping[str, float], sums: Mapping[str, float]
) -> FittedDay:
    missed = {b.key: by for b in bands if (by := _outside(b, sums[b.key])) > NEGLIGIBLE}
    return FittedDay(
        *whose,
        was["kcal"],
        sums["kcal"],
        was["protein"],
        protein_g=sums["protein"],
        miss_kcal=missed.pop("kcal", 0.0),
        miss_protein_g=missed.pop("protein", 0.0),
        missed=tuple(missed.items()),
        was_met=all(_outside(b, was[b.key]) < 0.5 for b in bands),
    )


def _all_bands(d: FitDay | PlanMean) -> tuple[PlanBand, ...]:
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
