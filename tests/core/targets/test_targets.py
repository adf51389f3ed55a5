"""Targets: bands, floors, judgements and cautions."""

import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.targets.cautions import low_energy_caution
from goodcrate.core.targets.day_target import (
    DayTarget,
    Standing,
    WeekMean,
    energy_band,
    judge_energy,
    judge_protein,
    slot_share_kcal,
)

WORK = DayTarget(2450, 150)


@pytest.mark.parametrize(
    ("total", "standing", "by"),
    [
        (2450, Standing.INSIDE, 0),
        (2432, Standing.INSIDE, -18),
        (2377, Standing.INSIDE, -73),
        (2376, Standing.SHORT, 1),
        (2281, Standing.SHORT, 96),
        (2524, Standing.INSIDE, 74),
        (2564, Standing.OVER, 40),
    ],
)
def test_energy_against_its_band(total: float, standing: Standing, by: float) -> None:
    judged = judge_energy(total, WORK)
    assert (judged.standing, judged.by) == (standing, by)


@pytest.mark.parametrize(("total", "standing", "by"), [(154, "inside", 4), (149.6, "inside", 0), (146, "short", 4)])
def test_protein_against_its_floor(total: float, standing: str, by: float) -> None:
    judged = judge_protein(total, WORK)
    assert (judged.standing, judged.by) == (standing, by)


def test_every_impossible_figure_of_a_target_is_named() -> None:
    with pytest.raises(InvalidInputs) as caught:
        DayTarget(10_000, -1, 60)
    assert [f.field for f in caught.value.faults] == ["energy_kcal", "protein_floor_g", "energy_band_pct"]
    with pytest.raises(InvalidInputs, match="alone is 1,200 kcal"):
        DayTarget(1100, 300)


@pytest.mark.parametrize(("kcal", "confirm"), [(999, True), (1000, False), (1199, False), (1499, False)])
def test_low_targets_are_cautioned_with_a_source(kcal: float, confirm: bool) -> None:
    caution = low_energy_caution(kcal)
    assert caution is not None
    assert caution.needs_confirmation is confirm
    assert "clinician" in caution.source
    assert "dietitian" in caution.text


def test_ordinary_targets_are_not() -> None:
    assert low_energy_caution(1500) is None


def test_the_weeks_mean_stands_beside_the_mean_of_its_targets() -> None:
    mean = WeekMean.of([(2400, 150, 2450), (2200, 120, 2150), (2120, 120, 2150)])
    assert (mean.days, mean.kcal, mean.protein_g, mean.target_kcal) == (3, 2240, 130, 2250)
    assert mean.by_pct == pytest.approx(-0.444, abs=0.001)


def test_a_band_and_a_slots_share() -> None:
    assert energy_band(2450, 3) == pytest.approx((2376.5, 2523.5))
    assert (WORK.energy_low_kcal, WORK.energy_high_kcal) == energy_band(2450, 3)
    assert slot_share_kcal(2000, 35) == 700
