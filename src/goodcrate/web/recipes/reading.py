"""What every page of the recipe bench needs: the form read against the household's foods, and what selects offer."""

from collections.abc import Mapping, Sequence
from functools import lru_cache

from goodcrate.core.ground.amounts import MEASURES
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.writing import WRITING, Writing, at_least_heat
from goodcrate.core.recipes.component import FLAG_WORDS, USES
from goodcrate.core.recipes.cooking import COOKED_AS
from goodcrate.core.recipes.figures_shown import FiguresShown
from goodcrate.core.recipes.keeping import CONTAINERS, TEXTURES
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.recipes.steps import EQUIPMENT
from goodcrate.core.recipes.variants import for_eater
from goodcrate.core.recipes.vessels import COOKS_IN, Vessel
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.formats.reference import core_temperatures, keep_groups
from goodcrate.services.kitchen import Excluding
from goodcrate.services.recipes.bench import Benched, on_the_bench
from goodcrate.web.recipes.forms import ReadRecipe, RecipeForm
from goodcrate.web.recipes.live import Around, LiveFigures, live_figures
from goodcrate.web.security import Visitor

CHOICES: Mapping[str, object] = {
    "measures": MEASURES,
    "uses": USES,
    "line_flags": FLAG_WORDS,
    "vessels": COOKS_IN,
    "containers": CONTAINERS,
    "textures_of_food": TEXTURES,
    "cooked_as": COOKED_AS,
    "equipment": EQUIPMENT,
}
"""What the selects of the form offer."""


def choices() -> dict[str, object]:
    """What the selects of the form offer, keep groups and core temperatures with them."""
    return _choices(WRITING.get())


@lru_cache(maxsize=64)
def _choices(writing: Writing) -> dict[str, object]:
    kinds = {t.kind: f"{t.label} {at_least_heat(t.core_c)}" for t in reversed(core_temperatures())}
    return {**CHOICES, "keep_groups": keep_groups(), "core_kinds": dict(sorted(kinds.items()))}


def around(eaters: Sequence[Excluding], vessels: Sequence[Vessel], shown: FiguresShown) -> Around:
    """The household around a recipe: its vessels, its eaters, and what they must not get."""

    def why_not(recipe: Recipe) -> tuple[str, ...]:
        said = (why_not_for(e.exclusions, for_eater(recipe, str(e.id))) for e in eaters)
        return tuple(sentence for sentence in said if sentence)

    return Around(vessels, {str(e.id): e.exclusions.name.split()[0] for e in eaters}, why_not, shown)


def benched(visitor: Visitor, form: RecipeForm) -> Benched[ReadRecipe]:
    """A form read against the household's foods, and computed."""
    return on_the_bench(visitor.caller, form.food_keys, form.read)


def figures_of_bench(done: Benched[ReadRecipe], faults: list[InvalidInput]) -> LiveFigures:
    """The figures of a benched recipe; what cannot be computed is added to the faults, and the page shows none."""
    if done.fault is not None:
        faults.append(done.fault)
    surroundings = around(done.eaters, done.vessels, done.shown)
    try:
        return live_figures(done.recipe, surroundings)
    except InvalidInput as fault:  # more is poured off than went in
        faults.append(fault)
        return live_figures(Recipe(done.recipe.key, done.recipe.name, done.recipe.servings, ()), surroundings)
