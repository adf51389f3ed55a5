"""Swaps and variants: another food that gives the same energy or protein, and the recipe for one eater without a food.

A variant shares every component it does not change; only what differs is cooked apart.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from uuid import NAMESPACE_URL, UUID, uuid5

from goodcrate.core.foods.food import ALLERGEN_WORDS, UNKNOWN, Food
from goodcrate.core.ground.amounts import LARGEST_LINE_G, amount_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import NUTRIENTS, Tally
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import round_half_up, short, shown
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.recipe import Recipe, Variant

BY_ENERGY, BY_PROTEIN, BY_WEIGHT = "energy", "protein", "weight"
SWAPS_BY: Mapping[str, str] = {
    BY_ENERGY: Saying("same energy"),
    BY_PROTEIN: Saying("same protein"),
    BY_WEIGHT: Saying("same weight"),
}
_NUTRIENT = {BY_ENERGY: "energy_kcal", BY_PROTEIN: "protein_g"}


NEGLIGIBLE = 0.05


@dataclass(frozen=True, slots=True)
class Shift:
    """One nutrient's change in a serving: before and after in its unit; None where a figure is unknown."""

    key: str
    label: str
    unit: str
    decimals: int
    before: float | None
    after: float | None

    @property
    def change(self) -> float | None:
        """After minus before."""
        return None if self.before is None or self.after is None else self.after - self.before

    @property
    def is_worth_saying(self) -> bool:
        """Whether it is not known, or more than a rounding."""
        return self.change is None or abs(self.change) > NEGLIGIBLE


@dataclass(frozen=True, slots=True)
class Swap:
    """`grams` of another food in place of a line, and what shifts by it in the amounts swapped."""

    line: IngredientLine
    food: Food
    grams: float
    by: str
    shifts: tuple[Shift, ...]
    gains: tuple[str, ...]
    loses: tuple[str, ...]
    diet_note: str


def swap_grams(line: IngredientLine, food: Food, by: str) -> float:
    """Grams of `food` that give what the line's food gives: exact, in g.

    Raises:
        InvalidInput: when a needed figure is unknown or zero, the rule is none of ours, or it would be over 10 kg.
    """
    if by not in SWAPS_BY:
        raise InvalidInput(
            "swap-by", say("“{by}” is no way to swap.", by=by), say("One of {SWAPS_BY}.", SWAPS_BY=", ".join(SWAPS_BY))
        )
    if by == BY_WEIGHT:
        return line.amount.grams
    key = _NUTRIENT[by]
    word = key.rsplit("_", 1)[0]
    mine, theirs = line.food.composition.get(key), food.composition.get(key)
    if mine is None or theirs is None:
        name = line.food.name if mine is None else food.name
        raise InvalidInput(
            "swap-by",
            say("The {word} of {name} is unknown.", word=word, name=name),
            say("Swap by weight, or type its label."),
        )
    if theirs <= 0:
        raise InvalidInput(
            "swap-by",
            say("{name} has no {word} to match with.", name=food.name, word=word),
            say("Swap by weight, or another food."),
        )
    grams = line.amount.grams * mine / theirs
    if grams > LARGEST_LINE_G:
        raise InvalidInput(
            "swap-by",
            say("That would be {grams} g of {name}.", grams=shown(grams), name=food.name.lower()),
            say("Choose another food."),
        )
    return grams


def swap(line: IngredientLine, food: Food, by: str, servings: float = 1.0) -> Swap:
    """Put `food` in a line's place at equal energy, protein or weight; shifts are per serving.

    Raises:
        InvalidInput: when the amount cannot be worked out (see `swap_grams`).
    """
    exact = swap_grams(line, food, by)
    grams = round_half_up(exact, 1)
    amount = amount_of(grams, line.amount.measure if grams else "weighed")
    new = replace(line, food=food, amount=amount, is_uncounted=line.is_uncounted and food.is_trace_kind)
    before, after = line.tally.scaled(1 / servings), new.tally.scaled(1 / servings)
    old_allergens, new_allergens = line.food.allergens, food.allergens
    loses = () if UNKNOWN in new_allergens else tuple(sorted(ALLERGEN_WORDS[a] for a in old_allergens - new_allergens))
    return Swap(
        line,
        food,
        grams,
        by,
        _shifts(before, after),
        tuple(sorted(ALLERGEN_WORDS[a] for a in new_allergens - old_allergens)),
        loses=loses,
        diet_note=""
        if line.food.diet == food.diet
        else say("{food} becomes {food2}", food=_diet(line.food), food2=_diet(food)),
    )


def _diet(food: Food) -> str:
    return say("plant food") if food.diet == "plant" else ("pork" if food.contains_pork else food.diet)


