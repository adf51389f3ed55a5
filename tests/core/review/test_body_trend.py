"""The trend of a body weight by hand, its slope by an independent formula, and a need only when it can be known."""

from datetime import date, timedelta
from math import exp, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.review.body_trend import Slope, Weighing, need_by, predicted_kg_a_week, slope_of, trend_of

DAY = date(2026, 11, 1)


def weighed(*kgs: float, every: int = 1) -> list[Weighing]:
    return [Weighing(DAY + timedelta(days=every * n), kg) for n, kg in enumerate(kgs)]


def test_each_weighing_moves_the_trend_by_its_share() -> None:
    first, second, third = trend_of([*weighed(70, 71), Weighing(DAY + timedelta(days=8), 69)])
    assert (first.trend_kg, first.band_kg) == (70, 2)
    a_day, a_week = 1 - exp(-1 / 7), 1 - exp(-1)
    assert second.trend_kg == pytest.approx(70 + a_day)
    assert second.band_kg == pytest.approx(2 * sqrt(a_day / (2 - a_day)))
    assert third.trend_kg == pytest.approx(second.trend_kg + a_week * (69 - second.trend_kg))
    assert trend_of([]) == []


def test_the_band_follows_the_own_spread_from_five_weighings_on() -> None:
    steady = trend_of(weighed(*[70.0] * 6))
    share = 1 - exp(-1 / 7)
    assert steady[4].band_kg == pytest.approx(2 * sqrt(share / (2 - share)))
    assert steady[5].band_kg == 0, "five steps of nothing are no spread"


@given(st.floats(50, 120), st.floats(-0.3, 0.3))
def test_the_slope_of_a_straight_line_is_its_own(start: float, a_day: float) -> None:
    slope = slope_of(weighed(*[start + a_day * n for n in range(40)]))
    assert slope is not None
    assert slope.kg_a_week == pytest.approx(7 * a_day, abs=1e-6)
    assert (slope.days, slope.weighings) == (28, 29), "of the last four weeks"
    assert slope.standard_error == pytest.approx(0, abs=1e-6)


def test_the_slope_by_the_covariance() -> None:
    kgs = [70.2, 69.8, 70.5, 69.9, 69.4]
    slope = slope_of(weighed(*kgs))
    assert slope is not None
    days = range(5)
    sxy = sum(x * y for x, y in zip(days, kgs, strict=True)) - 5 * 2 * (sum(kgs) / 5)
    assert slope.kg_a_week == pytest.approx(7 * sxy / 10)
    assert slope.standard_error > 0
    assert slope_of(weighed(70, 71)) is None
    assert slope_of([]) is None


def test_a_need_is_known_after_four_weeks_and_eight_weighings() -> None:
    """2,300 kcal eaten and 0.2 kg a week lost: 2,300 + 0.2 × 1,100 = 2,520 kcal."""
    need = need_by(Slope(-0.2, 0.05, 8, 28), 2300)
    assert need is not None
    assert need.kcal == pytest.approx(2520)
    assert need.standard_error == pytest.approx(55)
    assert need_by(Slope(-0.2, 0.05, 8, 27), 2300) is None
    assert need_by(Slope(-0.2, 0.05, 7, 28), 2300) is None
    assert need_by(Slope(-0.2, 0.05, 8, 28), None) is None
    assert need_by(None, 2300) is None
    assert predicted_kg_a_week(2300, 2520) == pytest.approx(-0.2)
