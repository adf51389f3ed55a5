"""The live figures of the recipe bench, from core's serving to what the page shows."""

from collections.abc import Mapping
from dataclasses import dataclass

from goodcrate.core.foods import ALLERGENS
from goodcrate.core.recipes import FROM_FOODS, ComponentServing, Recipe, Serving, serving_of
from goodcrate.web.drawing import Share, energy_bar
from goodcrate.web.figures import grams, number, whole
from goodcrate.web.tape import Tape, recipe_tape


@dataclass(frozen=True)
class LiveComponent:
    """A component's own line: what goes in, what comes out, and what a serving of it weighs."""

    ingredient: str
    cooked: str
    basis: str
    per_serving: str
    per_100_g: str


@dataclass(frozen=True)
class LiveFigures:
    """Everything that changes while grams are typed."""

    serving: Serving
    tape: Tape
    bar: tuple[Share, ...]
    components: Mapping[str, LiveComponent]
    line_kcal: Mapping[str, str]
    allergens: tuple[str, ...]
    has_lines: bool


def live_figures(recipe: Recipe) -> LiveFigures:
    """Compute a serving and word it."""
    serving = serving_of(recipe)
    line_kcal = {}
    for part in serving.parts:
        for line in part.component.lines:
            energy = line.tally.amount("energy_kcal")
            line_kcal[line.key] = "unknown" if energy.is_unknown else f"{whole(energy.value)} kcal"
    return LiveFigures(
        serving,
        recipe_tape(recipe, serving),
        energy_bar(serving.tally),
        {part.component.key: _component(part) for part in serving.parts},
        line_kcal,
        tuple(ALLERGENS[a] for a in sorted(recipe.allergens)),
        bool(serving.parts),
    )


def _component(part: ComponentServing) -> LiveComponent:
    expected = part.expected
    basis = (
        expected.basis if expected.basis != FROM_FOODS else f"× {number(expected.yield_factor, 2)}, {expected.basis}"
    )
    energy = part.batch.per_100_g("energy_kcal") if expected.grams > 0 else None
    return LiveComponent(
        f"{grams(expected.ingredient_g)} g",
        f"{grams(expected.grams)} g",
        basis,
        f"{grams(part.grams)} g",
        f"{whole(energy.value)} kcal per 100 g" if energy else "",
    )
