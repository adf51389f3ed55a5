"""Steps of a recipe: what is done with which equipment, for how long, and what must be done before.

A step is hands-on (somebody stands there) or runs by itself; some runs want a look in between. The run sheet of a prep
session is made of these.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import Saying, say

EQUIPMENT: Mapping[str, str] = {
    "": Saying("hands, board and bowl"),
    "hob": Saying("hob"),
    "oven": Saying("oven"),
    "microwave": Saying("microwave"),
    "air_fryer": Saying("air fryer"),
    "rice_cooker": Saying("rice cooker"),
    "blender": Saying("blender"),
    "cooling": Saying("cooling space"),
    "fridge": Saying("fridge"),
}
HEATS = frozenset({"hob", "oven", "microwave", "air_fryer", "rice_cooker"})
"""Equipment that cooks what is in it."""
LONGEST_STEP_MIN = 24 * 60.0


@dataclass(frozen=True, slots=True)
class Step:
    """One step. `component_key` is what it works on, empty for the whole recipe.

    `duration_min` None is unknown; temperatures in °C are a range the dish accepts; `core_kind` is a row of
    `cook-temps.csv`. `after` are keys of steps that must be done before; with `follows_at_once` it may not wait for
    them. `checks_min` are minutes after its start at which somebody looks: to turn, stir or top up.
    """

    key: str
    text: str
    component_key: str = ""
    equipment: str = ""
    duration_min: float | None = None
    is_hands_on: bool = True
    low_c: float | None = None
    high_c: float | None = None
    core_kind: str = ""
    after: tuple[str, ...] = ()
    follows_at_once: bool = False
    checks_min: tuple[float, ...] = ()

    @property
    def heats(self) -> bool:
        """Whether it cooks."""
        return self.equipment in HEATS


LONGEST_STEP = 600


def hands_on_min(steps: Iterable[Step]) -> float:
    """Minutes somebody is busy, a minute for every look in between included; steps without a duration add nothing."""
    return sum((s.duration_min or 0.0) if s.is_hands_on else float(len(s.checks_min)) for s in steps)


def unattended_min(steps: Iterable[Step]) -> float:
    """Minutes of all steps that run by themselves, added up."""
    return sum(s.duration_min or 0.0 for s in steps if not s.is_hands_on)


def longest_chain_min(steps: Sequence[Step]) -> float:
    """Minutes from the first step to the last if nobody ever had to wait for hands or equipment.

    Raises:
        InvalidInput: when steps wait for each other in a circle.
    """
    done: dict[str, float] = {}
    by_key = {s.key: s for s in steps}
    for step in in_order(steps):
        began = max((done[key] for key in step.after if key in by_key), default=0.0)
        done[step.key] = began + (step.duration_min or 0.0)
    return max(done.values(), default=0.0)


def in_order(steps: Sequence[Step]) -> tuple[Step, ...]:
    """The steps so that each comes after those it waits for, otherwise as written.

    Raises:
        InvalidInput: when steps wait for each other in a circle.
    """
    keys = {s.key for s in steps}
    done: set[str] = set()
    ordered: list[Step] = []
    waiting = list(steps)
    while waiting:
        ready = [s for s in waiting if all(key in done or key not in keys for key in s.after)]
        if not ready:
            raise InvalidInput(
                f"step-{waiting[0].key}-after",
                say("These steps wait for each other."),
                say("Let one of them go first."),
            )
        ordered.append(ready[0])
        done.add(ready[0].key)
        waiting.remove(ready[0])
    return tuple(ordered)
