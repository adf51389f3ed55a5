"""Division: nothing lost, whole steps, and leximax against an independent gram-by-gram divider."""

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.portion.division import KEEP, SPREAD, BoxTarget, Division, DivisionProblem, check_division, divide


def gram_by_gram(supply: int, targets: list[int], caps: list[int | None]) -> list[int]:
    """The slow and obvious rule: from the clipped targets, one gram at a time where the result deviates least."""
    got = [min(t, t if c is None else c) for t, c in zip(targets, caps, strict=True)]
    step = 1 if supply > sum(got) else -1
    while sum(got) != supply:
        free = [i for i, c in enumerate(caps) if got[i] + step >= 0 and (c is None or got[i] + step <= c)]
        if not free:
            break
        off = {i: [abs(Fraction(got[i] + n - targets[i], targets[i])) for n in (step, 0)] for i in free}
        got[min(free, key=lambda i: (off[i][0], -off[i][1], i))] += step
    return got


problems = st.lists(st.tuples(st.integers(1, 700), st.none() | st.integers(0, 900)), min_size=1, max_size=7).flatmap(
    lambda boxes: st.tuples(st.just(boxes), st.integers(1, 4000))
)


def sorted_deviations(got: list[int], targets: list[int]) -> list[Fraction]:
    return sorted((abs(Fraction(g - t, t)) for g, t in zip(got, targets, strict=True)), reverse=True)


@given(problems)
def test_the_division_is_leximax_and_loses_nothing(drawn: tuple[list[tuple[int, int | None]], int]) -> None:
    boxes, supply = drawn
    problem = DivisionProblem(supply, tuple(BoxTarget(str(n), t, c) for n, (t, c) in enumerate(boxes)))
    division = divide(problem)
    assert check_division(problem, division) == ()
    targets, caps = [t for t, _ in boxes], [c for _, c in boxes]
    fast, slow = [int(f.grams) for f in division.boxes], gram_by_gram(supply, targets, caps)
    assert sum(fast) == sum(slow)
    assert sorted_deviations(fast, targets) == sorted_deviations(slow, targets)


@given(
    st.integers(1, 60_000).map(lambda tenths: tenths / 10),
    st.lists(st.floats(1, 900), min_size=1, max_size=12),
    st.sampled_from([1, 5]),
    st.sampled_from([SPREAD, KEEP]),
)
def test_boxes_and_remainder_are_the_net_weight(net: float, targets: list[float], step: int, policy: str) -> None:
    problem = DivisionProblem(net, tuple(BoxTarget(str(n), t) for n, t in enumerate(targets)), step, policy)
    division = divide(problem)
    assert check_division(problem, division) == ()
    assert abs(sum(f.grams for f in division.boxes) + division.remainder_g - net) < 1e-9
    if policy == SPREAD:
        assert division.remainder_g < step
    else:
        assert all(f.grams <= t for f, t in zip(division.boxes, targets, strict=True))


def divided(net: float, *boxes: BoxTarget, step: int = 1, policy: str = SPREAD) -> list[float]:
    return [f.grams for f in divide(DivisionProblem(net, boxes, step, policy)).boxes]


def test_equal_boxes_differ_by_one_gram_at_most_and_the_first_gets_it() -> None:
    assert divided(1001, *(BoxTarget(str(n), 250) for n in range(4))) == [251, 250, 250, 250]


def test_a_filled_box_stays_and_the_rest_is_divided_again() -> None:
    boxes = (BoxTarget("Mon", 314, filled_g=331), BoxTarget("Tue", 314), BoxTarget("Wed", 314))
    division = divide(DivisionProblem(942, boxes))
    assert [f.grams for f in division.boxes] == [331, 306, 305]
    assert (division.boxes[0].was_filled, division.remainder_g) == (True, 0)


def test_what_does_not_fit_is_named_as_remainder() -> None:
    boxes = (BoxTarget("jar", 200, capacity_g=210), BoxTarget("pot", 50, capacity_g=54))
    division = divide(DivisionProblem(300, boxes))
    assert ([f.grams for f in division.boxes], division.remainder_g) == ([210, 54], 36)


