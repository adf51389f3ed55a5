"""Reference intakes: by sex and age, limits only where foods can be held against them, unknown is not low."""

import pytest

from goodcrate.core.review.intakes import (
    ENOUGH,
    LOW,
    NEAR,
    NOT_KNOWN,
    NOTHING_SAID,
    OVER,
    Standing,
    asked_of,
    standings,
)
from goodcrate.formats.reference import intake_table

TABLE = intake_table()


@pytest.mark.parametrize(
    ("nutrient", "sex", "age", "wanted", "limits"),
    [
        ("iron_mg", "female", 34, 18, [45]),
        ("iron_mg", "female", 51, 8, [45]),
        ("iron_mg", "male", 50.9, 8, [45]),
        ("zinc_mg", "female", 30, 8, [25, 40]),
        ("magnesium_mg", "male", 30.5, 400, []),
        ("folate_ug", "female", 30, 400, []),
        ("vitamin_a_ug_rae", "female", 30, 700, []),
        ("sodium_mg", "male", 40, 1500, [2300]),
    ],
)
def test_what_is_asked_is_by_sex_and_age(
    nutrient: str, sex: str, age: float, wanted: float, limits: list[float]
) -> None:
    asked = asked_of(TABLE, nutrient, sex, age)
    assert asked.wanted is not None
    assert (asked.wanted.value, [row.value for row in asked.limits]) == (wanted, limits)
    assert not asked.is_of_any
    assert asked.wanted.source


def test_of_whom_nothing_is_known_the_most_is_asked_and_it_is_said() -> None:
    asked = asked_of(TABLE, "iron_mg", "", None)
    assert asked.is_of_any
    assert asked.wanted is not None
    assert asked.wanted.value == 18
    child = asked_of(TABLE, "iron_mg", "male", 12)
    assert (child.wanted, child.limits, child.is_of_any) == (None, (), False), "the table is of adults"


def test_unknown_is_not_low_and_a_limit_comes_first() -> None:
    def says(known: float, unknown: float, nutrient: str = "zinc_mg") -> str:
        return Standing(nutrient, known, unknown, asked_of(TABLE, nutrient, "female", 30)).says

    assert [says(7.9, 0.1), says(7.9, 0.2), says(8, 0.5)] == [LOW, NOT_KNOWN, ENOUGH]
    assert [says(22.4, 0), says(22.5, 0), says(25, 0), says(25.1, 0)] == [ENOUGH, NEAR, NEAR, OVER]
    assert says(5000, 0, "magnesium_mg") == ENOUGH
    assert says(30, 0, "copper_mg") == NOTHING_SAID
    told = {s.nutrient: s for s in standings(TABLE, [("omega3_g", 9.0, 0.0), ("ala_g", 0.5, 0.0)], "female", 30)}
    assert told["omega3_g"].known == 0.5, "the figure is of alpha-linolenic acid only"
    assert told["omega3_g"].says == LOW
