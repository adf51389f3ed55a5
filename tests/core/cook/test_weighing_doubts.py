"""Which weights are asked about before they count."""

from dataclasses import replace

import pytest

from goodcrate.core.cook.weighing_doubts import weighing_doubt
from goodcrate.formats.reference import reference_foods

FOODS = reference_foods()


@pytest.mark.parametrize(
    ("food", "planned", "net", "instead"),
    [
        ("rice_white_dry", 300, 840, 300),  # 2.8 times: weighed cooked
        ("rice_white_dry", 300, 800, 800 / 2.8),
        ("pasta_white_dry", 500, 1200, 1200 / 2.3),
        ("mushroom_raw", 500, 300, 500),  # 0.6 times: weighed fried
        ("rice_white_dry", 300, 500, None),  # far, and no cooked weight
        ("olive_oil", 30, 60, None),
    ],
)
def test_far_from_plan_is_asked_about(food: str, planned: float, net: float, instead: float | None) -> None:
    doubt = weighing_doubt(FOODS[food], planned, net)
    assert doubt is not None
    assert (doubt.instead_g is None) == (instead is None)
    assert instead is None or doubt.instead_g == pytest.approx(instead)
    assert f"{net:,g} g" in doubt.words


@pytest.mark.parametrize(
    ("food", "planned", "net"),
    [("rice_white_dry", 300, 399), ("rice_white_dry", 300, 201), ("salt", 8, 17), ("caraway_seed", 5, 0)],
)
def test_near_enough_counts_at_once(food: str, planned: float, net: float) -> None:
    assert weighing_doubt(FOODS[food], planned, net) is None


def test_a_third_is_the_line_on_both_sides_and_a_yield_near_one_is_no_slip() -> None:
    millet = FOODS["millet_dry"]
    assert weighing_doubt(millet, 300, 401) is not None
    assert weighing_doubt(millet, 300, 199) is not None
    doubt = weighing_doubt(replace(millet, cooked_yield=0.9), 300, 180)
    assert doubt is not None
    assert doubt.instead_g is None
