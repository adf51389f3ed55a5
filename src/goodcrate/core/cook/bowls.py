"""What is weighed out for which step: one bowl a step, by the foods its words name."""

from collections.abc import Mapping, Sequence

from goodcrate.core.cook.batch_record import goes_in_now
from goodcrate.core.ground.find import head_of, words_of
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.steps import Step, in_order


def foods_by_step(steps: Sequence[Step], component: Component) -> Mapping[str, tuple[str, ...]]:
    """By step the keys of the foods that are weighed out for it, each once, in the order of the recipe's lines.

    A food belongs to the first step of the component that names it, else to its first step. Steps for which nothing is
    weighed out are not there; what goes in later than the session is in none.

    Raises:
        InvalidInput: when steps wait for each other in a circle.
    """
    own = [step for step in in_order(steps) if step.component_key in ("", component.key)]
    found: dict[str, dict[str, None]] = {}
    if not own:
        return {}
    said = [(step.key, frozenset(words_of(step.text))) for step in own]
    first = next((step.key for step in own if step.component_key), own[0].key)
    for line in component.lines:
        if goes_in_now(line):
            names = head_of(line.food.name)
            at = next((key for key, words in said if words & names), first)
            found.setdefault(at, {})[line.food.key] = None
    return {key: tuple(foods) for key, foods in found.items()}
