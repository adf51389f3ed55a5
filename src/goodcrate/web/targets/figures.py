"""How a target's figures are read: with or without their unit, thousands where only they can be meant."""

from goodcrate.core.ground.amounts import read_number
from goodcrate.web.fields import Reading, reads

_MEANT = {
    "kcal": (100.0, None), "mg": (20.0, None), "g": (None, 999.0), "%": (None, 999.0), "kg": (None, 999.0),
    "cm": (None, 999.0), "years": (None, 999.0), "min": (None, 999.0), "": (None, 99.0),
}  # fmt: skip
"""What a figure can be in its unit: a day’s “2,450” kcal is thousands, nobody is given two and a half."""


def read_figure(typed: str, name: str, unit: str) -> float:
    """A figure in a unit.

    Raises:
        InvalidInput: when it is none.
    """
    smallest, largest = _MEANT.get(unit, (None, None))
    bare = typed.strip().removesuffix(unit).strip().replace("−", "-")
    return read_number(bare, name, f"Give a number in {unit}.", smallest=smallest, largest=largest)


def figure(unit: str) -> Reading:
    """A field that holds such a figure."""
    return reads(lambda typed, name: read_figure(typed, name, unit))
