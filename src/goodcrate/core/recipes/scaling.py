"""Scaling a recipe: by servings, by a target portion, by a whole pack, by whole eggs, by the largest vessel.

Leavening, salt and strong spices grow less than the rest when a recipe is more than doubled, discrete things are
rounded to whole ones, hands-on time grows less than the amount, and what simmers or bakes takes as long as before.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import ceil, floor

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import round_half_up, short, shown
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.filling_vessels import Filling, filling, largest_factor
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.steps import Step, hands_on_min, unattended_min
from goodcrate.core.recipes.vessels import Vessel

SEASONING_EXPONENT, SEASONING_FROM_FACTOR = 0.8, 2.0
"""Strong lines grow by factor^0.8 when a recipe is more than doubled: a rule of thumb; it can be switched off."""
TIME_EXPONENT = 0.7
"""Hands-on time grows by factor^0.7: chopping twice as much does not take twice as long."""
_STRONG_KEYS = frozenset({"salt", "baking_powder", "baking_soda", "yeast_dried", "stock_cube"})
_STRONG_WORDS = (
    "salt",
    Saying("baking powder"),
    Saying("baking soda"),
    "bicarbonate",
    "yeast",
    Saying("stock cube"),
    Saying("chilli flake"),
    "chili",
)


def is_strong(food: Food) -> bool:
    """Whether a food is leavening, salt or a strong spice."""
    name = food.name.lower()
    if food.key in _STRONG_KEYS or food.group == "spice":
        return True
    return food.group in ("condiment", "baking") and any(name.startswith(word) for word in _STRONG_WORDS)


def is_discrete(line: IngredientLine) -> bool:
    """Whether a line is only used in whole pieces: eggs, tins, blocks that were counted as such."""
    if line.amount.measure == "count" and line.food.each_g is not None:
        return line.food.group == "egg" or (line.food.each_name or "").startswith(
            ("block", "tin", "can", "fillet", "sausage")
        )
    return line.amount.measure == "pack" and line.food.pack_g is not None and _is_whole_packs(line)


def whole_unit_g(recipe: Recipe, serving_g: float) -> float | None:
    """Grams of a dish that one whole egg, tin or pack makes, of the line that comes in the largest steps; None when
    all of it can be weighed to the gram."""
    steps = []
    for line in recipe.lines:
        each = line.food.each_g if line.amount.measure == "count" else line.food.pack_g
        if is_discrete(line) and each:
            steps.append(serving_g * recipe.servings * each / line.amount.grams)
    return max(steps, default=None)


def piece_portion_g(recipe: Recipe, serving_g: float) -> float | None:
    """Grams of a portion by which it grows with each whole piece, for a recipe that has whole pieces in a component of
    their own (boiled eggs, fillets side by side); None for what can be cut anywhere."""
    steps = []
    for component in recipe.components:
        kept = [line for line in component.lines if line.kept_g > 0]
        if len(kept) == 1 and is_discrete(kept[0]) and kept[0].food.each_g:
            pieces = kept[0].amount.grams / kept[0].food.each_g / recipe.servings
            steps.append(serving_g / pieces)
    return max(steps, default=None)


def _is_whole_packs(line: IngredientLine) -> bool:
    packs = line.amount.grams / (line.food.pack_g or 1.0)
    return packs >= 0.5 and abs(packs - round(packs)) < 0.02


@dataclass(frozen=True, slots=True)
class ScaledLine:
    """One line before and after. `note` says why it is not simply multiplied, empty when it is."""

    line: IngredientLine
    before_g: float
    exact_g: float
    note: str

    @property
    def after_g(self) -> float:
        """Grams after scaling."""
        return self.line.amount.grams


@dataclass(frozen=True, slots=True)
class Scaled:
    """A recipe in another size, line by line, with times and vessels; `changed_shares` are relative shifts per serving.

    `hands_on_min` is before and after; `fillings` are per component key.
    """

    recipe: Recipe
    factor: float
    lines: tuple[ScaledLine, ...]
    hands_on_min: tuple[float, float]
    unattended_min: tuple[float, float]
    fillings: tuple[tuple[str, Filling], ...]
    kcal_per_serving: tuple[float, float]
    protein_per_serving: tuple[float, float]


def factor_for_servings(recipe: Recipe, servings: float) -> float:
    """By how much to multiply for so many servings.

    Raises:
        InvalidInput: when the servings are not from 0.5 to 100.
    """
    if not 0.5 <= servings <= 100:
        raise InvalidInput(
            "scale-to",
            say("{servings} servings is not possible.", servings=short(servings)),
            say("Give {short} to 100.", short=short(0.5)),
        )
    return servings / recipe.servings


def factor_for_portion(recipe: Recipe, portion_g: float) -> float:
    """By how much to multiply so that a serving weighs so many grams, the number of servings staying.

    Raises:
        InvalidInput: when the portion is not from 10 g to 3 kg, or the recipe has no ingredients.
    """
    if not 10 <= portion_g <= 3000:
        raise InvalidInput(
            "scale-to",
            say("A portion of {portion_g} g is not possible.", portion_g=short(portion_g)),
            say("From 10 to {shown} g.", shown=shown(3000)),
        )
    now = serving_of(recipe).tally.grams
    if now <= 0:
        raise InvalidInput("scale-to", say("There is nothing to scale yet."), say("Add an ingredient first."))
    return portion_g / now


def factor_for_whole_packs(recipe: Recipe, line_key: str) -> float:
    """By how much to multiply so that one line uses whole packs up: the nearest number of packs, at least one.

    Raises:
        InvalidInput: when there is no such line, or what a pack holds is not known.
    """
    line = _line(recipe, line_key)
    if line.food.pack_g is None:
        raise InvalidInput(
            "scale-line",
            say("What a pack of {name} holds is not known.", name=line.food.name.lower()),
            say("Say it once."),
        )
    packs = max(1.0, round_half_up(line.amount.grams / line.food.pack_g))
    return packs * line.food.pack_g / line.amount.grams


def factor_for_whole_eggs(recipe: Recipe, line_key: str) -> float:
    """By how much to multiply so that a counted line is a whole number of pieces, at least one.

    Raises:
        InvalidInput: when there is no such line, or what one weighs is not known.
    """
    line = _line(recipe, line_key)
    if line.food.each_g is None:
        raise InvalidInput(
            "scale-line", say("What one {name} weighs is not known.", name=line.food.name.lower()), say("Say it once.")
        )
    return max(1.0, round_half_up(line.amount.grams / line.food.each_g)) * line.food.each_g / line.amount.grams


def factor_for_vessel(recipe: Recipe, vessels: Sequence[Vessel]) -> float:
    """By how much to multiply so that the component that fills its vessel most fills the largest one.

    Raises:
        InvalidInput: when no component names a vessel the kitchen has.
    """
    factors = [
        f
        for c in recipe.own_components
        if (f := largest_factor(c, expected_cooked_weight(c).grams, vessels)) is not None
    ]
    if not factors:
        raise InvalidInput(
            "scale-to", say("No component says in which vessel it is made."), say("Choose its vessel first.")
        )
    return min(factors)


def _line(recipe: Recipe, key: str) -> IngredientLine:
    line = next((x for c in recipe.own_components for x in c.lines if x.key == key), None)
    if line is None or line.amount.grams <= 0:
        raise InvalidInput("scale-line", say("Choose an ingredient of this recipe."), say("One with an amount."))
    return line


def _all_fillings(recipe: Recipe, vessels: Sequence[Vessel]) -> tuple[tuple[str, Filling], ...]:
    return tuple(
        (c.key, f)
        for c in recipe.own_components
        if c.lines and (f := filling(c, expected_cooked_weight(c).grams, vessels)) is not None
    )


def scaled(
    recipe: Recipe,
    factor: float,
    *,
    servings: float | None = None,
    vessels: Sequence[Vessel] = (),
    seasoning_under_proportional: bool = True,
) -> Scaled:
    """The recipe multiplied by `factor`; it makes `servings` servings, or its own number times the factor.

    Raises:
        InvalidInput: when the factor is not from 0.02 to 50, or the servings leave 0.5 to 100.
    """
    if not 0.02 <= factor <= 50:
        raise InvalidInput(
            "scale-to",
            say("{factor} times this recipe is not possible.", factor=short(factor)),
            say("From {short} to 50 times.", short=short(0.02)),
        )
    changes: list[ScaledLine] = []
    components = []
    for component in recipe.components:
        if component.is_used:
            components.append(component)
            continue
        changed = [_scaled_line(line, factor, seasoning_under_proportional) for line in component.lines]
        changes += changed
        components.append(component.with_lines([c.line for c in changed]))
    makes = recipe.servings * factor if servings is None else servings
    new = replace(recipe, servings=round(makes, 1), components=tuple(components))
    fillings = _all_fillings(new, vessels)
    extra, before = ({key: turns_of(f) for key, f in all_of} for all_of in (fillings, _all_fillings(recipe, vessels)))
    steps = [
        scaled_step(s, factor, extra.get(s.component_key, 1) / before.get(s.component_key, 1)) for s in recipe.steps
    ]
    old_serving, new_serving = serving_of(recipe).tally, serving_of(new).tally

    def figure(key: str) -> tuple[float, float]:
        return old_serving.amount(key).value, new_serving.amount(key).value

    return Scaled(
        replace(new, steps=tuple(steps)),
        factor,
        tuple(changes),
        (hands_on_min(recipe.steps), hands_on_min(steps)),
        (unattended_min(recipe.steps), unattended_min(steps)),
        fillings,
        kcal_per_serving=figure("energy_kcal"),
        protein_per_serving=figure("protein_g"),
    )


def turns_of(f: Filling) -> int:
    """How often the vessel must be filled: vessels of the same size work side by side."""
    return ceil(len(f.loads_ml) / f.vessel.count)


def scaled_step(step: Step, factor: float, fillings: float) -> Step:
    """A step for so many times the amount: hands-on work grows with its power 0.7, heat only by so many fillings."""
    if step.duration_min is None:
        return step
    if step.is_hands_on:
        return replace(step, duration_min=round(step.duration_min * factor**TIME_EXPONENT, 1))
    return replace(
        step, duration_min=step.duration_min * fillings if step.heats and fillings > 1 else step.duration_min
    )


def scaled_grams(grams: float, factor: float) -> float:
    """Grams times a factor, in whole grams, or tenths under 10 g, as a scale can show it."""
    exact = grams * factor
    return round_half_up(exact, 1 if exact < 10 else 0)


def _scaled_line(line: IngredientLine, factor: float, gently: bool) -> ScaledLine:
    grams = line.amount.grams
    exact, note = grams * factor, ""
    if gently and factor > SEASONING_FROM_FACTOR and is_strong(line.food):
        exact = grams * factor**SEASONING_EXPONENT
        less = shown(factor**SEASONING_EXPONENT, 2)
        note = say(
            "strong: × {less} instead of × {factor}; taste before adding more", less=less, factor=shown(factor, 2)
        )
    after = scaled_grams(exact, 1.0)
    if is_discrete(line):
        each = (line.food.pack_g if line.amount.measure == "pack" else line.food.each_g) or 1.0
        pieces = max(1, floor(exact / each + 0.5))
        after = round(pieces * each, 1)
        word = "pack" if line.amount.measure == "pack" else "egg" if line.food.group == "egg" else "piece"
        if abs(after - exact) >= 0.5:
            told = {"word": word, "pieces": pieces, "each": short(each), "exact": shown(exact)}
            note = say("whole {word}s: {pieces} × {each} g instead of {exact} g", **told)
    amount = replace(line.amount.scaled_to(after), typed=_typed_like(line, after))
    return ScaledLine(replace(line, amount=amount), grams, exact, note)


def _typed_like(line: IngredientLine, grams: float) -> str:
    """Pieces and packs are written as such again; everything else in grams."""
    each = line.food.each_g if line.amount.measure == "count" else line.food.pack_g
    if not each or line.amount.measure not in ("count", "pack") or not line.amount.typed:
        return ""
    pieces = grams / each
    if abs(pieces - round(pieces, 2)) > 0.01:
        return ""
    return f"{short(round(pieces, 2))} {'pcs' if line.amount.measure == 'count' else 'packs'}"


def component_of(recipe: Recipe, line_key: str) -> Component:
    """The component a line stands in.

    Raises:
        InvalidInput: when no component has it.
    """
    for component in recipe.components:
        if any(line.key == line_key for line in component.lines):
            return component
    raise InvalidInput("line", say("Choose an ingredient of this recipe."))
