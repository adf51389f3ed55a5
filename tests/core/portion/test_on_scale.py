"""What a scale says is believed as far as a kitchen goes, and when a box is right."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.portion.on_scale import LOST, ScaleReading, is_right, tolerance_g


@pytest.mark.parametrize("grams", [math.nan, math.inf, -math.inf, 1e9, -1e9, 40_000.1])
def test_no_kitchen_scale_shows_that(grams: float) -> None:
    with pytest.raises(InvalidInput):
        ScaleReading(grams)
    with pytest.raises(InvalidInput):
        ScaleReading(10.0, tare_g=grams)


def test_the_band_is_three_per_cent_and_a_gram_at_least() -> None:
    assert [tolerance_g(g) for g in (5, 33, 34, 249, 400)] == [1, 1, 1, 7, 12]


@given(st.floats(-400, 900), st.floats(1, 700), st.booleans())
def test_a_box_is_right_when_the_scale_stands_still_in_its_band(grams: float, target: float, stands: bool) -> None:
    inside = grams > 0 and abs(grams - target) <= max(1, math.floor(0.03 * target))
    assert is_right(ScaleReading(grams, stands), target) == (stands and inside)
    assert not is_right(ScaleReading(None, stands, state=LOST), target)
