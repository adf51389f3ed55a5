"""What an eater's days brought of a nutrient, held against reference intakes and limits: in words, without a score.

Reference intakes cover the needs of nearly all healthy people of a sex and age; a mean below one is no diagnosis. Some
limits count supplements or one form only (the table's notes): those are never held against what foods hold.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

COVERS = ("RDA", "AI")
"""Kinds of a figure that is asked for: recommended, or adequate."""
LIMITS = ("UL", "CDRR")
"""Kinds of a figure that is not to be passed: an upper limit, or the sodium above which to cut down."""
NOT_OF_FOOD = frozenset({"magnesium_mg", "vitamin_a_ug_rae", "folate_ug"})
"""Their limits count supplements, retinol, or added folic acid only: foods do not say how much of that they hold."""
HELD_AGAINST = {"omega3_g": "ala_g"}
"""Where a figure is of one form, the nutrient it is held against: the table's omega-3 is alpha-linolenic acid only."""
NEAR_SHARE = 0.9
"""From so much of a limit on it is said to be near: our line."""
TOO_UNKNOWN = 0.2
"""From such a share of the weight with unknown content on, what is known is not called low: our line."""

LOW, ENOUGH, NOT_KNOWN, NEAR, OVER, NOTHING_SAID = "low", "enough", "not_known", "near", "over", "nothing_said"


@dataclass(frozen=True, slots=True)
class Intake:
    """A row of the table: so much of a nutrient a day, in its unit, for a sex from one age to another, and by whom."""

    nutrient: str
    sex: str
    age_from: int
    age_to: int
    kind: str
    value: float
    unit: str
    source: str
    note: str = ""

    def is_for(self, sex: str, age: float) -> bool:
        """Whether it is for somebody of this sex and age in years."""
        return self.sex == sex and self.age_from <= age < self.age_to + 1


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked of an eater of a nutrient a day, and the limits that hold for food, the lowest first. Where sex or
    age is not known, the highest that is asked of any adult and every limit: `is_of_any`."""

    wanted: Intake | None
    limits: tuple[Intake, ...]
    is_of_any: bool = False


def asked_of(table: Iterable[Intake], nutrient: str, sex: str, age: float | None) -> Asked:
    """What is asked of an eater of a nutrient."""
    rows = [row for row in table if row.nutrient == nutrient]
    own = [row for row in rows if age is not None and row.is_for(sex, age)]
    of_any = not own and not (sex and age is not None)
    mine = rows if of_any else own
    wanted = max((r for r in mine if r.kind in COVERS), key=lambda r: r.value, default=None)
    lowest: dict[str, Intake] = {}
    for row in sorted((r for r in mine if r.kind in LIMITS), key=lambda r: r.value):
        lowest.setdefault(row.source, row)
    limits = () if nutrient in NOT_OF_FOOD else tuple(lowest.values())
    return Asked(wanted, limits, is_of_any=of_any)


@dataclass(frozen=True, slots=True)
class Standing:
    """How the mean of some days stands: `known` of it a day in its unit, and the share of the weight eaten whose
    content is not known. With such a share the known part is “at least” so much."""

    nutrient: str
    known: float
    unknown_share: float
    asked: Asked

    @property
    def is_at_least(self) -> bool:
        """Whether there may be more than is known."""
        return self.unknown_share > 0

    @property
    def limit(self) -> Intake | None:
        """The limit it is over or near, the lowest of them."""
        return next((row for row in self.asked.limits if self.known >= NEAR_SHARE * row.value), None)

    @property
    def says(self) -> str:
        """Over or near a limit first; else enough, low, or not known: below what is asked with too much unknown."""
        if self.limit is not None:
            return OVER if self.known > self.limit.value else NEAR
        if self.asked.wanted is None:
            return NOTHING_SAID
        if self.known >= self.asked.wanted.value:
            return ENOUGH
        return NOT_KNOWN if self.unknown_share >= TOO_UNKNOWN else LOW


PER_KG = {"protein_g_per_kg": "protein_g"}
"""Rows that ask per kg of body weight, and the nutrient they are about."""


def standings(
    table: Sequence[Intake],
    means: Iterable[tuple[str, float, float]],
    sex: str,
    age: float | None,
    weight_kg: float | None = None,
) -> list[Standing]:
    """How each nutrient of which something is asked stands: of each its key, the known mean a day, and the unknown
    share. What is asked per kg of body weight is asked of whoever gave it."""
    brought = {key: (known, unknown) for key, known, unknown in means}
    table = [_by_weight(row, weight_kg) for row in table if row.nutrient not in PER_KG or weight_kg is not None]
    found = []
    for nutrient in dict.fromkeys(row.nutrient for row in table):
        there = brought.get(HELD_AGAINST.get(nutrient, nutrient))
        if there is not None:
            found.append(Standing(nutrient, *there, asked=asked_of(table, nutrient, sex, age)))
    return found


def _by_weight(row: Intake, weight_kg: float | None) -> Intake:
    if row.nutrient not in PER_KG or weight_kg is None:
        return row
    return replace(row, nutrient=PER_KG[row.nutrient], value=row.value * weight_kg, unit="g/day")


SATURATED_MOST_SHARE = 0.10
"""Saturated fat as a share of the energy that adults should not pass: WHO guideline on saturated and trans-fatty acids,
2023."""
KCAL_PER_G_FAT = 9.0


def saturated_share(saturated_g: float, energy_kcal: float) -> float | None:
    """Saturated fat as a share of the energy, by 9 kcal/g; None without energy."""
    return KCAL_PER_G_FAT * saturated_g / energy_kcal if energy_kcal > 0 else None


def omega_ratio(omega6_g: float, omega3_g: float) -> float | None:
    """How much omega-6 there is to 1 of omega-3, both in g; None without omega-3. No authority asks for a ratio."""
    return omega6_g / omega3_g if omega3_g > 0 else None
