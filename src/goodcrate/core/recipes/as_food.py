"""What somebody makes, as a food: per 100 g of it as it is eaten, so that it stands beside bought ones."""

from collections.abc import Sequence

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.ground.wording import Saying
from goodcrate.core.recipes.recipe import ComponentServing

OWN_DISH = Saying("your own recipe")
POURS_FROM = 0.85
"""From so many g a ml a food is taken to pour or spread: leaves and cut vegetables lie looser."""


def dish_as_food(key: str, name: str, parts: Sequence[ComponentServing], servings: float) -> Food | None:
    """A recipe's serving, or one component of it, as a food; a serving is what the recipe serves of it.

    A figure that some of its foods do not have is known from below. Its density follows from its foods' where each of
    them pours or spreads (of others it is known heaped, not mixed); its price where each has one. None when it weighs
    nothing.
    """
    grams = sum(part.grams for part in parts)
    if grams <= 0:
        return None
    tally = Tally.sum(part.tally for part in parts)
    amounts = {nutrient: tally.amount(nutrient) for nutrient in KEYS}
    figures = {k: None if a.is_unknown else max(0.0, a.value) * 100 / grams for k, a in amounts.items()}
    at_least = frozenset(k for k, a in amounts.items() if a.is_at_least and not a.is_unknown)
    return Food(
        key,
        name,
        "ready",
        "",
        Composition(tuple(figures[k] for k in KEYS), at_least=at_least),
        density_g_per_ml=_density(parts),
        pack_g=grams * servings,
        serving_g=grams,
        price=_price(parts),
        source=OWN_DISH,
    )


def _density(parts: Sequence[ComponentServing]) -> float | None:
    grams = millilitres = 0.0
    for part in parts:
        share = part.grams / part.expected.grams if part.expected.grams else 0.0
        for line in part.component.lines:
            density = line.food.density_g_per_ml
            if density is None or density < POURS_FROM or line.food.state not in ("ready", "raw"):
                return None
            millilitres += line.kept_g * share / density
        millilitres += (part.expected.grams - part.component.kept_g) * share
        grams += part.grams
    return grams / millilitres if millilitres > 0 else None


def _price(parts: Sequence[ComponentServing]) -> float | None:
    """What all that is cooked of these parts costs, when each ingredient's price is known."""
    price = 0.0
    for line in (line for part in parts for line in part.component.lines):
        if line.food.price_per_100_g is None:
            return None
        price += line.food.price_per_100_g / 100 * line.amount.grams
    return price
