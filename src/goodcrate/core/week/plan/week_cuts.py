"""What a day's band and floor ask of the dishes that stand in it, whatever their portions: conditions without sizes.

A model that chooses dishes and sizes at once sees late that a choice has no sizes. These conditions tell it at once.
Each is rounded so that no week of `week_sizes` is cut off by it: a dish's worth up, what is asked down.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from math import ceil, floor

from goodcrate.core.week.plan.week_model import WeekModel
from goodcrate.core.week.plan.week_sizes import ENERGY, PROTEIN, Portions, Row, holds, portions_of, rows_of
from goodcrate.core.week.week_problem import PlanDish

MOST_PRICES = 20
"""How many prices of a kcal are asked about, spread over the dishes' densities of protein."""
RICH = 1.6
"""Prices beyond so many times the density that a day needs say little and are left out: our own line."""
UNITS = 1000
"""A kcal, or a gram of protein, in a condition's whole numbers."""


@dataclass(frozen=True, slots=True)
class Condition:
    """The worths of the dishes that stand in a day's slots come to at least `least`, in one unit of its own."""

    worth: Mapping[str, int]
    least: int


def mg_per_kcal(dish: PlanDish) -> int:
    """Protein in mg for each kcal, rounded down."""
    return int(1000 * dish.protein_per_g / dish.kcal_per_g)


def conditions(
    portions: Mapping[str, tuple[PlanDish, Portions]], energy: Row, protein: Row | None, others: Iterable[Row] = ()
) -> Iterator[Condition]:
    """What every choice of dishes must come to that has portions within a day's sums.

    For any price of a kcal, protein less the price of its energy is at least the floor less the price of all the energy
    there may be; each dish brings to that no more than at its best portion. (The dual of a day's linear programme: with
    every density as a price the conditions are exact for a single day.)
    """
    ends = {
        key: tuple(dish.kcal_per_g * p.unit_g * count for count in (p.least, p.most))
        for key, (dish, p) in portions.items()
    }
    low, high = (None if end is None else end - energy.fixed for end in (energy.low, energy.high))
    if high is not None:
        yield Condition({key: ceil(-UNITS * least) for key, (least, _) in ends.items()}, floor(-UNITS * high))
    if low is not None:
        yield Condition({key: ceil(UNITS * most) for key, (_, most) in ends.items()}, floor(UNITS * low))
    for row in others:
        yield from _of_one(portions, row)
    if protein is None or protein.low is None or high is None or high <= 0:
        return
    floor_g = protein.low - protein.fixed
    density = {key: dish.protein_per_g / dish.kcal_per_g for key, (dish, _) in portions.items()}
    prices = sorted({0.0, *(d for d in density.values() if d < RICH * max(floor_g, 0.0) / high)})
    if len(prices) > MOST_PRICES:
        prices = [prices[round(n * (len(prices) - 1) / (MOST_PRICES - 1))] for n in range(MOST_PRICES)]
    for price in prices:
        worth = {key: max((density[key] - price) * kcal for kcal in span) for key, span in ends.items()}
        least = floor(UNITS * (floor_g - price * high))
        yield Condition({key: ceil(UNITS * most) for key, most in worth.items()}, least)


def _of_one(portions: Mapping[str, tuple[PlanDish, Portions]], row: Row) -> Iterator[Condition]:
    """What another band asks by itself."""
    ends = {
        key: tuple(holds(dish, row.key) * p.unit_g * count for count in (p.least, p.most))
        for key, (dish, p) in portions.items()
    }
    if row.low is not None:
        worth = {key: ceil(UNITS * most) for key, (_, most) in ends.items()}
        yield Condition(worth, floor(UNITS * (row.low - row.fixed)))
    if row.high is not None:
        worth = {key: ceil(-UNITS * least) for key, (least, _) in ends.items()}
        yield Condition(worth, floor(-UNITS * (row.high - row.fixed)))


def add_conditions(model: WeekModel) -> None:
    """Let a model know them, of each day by itself; where a rule may give way, only as long as it does not."""
    if model.relax & {"energy", "protein", "bands", "pins"}:
        return
    days = {(d.eater_key, d.day): d for d in model.problem.days}
    kept = [model.broken[rule].negated() for rule in ("energy", "protein", "bands") if rule in model.broken]
    by_slots: dict[tuple[int, ...], list[Row]] = {}
    for row in rows_of(model.problem):
        if row.days == 1:
            by_slots.setdefault(row.of, []).append(row)
    for of, rows in by_slots.items():
        slot = model.problem.slots[of[0]]
        day = days[slot.eater_key, slot.day]
        stands = [(key, flag) for n in of for key, flag in model.stands.get(n, {}).items()]
        portions = {}
        for key, _ in stands:
            if (
                key not in portions
                and (found := portions_of(model.dish[key], day, model.problem.rules.step_g)) is not None
            ):
                portions[key] = (model.dish[key], found)
        energy = next(row for row in rows if row.key == ENERGY)
        protein = next((row for row in rows if row.key == PROTEIN), None)
        others = [row for row in rows if row.rule == "bands"]
        for asked in conditions(portions, energy, protein, others):
            worth = [asked.worth[key] * flag for key, flag in stands if key in asked.worth]
            rule = model.m.add(sum(worth) >= asked.least)
            if kept:
                rule.only_enforce_if(kept)


class ChoiceModel(WeekModel):
    """Which dishes stand where, with what each day asks of them whatever their portions: fewer rules than a week has,
    so that its least work bounds every week, and no answer here is none at all."""

    def _portioned(self) -> None:
        add_conditions(self)
