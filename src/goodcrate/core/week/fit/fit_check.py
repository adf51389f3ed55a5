"""A fitted week held against its problem, from the answer alone: nothing of how it was found is used here."""

from collections.abc import Iterator

from goodcrate.core.week.fit.fit_problem import FitPortion, FittedPortion, WeekFit, WeekFitProblem

ALMOST = 1e-6


def check_week_fit(problem: WeekFitProblem, fit: WeekFit) -> list[str]:
    """What is wrong with an answer; empty when nothing is."""
    pairs = list(zip(problem.portions, fit.portions, strict=True))
    wrong = [f"{p.recipe_key} of {p.eater_key} {why}" for p, f in pairs for why in _wrong_size(p, f, problem.step_g)]
    miss = 0.0
    for day, said in zip(problem.days, fit.days, strict=True):
        eaten = [(p, f.after_g * p.days.count(day.day)) for p, f in pairs if p.eater_key == day.eater_key]
        kcal = day.fixed_kcal + sum(p.kcal_per_g * grams for p, grams in eaten)
        protein_g = day.fixed_protein_g + sum(p.protein_per_g * grams for p, grams in eaten)
        others = [b.extra + sum(p.others_per_g.get(b.key, 0.0) * grams for p, grams in eaten) for b in day.bands]
        whose = f"day {day.day} of {day.eater_key}"
        if abs(kcal - said.kcal) > ALMOST or abs(protein_g - said.protein_g) > ALMOST:
            wrong.append(f"{whose} does not add up")
        ends: list[tuple[float | None, float | None, float]] = [(day.energy_low_kcal, day.energy_high_kcal, kcal)]
        ends.append((day.protein_floor_g, None, protein_g))
        ends += [(b.low, b.high, total) for b, total in zip(day.bands, others, strict=True)]
        outside = [_outside(*end) for end in ends]
        if said.is_met != all(by < 0.5 for by, _ in outside):
            wrong.append(f"{whose} is met or not, and is said otherwise")
        miss += sum(by / max(end, 1.0) for by, end in outside)
    if abs(miss - fit.miss) > ALMOST:
        wrong.append("the misses do not add up")
    if fit.miss < fit.bound - ALMOST:
        wrong.append("the miss is under its bound")
    return wrong


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
