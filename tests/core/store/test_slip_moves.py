"""What can be done about a slip: held against trying every portion, and never below the floors."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.store.slip_moves import (
    LEAST_SHARE,
    LEAVE,
    LESS,
    MORE,
    SWAP,
    DayNow,
    Movable,
    Move,
    miss_of,
    slip_moves,
)
from goodcrate.core.targets.day_target import DayTarget, NutrientBand

TARGET = DayTarget(2000, 90, 5)  # 1,900 to 2,100 kcal


def week(*kcal: float, protein: float = 110) -> list[DayNow]:
    return [DayNow(n, energy, protein, TARGET) for n, energy in enumerate(kcal)]


def kinds(moves: tuple[Move, ...]) -> list[str]:
    return [m.kind for m in moves]


def test_a_day_in_its_band_asks_for_nothing() -> None:
    assert slip_moves(0, week(2080, 2000), [Movable("a", 0, 400, 1.5, 0.08)]) == ()


def test_a_week_within_two_per_cent_is_left_as_it_is() -> None:
    moves = slip_moves(0, week(2150, *([2000] * 5), 1990), [])
    assert kinds(moves) == [LEAVE]
    assert moves[0].mean == pytest.approx(14140 / 7)
    assert moves[0].mean_off == pytest.approx(14140 / 14000 - 1)
    assert slip_moves(0, week(2300, 2200, 2100), []) == ()


def test_a_smaller_box_tomorrow_comes_in_its_place() -> None:
    portions = [
        Movable("large", 0, 500, 1.6, 0.08),
        Movable("small", 1, 400, 1.5, 0.1),
        Movable("same", 2, 500, 1.6, 0.08),
    ]
    moves = slip_moves(0, week(2250, 1950, 2000), portions)
    swap = next(m for m in moves if m.kind == SWAP)
    assert (swap.key, swap.other) == ("large", "small")
    assert [(d.day, d.kcal) for d in swap.days] == [(0, 2050), (1, 2150)] or swap.days[0].kcal == 2050
    assert miss_of(swap.days[0].kcal, swap.days[0].protein_g, TARGET) == 0


def test_what_may_not_be_swapped_is_not_offered() -> None:
    portions = [Movable("large", 0, 500, 1.6, 0.08), Movable("small", 1, 400, 1.5, 0.1)]
    assert SWAP not in kinds(slip_moves(0, week(2250, 1900), portions, may_swap=lambda _a, _b: False))


PORTIONS = st.tuples(st.integers(150, 600), st.floats(0.6, 2.5), st.floats(0.02, 0.2))
DAYS = st.lists(st.tuples(st.integers(1500, 2600), st.integers(70, 140)), min_size=2, max_size=5)


@given(DAYS, st.lists(st.tuples(st.integers(0, 4), PORTIONS), max_size=5), st.lists(PORTIONS, max_size=2))
def test_no_move_takes_a_day_below_its_floors_and_each_says_what_it_does(
    days: list[tuple[int, int]],
    placed: list[tuple[int, tuple[int, float, float]]],
    house: list[tuple[int, float, float]],
) -> None:
    now = [DayNow(n, kcal, protein, TARGET) for n, (kcal, protein) in enumerate(days)]
    to_come = [Movable(f"p{n}", day, g, kcal, protein) for n, (day, (g, kcal, protein)) in enumerate(placed)]
    in_house = [Movable(f"h{n}", 0, g, kcal, protein) for n, (g, kcal, protein) in enumerate(house)]
    moves = slip_moves(0, now, to_come, in_house)
    assert len(moves) <= 3
    for move in moves:
        before = after = 0.0
        for d in move.days:
            assert round(d.kcal) >= min(round(d.kcal_before), round(TARGET.energy_low_kcal)) - 1
            assert round(d.protein_g) >= min(round(d.protein_before_g), 90) - 1
            before += miss_of(d.kcal_before, d.protein_before_g, TARGET)
            after += miss_of(d.kcal, d.protein_g, TARGET)
        assert move.kind == LEAVE or after < before
    swaps = [m for m in moves if m.kind == SWAP]
    if swaps:  # no other swap brings the days nearer
        best = max(_gain(now, a, b) for a, b in product(to_come, to_come) if a.day == 0 < b.day < len(now))
        (swap,) = swaps
        gain = sum(
            miss_of(d.kcal_before, d.protein_before_g, TARGET) - miss_of(d.kcal, d.protein_g, TARGET) for d in swap.days
        )
        assert gain == pytest.approx(best)


def _gain(now: list[DayNow], a: Movable, b: Movable) -> float:
    """By hand: what both days are outside their bands before and after; none when one falls below a floor by it."""
    gain = 0.0
    for day, more in ((now[0], 1), (now[b.day], -1)):
        kcal = day.kcal + more * (b.kcal - a.kcal)
        protein = day.protein_g + more * (b.protein_g - a.protein_g)
        if round(kcal + 1e-9) < min(round(day.kcal), 1900) or round(protein + 1e-9) < min(round(day.protein_g), 90):
            return -9.0
        gain += miss_of(day.kcal, day.protein_g, TARGET) - miss_of(kcal, protein, TARGET)
    return gain


@pytest.mark.parametrize(("kcal", "kind"), [(2300, LESS), (1750, MORE)])
def test_the_grams_are_the_fits_none_in_steps_of_5_misses_less(kcal: float, kind: str) -> None:
    snack = Movable("snack", 0, 300, 1.3, 0.05)
    moves = slip_moves(0, week(kcal, 2000), [snack] if kind == LESS else [], [] if kind == LESS else [snack])
    move = next(m for m in moves if m.kind == kind)
    assert move.grams is not None
    base = kcal - snack.kcal if kind == LESS else kcal
    protein = 110 - snack.protein_g if kind == LESS else 110

    def miss(grams: float) -> float:
        return miss_of(base + grams * 1.3, protein + grams * 0.05, TARGET)

    least = min(miss(g) for g in range(0 if kind == MORE else round(300 * LEAST_SHARE / 5) * 5, 301, 5))
    assert miss(move.grams) == pytest.approx(least)
    assert move.grams % 5 == 0


def test_other_bands_count_as_energy_and_protein_do() -> None:
    """Nuts would bring the energy, and more fat than the day may have: as many grams as the fat lets in; bread is free.
    Of a pie, as much is left out as the energy's low end allows."""
    target = DayTarget(2000, 90, 5, (NutrientBand("fat_g", None, 70),))
    short = [DayNow(0, 1700, 110, target, {"fat_g": 66})]
    nuts = Movable("nuts", 0, 80, 6.5, 0.15, {"fat_g": 0.6})
    bread = Movable("bread", 0, 120, 2.4, 0.09, {"fat_g": 0.02})
    [more] = slip_moves(0, short, [], [nuts])
    assert more.grams == 5
    assert more.days[0].others["fat_g"] == pytest.approx(69)
    [better] = slip_moves(0, short, [], [nuts, bread])
    assert better.key == "bread"
    assert miss_of(1950, 110, target, {"fat_g": 77}) == pytest.approx(0.1)
    fatty = [DayNow(0, 2000, 110, target, {"fat_g": 90})]
    _, less = slip_moves(0, fatty, [Movable("pie", 0, 200, 2.4, 0.05, {"fat_g": 0.2})])
    assert (less.kind, less.grams) == (LESS, 160)
    assert less.days[0].others["fat_g"] == pytest.approx(82)
    assert less.days[0].kcal == pytest.approx(1904)
