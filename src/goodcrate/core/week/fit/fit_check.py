"""A fitted week held against its problem, from the answer alone: nothing of how it was found is used here."""

from collections.abc import Iterator

from goodcrate.core.week.fit.fit_problem import FitDay, FitPortion, FittedDay, FittedPortion, WeekFit, WeekFitProblem
from goodcrate.core.week.week_problem import PlanMean

ALMOST = 1e-6


def check_week_fit(problem: WeekFitProblem, fit: WeekFit) -> list[str]:
    """What is wrong with an answer; empty when nothing is."""
    pairs = list(zip(problem.portions, fit.portions, strict=True))
    wrong = [f"{p.recipe_key} of {p.eater_key} {why}" for p, f in pairs for why in _wrong_size(p, f, problem.step_g)]
    miss = 0.0
    for day, said in zip(problem.days, fit.days, strict=True):
        faults, by = _held_against(day, said, _eaten(problem, fit, day), f"day {day.day} of {day.eater_key}")
        wrong, miss = [*wrong, *faults], miss + by
    counted = [mean for mean in problem.means if any(d.eater_key == mean.eater_key for d in problem.days)]
    for mean, said in zip(counted, fit.means, strict=True):
        days = [_eaten(problem, fit, d) for d in problem.days if d.eater_key == mean.eater_key]
        on_mean = {key: sum(d[key] for d in days) / len(days) for key in days[0]}
        faults, by = _held_against(mean, said, on_mean, f"the mean of {mean.eater_key}")
        wrong, miss = [*wrong, *faults], miss + len(days) * by
    if abs(miss - fit.miss) > ALMOST:
        wrong.append("the misses do not add up")
    if fit.miss < fit.bound - ALMOST:
        wrong.append("the miss is under its bound")
    return wrong


def _eaten(problem: WeekFitProblem, fit: WeekFit, day: FitDay) -> dict[str, float]:
    """What a day holds by the answer's grams."""
    sums = {"kcal": day.fixed_kcal, "protein": day.fixed_protein_g, **{b.key: b.extra for b in day.bands}}
    for p, f in zip(problem.portions, fit.portions, strict=True):
        grams = f.after_g * p.days.count(day.day) if p.eater_key == day.eater_key else 0.0
        for key in sums:
            per_g = {"kcal": p.kcal_per_g, "protein": p.protein_per_g}.get(key, p.others_per_g.get(key, 0.0))
            sums[key] += per_g * grams
    return sums


def _held_against(
    wanted: FitDay | PlanMean, said: FittedDay, sums: dict[str, float], whose: str
) -> tuple[list[str], float]:
    """What is wrong with what is said of a day or a mean, and by how much it misses, in shares."""
    wrong = []
    if abs(sums["kcal"] - said.kcal) > ALMOST or abs(sums["protein"] - said.protein_g) > ALMOST:
        wrong.append(f"{whose} does not add up")
    outside = [_outside(wanted.energy_low_kcal, wanted.energy_high_kcal, sums["kcal"])]
    outside.append(_outside(wanted.protein_floor_g, None, sums["protein"]))
    outside += [_outside(b.low, b.high, sums[b.key]) for b in wanted.bands]
    if said.is_met != all(by < 0.5 for by, _ in outside):
        wrong.append(f"{whose} is met or not, and is said otherwise")
    return wrong, sum(by / max(end, 1.0) for by, end in outside)


def _wrong_size(p: FitPortion, f: FittedPortion, step_g: int) -> Iterator[str]:
    if f.before_g != p.grams:
        yield "was another size before"
    if f.after_g == p.grams:
        return
    if p.is_held:
        yield "was held and moved"
    elif p.sizes_g:
        if f.after_g not in p.sizes_g:
            yield "is none of its sizes"
    else:
        if not p.low_g - ALMOST <= f.after_g <= p.high_g + ALMOST:
            yield "left its limits"
        steps = f.after_g / (p.piece_g or step_g)
        if abs(steps - round(steps)) > ALMOST:
            yield "is off its step"


def _outside(low: float | None, high: float | None, total: float) -> tuple[float, float]:
    """How far a total is outside, and the end it misses; 0 of either inside."""
    if low is not None and total < low:
        return low - total, low
    if high is not None and total > high:
        return total - high, high
    return 0.0, 0.0
