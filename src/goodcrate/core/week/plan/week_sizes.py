"""The weeks a proof is about, as values: which portions there are, and what each day and mean must come to.

The set of weeks: every open slot gets one of its dishes, from a session that is over in time; an eater's portion of a
dish is the same on all days of one kind (unless it may differ), in steps between its smallest and largest (blocks for
who eats in them); and every day, its floor and bands, and the means, are judged as the pages show them: in whole kcal
and grams. Days placed wholly by hand are left out.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import ceil, floor
from typing import Any

from goodcrate.core.ground.writing import round_half_up
from goodcrate.core.week.week_problem import PlanDay, PlanDish, PlanMean, WeekPlanProblem


@dataclass(frozen=True, slots=True)
class Portions:
    """The portions there are of a dish on a kind of day: `counts` times `unit_g`."""

    unit_g: float
    counts: tuple[int, ...]

    @property
    def least(self) -> int:
        """The smallest, in units."""
        return self.counts[0]

    @property
    def most(self) -> int:
        """The largest, in units."""
        return self.counts[-1]


def portions_of(dish: PlanDish, day: PlanDay, step_g: float) -> Portions | None:
    """The portions of a dish on a day: steps between its sizes, or its smallest where no step lies between; for whole
    blocks those nearest to one. None when there is none."""
    first, last = ceil(dish.low_g / step_g - 1e-9), floor(dish.high_g / step_g + 1e-9)
    if day.block_sums:
        near = {round(kcal / dish.kcal_per_g / step_g) for kcal in day.block_sums}
        counts = tuple(sorted(n for n in near if first <= n <= last and n > 0))
        return Portions(step_g, counts) if counts else None
    if first > last:
        return Portions(dish.low_g, (1,))
    counts = tuple(n for n in range(max(first, 0), last + 1) if n > 0)
    return Portions(step_g, counts) if counts else None


def ends_of(low: float | None, high: float | None) -> tuple[float | None, float | None]:
    """What a total must reach and stay under so that, in whole units, it is inside: low ≤ total < high."""
    least = None if low is None else ceil(low - 1e-9) - 0.5
    most = None if high is None else floor(high + 1e-9) + 0.5
    return least, most


def energy_ends(of: PlanDay | PlanMean) -> tuple[float, float]:
    """The same for energy, whose own ends are shown in whole kcal too."""
    return round_half_up(of.energy_low_kcal) - 0.5, round_half_up(of.energy_high_kcal) + 0.5


@dataclass(frozen=True, slots=True)
class Row:
    """A sum that a day, or a mean, must keep: from `low` to under `high` (None is open), `fixed` of it there already in
    its unit; `of` are the open slots it is of, and `days` by how many it is divided. `key` is energy, protein, or the
    nutrient of another band; `rule` what gives way where it does."""

    rule: str
    key: str
    of: tuple[int, ...]
    low: float | None
    high: float | None
    fixed: float
    days: int = 1


def holds(dish: PlanDish, key: str) -> float:
    """What a gram of a dish holds of energy (kcal), protein (g) or another nutrient in its unit."""
    if key == ENERGY:
        return dish.kcal_per_g
    return dish.protein_per_g if key == PROTEIN else dish.others_per_g.get(key, 0.0)


ENERGY, PROTEIN = "energy", "protein"


def rows_of(problem: WeekPlanProblem, *, with_placed: bool = True) -> list[Row]:
    """Every sum of a problem that a plan can move: those of days placed wholly by hand are left out."""
    dishes = {d.key: d for d in problem.dishes}
    opens: dict[tuple[str, int], list[int]] = {}
    stands: dict[tuple[str, int], list[tuple[PlanDish, float]]] = {}
    for n, slot in enumerate(problem.slots):
        if slot.fixed is None:
            opens.setdefault((slot.eater_key, slot.day), []).append(n)
        elif with_placed:
            stands.setdefault((slot.eater_key, slot.day), []).append((dishes[slot.fixed[0]], slot.fixed[1]))

    def there(d: PlanDay, key: str, extra: float) -> float:
        return extra + sum(holds(dish, key) * grams for dish, grams in stands.get((d.eater_key, d.day), ()))

    rows: list[Row] = []
    for d in problem.days:
        mine = tuple(opens.get((d.eater_key, d.day), ()))
        if mine:
            rows.append(Row("energy", ENERGY, mine, *energy_ends(d), there(d, ENERGY, d.extra_kcal)))
            floor_g, _ = ends_of(d.protein_floor_g, None)
            rows.append(Row("protein", PROTEIN, mine, floor_g, None, there(d, PROTEIN, d.extra_protein_g)))
            rows += [Row("bands", b.key, mine, *ends_of(b.low, b.high), there(d, b.key, b.extra)) for b in d.bands]
    for mean in problem.means:
        days = [d for d in problem.days if d.eater_key == mean.eater_key]
        mine = tuple(n for d in days for n in opens.get((d.eater_key, d.day), ()))
        if mine:
            rows += _mean_rows(mean, days, mine, there)
    return rows


def _mean_rows(mean: PlanMean, days: Sequence[PlanDay], mine: tuple[int, ...], there: Any) -> Iterable[Row]:
    n = len(days)
    low, high = energy_ends(mean)
    fixed = sum(there(d, ENERGY, d.extra_kcal) for d in days)
    yield Row("energy", ENERGY, mine, low * n, high * n, fixed=fixed, days=n)
    floor_g, _ = ends_of(mean.protein_floor_g, None)
    fixed_g = sum(there(d, PROTEIN, d.extra_protein_g) for d in days)
    yield Row("protein", PROTEIN, mine, None if floor_g is None else floor_g * n, None, fixed=fixed_g, days=n)
    for band in mean.bands:
        least, most = (None if end is None else end * n for end in ends_of(band.low, band.high))
        extra = sum(there(d, band.key, sum(b.extra for b in d.bands if b.key == band.key)) for d in days)
        yield Row("bands", band.key, mine, least, most, fixed=extra, days=n)
