"""What somebody makes, as a food: per 100 g of it as it is eaten, so that it stands beside bought ones."""

from collections import defaultdict
from collections.abc import Iterable, Sequence

from goodcrate.core.foods.food import UNKNOWN, Food
from goodcrate.core.ground.nutrients import KEYS, Composition, Tally
from goodcrate.core.ground.wording import Saying
from goodcrate.core.recipes.component import allergens_of
from goodcrate.core.recipes.recipe import Batch, ComponentServing

OWN_DISH = Saying("your own recipe")
OWN_POT = Saying("your own pot")
NARROWEST_DIET = (UNKNOWN, "meat", "fish", "egg", "dairy", "honey", "plant")
"""What a mixture is for somebody's diet: the first of these that is in it. Its allergens say what else is."""
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


def batch_as_food(key: str, name: str, batch: Batch, keep_group: str) -> Food:
    """What was cooked and weighed, as a food per 100 g of it, with the doubt of the batch; it keeps as `keep_group`.

    A figure that some of its foods do not have is known from below.
    """
    per_100_g = batch.portion(100.0, standard_error_g=0.0)
    amounts = [per_100_g.amount(nutrient) for nutrient in KEYS]
    figures = tuple(None if a.is_unknown else max(0.0, a.value) for a in amounts)
    errors = tuple(a.standard_error for a in amounts)
    at_least = frozenset(k for k, a in zip(KEYS, amounts, strict=True) if a.is_at_least and not a.is_unknown)
    kept = [line for line in batch.lines if line.kept_g > 0]
    return Food(
        key,
        name,
        "ready",
        _main_group((line.food.group, line.kept_g) for line in kept),
        Composition(figures, errors, at_least),
        allergens=allergens_of(batch.lines),
        diet=next((diet for diet in NARROWEST_DIET if any(line.food.diet == diet for line in kept)), "plant"),
        contains_pork=any(line.food.contains_pork for line in batch.lines),
        keep_group=keep_group,
        source=OWN_POT,
    )


def _main_group(parts: Iterable[tuple[str, float]]) -> str:
    """The kind of food there is most of by weight."""
    weights = defaultdict[str, float](float)
    for group, grams in parts:
        weights[group] += grams
    return max(weights, key=lambda group: weights[group], default="")


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
