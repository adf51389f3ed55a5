"""A recipe as the planner serves it: from what size to what size it goes."""

from dataclasses import replace

import pytest

from goodcrate.core.recipes.recipe import serving_of
from goodcrate.core.recipes.vessels import Vessel
from goodcrate.core.week.dish import UNKNOWN_HANDS_ON_MIN, dish_of, size_limits_g
from goodcrate.core.week.storing import CAUTIOUS, USUAL
from goodcrate.formats.reference import keep_groups
from tests.core.dishes import turkey_pot

JAR = Vessel("jar", "jar", "box", 250)
BOX = Vessel("box", "box", "box", 750)


def test_sizes_end_at_the_largest_box() -> None:
    assert size_limits_g(400, ()) == (200, 800)
    low, high = size_limits_g(400, (JAR, BOX)) or (0, 0)
    assert low == 200
    assert high == pytest.approx(750 * 0.9 * 0.9)
    assert size_limits_g(500, (JAR,)) is None


def test_a_dish_knows_what_it_takes() -> None:
    recipe = turkey_pot()
    dish = dish_of(recipe, keep_groups(), USUAL, 0.5, ())
    assert dish is not None
    assert (dish.batches, dish.hands_on_min, dish.cost_per_g) == (2, 23, None)
    assert dish.kcal_per_g == pytest.approx(serving_of(recipe).tally.amount("energy_kcal").value / dish.serving_g)
    cautious = dish_of(recipe, keep_groups(), CAUTIOUS, 0.5, ())
    assert cautious is not None
    assert cautious.keeps_days < dish.keeps_days == cautious.keeps_usually
    bare = dish_of(replace(recipe, steps=()), keep_groups(), USUAL, 0.5, ())
    assert bare is not None
    assert bare.hands_on_min == UNKNOWN_HANDS_ON_MIN
    assert dish_of(replace(recipe, components=()), keep_groups(), USUAL, 0.5, ()) is None
