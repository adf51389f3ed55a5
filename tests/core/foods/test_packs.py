"""Whole packs: worked by hand, and against every combination there is."""

import random
from collections.abc import Sequence
from itertools import product
from math import ceil, inf

import pytest

from goodcrate.core.foods.packs import LEAST_COST, LEAST_LEFT, Buying, Pack, whole_packs
from goodcrate.core.ground.errors import InvalidInput


def pack(grams: float, price: float | None = None) -> Pack:
    return Pack(f"{grams}", grams, price)


def bought(buying: Buying) -> dict[float, int]:
    return {p.grams: count for p, count in buying.packs}


def test_what_a_cook_would_buy() -> None:
    beans = whole_packs(800, [pack(235, 0.95)])
    assert (bought(beans), beans.left_g, beans.price) == ({235: 4}, 140, 3.8)
    quark = whole_packs(989, [pack(250, 1.15), pack(500, 2.05)])
    assert (bought(quark), quark.left_g, quark.price) == ({500: 2}, 11, 4.1)
    assert bought(whole_packs(989, [pack(250, 1.0), pack(500, 2.05)])) == {250: 4}
    oats = [pack(500, 0.95), pack(1000, 1.5)]
    assert bought(whole_packs(520, oats)) == {1000: 1}
    assert bought(whole_packs(400, oats)) == {500: 1}


def test_the_aim_decides() -> None:
    flour = [pack(400, 1.0), pack(1000, 1.1)]
    assert bought(whole_packs(700, flour, LEAST_LEFT)) == {400: 2}
    assert bought(whole_packs(700, flour, LEAST_COST)) == {1000: 1}


def test_what_has_no_price_is_not_free() -> None:
    some = [pack(500), pack(250, 1.0)]
    assert bought(whole_packs(500, some, LEAST_COST)) == {250: 2}
    assert bought(whole_packs(500, some, LEAST_LEFT)) == {250: 2}
    assert whole_packs(500, [pack(500)], LEAST_COST).price is None
    assert bought(whole_packs(500, [pack(500), pack(300)], LEAST_COST)) == {500: 1}


def test_nothing_is_bought_for_nothing() -> None:
    assert whole_packs(0, [pack(500, 1.0)]) == Buying()
    assert Buying().price == 0


@pytest.mark.parametrize(("need", "packs"), [(-1, [pack(500)]), (1e9, [pack(500)]), (5, [])])
def test_what_cannot_be_bought_is_refused(need: float, packs: list[Pack]) -> None:
    with pytest.raises(InvalidInput):
        whole_packs(need, packs)


@pytest.mark.parametrize(("grams", "price"), [(0, 1.0), (-5, 1.0), (1e6, 1.0), (500, -1.0), (500, 1e9)])
def test_a_pack_that_cannot_be_is_refused(grams: float, price: float) -> None:
    with pytest.raises(InvalidInput):
        Pack("p", grams, price)


def judged(need: float, packs: Sequence[Pack], counts: Sequence[int], aim: str) -> tuple[float, float]:
    """What the aim looks at first and second, from the packs themselves."""
    left = round(sum(p.grams * n for p, n in zip(packs, counts, strict=True)) - need, 1)
    cost = round(sum(p.price * n if p.price is not None else inf for p, n in zip(packs, counts, strict=True) if n), 4)
    return (left, cost) if aim == LEAST_LEFT else (cost, left)


def by_trying_all(need: float, packs: Sequence[Pack], aim: str) -> tuple[float, float]:
    every = product(*(range(ceil(need / p.grams) + 2) for p in packs))
    return min(
        judged(need, packs, c, aim) for c in every if sum(p.grams * n for p, n in zip(packs, c, strict=True)) >= need
    )


@pytest.mark.parametrize("aim", [LEAST_LEFT, LEAST_COST])
@pytest.mark.parametrize("seed", range(60))
def test_no_combination_is_better(seed: int, aim: str) -> None:
    dice = random.Random(seed)  # noqa: S311
    sizes = [(50, 100, 125, 200, 250, 400, 500, 1000), (37.3, 41.9, 250.1, 90.5, 113.4), (235, 240, 390, 400, 425)]
    chosen = dice.sample(sizes[seed % 3], dice.randint(1, 4))
    packs = [pack(grams, round(dice.uniform(0.2, 4), 2)) for grams in chosen]
    need = round(dice.uniform(1, 9 * min(chosen)), 1)
    found = whole_packs(need, packs, aim)
    counts = [dict(found.packs).get(p, 0) for p in packs]
    assert judged(need, packs, counts, aim) == by_trying_all(need, packs, aim)
    assert found.left_g == round(found.grams - need, 1) >= 0
    worse = [n + 1 for n in counts]
    assert judged(need, packs, worse, aim) > by_trying_all(need, packs, aim)


def reachable(sizes: Sequence[int], most: int) -> int:
    """Every sum of packs up to a most, as the bits of a number: another way to the least that is left."""
    sums = 1
    for size in sizes:
        step = size
        while step <= most:
            sums |= sums << step
            step *= 2
    return sums & ((1 << (most + 1)) - 1)


@pytest.mark.parametrize("seed", range(20))
def test_many_sizes_that_share_nothing_leave_the_least_too(seed: int) -> None:
    dice = random.Random(seed)  # noqa: S311
    tenths = dice.sample(range(371, 5000), 6)
    need = dice.randint(5000, 40_000)
    found = whole_packs(need / 10, [pack(t / 10, 1.0) for t in tenths])
    sums = reachable(tenths, need + max(tenths)) >> need
    assert round(found.left_g * 10) == (sums & -sums).bit_length() - 1
