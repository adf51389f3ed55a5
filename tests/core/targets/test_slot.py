"""What suits a slot: how it is eaten, where it is taken, and the kind of meal."""

from datetime import time
from uuid import uuid4

import pytest

from goodcrate.core.targets.slot import REHEAT_MIN, Slot

COLD = {"cold", "travels"}


def slot(name: str, **conditions: object) -> Slot:
    return Slot(uuid4(), uuid4(), name, time(12, 30), **conditions)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("name", "conditions", "tags", "suits"),
    [
        ("dinner", {}, {"hot"}, True),
        ("dinner", {}, COLD, True),
        ("dinner", {}, {"hot", "breakfast"}, False),
        ("dinner", {}, {"cold", "snack"}, False),
        ("dinner", {}, {"hot", "sauce"}, False),
        ("Second breakfast", {}, {"cold", "breakfast"}, True),
        ("Second breakfast", {}, {"hot"}, False),
        ("evening snack", {}, {"cold", "snack"}, True),
        ("evening snack", {}, {"cold", "snack", "sauce"}, False),
        ("evening snack", {}, {"cold", "breakfast"}, False),
        ("breakfast", {}, {"breakfast", "snack"}, True),
        ("lunch", {"eaten_cold": True}, {"hot"}, False),
        ("lunch", {"eaten_cold": True}, {"cold"}, True),
        ("lunch", {"travels": True}, {"cold"}, False),
        ("lunch", {"travels": True}, {"hot", "travels"}, True),
        ("lunch", {"eaten_cold": True, "travels": True}, COLD, True),
        ("lunch", {"no_reheat": True}, {"hot", "travels"}, False),
        ("lunch", {"within_min": REHEAT_MIN - 1}, {"hot"}, False),
        ("lunch", {"within_min": REHEAT_MIN}, {"hot"}, True),
    ],
)
def test_a_recipe_suits_a_slot_by_its_tags(
    name: str, conditions: dict[str, object], tags: set[str], suits: bool
) -> None:
    assert slot(name, **conditions).suits(frozenset(tags)) is suits
