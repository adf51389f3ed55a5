"""“Same again with fish instead of pork”: what a recipe mostly is, and which other one takes its place in a slot."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from goodcrate.core.ground.wording import Saying
from goodcrate.core.recipes.recipe import Recipe

PORK, MEAT, POULTRY, FISH, EGG, PLANTS = "pork", "meat", "poultry", "fish", "egg", "plants"
KINDS: Mapping[str, str] = {
    PORK: Saying("pork"),
    MEAT: Saying("other meat"),
    POULTRY: Saying("poultry"),
    FISH: Saying("fish"),
    EGG: Saying("egg"),
    PLANTS: Saying("plants and dairy"),
}
SMALLEST_SHARE = 0.03
"""A food under 3 % of a recipe's weight does not make it its kind (a stock cube, a spoon of fish sauce): our rule."""


def kind_of(recipe: Recipe) -> str:
    """What a recipe mostly is by what its protein is made of: one of `KINDS`."""
    lines = [line for c in recipe.components for line in c.lines]
    whole = sum(max(0.0, line.kept_g) for line in lines) or 1.0
    shares = dict.fromkeys(KINDS, 0.0)
    for line in lines:
        group = line.food.group
        kind = PORK if line.food.contains_pork else group if group in (MEAT, POULTRY, FISH, EGG) else PLANTS
        shares[kind] += max(0.0, line.kept_g) / whole
    found = [kind for kind in KINDS if kind != PLANTS and shares[kind] >= SMALLEST_SHARE]
    return max(found, key=lambda kind: shares[kind]) if found else PLANTS


@dataclass(frozen=True, slots=True)
class Dish:
    """A recipe that could stand in a slot: a serving's energy in kcal and protein in g."""

    recipe_key: str
    name: str
    kind: str
    kcal: float
    protein_g: float


def stand_in(wanted: str, kcal: float, protein_g: float, dishes: Iterable[Dish]) -> tuple[Dish, float] | None:
    """The dish of a kind that stands in best for a meal, and how many servings give the meal's energy.

    Best is the nearest protein at that energy; then the least change of a serving; then by name. None when there is
    none, or half to double a serving would not do.
    """
    fits = []
    for dish in dishes:
        if dish.kind != wanted or dish.kcal <= 0:
            continue
        servings = kcal / dish.kcal
        if 0.5 <= servings <= 2:
            fits.append((abs(dish.protein_g * servings - protein_g), abs(servings - 1), dish.name, dish, servings))
    if not fits:
        return None
    *_, dish, servings = min(fits, key=lambda fit: fit[:3])
    return dish, round(servings, 2)
