"""Recipes: ingredients by weight → a batch → per gram of cooked food → a portion.

Water gained or lost in the pot changes grams, never nutrients: a batch keeps the nutrients of
what went in, spread over what it weighs when cooked. Hence per gram = batch total ÷ cooked net
weight, and a portion is that times its grams.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import reading_error_g
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import Measured, Tally
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import short
from goodcrate.core.recipes.component import Component, IngredientLine, PendingLine, allergens_of
from goodcrate.core.recipes.cooked_weight import ExpectedWeight, expected_cooked_weight
from goodcrate.core.recipes.cooking_told import cooking_of
from goodcrate.core.recipes.steps import Step


@dataclass(frozen=True, slots=True)
class LineChange:
    """What a variant does to one line of its recipe: leave it out, or put `grams` of another food in its place."""

    line_key: str
    food: Food | None = None
    grams: float = 0.0

    @property
    def is_left_out(self) -> bool:
        """Whether the line is simply left out."""
        return self.food is None


@dataclass(frozen=True, slots=True)
class Variant:
    """The recipe for some of the eaters, different in a few lines (`goodcrate.core.recipes.variants`)."""

    key: str
    name: str
    eater_keys: tuple[str, ...]
    changes: tuple[LineChange, ...]


@dataclass(frozen=True, slots=True)
class Recipe:
    """Components that make `servings` equal servings, the steps that make them, and versions for single eaters.

    Raises:
        InvalidInput: when servings are not from 0.5 to 100, or a component stands in it twice.
    """

    key: str
    name: str
    servings: float
    components: tuple[Component, ...]
    steps: tuple[Step, ...] = ()
    variants: tuple[Variant, ...] = ()

    def __post_init__(self) -> None:
        if not 0.5 <= self.servings <= 100:
            raise InvalidInput(
                "servings",
                say("{servings} servings is outside what we compute.", servings=short(self.servings)),
                say("Give {short} to 100.", short=short(0.5)),
            )
        keys = [component.key for component in self.components]
        if len(set(keys)) < len(keys):
            raise InvalidInput("components", say("A component stands in this recipe twice."), say("Once is enough."))
        alone = len(self.components) == 1
        told = tuple(c if c.is_used else _told(c, self.steps, alone) for c in self.components)
        object.__setattr__(self, "components", told)

    @property
    def lines(self) -> tuple[IngredientLine, ...]:
        """All ingredient lines, component by component."""
        return tuple(line for component in self.components for line in component.lines)

    @property
    def own_components(self) -> tuple[Component, ...]:
        """The components that are this recipe's own."""
        return tuple(c for c in self.components if not c.is_used)

    @property
    def pending(self) -> tuple[PendingLine, ...]:
        """Lines that are not understood yet; while there are any, every figure leaves something out."""
        return tuple(line for component in self.components for line in component.pending)

    @property
    def allergens(self) -> frozenset[str]:
        """Declared allergens of all its foods."""
        return allergens_of(self.lines)


@once_for_same
def _told(component: Component, steps: Sequence[Step], is_alone: bool) -> Component:
    """A component that knows what its recipe says of it: whether it is alone, and how it is cooked."""
    known = replace(component, is_alone=is_alone)
    return replace(known, cooking=cooking_of(known, steps))


@dataclass(frozen=True, slots=True)
class Batch:
    """One cooking of one component: nutrients of what stays in it, over what it weighs when cooked.

    `ingredient_g` is everything weighed in, what is poured away or taken out included.
    """

    lines: tuple[IngredientLine, ...]
    ingredient_g: float
    cooked_g: float
    tally: Tally

    @property
    def taken_out_g(self) -> float:
        """Grams that went in and do not stay: bones, marinade, oil left in the pan, fat poured off."""
        return sum(line.weighed_in_g - line.kept_g for line in self.lines)

    @property
    def water_g(self) -> float:
        """Grams of water taken up (or, negative, lost) between what stays and what it weighs cooked."""
        return self.cooked_g - sum(line.kept_g for line in self.lines)

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
            raise InvalidInput("grams", say("A portion cannot be negative."), say("Give 0 or more grams."))
        if grams > 0 and self.cooked_g <= 0:
            raise InvalidInput(
                "grams", say("The batch weighs nothing."), say("Weigh the ingredients or the pot first.")
            )
        share = grams / self.cooked_g if grams > 0 else 0.0
        error = reading_error_g() if standard_error_g is None else standard_error_g
        return self.tally.scaled(share).with_weighing_error(error, source)


