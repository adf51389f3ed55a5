"""What an eater must not get, does not like, and cannot do with a meal: one rule each, said in one sentence.

Diet, allergens and pork are looked at together: a food said to be plants that holds milk is no food for somebody who
eats plants only. Labels overrule: recipes of bought foods change.
"""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

from goodcrate.core.foods.food import ALLERGENS, ANIMAL_ALLERGENS, UNKNOWN, Food
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.recipes.recipe import Recipe

BANNED_BY_DIET: Mapping[str, frozenset[str]] = {
    "vegetarian": frozenset({"meat", "fish"}),
    "plant": frozenset({"meat", "fish", "dairy", "egg", "honey"}),
}
"""Diets of foods that a diet of an eater leaves out."""
DIET_WORDS: Mapping[str, str] = {"vegetarian": Saying("eats no meat and no fish"), "plant": Saying("eats plants only")}


@dataclass(frozen=True, slots=True)
class Exclusions:
    """What somebody must not get: allergens, pork, foods outside a diet; and what they dislike, in their words."""

    name: str
    allergens: frozenset[str] = frozenset()
    no_pork: bool = False
    diet: str = ""
    dislikes: str = ""


def why_not_for(eater: Exclusions, recipe: Recipe) -> str | None:
    """Why an eater must not get a recipe, as a sentence; None when nothing stands against it."""
    foods = [line.food for component in recipe.components for line in component.lines]
    return _why_not(eater, foods, recipe.name)


def why_not_food(eater: Exclusions, food: Food) -> str | None:
    """Why an eater must not get a food, as a sentence; None when nothing stands against it."""
    return _why_not(eater, [food], food.name)


def _why_not(eater: Exclusions, foods: Iterable[Food], name: str) -> str | None:
    known = list(foods)
    hits = sorted(frozenset().union(*(food.allergens for food in known)) & eater.allergens)
    if hits:
        return say(
            "{name} holds {names}, which {name2} must not get.",
            name=name,
            names=", ".join(ALLERGENS[h] for h in hits),
            name2=eater.name,
        )
    unread = next((food for food in known if eater.allergens and UNKNOWN in food.allergens), None)
    if unread is not None:
        short = unread.name.split(",")[0].lower()
        return say(
            "{name} holds {short}, of which not all allergens are known here: read its label for {name2}.",
            name=name,
            short=short,
            name2=eater.name,
        )
    outside = next((said for food in known if (said := _outside_diet(eater.diet, food))), "")
    if outside:
        return say(
            "{name} holds {outside}, and {name2} {DIET_WORDS}.",
            name=name,
            outside=outside,
            name2=eater.name,
            DIET_WORDS=DIET_WORDS[eater.diet],
        )
    if eater.no_pork and any(food.contains_pork for food in known):
        return say("{name} holds pork, which {name2} does not eat.", name=name, name2=eater.name)
    if eater.no_pork and any(food.diet == UNKNOWN for food in known):
        return say("{name} may hold pork, which {name2} does not eat: read the label.", name=name, name2=eater.name)
    return None


def _outside_diet(diet: str, food: Food) -> str:
    """What puts a food outside a diet: its own diet, or an allergen from an animal; empty when nothing does."""
    banned = BANNED_BY_DIET.get(diet, frozenset())
    if banned and food.diet == UNKNOWN:
        return say("{name}, of which it is not known here what it is made of,", name=food.name.split(",")[0].lower())
    if food.diet in banned or (banned and food.contains_pork):
        return food.name.split(",")[0].lower()
    animal = next((a for a in sorted(food.allergens) if ANIMAL_ALLERGENS.get(a) in banned), "")
    return (
        say("{name} with {ALLERGENS}", name=food.name.split(",")[0].lower(), ALLERGENS=ALLERGENS[animal])
        if animal
        else ""
    )


_MADE_OF = (
    (frozenset({"meat"}), Saying("meat")),
    (frozenset({"fish"}), Saying("fish")),
    (frozenset({UNKNOWN}), Saying("not all known")),
    (frozenset({"dairy", "egg"}), Saying("dairy and egg")),
    (frozenset({"dairy"}), Saying("dairy")),
    (frozenset({"egg"}), Saying("egg")),
    (frozenset({"honey"}), Saying("plants and honey")),
)


def made_of(recipe: Recipe) -> str:
    """What a recipe is made of, in a word: the first of meat, fish, dairy and egg that is in it, else plants."""
    diets = {line.food.diet for component in recipe.components for line in component.lines}
    return next((word for kinds, word in _MADE_OF if kinds <= diets), Saying("plants"))


def disliked_foods(eater: Exclusions, recipe: Recipe) -> tuple[str, ...]:
    """Names of a recipe's foods that an eater said to dislike, each once, in the recipe's order.

    A dislike is met when all its words are in the name; an oil only when the dislike says oil or fat.
    """
    phrases = [words_of(part) for part in eater.dislikes.replace(";", ",").replace(" and ", ",").split(",")]
    found: dict[str, None] = {}
    for component in recipe.components:
        for line in component.lines:
            words = set(words_of(line.food.name))
            if any(p and words.issuperset(p) and _may_be_meant(line.food, p) for p in phrases):
                found[line.food.name.split(",")[0].lower()] = None
    return tuple(found)


def _may_be_meant(food: Food, phrase: Iterable[str]) -> bool:
    return food.group != "fat" or bool({"oil", "fat", "butter", "lard", "ghee"} & set(phrase))


def remarks(
    eater: Exclusions,
    recipe: Recipe,
    tags: Collection[str],
    reheats: Iterable[str],
    *,
    slot: str,
    is_cold: bool,
    travels: bool,
) -> tuple[str, ...]:
    """What is worth saying before a meal stands in a slot, one sentence each; none of it forbids anything.

    `reheats` are the reheating words of the recipe's components; `is_cold` a slot at which nothing is heated.
    """
    said = []
    if is_cold and "cold" not in tags and any(words.startswith(("heat", "cook")) for words in reheats):
        said.append(say("{name} is to be heated, and nothing is heated for {slot}.", name=recipe.name, slot=slot))
    if travels and tags and "travels" not in tags:
        said.append(say("{name} is not marked as one that travels, and {slot} does.", name=recipe.name, slot=slot))
    disliked = disliked_foods(eater, recipe)
    if disliked:
        said.append(
            say(
                "{name} does not like {disliked}, which {name2} holds.",
                name=eater.name,
                disliked=" and ".join(disliked),
                name2=recipe.name,
            )
        )
    return tuple(said)
