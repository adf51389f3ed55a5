"""What is left in the house: exact to the gram whatever was weighed in, in whatever order it is looked at."""

from datetime import date, datetime, timedelta
from itertools import permutations

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.shop.pantry import Kept, Taking, after_taking

NOON = datetime(2026, 11, 22, 12)
DAY = date(2026, 11, 20)


def thing(key: str, grams: float, **more: object) -> Kept:
    return Kept(key, "quark", grams, **{"counted_at": NOON, "since": DAY, **more})  # type: ignore[arg-type]


def taking(grams: float, hours: float = 1, food: str = "quark") -> Taking:
    return Taking(food, grams, NOON + timedelta(hours=hours))


def left(kept: list[Kept], *takings: Taking) -> dict[str, float]:
    return {x.key: x.grams for x in after_taking(kept, takings)}


def test_what_is_weighed_in_is_not_there_any_more() -> None:
    assert left([thing("tub", 500)], taking(120), taking(80, 2)) == {"tub": 300}
    assert left([thing("tub", 500)], taking(120, food="cabbage")) == {"tub": 500}


def test_what_was_weighed_before_it_was_counted_does_not_count() -> None:
    assert left([thing("tub", 500)], taking(120, -1), taking(80, 0)) == {"tub": 420}


def test_nothing_is_less_than_nothing() -> None:
    assert left([thing("tub", 100)], taking(300)) == {"tub": 0}


def test_first_what_is_to_be_used_first_then_what_is_open_then_what_keeps_shortest() -> None:
    first = thing("first", 50, is_first=True, is_open=False)
    opened = thing("open", 50)
    soon = thing("soon", 50, is_open=False, until=DAY + timedelta(days=3))
    late = thing("late", 50, is_open=False, until=DAY + timedelta(days=9))
    for order in permutations([first, opened, soon, late]):
        assert left(list(order), taking(160)) == {"first": 0, "open": 0, "soon": 0, "late": 40}


def test_a_closed_pack_is_open_from_the_day_something_is_taken() -> None:
    (pack,) = after_taking([thing("pack", 500, is_open=False)], [taking(100, 48)])
    assert (pack.is_open, pack.since) == (True, date(2026, 11, 24))
    (still,) = after_taking([thing("pack", 500, is_open=False)], [])
    assert (still.is_open, still.since) == (False, DAY)


@given(st.lists(st.integers(1, 5000), min_size=1, max_size=6), st.lists(st.integers(1, 5000), max_size=8))
def test_what_is_taken_and_what_is_left_are_what_was_there(stock: list[int], wanted: list[int]) -> None:
    kept = [thing(str(n), grams / 10) for n, grams in enumerate(stock)]
    after = left(kept, *(taking(grams / 10, n + 1) for n, grams in enumerate(wanted)))
    assert abs(sum(after.values()) - max(0.0, (sum(stock) - sum(wanted)) / 10)) < 0.05
    assert all(0 <= after[x.key] <= x.grams for x in kept)


def test_what_is_taken_out_of_a_batch_again_comes_back() -> None:
    assert left([thing("tub", 500)], taking(400), taking(-400, 2), taking(120, 3)) == {"tub": 380}
    assert left([thing("tub", 500)], taking(400, -1), taking(20, 1)) == {"tub": 480}, "a correction counts by itself"
