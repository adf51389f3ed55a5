"""How a target's figures are read: with or without their unit, thousands where only they can be meant."""

import re

from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import KG_PER_LB, WRITING, feet_and_inches
from goodcrate.web.fields import Reading, reads

_MEANT = {
    "kcal": (100.0, None), "mg": (20.0, None), "g": (None, 999.0), "%": (None, 999.0), "kg": (None, 999.0),
    "lb": (None, 1999.0), "cm": (None, 999.0), "years": (None, 999.0), "min": (None, 999.0), "": (None, 99.0),
}  # fmt: skip
"""What a figure can be in its unit: a day’s “2,450” kcal is thousands, nobody is given two and a half."""


def read_figure(typed: str, name: str, unit: str) -> float:
    """A figure in a unit.

    Raises:
        InvalidInput: when it is none.
    """
    smallest, largest = _MEANT.get(unit, (None, None))
    bare = typed.strip().removesuffix(unit).strip().replace("−", "-")
    return read_number(bare, name, say("Give a number in {unit}.", unit=unit), smallest=smallest, largest=largest)


def read_body_weight(typed: str, name: str) -> float:
    """A body weight in kg: in the unit behind it, else in the household's.

    Raises:
        InvalidInput: when it is none.
    """
    found = re.fullmatch(r"(.*?)\s*(kg|lbs?)?\.?", typed.strip(), re.I | re.S)
    bare, unit = (found[1], (found[2] or "").lower()) if found else (typed, "")
    unit = unit[:2] or WRITING.get().body_weight
    kg = read_figure(bare, name, "kg") if unit == "kg" else read_figure(bare, name, "lb") * KG_PER_LB
    return round(kg, 3)


def read_body_height(typed: str, name: str) -> float:
    """A height in cm: typed in cm, or in feet and inches; a bare number is in what the household uses.

    Raises:
        InvalidInput: when it is none.
    """
    in_feet = feet_and_inches(typed)
    if in_feet is not None:
        return round(in_feet, 2)
    if WRITING.get().body_height == "ft" and not typed.strip().lower().endswith("cm"):
        raise InvalidInput(
            name, say("“{typed}” is no height in feet and inches.", typed=typed[:24]), say("Such as 5′ 8″, or 172 cm.")
        )
    return read_figure(typed, name, "cm")


_OF_A_BODY = {"weight_kg": read_body_weight, "height_cm": read_body_height}


def body_figure(name: str, unit: str) -> Reading:
    """A field of what is said of a person: body weight and height as the household measures them."""
    return reads(_OF_A_BODY[name]) if name in _OF_A_BODY else figure(unit)


def figure(unit: str) -> Reading:
    """A field that holds such a figure."""
    return reads(lambda typed, name: read_figure(typed, name, unit))