def test_keeping_targets_leaves_the_rest_and_tenths_stay_in_the_pot() -> None:
    assert divided(1000, BoxTarget("a", 250.5), BoxTarget("b", 250), policy=KEEP) == [250, 250]
    assert divide(DivisionProblem(500.4, (BoxTarget("a", 1),))).remainder_g == pytest.approx(0.4)


def test_five_gram_steps() -> None:
    assert divided(1003, BoxTarget("a", 300), BoxTarget("b", 700), step=5) == [300, 700]


def test_every_fault_of_a_problem_is_named() -> None:
    with pytest.raises(InvalidInputs) as caught:
        DivisionProblem(0, (BoxTarget("a", 0), BoxTarget("a", 5, capacity_g=-1)), 0, "fair")
    assert {f.field for f in caught.value.faults} == {
        "net_g",
        "step_g",
        "policy",
        "boxes",
        "boxes.0.target_g",
        "boxes.1.capacity_g",
    }
    with pytest.raises(InvalidInputs, match="hold 300"):
        DivisionProblem(200, (BoxTarget("a", 100, filled_g=300),))
    with pytest.raises(InvalidInputs, match="no box"):
        DivisionProblem(200, ())


def test_the_checker_rejects_what_it_should() -> None:
    problem = DivisionProblem(100, (BoxTarget("a", 50, capacity_g=60), BoxTarget("b", 50, filled_g=40)))
    good = divide(problem)
    a, b = good.boxes
    for boxes, remainder in (
        ((replace(a, grams=59), b), good.remainder_g),
        ((replace(a, grams=61), b), -1.0),
        ((a, replace(b, grams=41)), good.remainder_g - 1),
        ((b, a), good.remainder_g),
        ((replace(a, grams=59.5), b), good.remainder_g + 0.5),
    ):
        assert check_division(problem, Division(boxes, remainder))


@given(st.lists(st.integers(1, 9), min_size=2, max_size=3), st.integers(1, 24))
def test_no_other_division_is_better(targets: list[int], supply: int) -> None:
    """Against every possible division of small pots: none has a better worst, next worst, … deviation."""

    def ways(boxes: int, left: int) -> list[list[int]]:
        if boxes == 1:
            return [[left]]
        return [[g, *rest] for g in range(left + 1) for rest in ways(boxes - 1, left - g)]

    best = min(sorted_deviations(way, targets) for way in ways(len(targets), supply))
    problem = DivisionProblem(supply, tuple(BoxTarget(str(n), t) for n, t in enumerate(targets)))
    assert sorted_deviations([int(f.grams) for f in divide(problem).boxes], targets) == best


def test_few_steps_to_a_box_are_divided_best_too() -> None:
    assert divided(70, BoxTarget("a", 11), BoxTarget("b", 60), step=5) == [10, 60]


small_boxes = st.tuples(st.integers(1, 70), st.one_of(st.none(), st.integers(0, 80)))


@given(st.lists(small_boxes, min_size=1, max_size=4), st.integers(1, 160), st.integers(2, 20))
def test_no_other_division_is_better_in_any_step_or_capacity(
    boxes: list[tuple[int, int | None]], supply: int, step: int
) -> None:
    """Against every division: targets of a few steps, full boxes, more than fits and less than asked for."""
    targets, most = [t for t, _ in boxes], [10**6 if c is None else c // step for _, c in boxes]
    units = min(supply // step, sum(most))

    def ways(place: int, left: int) -> Iterator[list[int]]:
        if place == len(boxes) - 1:
            if left <= most[place]:
                yield [left]
            return
        for n in range(min(left, most[place]) + 1):
            for rest in ways(place + 1, left - n):
                yield [n, *rest]

    best = min(sorted_deviations([n * step for n in way], targets) for way in ways(0, units))
    problem = DivisionProblem(supply, tuple(BoxTarget(str(n), t, c) for n, (t, c) in enumerate(boxes)), step)
    division = divide(problem)
    assert check_division(problem, division) == ()
    assert sorted_deviations([int(f.grams) for f in division.boxes], targets) == best
