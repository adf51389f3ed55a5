"""What a day's band and floor ask of the dishes that stand in it, whatever their portions: conditions without sizes.

A model that chooses dishes and sizes at once sees late that a choice has no sizes. These conditions tell it at once.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from goodcrate.core.week.week_problem import PlanDay, PlanDish

MOST_PRICES = 20
"""How many prices of a kcal are asked about, spread over the dishes' densities of protein."""
RICH = 1.6
"""Prices beyond so many times the density that a day needs say little and are left out: our own line."""


@dataclass(frozen=True, slots=True)
class Condition:
    """The worths of the dishes that stand in a day's slots come to at least `least`, in one unit of its own."""

    worth: Mapping[str, int]
    least: int


def mg_per_kcal(dish: PlanDish) -> int:
    """Protein in mg for each kcal, rounded down: what a portion of it surely brings."""
    return int(1000 * dish.protein_per_g / dish.kcal_per_g)


def energies_of(dish: PlanDish, day: PlanDay) -> tuple[int, int] | None:
    """The least and most kcal a portion of a dish gives on a day; None when it has no portion of whole blocks."""
    low, high = round(dish.low_g * dish.kcal_per_g) + 1, round(dish.high_g * dish.kcal_per_g) - 1
    if day.block_sums:
        inside = [kcal for kcal in day.block_sums if low <= kcal <= high]
        return (min(inside), max(inside)) if inside else None
    return (low, high) if low <= high else None


def conditions(
    day: PlanDay, dishes: Iterable[PlanDish], low_kcal: int, high_kcal: int, floor_mg: int
) -> Iterator[Condition]:
    """What every choice of dishes must come to that has portions from `low_kcal` to `high_kcal` with `floor_mg`.

    For any price of a kcal, protein less the price of its energy is at least the floor less the price of all the energy
    there may be; each dish brings to that no more than at its best portion. (The dual of a day's linear programme: with
    every density as a price the conditions are exact for a single day.)
    """
    spans = {d.key: (d, span) for d in dishes if (span := energies_of(d, day)) is not None}
    yield Condition({key: -least for key, (_, (least, _)) in spans.items()}, -high_kcal)
    yield Condition({key: most for key, (_, (_, most)) in spans.items()}, low_kcal)
    needed = floor_mg / max(high_kcal, 1)
    prices = sorted({0} | {mg_per_kcal(d) for d, _ in spans.values() if mg_per_kcal(d) < RICH * needed})
    if len(prices) > MOST_PRICES:
        prices = [prices[round(n * (len(prices) - 1) / (MOST_PRICES - 1))] for n in range(MOST_PRICES)]
    for price in prices:
        worth = {key: max((mg_per_kcal(d) - price) * kcal for kcal in span) for key, (d, span) in spans.items()}
        yield Condition(worth, floor_mg - price * high_kcal)
