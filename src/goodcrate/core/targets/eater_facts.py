"""What is said of a person in a word or a number each."""

from dataclasses import dataclass, fields

from goodcrate.core.ground.document import Document
from goodcrate.core.targets.body import Blocks, Body


@dataclass(frozen=True, slots=True, kw_only=True)
class EaterFacts:
    """What is said of a person in a word or a number each: carried by name wherever one is typed, stored or judged.

    With `day_room_pct` the bands hold for the mean of the week, and a single day may be so many % off them.
    """

    about: str = ""
    no_pork: bool = False
    dislikes: str = ""
    diet: str = ""
    sex: str = ""
    age_years: float | None = None
    height_cm: float | None = None
    weight_kg: float | None = None
    activity: str = "light"
    medical_notes: str = ""
    meal_block_kcal: float | None = None
    snack_block_kcal: float | None = None
    day_room_pct: float | None = None

    @property
    def body(self) -> Body | None:
        """The body, when all of it is said.

        Raises:
            InvalidInputs: naming every figure outside what the equation was made from.
        """
        if not self.sex or self.age_years is None or self.height_cm is None or self.weight_kg is None:
            return None
        return Body(self.sex, self.age_years, self.height_cm, self.weight_kg)

    @property
    def blocks(self) -> Blocks | None:
        """The sizes of this eater's blocks, when they eat in blocks.

        Raises:
            InvalidInput: for sizes that cannot be.
        """
        if self.meal_block_kcal is None or self.snack_block_kcal is None:
            return None
        return Blocks(self.meal_block_kcal, self.snack_block_kcal)


EATER_FACTS = tuple(f.name for f in fields(EaterFacts))


EATER_UNITS = {
    "age_years": "years",
    "height_cm": "cm",
    "weight_kg": "kg",
    "meal_block_kcal": "kcal",
    "snack_block_kcal": "kcal",
    "day_room_pct": "%",
}
"""The facts that are numbers, with their units."""
EATER_WORDS = {"about": 160, "dislikes": 240, "diet": 12, "sex": 8, "activity": 12, "medical_notes": 1000}
"""The facts that are words, with the letters there is room for."""


def facts_of(eater: object) -> Document:
    """The facts of an eater, whatever form they have: a row, a typed one, a value."""
    return {name: getattr(eater, name) for name in EATER_FACTS}
