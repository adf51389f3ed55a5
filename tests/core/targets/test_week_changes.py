"""Targets of one week: each day is what its own changes make of it, and nobody is taken too low."""

from dataclasses import replace
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.targets.day_target import NutrientBand
from goodcrate.core.targets.eater import DayType, Eater
from goodcrate.core.targets.week_changes import TargetChange, changed, check_change

FAT = NutrientBand("fat_g", 60, 80)
WORK = DayType(uuid4(), "work", 2400, 120, weekdays=(0, 1, 2, 3, 4), bands=(FAT,))
REST = DayType(uuid4(), "rest", 2100, 120, weekdays=(5, 6), bands=(FAT,))
MAREN = Eater(id=uuid4(), name="Maren Quill", day_types=(WORK, REST))


def change(**fields: object) -> TargetChange:
    return TargetChange(str(uuid4()), MAREN.id, **fields)  # type: ignore[arg-type]


CHANGES = st.lists(
    st.builds(
        lambda day, kcal, fat: change(weekday=day, energy_kcal=float(kcal), bands={"fat_g": float(fat)} if fat else {}),
        st.one_of(st.none(), st.integers(0, 6)),
        st.integers(-300, 600),
        st.integers(0, 20),
    ),
    max_size=5,
)


@given(CHANGES)
def test_each_day_has_the_sum_of_what_is_said_of_it(changes: list[TargetChange]) -> None:
    week = changed(MAREN, changes)
    for day in range(7):
        own = MAREN.day_type_on(day)
        there = week.day_type_on(day)
        assert own is not None
        assert there is not None
        mine = [c for c in changes if c.weekday in (None, day)]
        assert there.energy_kcal == pytest.approx(own.energy_kcal + sum(c.energy_kcal for c in mine))
        fat = sum(c.bands.get("fat_g", 0) for c in mine)
        assert there.bands == (NutrientBand("fat_g", 60 + fat, 80 + fat),)
    assert changed(MAREN, []) is MAREN


def test_another_eaters_change_is_not_ours_and_a_diet_holds_all_week() -> None:
    theirs = TargetChange("x", uuid4(), None, 300)
    assert changed(MAREN, [theirs]) is MAREN
    assert changed(MAREN, [change(plants_only=True)]).exclusions.diet == "plant"


def test_a_kind_of_day_no_weekday_claims_stands_on_the_others() -> None:
    plain = replace(MAREN, day_types=(replace(WORK, weekdays=()),))
    week = changed(plain, [change(weekday=4, energy_kcal=300.0)])
    assert [week.day_type_on(day).energy_kcal for day in (3, 4)] == [2400, 2700]  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("said", "field"),
    [
        ({}, "energy_kcal"),
        ({"energy_kcal": -1500.0}, "energy_kcal"),
        ({"energy_kcal": 9000.0}, "energy_kcal"),
        ({"energy_kcal": float("nan")}, "energy_kcal"),
        ({"protein_g": 500.0}, "protein_g"),
        ({"bands": {"fibre_g": 5.0}}, "band"),
        ({"plants_only": True, "weekday": 2}, "plants_only"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(said: dict[str, object], field: str) -> None:
    check_change(MAREN, change(energy_kcal=300.0))
    with pytest.raises(InvalidInputs) as refused:
        check_change(MAREN, change(**said))
    assert field in [f.field for f in refused.value.faults]


def test_two_changes_together_do_not_go_too_low() -> None:
    first = change(energy_kcal=-1000.0)
    check_change(MAREN, first)
    with pytest.raises(InvalidInputs, match="clinician"):
        check_change(MAREN, change(energy_kcal=-200.0), [first])


def test_where_the_mean_counts_no_day_of_a_week_may_be_planned_too_low() -> None:
    roomy = replace(MAREN, day_room_pct=20.0)
    check_change(roomy, change(weekday=5, energy_kcal=-850.0))  # 1,250 kcal, and a fifth less is 1,000
    with pytest.raises(InvalidInputs, match="A single day could be planned with 99"):
        check_change(roomy, change(weekday=5, energy_kcal=-855.0))
    check_change(MAREN, change(weekday=5, energy_kcal=-855.0))
