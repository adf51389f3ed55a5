"""As foods vary: how far one food of a kind is from the figures of its table or label, apart from any weighing.

A tomato is not the table's tomato: variety, season, water, fat trimmed or not. The relative standard errors below are
our own estimates for one household's purchase against a table's mean; reasons stand beside them. A label is nearer: the
tolerances of the European Commission's guidance on declared nutrition values (December 2012) are taken as two standard
errors, because a maker must keep inside them.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying


@dataclass(frozen=True, slots=True)
class Variation:
    """Relative standard errors of one kind of food, by nutrient, and why we think so."""

    words: str
    reasoning: str
    energy: float
    protein: float
    fat: float
    carbohydrate: float
    fibre: float
    sodium: float


VARIATIONS: Mapping[str, Variation] = {
    "pure": Variation(
        Saying("oils and fats"), Saying("One substance: only its water differs."),
        energy=0.02, protein=0.3, fat=0.02, carbohydrate=0.03, fibre=0.3, sodium=0.3,
    ),
    "dry": Variation(
        Saying("grains, pulses, flour, nuts and seeds"),
        Saying("Dried to a water content that hardly differs; variety and soil do."),
        energy=0.03, protein=0.08, fat=0.12, carbohydrate=0.04, fibre=0.15, sodium=0.4,
    ),
    "dairy": Variation(
        Saying("milk, cheese and eggs"), Saying("Made or sorted to a standard; fat and salt differ by maker."),
        energy=0.06, protein=0.06, fat=0.1, carbohydrate=0.1, fibre=0.3, sodium=0.2,
    ),
    "animal": Variation(
        Saying("meat, poultry and fish"),
        Saying("How fat the animal and how closely trimmed decides; lean protein hardly differs."),
        energy=0.12, protein=0.06, fat=0.3, carbohydrate=0.3, fibre=0.3, sodium=0.25,
    ),
    "produce": Variation(
        Saying("vegetables, fruit and herbs"),
        Saying("Water and ripeness: dry matter of one variety spreads by a tenth and more."),
        energy=0.13, protein=0.18, fat=0.35, carbohydrate=0.15, fibre=0.2, sodium=0.4,
    ),
    "made": Variation(
        Saying("bread, sauces, ready and other made foods"), Saying("Each maker has a recipe of its own."),
        energy=0.1, protein=0.12, fat=0.2, carbohydrate=0.12, fibre=0.25, sodium=0.3,
    ),
}  # fmt: skip
_KIND_OF_GROUP: Mapping[str, str] = {
    "fat": "pure",
    "grain": "dry",
    "legume": "dry",
    "nut_seed": "dry",
    "baking": "dry",
    "dairy": "dairy",
    "egg": "dairy",
    "meat": "animal",
    "poultry": "animal",
    "fish": "animal",
    "vegetable": "produce",
    "fruit": "produce",
    "herb": "produce",
}
_MADE_WHEN_READY = frozenset({"grain", "legume", "baking"})
"""Bread is no grain, hummus no bean: their makers differ more than the crop."""
MINERAL, VITAMIN, PART = 0.25, 0.35, 0.2
"""Other nutrients whatever the kind: minerals by soil, vitamins by age and light, parts of fat and carbohydrate."""
_OWN = {
    "energy_kcal": "energy",
    "protein_g": "protein",
    "fat_g": "fat",
    "carbohydrate_g": "carbohydrate",
    "fibre_g": "fibre",
    "sodium_mg": "sodium",
}
_KCAL_PER_G = {"protein_g": 4.0, "fat_g": 9.0, "carbohydrate_g": 4.0, "fibre_g": 2.0}


def kind_of(food: Food) -> str:
    """Which row of `VARIATIONS` a food has by its group and state; made foods when none."""
    kind = _KIND_OF_GROUP.get(food.group, "made")
    return "made" if food.group in _MADE_WHEN_READY and food.state == "ready" else kind


@once_for_same
def spread_per_100_g(food: Food, keys: Sequence[str] = KEYS) -> Mapping[str, float]:
    """One standard error of each known figure per 100 g, in its unit, as foods vary; unknown figures have none."""
    figures = {key: figure for key in keys if (figure := food.composition.get(key)) is not None}
    if not food.is_of_a_table:
        macros = {key: figure for key in _KCAL_PER_G if (figure := food.composition.get(key)) is not None}
        return _of_label(figures, macros)
    variation = VARIATIONS[kind_of(food)]
    return {
        key: figure * (getattr(variation, _OWN[key]) if key in _OWN else _of_others(key))
        for key, figure in figures.items()
    }


def _of_others(key: str) -> float:
    unit = BY_KEY[key].unit
    if unit == "g":
        return PART
    return MINERAL if key in _MINERALS else VITAMIN


_MINERALS = frozenset(
    [
        "potassium_mg",
        "calcium_mg",
        "iron_mg",
        "magnesium_mg",
        "zinc_mg",
        "phosphorus_mg",
        "copper_mg",
        "manganese_mg",
        "iodine_ug",
        "selenium_ug",
    ]
)


def _of_label(figures: Mapping[str, float], macros: Mapping[str, float]) -> dict[str, float]:
    spread = {key: label_tolerance(key, figure) / 2 for key, figure in figures.items() if key != "energy_kcal"}
    if "energy_kcal" in figures:
        errors = (label_tolerance(key, figure) / 2 * _KCAL_PER_G[key] for key, figure in macros.items())
        spread["energy_kcal"] = hypot(*errors)
    return spread


def label_tolerance(key: str, figure: float) -> float:
    """How far a declared figure per 100 g may be off, in its unit, measurement included.

    Source: European Commission, Guidance document on tolerances for nutrient values declared on a label (December
    2012), tables 1 and 2; the upper side, and for vitamins and minerals of foods that are not enriched.
    """
    if key == "fat_g":
        return 1.5 if figure < 10 else 0.2 * figure if figure <= 40 else 8.0
    if key == "saturated_g":
        return 0.8 if figure < 4 else 0.2 * figure
    if key == "sodium_mg":
        return 150.0 if figure < 500 else 0.2 * figure
    if BY_KEY[key].unit == "g":
        return 2.0 if figure < 10 else 0.2 * figure if figure <= 40 else 8.0
    return (0.45 if key in _MINERALS else 0.5) * figure


def spread_of(contents: Iterable[tuple[Food, float]], keys: Sequence[str] = KEYS) -> dict[str, float]:
    """One standard error of some nutrients of a dish, in their units, as its foods vary.

    `contents` are foods with the grams of each that are eaten. A food met twice is the same purchase and adds up
    straight; different foods in quadrature.
    """
    grams: dict[str, tuple[Food, float]] = {}
    for food, amount in contents:
        grams[food.key] = (food, grams.get(food.key, (food, 0.0))[1] + amount)
    squares: dict[str, float] = {}
    for food, amount in grams.values():
        for key, error in spread_per_100_g(food, keys).items():
            squares[key] = squares.get(key, 0.0) + (error * amount / 100) ** 2
    return {key: square**0.5 for key, square in squares.items()}