def _shifts(before: Tally, after: Tally) -> tuple[Shift, ...]:
    shifts = []
    for n in NUTRIENTS:
        a, b = before.amount(n.key), after.amount(n.key)
        shifts.append(
            Shift(
                n.key, n.label, n.unit, n.decimals, None if a.unknown_g else a.value, None if b.unknown_g else b.value
            )
        )
    return tuple(shifts)


def check_variants(variants: Sequence[Variant], line_keys: Iterable[str]) -> tuple[InvalidInput, ...]:
    """What cannot be in a recipe's variants: an eater in two of them, lines that are not there, no change."""
    faults: list[InvalidInput] = []
    known, seen = set(line_keys), dict[str, str]()
    for variant in variants:
        place = f"variant-{variant.key}"
        faults += _what_is_missing(variant, place)
        for eater in variant.eater_keys:
            if eater in seen:
                faults.append(
                    InvalidInput(
                        f"{place}-eaters", say("One eater is in “{seen}” too.", seen=seen[eater]), say("One is enough.")
                    )
                )
            seen[eater] = variant.name
        for change in variant.changes:
            if change.line_key not in known:
                faults.append(
                    InvalidInput(f"{place}-changes", say("It changes an ingredient that is not there any more."))
                )
            elif not change.is_left_out and not 0 < change.grams <= LARGEST_LINE_G:
                faults.append(
                    InvalidInput(
                        f"{place}-changes",
                        say("{grams} g is not possible.", grams=short(change.grams)),
                        say("Above 0 g."),
                    )
                )
    return tuple(faults)


def _what_is_missing(variant: Variant, place: str) -> Iterator[InvalidInput]:
    if not variant.name.strip():
        yield InvalidInput(f"{place}-name", say("The variant needs a name."), say("Such as “without celery”."))
    if not variant.eater_keys:
        yield InvalidInput(f"{place}-eaters", say("For whom is it?"), say("Tick an eater."))
    if not variant.changes:
        yield InvalidInput(f"{place}-changes", say("Nothing differs yet."), say("Leave out or swap an ingredient."))


def variant_component_key(variant_key: str, component_key: str) -> str:
    """The key of a variant's own version of a component: always the same for the same two."""
    try:
        space = UUID(variant_key)
    except ValueError:
        space = uuid5(NAMESPACE_URL, variant_key)
    return str(uuid5(space, component_key))


def variant_recipe_key(recipe_key: str, variant_key: str) -> str:
    """The key of a recipe as one variant makes it."""
    return f"{recipe_key}~{variant_key}"


def base_recipe_key(key: str) -> str:
    """The recipe's own key, whether given that or a variant's."""
    return key.partition("~")[0]


def changed_components(recipe: Recipe, variant: Variant) -> tuple[Component, ...]:
    """The components a variant cooks apart, in the recipe's order: those with a changed line."""
    by_line = {change.line_key: change for change in variant.changes}
    changed = []
    for component in recipe.own_components:
        if not any(line.key in by_line for line in component.lines):
            continue
        lines = []
        for line in component.lines:
            change = by_line.get(line.key)
            key = f"{line.key}~{variant.key}"
            if change is None:
                lines.append(replace(line, key=key))
            elif change.food is not None:
                amount = amount_of(change.grams, "weighed" if line.amount.measure == "count" else line.amount.measure)
                trace = line.is_uncounted and change.food.is_trace_kind
                lines.append(replace(line, key=key, food=change.food, amount=amount, is_uncounted=trace))
        new = component.with_lines(lines)
        changed.append(
            replace(
                new,
                key=variant_component_key(variant.key, component.key),
                name=f"{component.name}, {variant.name}",
                variant_of=component.key,
                learned=None if component.cooked_g is not None else component.learned,
            )
        )
    return tuple(changed)


def with_variant(recipe: Recipe, variant: Variant) -> Recipe:
    """The recipe as a variant makes it: changed components take their originals' places, the others are the same ones.

    A component of which nothing is left falls away. Steps of a changed component work on its new version.
    """
    changed = {c.variant_of: c for c in changed_components(recipe, variant)}
    components = tuple(changed.get(c.key, c) for c in recipe.components)
    components = tuple(c for c in components if c.lines or c.pending)
    steps = tuple(
        replace(s, component_key=changed[s.component_key].key) if s.component_key in changed else s
        for s in recipe.steps
    )
    name = f"{recipe.name}, {variant.name}" if variant.name else recipe.name
    key = variant_recipe_key(recipe.key, variant.key)
    return replace(recipe, key=key, name=name, components=components, steps=steps, variants=())


def for_eater(recipe: Recipe, eater_key: str) -> Recipe:
    """The recipe as it is cooked for one eater: their variant, or the recipe itself."""
    variant = next((v for v in recipe.variants if eater_key in v.eater_keys), None)
    return recipe if variant is None else with_variant(recipe, variant)
