"""The household's settings and its kitchen: kept as they are typed, refused where they cannot be."""

from dataclasses import replace

import pytest

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.recipes.equipment import EQUIPMENT_KINDS, Equipment
from goodcrate.core.recipes.steps import EQUIPMENT
from goodcrate.services import household, kitchen
from goodcrate.services.calling import Caller, StaleWrite


def test_settings_are_the_households_own(household_caller: Caller, demo: Caller) -> None:
    before = household.settings(household_caller)
    assert (before.currency_code, before.currency, before.convention) == ("XTS", "¤", "metric")
    typed = replace(before, name=" The lock house ", currency_code="ABC", currency_symbol="a", convention="australian")
    household.save_settings(household_caller, replace(typed, polyol_share=1.0))
    after = household.settings(household_caller)
    assert (after.name, after.currency, after.convention, after.polyol_share) == (
        "The lock house",
        "a",
        "australian",
        1,
    )
    assert household.settings(demo).convention == "metric"
    with pytest.raises(StaleWrite):
        household.save_settings(household_caller, replace(typed, name="Elsewhere"))


def test_settings_that_cannot_be_are_named(household_caller: Caller) -> None:
    typed = household.Settings(" ", "ab1", "", "roman", 2.0)
    with pytest.raises(InvalidInputs) as caught:
        household.save_settings(household_caller, typed)
    assert {f.field for f in caught.value.faults} == {
        "name",
        "currency_code",
        "currency_symbol",
        "convention",
        "polyol_share",
    }


def test_what_a_kitchen_cooks_with_is_counted_or_not_said(household_caller: Caller) -> None:
    assert kitchen.who_and_what(household_caller).equipment == Equipment()
    for counts in ({"cooks": 2, "burners": 3, "microwaves": 0}, {"cooks": 1, "ovens": 1, "oven_shelves": 2}):
        for _ in range(2):  # sent twice
            kitchen.save_equipment(household_caller, Equipment(counts))
        there = kitchen.who_and_what(household_caller).equipment
        assert there.counts == counts
    assert there.for_step("oven") == 1
    assert there.for_step("hob") is None
    assert there.for_step("") is None


def test_equipment_no_home_has_is_refused() -> None:
    with pytest.raises(InvalidInputs) as caught:
        Equipment({"cooks": 0, "burners": 99, "anvils": 1})
    assert [f.field for f in caught.value.faults] == ["cooks", "burners", "anvils"]
    known = {kind.step for kind in EQUIPMENT_KINDS.values()} - {""}
    assert known <= EQUIPMENT.keys()


@pytest.fixture(name="household_caller")
def caller(household: Caller) -> Caller:
    return household
