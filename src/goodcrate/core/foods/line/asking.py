"""What a careful cook would ask about a line: a word no row explains, foods far apart, an amount nothing weighs."""

import re
from collections.abc import Iterator, Sequence

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.line.naming import ALIAS, Candidate, Lexicon
from goodcrate.core.foods.line.quantity import Quantity
from goodcrate.core.foods.line.weighing import Weight
from goodcrate.core.foods.line.wording import PEEL, TO_TASTE_FLAG
from goodcrate.core.foods.line.words import FILLERS, tokens_of
from goodcrate.core.foods.units import MASS, NONE
from goodcrate.core.ground.amounts import LARGEST_LINE_G
from goodcrate.core.ground.wording import Saying, say

OPEN = {
    frozenset({"cream"}): Saying("single, whipping or double?"),
    frozenset({"greek", "yoghurt"}): Saying("how much fat?"),
    **{frozenset({word}): Saying("raw or cooked?") for word in ("prawn", "shrimp")},
    **{frozenset({word}): f"which {word}s?" for word in ("nut", "seed", "bean", "herb", "vegetable")},
    **{frozenset({word}): f"which {word}?" for word in ("fish", "meat", "fruit", "cheese")},
    frozenset({"berry"}): Saying("which berries?"),
    frozenset({"white", "fish"}): Saying("which fish?"),
    frozenset({"steak"}): Saying("which meat?"),
    frozenset({"mince"}): Saying("of what?"),
}
"""Words that leave open which food, where the rows they may mean are far apart; what is asked."""
ANY_KIND = frozenset({"king", "tiger", "jumbo", "peeled", "grated", "chopped", "fresh", "mixed"})
"""Words beside those that leave it just as open."""
WHOLE = frozenset({"chicken", "turkey", "duck", "lamb", "pork", "beef", "rabbit", "goose"})
"""Animals of which one piece is no piece of the usual cut."""
ROASTED_WHOLE = frozenset({"rotisserie", "roast", "roasted", "whole"})
APART = 1.5
"""Foods whose energies are further apart than this are asked about when a line may mean either."""
CLOSE = 3.0
"""So near in score two candidates are alike."""
LOOKED_AT = 5
ALIKE_STATES = frozenset({"frozen", "fresh", "ready", "leftover", "steamed", "boiled", "uncooked", "packed", "drained"})
"""Words of a state that change little when a row in that very state is not there."""
NO_MEASURE = frozenset({"mug"})
SEASONINGS = frozenset({"spice", "herb"})
COUNT_NOTHING = frozenset({"salt", "black_pepper", "water_tap"})


def is_seasoning(food: Food) -> bool:
    """Whether it is used by taste, and counts next to nothing."""
    return food.group in SEASONINGS or food.key in COUNT_NOTHING


def of_the_name(
    words: Sequence[str], found: Sequence[Candidate], hints: frozenset[str], part: str, lexicon: Lexicon
) -> Iterator[str]:
    """What is asked of the food a line names, in words; `part` is the part of a fruit that is meant."""
    if not found:
        yield say("no such food is known")
        return
    best = found[0]
    food = lexicon.foods[best.key]
    if any(re.search(r"\d", w) and "%" not in w for w in best.open_words):
        yield say("the amount can be read in two ways")
    left = [w for w in best.open_words if w not in ALIKE_STATES or _state_matters(w, food)]
    if left:
        yield say("“{left}” is not in {name}", left=" ".join(left), name=food.name)
    if part == PEEL and not set(words) <= {*tokens_of(food.name), *FILLERS}:
        yield say("no peel but {name} is known", name=food.name.split(",")[0].lower())
    if "can" in hints and food.state in ("dry", "raw"):
        yield say("no tin of it is known")
    telling = frozenset(w for w in words if w not in FILLERS) - ANY_KIND
    if telling in OPEN:
        yield OPEN[telling]
    elif best.form.rank < ALIAS and (other := _alike(best, found, lexicon)) is not None:
        yield say("it may also be {name}", name=other.name)


def _state_matters(word: str, food: Food) -> bool:
    if word == "fresh":
        return food.state in ("dry", "canned_drained", "canned_whole")
    return word in ("boiled", "steamed", "leftover") and food.state in ("dry", "raw")


def _kcal(food: Food) -> float:
    return food.composition.get("energy_kcal") or 0.0


def _far_apart(a: Food, b: Food) -> bool:
    return max(_kcal(a), _kcal(b)) > APART * max(min(_kcal(a), _kcal(b)), 1.0)


def _alike(best: Candidate, found: Sequence[Candidate], lexicon: Lexicon) -> Food | None:
    """A food the words may mean just as well, whose energy is far from the first one's."""
    mine = lexicon.foods[best.key]
    near = (lexicon.foods[c.key] for c in found[1 : LOOKED_AT + 1] if best.score - c.score <= CLOSE)
    return next((other for other in near if _far_apart(mine, other)), None)


def of_either(first: Sequence[Candidate], second: Sequence[Candidate], lexicon: Lexicon) -> Iterator[str]:
    """“Butter or olive oil”: which? What hardly differs is not asked about."""
    if not first:
        return
    if not second:
        yield say("what else may it be?")
        return
    a, b = lexicon.foods[first[0].key], lexicon.foods[second[0].key]
    is_known = not first[0].open_words and not second[0].open_words
    is_another = a.group != b.group or _far_apart(a, b) or a.name.split(",")[0] != b.name.split(",")[0]
    if is_known and a.key != b.key and is_another:
        yield say("two foods are named: which one?")


def of_two_foods(
    sides: Sequence[Sequence[Candidate]], asks: Sequence[str], quantity: Quantity | None, lexicon: Lexicon
) -> tuple[str, ...]:
    """What is asked of “cumin and turmeric”; of two seasonings without an amount nothing is."""
    if len(sides) < 2 or not all(side and not side[0].open_words for side in sides):
        return tuple(asks)
    if quantity is None and all(is_seasoning(lexicon.foods[side[0].key]) for side in sides):
        return ()
    return (say("two foods stand in one line"), *asks)


def of_the_amount(
    food: Food | None, words: Sequence[str], quantity: Quantity | None, weight: Weight | None, flags: Sequence[str]
) -> Iterator[str]:
    """What is asked of how much it is."""
    if food is None:
        return
    if quantity is None:
        if not is_seasoning(food) and TO_TASTE_FLAG not in flags:
            yield say("no amount is given")
        return
    if quantity.kind == NONE and set(words) - FILLERS - ROASTED_WHOLE <= WHOLE:
        yield say("which part of it?")
    if quantity.unit in NO_MEASURE:
        yield say("a {unit} is no measure", unit=quantity.unit)
    if weight is None:
        yield say("what does one {unit} weigh?", unit=quantity.unit or say("piece"))
    elif weight.grams > LARGEST_LINE_G or (weight.grams <= 0 and quantity.kind != MASS):
        yield say("the amount cannot be right")
