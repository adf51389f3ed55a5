"""What every page of the recipe bench needs: the form read against the household's foods, and what selects offer."""

from collections.abc import Mapping
from typing import Any

from goodcrate.core.amounts import MEASURES
from goodcrate.core.errors import InvalidInput
from goodcrate.core.foods import Food
from goodcrate.core.keeping import CONTAINERS, TEXTURES
from goodcrate.core.recipes import USES, Recipe
from goodcrate.core.steps import EQUIPMENT
from goodcrate.core.variants import for_eater
from goodcrate.core.vessels import KINDS
from goodcrate.formats.reference import core_temperatures, keep_groups
from goodcrate.services import foods, kitchen, recipes, targets
from goodcrate.services.week import why_not_for
from goodcrate.web.recipes.forms import ReadRecipe, RecipeForm
from goodcrate.web.recipes.live import Around
from goodcrate.web.security import Visitor

CHOICES: Mapping[str, Any] = {
    "measures": MEASURES, "uses": USES, "vessels": KINDS, "containers": CONTAINERS, "textures_of_food": TEXTURES,
    "equipment": EQUIPMENT,
}  # fmt: skip
"""What the selects of the form offer."""


def choices() -> dict[str, Any]:
    """What the selects of the form offer, keep groups and core temperatures with them."""
    kinds = {t.kind: f"{t.label} {t.core_c:g} °C" for t in reversed(core_temperatures())}
    return {**CHOICES, "keep_groups": keep_groups(), "core_kinds": dict(sorted(kinds.items()))}


def around(visitor: Visitor) -> Around:
    """The household around a recipe: its vessels, its eaters, and what they must not get."""
    eaters = targets.list_eaters(visitor.caller)

    def why_not(recipe: Recipe) -> tuple[str, ...]:
        said = (why_not_for(e, for_eater(recipe, str(e.id))) for e in eaters)
        return tuple(sentence for sentence in said if sentence)

    return Around(kitchen.vessels(visitor.caller), {str(e.id): e.name.split()[0] for e in eaters}, why_not)


def read_form(visitor: Visitor, form: RecipeForm) -> tuple[ReadRecipe, foods.Measuring]:
    """A form read against the household's foods."""
    measuring = foods.measuring(visitor.caller, form.food_keys)
    return form.read(measuring), measuring


def computed(visitor: Visitor, read: ReadRecipe, known: Mapping[str, Food], faults: list[InvalidInput]) -> Recipe:
    """What is typed as core's recipe; what core refuses as a whole is noted and the rest computed."""
    try:
        return recipes.compute(visitor.caller, read.input, known)
    except InvalidInput as fault:
        faults.append(fault)
        return Recipe(str(read.input.id), read.input.name, 1.0, ())
