"""Where the energy, the protein and the doubt of a serving come from, food by food."""

from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import main_energy_source
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.recipes.component import figures_of
from goodcrate.core.recipes.recipe import Serving


@dataclass(frozen=True, slots=True)
class Contribution:
    """One food's part in a serving: grams as weighed in, energy, protein, and shares (0 to 1) of them and of the doubt.

    `gives` is what it mostly gives (protein, carbohydrate, fat or fibre). What is poured off has negative figures and
    no share.
    """

    food_key: str
    name: str
    gives: str
    grams: float
    energy_kcal: float
    energy_share: float
    protein_g: float
    protein_share: float
    doubt_share: float


@once_for_same
def _gives(food: Food) -> str:
    return main_energy_source(food.composition.as_mapping(), 100.0)


def contributions(serving: Serving) -> tuple[Contribution, ...]:
    """Every food of a serving, most energy first. An unknown figure counts as nothing here; sums say so themselves."""
    foods: dict[str, Food] = {}
    grams, counted, doubts = dict[str, float](), dict[str, float](), dict[str, float]()
    shares = dict(serving.tally.doubt_shares("energy_kcal"))
    for part in serving.parts:
        portion = part.grams / part.expected.grams if part.expected.grams > 0 else 0.0
        for line in part.component.lines:
            key = line.food.key
            if key not in foods:
                foods[key], doubts[key] = line.food, shares.get(figures_of(line.food), 0.0)
            grams[key] = grams.get(key, 0.0) + line.weighed_in_g * portion
            counted[key] = counted.get(key, 0.0) + (0.0 if line.is_uncounted else line.kept_g * portion)
            doubts[key] += shares.get(line.key, 0.0)
    energy = {key: (food.composition.get("energy_kcal") or 0.0) / 100 * counted[key] for key, food in foods.items()}
    protein = {key: (food.composition.get("protein_g") or 0.0) / 100 * counted[key] for key, food in foods.items()}
    all_energy = sum(max(0.0, e) for e in energy.values()) or 1.0
    all_protein = sum(max(0.0, p) for p in protein.values()) or 1.0
    found = [
        Contribution(
            key,
            food.name,
            _gives(food),
            grams[key],
            energy[key],
            max(0.0, energy[key]) / all_energy,
            protein_g=protein[key],
            protein_share=max(0.0, protein[key]) / all_protein,
            doubt_share=doubts[key],
        )
        for key, food in foods.items()
    ]
    return tuple(sorted(found, key=lambda c: (-c.energy_kcal, c.name)))
