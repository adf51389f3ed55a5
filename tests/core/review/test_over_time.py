"""Weeks beside each other: what is not known has no point; an axis holds all that is drawn on it."""

from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.review.over_time import DAYS_IN_BAND, THROWN_G, EaterWeek, WeekSummary, axis_of, lines_of

MONDAY = date(2026, 11, 23)


def week(n: int, days: int, fibre: tuple[float, float], thrown: float | None = None) -> WeekSummary:
    eater = EaterWeek("Maren", days, 4, 2400, {"fibre_g": fibre} if days else {})
    return WeekSummary(MONDAY + timedelta(days=7 * n), {"m": eater}, {} if thrown is None else {THROWN_G: thrown})


def test_a_line_has_the_weeks_that_know_its_figure() -> None:
    weeks = [week(2, 7, (31, 0.1), 40), week(0, 5, (30, 0)), week(1, 0, (0, 0), 10), week(3, 7, (0, 1))]
    [fibre] = lines_of(weeks, "fibre_g")
    assert [(p.first_day, p.value, p.is_at_least) for p in fibre.points] == [
        (MONDAY, 30, False),
        (MONDAY + timedelta(days=14), 31, True),
    ]
    [band] = lines_of(weeks, DAYS_IN_BAND)
    assert [p.value for p in band.points] == [4 / 5, 4 / 7, 4 / 7]
    [thrown] = lines_of(weeks, THROWN_G)
    assert [(p.value, thrown.name) for p in thrown.points] == [(10, ""), (40, "")]
    assert lines_of([week(0, 7, (30, 0))], THROWN_G) == []
    assert lines_of([], "fibre_g") == []


@given(st.lists(st.floats(0, 1e5), min_size=1, max_size=30))
def test_an_axis_holds_every_value(values: list[float]) -> None:
    marks = axis_of(values)
    assert marks[0] <= min(values) + 1e-6
    assert marks[-1] >= max(values) - 1e-6
    assert 2 <= len(marks) <= 9
    assert marks == sorted(set(marks))


def test_axes_by_hand() -> None:
    assert axis_of([0, 90]) == [0, 25, 50, 75, 100]
    assert axis_of([2120, 1815]) == [1600, 1800, 2000, 2200]
    assert axis_of([]) == []
