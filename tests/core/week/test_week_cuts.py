"""Conditions without sizes: they let every choice of dishes through that has portions, and are exact for one day."""

from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.week.plan.week_cuts import conditions, energies_of, mg_per_kcal
from goodcrate.core.week.week_problem import PlanDay, PlanDish

DAY = PlanDay("maren", 0, "work", 1900, 2000, 100)
DENSITIES = st.floats(0.02, 0.2)


def dish(key: str, protein_per_kcal: float, low: int, high: int) -> PlanDish:
    return PlanDish(key, key, 1.0, protein_per_kcal, low, high, batches=1, hands_on_min=10, keeps_days=4, freezes=True)


def most_protein_mg(standing: list[PlanDish]) -> float | None:
    """The most protein portions of these can have within the day's energy; None when no portions have it. The densest
    first: with bounds and one sum, that is the optimum."""
    spans = [span for d in standing if (span := energies_of(d, DAY)) is not None]
    least, most = sum(low for low, _ in spans), sum(high for _, high in spans)
    if len(spans) < len(standing) or least > 2000 or most < 1900:
        return None
    room, protein = 2000 - least, 0.0
    for d, (low, high) in sorted(zip(standing, spans, strict=True), key=lambda pair: -mg_per_kcal(pair[0])):
        extra = min(high - low, room)
        room -= extra
        protein += mg_per_kcal(d) * (low + extra)
    return protein


@given(st.lists(st.tuples(DENSITIES, st.integers(50, 500), st.integers(10, 900)), min_size=2, max_size=6))
def test_a_choice_passes_exactly_when_it_has_portions(made: list[tuple[float, int, int]]) -> None:
    dishes = [dish(f"d{n}", protein, low, low + more) for n, (protein, low, more) in enumerate(made)]
    asked = list(conditions(DAY, dishes, 1900, 2000, 100_000))
    for standing in product(dishes, repeat=3):
        passes = all(sum(one.worth[d.key] for d in standing) >= one.least for one in asked)
        protein = most_protein_mg(list(standing))
        assert passes == (protein is not None and protein >= 100_000)


def test_whole_blocks_leave_a_dish_without_a_portion_out() -> None:
    blocks = PlanDay("oskar", 0, "work", 1900, 2000, 100, block_sums=(200, 520))
    assert energies_of(dish("a", 0.05, 250, 500), blocks) is None
    assert energies_of(dish("b", 0.05, 150, 600), blocks) == (200, 520)
    assert {key for one in conditions(blocks, [dish("a", 0.05, 250, 500)], 1900, 2000, 1) for key in one.worth} == set()
