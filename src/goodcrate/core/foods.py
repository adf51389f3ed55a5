"""Foods: a composition per 100 g with the facts around it, and the checks a row must pass."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from goodcrate.core.amounts import LARGEST_LINE_G
from goodcrate.core.errors import InvalidInput
from goodcrate.core.nutrients import Composition, energy_by_source

ALLERGENS: Mapping[str, str] = {
    "celery": "celery",
    "cereals_gluten": "cereals with gluten",
    "crustaceans": "crustaceans",
    "egg": "egg",
    "fish": "fish",
    "lupin": "lupin",
    "milk": "milk",
    "molluscs": "molluscs",
    "mustard": "mustard",
    "nuts": "nuts",
    "peanuts": "peanuts",
    "sesame": "sesame",
    "soya": "soya",
    "sulphites": "sulphites",
}
"""The 14 allergens to be declared under Regulation (EU) No 1169/2011, Annex II, with a cook's word for each."""

STATES = frozenset({"raw", "dry", "cooked", "ready", "canned_drained", "canned_whole", "frozen", "smoked"})
DIETS = frozenset({"plant", "dairy", "egg", "honey", "fish", "meat", "none"})


@dataclass(frozen=True, slots=True)
class Food:
    """One food as described by its name: figures are per 100 g of it in its `state`, edible part.

    `price` is what a pack of `pack_g` costs, in the household's currency.
    """

    key: str
    name: str
    state: str
    group: str
    composition: Composition
    allergens: frozenset[str] = field(default_factory=frozenset)
    diet: str = "plant"
    contains_pork: bool = False
    density_g_per_ml: float | None = None
    each_name: str | None = None
    each_g: float | None = None
    refuse_pct: float | None = None
    keep_group: str = "pantry"
    cooked_key: str | None = None
    cooked_yield: float | None = None
    aisle: str = ""
    pack_g: float | None = None
    serving_g: float | None = None
    price: float | None = None
    barcode: str | None = None
    note: str = ""
    source: str = ""

    @property
    def price_per_100_g(self) -> float | None:
        """What 100 g cost in the household's currency, or None when price or pack are unknown."""
        if self.price is None or not self.pack_g:
            return None
        return self.price * 100 / self.pack_g

    @property
    def needs_cooking_yield(self) -> bool:
        """Raw and dry foods change weight in the pot; for others the weight stands until told otherwise."""
        return self.state in ("raw", "dry")


def largest_plausible_g(food: Food) -> float:
    """The most of one food a single ingredient line can sensibly hold, in g: a guard against slips.

    Our own limits: salt, spices, herbs and leavening are used by the gram, everything else by the kilogram.
    """
    if food.group in ("spice", "supplement") or food.key in ("salt", "baking_powder", "yeast_dried"):
        return 500.0
    return LARGEST_LINE_G


ENERGY_TOLERANCE_SHARE, ENERGY_TOLERANCE_KCAL = 0.12, 12.0


def energy_from_macros_kcal(composition: Composition) -> float | None:
    """Energy per 100 g by 4/9/4/2/7, or None when protein, fat or carbohydrate is unknown."""
    if any(composition.get(key) is None for key in ("protein_g", "fat_g", "carbohydrate_g")):
        return None
    return sum(energy_by_source(composition.as_mapping()).values())


def check_food(food: Food) -> tuple[InvalidInput, ...]:
    """Everything that cannot be right in a food's row: ranges, sums, parts over wholes, energy against macros.

    The energy check queries a difference of more than 12 % *and* 12 kcal per 100 g.
    """
    faults: list[InvalidInput] = []
    figures = food.composition.as_mapping()

    def fault(field_name: str, problem: str, wanted: str = "") -> None:
        faults.append(InvalidInput(field_name, problem, wanted))

    if food.state not in STATES:
        fault("state", f"“{food.state}” is no state of a food.", f"One of {', '.join(sorted(STATES))}.")
    if food.diet not in DIETS:
        fault("diet", f"“{food.diet}” is no kind of diet.", f"One of {', '.join(sorted(DIETS))}.")
    for allergen in sorted(food.allergens - ALLERGENS.keys()):
        fault("allergens", f"“{allergen}” is none of the 14 declared allergens.")
    if (figures["energy_kcal"] or 0) > 902:
        fault("energy_kcal", f"{figures['energy_kcal']:g} kcal per 100 g is more than pure fat holds.")
    for part, whole in (("sugars_g", "carbohydrate_g"), ("fibre_g", "carbohydrate_g"), ("saturated_g", "fat_g")):
        a, b = figures[part], figures[whole]
        if a is not None and b is not None and a > b + 1e-9:
            fault(part, f"{a:g} g is more than the {whole.removesuffix('_g')} of {b:g} g it is part of.")
    solids = sum(figures[key] or 0 for key in ("protein_g", "fat_g", "carbohydrate_g", "alcohol_g"))
    solids += (figures["sodium_mg"] or 0) / 1000
    if solids > 101:
        fault("protein_g", f"Protein, fat, carbohydrate, alcohol and sodium come to {solids:g} g in 100 g.")
    computed, printed = energy_from_macros_kcal(food.composition), figures["energy_kcal"]
    if computed is not None and printed is not None:
        apart = abs(computed - printed)
        if apart > ENERGY_TOLERANCE_KCAL and apart > ENERGY_TOLERANCE_SHARE * max(printed, computed):
            fault("energy_kcal", f"{printed:g} kcal stands, protein, fat and carbohydrate give {computed:.0f} kcal.")
    for name, value, low, high in (
        ("density_g_per_ml", food.density_g_per_ml, 0.02, 2.5),
        ("each_g", food.each_g, 0.05, 6000),
        ("refuse_pct", food.refuse_pct, 0, 95),
        ("cooked_yield", food.cooked_yield, 0.1, 12),
        ("pack_g", food.pack_g, 1, 25_000),
    ):
        if value is not None and not low <= value <= high:
            fault(name, f"{value:g} is out of range.", f"From {low:g} to {high:g}.")
    return tuple(faults)
