"""Answers are kept for the very same objects, and for no others."""

from collections.abc import Callable, Iterable

from goodcrate.core.ground.same import KEPT, once_for_same, the_same


def counting() -> tuple[list[object], Callable[[Iterable[object]], int]]:
    asked: list[object] = []

    @once_for_same
    def length(values: Iterable[object]) -> int:
        asked.append(values)
        return len(list(values))

    return asked, length


def test_the_same_object_is_asked_about_once() -> None:
    asked, length = counting()
    value = (1, 2, 3)
    assert [length(value), length(value)] == [3, 3]
    assert len(asked) == 1


def test_an_equal_object_and_a_changed_list_are_asked_about_again() -> None:
    asked, length = counting()
    one, equal, growing = tuple(range(2)), tuple(range(2)), [1]
    assert (length(one), length(equal), length(growing)) == (2, 2, 1)
    growing.append(2)
    assert length(growing) == 2
    assert [length(x for x in "ab"), length(x for x in "abc")] == [2, 3]
    assert len(asked) == 6


def test_what_is_kept_is_bounded_and_an_id_is_never_taken_for_another() -> None:
    asked, length = counting()
    first = tuple(range(3))
    length(first)
    for n in range(3 * KEPT):
        assert length(tuple(range(n % 7))) == n % 7
    before = len(asked)
    assert length(first) == 3
    assert len(asked) == before + 1, "it was let go"


def test_of_equal_values_the_first_is_taken_and_kinds_are_not_mixed() -> None:
    first = the_same(("steps", 1.5))
    assert the_same(("steps", 1.5 + 0.0)) is first
    assert the_same(("steps", 2.5)) is not first
    assert the_same(7.0) == 7
    assert type(the_same(7)) is int


def test_a_figure_is_known_by_its_value() -> None:
    asked: list[float] = []

    @once_for_same
    def double(value: float) -> float:
        asked.append(value)
        return 2 * value

    assert [double(float("1.5")), double(float("1.5")), double(2.5)] == [3, 3, 5]
    assert asked == [1.5, 2.5]
