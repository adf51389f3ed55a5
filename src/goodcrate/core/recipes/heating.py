"""Which component is cooked, line by line, and what is still raw in it.

A step that names no component heats those it can be meant for: the one there is, those that hold something raw or dry
to cook, and those it names. It never makes a dressing or a salad into a hot dish.
"""

from collections.abc import Iterable, Sequence

from goodcrate.core.foods.food import BOILED, is_raw, must_be_cooked
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.same import once_for_same
from goodcrate.core.recipes.component import UNCOOKED_USES, Component, IngredientLine, step_heats
from goodcrate.core.recipes.cooking import RAW, SOAKED
from goodcrate.core.recipes.steps import Step


@once_for_same
def is_cooked(component: Component, steps: Iterable[Step]) -> bool:
    """Whether a component is cooked: by a step, by holding what is never eaten dry, or by its cooked weight.

    The cook's word goes before all of them.
    """
    if component.cooked_as:
        return component.cooked_as not in (RAW, SOAKED)
    if any(step_heats(step, component) for step in steps):
        return True
    if any(line.food.cooks_like in BOILED and line.food.needs_cooking_yield for line in component.lines):
        return True
    if component.cooked_g is None and component.learned is None:
        return False
    if any(must_be_cooked(line.food) for line in component.lines):
        return True
    kept_g = component.kept_g
    factor = component.learned.factor if component.cooked_g is None and component.learned else 1.0
    factor = component.cooked_g / kept_g if component.cooked_g is not None and kept_g > 0 else factor
    changed = abs(factor - 1) > WEIGHT_OF_COOKING
    return changed and any(x.food.needs_cooking_yield and x.food.keep_group not in _SALADS for x in component.lines)


WEIGHT_OF_COOKING = 0.15
"""A dish with raw or dry things that weighs over 15 % more or less than what went in was cooked: our line."""
_SALADS = frozenset({"leafy", "fresh_herb", "cut_fruit", "whole_fruit"})


@once_for_same
def heated_lines(component: Component, steps: Sequence[Step]) -> frozenset[str]:
    """Keys of the lines that are cooked: not what goes in at packing or on the day, nor leaves that no step names.

    A component that no step heats, cooked by what it holds or weighs, cooks what must be and nothing else.
    """
    heating = [step for step in steps if step_heats(step, component) and component.cooked_as != RAW]
    if not heating and not is_cooked(component, steps):
        return frozenset()
    said = {word for step in heating for word in words_of(step.text)}
    by_weight = bool(component.cooked_as) or component.cooked_g is not None or component.learned is not None
    names_some = any(said & set(words_of(line.food.name)) for line in component.lines)

    def is_heated(line: IngredientLine) -> bool:
        food = line.food
        if food.cooks_like in BOILED or (by_weight and (must_be_cooked(food) or food.keep_group == "hard_veg")):
            return True
        return bool(heating) and (must_be_cooked(food) or _is_reached(line, said, names_some))

    return frozenset(line.key for line in component.lines if line.use not in UNCOOKED_USES and is_heated(line))


def _is_reached(line: IngredientLine, said: set[str], names_some: bool) -> bool:
    """Whether steps that heat mean this line too: leaves only when they are named, or when nothing is."""
    return line.food.keep_group != "leafy" or not names_some or bool(said & set(words_of(line.food.name)))


def still_raw(component: Component, steps: Sequence[Step]) -> tuple[IngredientLine, ...]:
    """Lines of raw meat, fish, egg or flour that no heating step reaches."""
    by_step = component.cooked_as != RAW and any(step_heats(step, component) for step in steps)
    heated = heated_lines(component, steps) if by_step else frozenset()
    return tuple(
        line
        for line in component.lines
        if not line.is_discarded and not line.is_poured_off and is_raw(line.food) and line.key not in heated
    )
