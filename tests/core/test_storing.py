"""Where boxes wait between cooking and eating: fridge, freezer, cupboard, how full those get, what thaws when."""

from dataclasses import replace
from datetime import date, timedelta

import pytest

from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.recipes.component import StorageChoice
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.week.storing import (
    CAUTIOUS,
    USUAL,
    DishKeeping,
    Stay,
    keeping_of,
    keeps_until,
    loads,
    stay_of,
    thawing,
)
from goodcrate.formats.reference import keep_groups
from tests.core.dishes import component, turkey_pot

SUNDAY = date(2026, 11, 22)
GROUP = KeepGroup(
    "stew", 3, 4, 3, "yes", "overnight in the fridge", reheat_c=74, cool_rule="", why="", source="somebody"
)
STEW = DishKeeping(4, True, "turkey", GROUP)
SALAD = DishKeeping(2, False, "dressing", GROUP)
BISCUIT = DishKeeping(365, True, "flour", GROUP, keeps_dry=True)


def stay(dish: DishKeeping, days: int, *, frozen: bool = False) -> Stay:
    return stay_of(f"{dish.decided_by}{days}", dish, SUNDAY, SUNDAY + timedelta(days=days), is_frozen=frozen)


@pytest.mark.parametrize(
    ("dish", "days", "frozen", "place"),
    [
        (STEW, 4, False, "fridge"),
        (STEW, 5, False, "freezer"),
        (STEW, 2, True, "freezer"),
        (SALAD, 2, False, "fridge"),
        (SALAD, 3, False, "past"),
        (SALAD, 1, True, "fridge"),  # it was planned for the freezer and does not freeze
        (BISCUIT, 6, False, "cupboard"),
    ],
)
def test_a_box_waits_where_its_days_allow(dish: DishKeeping, days: int, frozen: bool, place: str) -> None:
    assert stay(dish, days, frozen=frozen).place == place


def test_a_frozen_box_thaws_the_evening_before_and_is_in_the_fridge_then() -> None:
    box = stay(STEW, 6)
    friday = SUNDAY + timedelta(days=5)
    assert box.thaw_on == friday
    where = [
        (box.is_in_freezer(SUNDAY + timedelta(days=n)), box.is_in_fridge(SUNDAY + timedelta(days=n))) for n in range(7)
    ]
    assert where == [(True, False)] * 5 + [(False, True), (False, False)]
    assert thawing([box, stay(STEW, 2), stay(SALAD, 1)]) == {friday: (box,)}


def test_every_box_is_counted_in_one_place_until_it_is_eaten() -> None:
    stays = [stay(STEW, n) for n in range(8)] + [stay(SALAD, 1), stay(BISCUIT, 3)]
    evenings = [SUNDAY + timedelta(days=n) for n in range(8)]
    full = loads(stays, evenings)
    assert [(load.fridge, load.freezer) for load in full] == [
        (5, 3),
        (3, 3),
        (2, 3),
        (1, 3),
        (1, 2),
        (1, 1),
        (1, 0),
        (0, 0),
    ]


def test_the_shortest_lived_component_decides_and_all_must_freeze() -> None:
    pot = turkey_pot()
    usual, cautious = (keeping_of(pot, keep_groups(), rule) for rule in (USUAL, CAUTIOUS))
    assert usual is not None
    assert cautious is not None
    assert (usual.fridge_days, usual.freezes) == (4, True)
    assert "Turkey" in usual.decided_by
    assert cautious.fridge_days == 2
    assert "Food Standards" in usual.group.source
    crisp = replace(component("leaf", "rocket_raw 80"), storage=StorageChoice(freezable=False))
    with_leaves = keeping_of(replace(pot, components=(*pot.components, crisp)), keep_groups(), USUAL)
    assert with_leaves is not None
    assert not with_leaves.freezes
    assert keeping_of(Recipe("nothing", "Nothing", 1, ()), keep_groups(), USUAL) is None


def test_the_last_day_by_guidance_counts_months_only_for_what_freezes() -> None:
    stew = keep_groups()["soup_stew"]
    salad = replace(stew, freezer_months=None)
    cooked = date(2026, 11, 22)
    assert keeps_until(stew, cooked, 3, is_frozen=False) == date(2026, 11, 25)
    assert stew.freezer_months is not None
    assert keeps_until(stew, cooked, 3, is_frozen=True) == cooked + timedelta(days=30 * stew.freezer_months)
    assert keeps_until(salad, cooked, 2, is_frozen=True) == date(2026, 11, 24)  # the freezer gives it no more days
