"""Targets: bands, floors, judgements and cautions."""

import pytest

from goodcrate.core.cautions import low_energy_caution
from goodcrate.core.errors import InvalidInputs
from goodcrate.core.targets import DayTarget, Standing, judge_energy, judge_protein

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
