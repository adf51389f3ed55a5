"""What is still done with a box before it is eaten, and the evening before: taken out, soaked, heated, finished."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from goodcrate.core.foods.keep_groups import KeepGroup
from goodcrate.core.foods.line.words import NIGHT_BEFORE
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.component import AT_TABLE_USES, IngredientLine
from goodcrate.core.recipes.keeping import storage_of
from goodcrate.core.recipes.recipe import Recipe

TAKE_OUT, HEAT, ADD, PREPARE = "take_out", "heat", "add", "prepare"


@dataclass(frozen=True, slots=True)
class ToDo:
    """One thing to do with a meal: what kind, in words, and by `key` the same thing each time it is asked.

    `weighs` is what is weighed for it.
    """

    key: str
    kind: str
    words: str
    weighs: tuple["ToWeigh", ...] = ()


@dataclass(frozen=True, slots=True)
class ToWeigh:
    """An ingredient that goes on a plate on the day or in the evening before: its line's key, and its planned grams."""

    line_key: str
    food: str
    grams: float


def heating_words(recipe: Recipe, groups: Mapping[str, KeepGroup]) -> str:
    """How a dish is heated again, each component by its own rule, said once where it is the same."""
    words: list[str] = []
    for component in recipe.components:
        if not component.lines:
            continue
        said = storage_of(component, recipe.steps, groups).reheat
        line = said if len(recipe.components) == 1 else f"{component.name}: {said}"
        if said and line not in words:
            words.append(line)
    together = {w.partition(": ")[2] for w in words}
    if len(words) > 1 and len(together) == 1:
        words = [together.pop()]
    return " ".join(f"{w[:1].upper()}{w[1:].rstrip('.')}." for w in words)


def added_on_the_day(recipe: Recipe, servings: float) -> tuple[ToDo, ...]:
    """What goes on a plate when it is eaten, weighed."""
    return _lines(recipe, servings, frozenset({"on_the_day"}), ADD)


def added_at_packing(recipe: Recipe, servings: float, component_key: str) -> tuple[ToDo, ...]:
    """What of a component goes into each box as it is packed, weighed."""
    mine = replace(recipe, components=tuple(c for c in recipe.components if c.key == component_key))
    return _lines(mine, servings, frozenset({"at_packing"}), ADD)


def night_before(recipe: Recipe, servings: float) -> tuple[ToDo, ...]:
    """What is soaked, mixed or grated the evening before; and the steps that are said to be for the night."""
    found = _lines(recipe, servings, frozenset({"night_before"}), PREPARE)
    steps = [
        step
        for step in recipe.steps
        if NIGHT_BEFORE.search(step.text.lower()) and not any(step.key in other.after for other in recipe.steps)
    ]
    if not steps:
        return tuple(replace(todo, words=say("Put in {what}", what=todo.words)) for todo in found)
    first, *others = steps
    weighed = ", ".join(todo.words for todo in found)
    words = f"{first.text.rstrip('.')} ({weighed})" if weighed else first.text
    rest = (ToDo(f"step:{step.key}", PREPARE, step.text) for step in others)
    return (ToDo(f"step:{first.key}", PREPARE, words, tuple(w for todo in found for w in todo.weighs)), *rest)


def later_lines(recipe: Recipe) -> dict[str, IngredientLine]:
    """The ingredients that are weighed at the table or the evening before, by their keys."""
    return {line.key: line for c in recipe.components for line in c.lines if line.use in AT_TABLE_USES}


def _lines(recipe: Recipe, servings: float, uses: frozenset[str], kind: str) -> tuple[ToDo, ...]:
    share = servings / recipe.servings if recipe.servings else 0.0

    def todo(line: IngredientLine) -> ToDo:
        food, grams = line.food.name.split(",")[0].lower(), line.amount.grams * share
        words = say("{grams} g {food}", grams=shown(grams), food=food)
        return ToDo(f"line:{line.key}", kind, words, (ToWeigh(line.key, food, grams),))

    return tuple(
        todo(line)
        for component in recipe.components
        for line in component.lines
        if line.use in uses and line.amount.grams > 0
    )


def to_do_now(
    recipe: Recipe, servings: float, groups: Mapping[str, KeepGroup], *, from_place: str, is_cold: bool
) -> Sequence[ToDo]:
    """What to do with a meal's box now, in its order."""
    steps = [ToDo("take_out", TAKE_OUT, from_place)] if from_place else []
    if not is_cold and is_heated(recipe, groups):
        steps.append(ToDo("heat", HEAT, heating_words(recipe, groups)))
    return (*steps, *added_on_the_day(recipe, servings))


def is_heated(recipe: Recipe, groups: Mapping[str, KeepGroup]) -> bool:
    """Whether any part of a dish is heated before it is eaten."""
    parts = [c for c in recipe.components if c.lines]
    return any(storage_of(c, recipe.steps, groups).reheat != say("eat cold") for c in parts)
