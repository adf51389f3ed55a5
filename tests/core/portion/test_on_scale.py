"""What a scale says is believed as far as a kitchen goes, and when a box is right."""

import math

import pytest

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.portion.on_scale import ScaleReading, tolerance_g


@pytest.mark.parametrize("grams", [math.nan, math.inf, -math.inf, 1e9, -1e9, 40_000.1])
def test_no_kitchen_scale_shows_that(grams: float) -> None:
    with pytest.raises(InvalidInput):
        ScaleReading(grams)
    with pytest.raises(InvalidInput):
        ScaleReading(10.0, tare_g=grams)


def test_the_band_is_three_per_cent_and_a_gram_at_least() -> None:
    assert [tolerance_g(g) for g in (5, 33, 34, 249, 400)] == [1, 1, 1, 7, 12]