def batch_of(lines: Sequence[IngredientLine], cooked_g: float) -> Batch:
    """Put ingredients into a pot that weighs `cooked_g` net when cooked.

    Raises:
        InvalidInput: when there are ingredients and the cooked weight is not above zero, or more of something is poured
            off than went in.
    """
    tally = Tally.sum([line.tally for line in lines])
    if tally.grams > 0 and cooked_g <= 0:
        raise InvalidInput(
            "cooked_g", say("A cooked batch weighs more than 0 g."), say("Give its net weight in grams.")
        )
    if any(line.is_poured_off for line in lines):
        tally = _less_poured_off(lines, tally)
    weighed_in_g = sum(line.weighed_in_g for line in lines)
    return Batch(tuple(lines), weighed_in_g, cooked_g, tally.with_grams(cooked_g))


_COUNTED = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g")


def _less_poured_off(lines: Sequence[IngredientLine], tally: Tally) -> Tally:
    """A batch's tally after something was poured off: nothing can leave that was not in.

    Energy and what gives it must add up, to a hundredth. Of other nutrients, whose typical figures may not fit
    together, no more leaves than went in. What leaves in an unknown amount makes unknown what stays.
    """
    poured = Tally.sum([line.tally for line in lines if line.is_poured_off])
    for key in _COUNTED:
        left, out = tally.amount(key).value, -poured.amount(key).value
        if left < -max(1e-9, 0.01 * out):
            word = key.rsplit("_", 1)[0]
            raise InvalidInput(
                "poured_off", say("More {word} is poured off than went in.", word=word), say("Mend the amounts.")
            )
    if tally.grams <= 0:
        raise InvalidInput("poured_off", say("More is poured off than went in."), say("Mend the amounts."))
    left_unknown = [u > 0 for u in poured.unknown_g]  # how much of it left is not known, so neither is what stays
    return replace(
        tally,
        known=tuple([0.0 if gone else max(0.0, k) for k, gone in zip(tally.known, left_unknown, strict=True)]),
        unknown_g=tuple([tally.grams if gone else u for u, gone in zip(tally.unknown_g, left_unknown, strict=True)]),
    )


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


def portion_g(recipe: Recipe, component: Component, cooked_g: float) -> float:
    """Grams of a component in one serving of a recipe, when its whole batch weighs `cooked_g`."""
    return component.serving_g if component.serving_g is not None else cooked_g / recipe.servings


def serving_of(recipe: Recipe, servings: float = 1.0) -> Serving:
    """Nutrients of so many servings, each component divided equally over the recipe's servings.

    Of another recipe's component a serving takes its `serving_g`. No portion weighing is added: this is the recipe as
    planned. Components without ingredients are left out.

    Raises:
        InvalidInput: for a negative number of servings or an impossible cooked weight.
    """
    if servings < 0:
        raise InvalidInput("servings", say("Servings cannot be negative."), say("Give 0 or more."))
    parts = []
    for component in recipe.components:
        if not component.lines:
            continue
        expected = expected_cooked_weight(component)
        batch = batch_of(component.lines, expected.grams)
        grams = portion_g(recipe, component, expected.grams) * servings
        parts.append(ComponentServing(component, expected, batch, grams, batch.portion(grams, standard_error_g=0.0)))
    return Serving(tuple(parts), Tally.sum(part.tally for part in parts))
