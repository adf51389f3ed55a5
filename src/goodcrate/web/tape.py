"""The tape: the working of whatever is selected, line by line, with the doubt and where it comes from.

View models only; every figure comes from core.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from goodcrate.core.amounts import MEASURES
from goodcrate.core.boxes import DIVIDED, PLANNED, WEIGHED
from goodcrate.core.nutrients import Tally
from goodcrate.core.recipes import IngredientLine, Recipe, Serving
from goodcrate.web.figures import grams, measured, number, percent, whole

STAGE_WORDS = {PLANNED: "planned", DIVIDED: "divided, not packed yet", WEIGHED: "weighed in the box"}


@dataclass(frozen=True)
class TapeLine:
    """One line: what, the working, the result; a small note below it."""

    what: str
    working: str
    result: str
    note: str = ""


@dataclass(frozen=True)
class Tape:
    """A whole tape. `sums` follow the lines under a rule; `whys` are boxed sentences at the end."""

    title: str
    of: str
    lines: tuple[TapeLine, ...] = ()
    sums: tuple[TapeLine, ...] = ()
    whys: tuple[str, ...] = ()
    heading: str = "kcal"
    extra: Mapping[str, object] = field(default_factory=dict)


SUM_KEYS = ("energy_kcal", "protein_g", "fat_g", "carbohydrate_g", "fibre_g", "sodium_mg")


def sums_of(tally: Tally, keys: Sequence[str] = SUM_KEYS) -> tuple[TapeLine, ...]:
    """The headline nutrients of a tally, each with its doubt, or “at least” where something is unknown."""
    labels = {"energy_kcal": "energy", "protein_g": "protein", "fat_g": "fat", "carbohydrate_g": "carbohydrate",
              "fibre_g": "fibre", "sodium_mg": "sodium"}  # fmt: skip
    lines = []
    for key in keys:
        amount = tally.amount(key)
        note = f"{percent(amount.unknown_share)} of the weight has no figure" if amount.is_at_least else ""
        lines.append(TapeLine(labels[key], "", measured(amount, key), note))
    return tuple(lines)


def ingredient_line(line: IngredientLine, share: float = 1.0) -> TapeLine:
    """One ingredient: its grams × its energy per gram, times the share of the batch it is shown for."""
    per_gram = line.food.composition.get("energy_kcal")
    amount = line.amount
    note = MEASURES[amount.measure].label
    if amount.standard_error_g * share >= 0.5:
        note += f", ± {grams(amount.standard_error_g * share)} g"
    if per_gram is None:
        return TapeLine(line.food.name, f"{grams(amount.grams * share)} g", "unknown", note)
    result = whole(amount.grams * share * per_gram / 100)
    return TapeLine(line.food.name, f"{grams(amount.grams * share)} g × {number(per_gram / 100, 2)}", result, note)


def doubt_sentence(tally: Tally, names: Mapping[str, str]) -> str | None:
    """The largest contributor to the energy's doubt and what weighing it would bring; None when doubt is small."""
    energy = tally.amount("energy_kcal")
    shares = tally.doubt_shares("energy_kcal")
    if energy.standard_error < 2.5 or not shares:
        return None
    source, share = shares[0]
    rest = energy.standard_error * (max(0.0, 1 - share)) ** 0.5
    name = names.get(source, "the weighing of the portion")
    if share < 0.3:
        return f"The ± comes from many small things; the largest, {name}, is {percent(share)} of it."
    return (
        f"{percent(share)} of the ± is {name}. "
        f"Weigh it and this is {whole(energy.value)} ± {max(1, round(rest))} kcal."
    )


def recipe_tape(recipe: Recipe, serving: Serving) -> Tape:
    """One serving of a recipe, ingredient by ingredient."""
    lines = []
    for part in serving.parts:
        share = part.grams / part.expected.grams if part.expected.grams else 0.0
        lines.extend(ingredient_line(line, share) for line in part.component.lines)
    names = {line.key: line.food.name.lower() for c in recipe.components for line in c.lines}
    why = doubt_sentence(serving.tally, names)
    return Tape(
        "One serving",
        f"{recipe.name or 'This recipe'} ÷ {number(recipe.servings, 1).removesuffix('.0')} · {grams(serving.tally.grams)} g cooked",
        tuple(lines),
        sums_of(serving.tally),
        (why,) if why else (),
    )
