"""Recipes: ingredients by weight → a batch → per gram of cooked food → a portion.

Water gained or lost in the pot changes grams, never nutrients: a batch keeps the nutrients of
what went in, spread over what it weighs when cooked. Hence per gram = batch total ÷ cooked net
weight, and a portion is that times its grams.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from goodcrate.core.amounts import Amount, reading_error_g
from goodcrate.core.errors import InvalidInput
from goodcrate.core.foods import Food
from goodcrate.core.nutrients import Measured, Tally


@dataclass(frozen=True, slots=True)
class IngredientLine:
    """One food in one component, with its amount. `key` names it as a source of doubt."""

    key: str
    food: Food
    amount: Amount

    @property
    def tally(self) -> Tally:
        """Nutrients of this line."""
        return Tally.of(
            self.food.composition, self.amount.grams, self.amount.standard_error_g, self.key, figures_of(self.food)
        )


def figures_of(food: Food) -> str:
    """The name under which the doubt of a food's own figures is kept: one food is one source, however often used."""
    return f"figures:{food.key}"


@dataclass(frozen=True, slots=True)
class Component:
    """What is cooked and divided on its own: rice, stew, dressing. `cooked_g` is its typed cooked net weight."""

    key: str
    name: str
    lines: tuple[IngredientLine, ...]
    cooked_g: float | None = None


@dataclass(frozen=True, slots=True)
class Recipe:
    """Components that make `servings` equal servings.

    Raises:
        InvalidInput: when servings are not from 0.5 to 100.
    """

    key: str
    name: str
    servings: float
    components: tuple[Component, ...]

    def __post_init__(self) -> None:
        if not 0.5 <= self.servings <= 100:
            raise InvalidInput(
                "servings", f"{self.servings:g} servings is outside what we compute.", "Give 0.5 to 100."
            )

    @property
    def allergens(self) -> frozenset[str]:
        """Declared allergens of all its foods."""
        return allergens_of(line for component in self.components for line in component.lines)


def allergens_of(lines: Iterable[IngredientLine]) -> frozenset[str]:
    """Declared allergens in these lines. Labels overrule: recipes of bought foods change."""
    return frozenset().union(*(line.food.allergens for line in lines))


@dataclass(frozen=True, slots=True)
class ExpectedWeight:
    """What a component should weigh when cooked, in g, and where that comes from."""

    grams: float
    ingredient_g: float
    basis: str

    @property
    def yield_factor(self) -> float:
        """Cooked net weight ÷ ingredient weight."""
        return self.grams / self.ingredient_g if self.ingredient_g > 0 else 1.0


TYPED, FROM_FOODS, AS_WEIGHED = "typed", "from the foods’ usual yields", "taken as weighed in"


def expected_cooked_weight(component: Component) -> ExpectedWeight:
    """The cooked net weight to expect: the typed one, else Σ grams × each food's usual cooked yield.

    A food without a known yield counts at its own weight.
    """
    ingredient_g = sum(line.amount.grams for line in component.lines)
    if component.cooked_g is not None:
        return ExpectedWeight(component.cooked_g, ingredient_g, TYPED)
    yields = [(line.amount.grams, line.food.cooked_yield) for line in component.lines]
    if any(y is not None and g > 0 for g, y in yields):
        return ExpectedWeight(sum(g * (1.0 if y is None else y) for g, y in yields), ingredient_g, FROM_FOODS)
    return ExpectedWeight(ingredient_g, ingredient_g, AS_WEIGHED)


@dataclass(frozen=True, slots=True)
class Batch:
    """One cooking of one component: nutrients of what went in, over what it weighs when cooked."""

    lines: tuple[IngredientLine, ...]
    ingredient_g: float
    cooked_g: float
    tally: Tally

    @property
    def yield_factor(self) -> float:
        """Cooked net weight ÷ ingredient weight."""
        return self.cooked_g / self.ingredient_g if self.ingredient_g > 0 else 1.0

    def per_100_g(self, nutrient: str) -> Measured:
        """One nutrient in 100 g of the cooked food.

        Raises:
            InvalidInput: for a key that is no nutrient.
        """
        return self.portion(100.0, standard_error_g=0.0).amount(nutrient)

    def portion(self, grams: float, source: str = "portion", standard_error_g: float | None = None) -> Tally:
        """Nutrients in `grams` of this batch, with the doubt of weighing that portion on a 1 g scale by default.

        Raises:
            InvalidInput: when grams are negative, or food is taken from a batch that weighs nothing.
        """
        if grams < 0:
            raise InvalidInput("grams", "A portion cannot be negative.", "Give 0 or more grams.")
        if grams > 0 and self.cooked_g <= 0:
            raise InvalidInput("grams", "The batch weighs nothing.", "Weigh the ingredients or the pot first.")
        share = grams / self.cooked_g if grams > 0 else 0.0
        error = reading_error_g() if standard_error_g is None else standard_error_g
        return self.tally.scaled(share).with_weighing_error(error, source)


def batch_of(lines: Sequence[IngredientLine], cooked_g: float) -> Batch:
    """Put ingredients into a pot that weighs `cooked_g` net when cooked.

    Raises:
        InvalidInput: when there are ingredients and the cooked weight is not above zero.
    """
    tally = Tally.sum([line.tally for line in lines])
    if tally.grams > 0 and cooked_g <= 0:
        raise InvalidInput("cooked_g", "A cooked batch weighs more than 0 g.", "Give its net weight in grams.")
    return Batch(tuple(lines), tally.grams, cooked_g, tally.with_grams(cooked_g))


@dataclass(frozen=True, slots=True)
class ComponentServing:
    """One component's share in a serving."""

    component: Component
    expected: ExpectedWeight
    batch: Batch
    grams: float
    tally: Tally


@dataclass(frozen=True, slots=True)
class Serving:
    """One serving of a recipe: grams and nutrients per component, and in all."""

    parts: tuple[ComponentServing, ...]
    tally: Tally


def serving_of(recipe: Recipe, servings: float = 1.0) -> Serving:
    """Nutrients of so many servings, each component divided equally over the recipe's servings.

    No portion weighing is added: this is the recipe as planned. Components without ingredients are left out.

    Raises:
        InvalidInput: for a negative number of servings or an impossible cooked weight.
    """
    if servings < 0:
        raise InvalidInput("servings", "Servings cannot be negative.", "Give 0 or more.")
    parts = []
    for component in recipe.components:
        if not component.lines:
            continue
        expected = expected_cooked_weight(component)
        batch = batch_of(component.lines, expected.grams)
        grams = expected.grams * servings / recipe.servings
        parts.append(ComponentServing(component, expected, batch, grams, batch.portion(grams, standard_error_g=0.0)))
    return Serving(tuple(parts), Tally.sum(part.tally for part in parts))
