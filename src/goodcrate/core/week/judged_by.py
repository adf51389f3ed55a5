"""A week that is over is history: who ate by which targets, and the figures its recipes and batches are computed with,
kept with it. What is changed afterwards does not change it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from uuid import UUID

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import Composition
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.recipe import LineChange, Recipe
from goodcrate.core.recipes.yields import LearnedYield
from goodcrate.core.targets.eater import Eater


@dataclass(frozen=True, slots=True)
class KeptFigures:
    """A food's figures per 100 g and its cooked yield, as they were."""

    composition: Composition
    cooked_yield: float | None


@dataclass(frozen=True, slots=True)
class JudgedBy:
    """What a week is judged by: eaters with their targets, kinds of day and slots; figures by food; what pots had
    taught, by component; the share of polyols, and by which advice boxes keep."""

    eaters: tuple[Eater, ...] = ()
    figures: Mapping[str, KeptFigures] = field(default_factory=dict)
    learned: Mapping[str, LearnedYield | None] = field(default_factory=dict)
    polyol_share: float = 0.5
    keep_rule: str = "usual"

    def food(self, food: Food) -> Food:
        """A food with its figures as they were; one that is not kept stays as it is."""
        kept = self.figures.get(food.key)
        if kept is None:
            return food
        return replace(food, composition=kept.composition, cooked_yield=kept.cooked_yield)

    def line(self, line: IngredientLine) -> IngredientLine:
        """An ingredient as it was counted then."""
        return replace(line, food=self.food(line.food))

    def change(self, change: LineChange) -> LineChange:
        """What a variant changes, as it was counted then."""
        return change if change.food is None else replace(change, food=self.food(change.food))

    def component(self, component: Component) -> Component:
        """A component as it was counted then."""
        learned = self.learned.get(component.key, component.learned)
        return replace(component, lines=tuple(self.line(line) for line in component.lines), learned=learned)

    def recipe(self, recipe: Recipe) -> Recipe:
        """A recipe as it was counted then, variants included."""
        variants = tuple(replace(v, changes=tuple(map(self.change, v.changes))) for v in recipe.variants)
        return replace(recipe, components=tuple(self.component(c) for c in recipe.components), variants=variants)

    def who(self, present: tuple[Eater, ...], served: frozenset[UUID]) -> tuple[Eater, ...]:
        """Who eats in the week: those of then, in their order; and, as they are now, those served only since."""
        known = {eater.id for eater in self.eaters}
        kept = tuple(e for e in self.eaters if not e.is_archived or e.id in served)
        return kept + tuple(e for e in present if e.id not in known and e.id in served)
