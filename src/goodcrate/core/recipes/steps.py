"""Steps of a recipe: what is done with which equipment, for how long, and what must be done before.

A step is hands-on (somebody stands there) or runs by itself; some runs want a look in between. The run sheet of a prep
session is made of these.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs

EQUIPMENT: Mapping[str, str] = {
    "": "hands, board and bowl",
    "hob": "hob",
    "oven": "oven",
    "microwave": "microwave",
    "air_fryer": "air fryer",
    "rice_cooker": "rice cooker",
    "blender": "blender",
    "cooling": "cooling space",
    "fridge": "fridge",
}
HEATS = frozenset({"hob", "oven", "microwave", "air_fryer", "rice_cooker"})
"""Equipment that cooks what is in it."""
LONGEST_STEP_MIN = 24 * 60.0
MOST_STEPS = 60


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


_DURATION = re.compile(
    r"(?<![\d.,])(\d{1,4}(?:[.,]\d{1,3})?)\s{0,3}(?:[–-]|to)?\s{0,3}(\d{1,4})?\s{0,3}"
    r"(hours?|hrs?|h|minutes?|mins?|min)\b",
    re.IGNORECASE,
)
"""Each part has a largest length: a line of digits is read in one go."""
LONGEST_STEP = 600
_WITH: tuple[tuple[str, str], ...] = (
    ("oven", r"\b(bak|roast|oven|tray|gratin)"),
    ("microwave", r"\bmicrowav"),
    ("air_fryer", r"\bair.?fry"),
    ("rice_cooker", r"\brice cooker"),
    ("blender", r"\b(blend|blitz|pur[eé]e|liqui)"),
    ("fridge", r"\b(chill|fridge|refrigerat|overnight|marinat)"),
    ("cooling", r"\b(cool)"),
    ("hob", r"\b(simmer|boil|fry|brown|sear|saut|sweat|toast|poach|steam|reduce|melt|hob|pan\b|cook)"),
)
_BY_ITSELF = re.compile(
    r"\b(simmer|bak|roast|boil|cool|chill|rest|soak|overnight|marinat|oven|swell|leave|stand|steam)", re.IGNORECASE
)
_DEGREES = re.compile(r"(\d{2,3})\s{0,3}°\s{0,3}C", re.IGNORECASE)


def guess_step(key: str, text: str, minutes: float | None = None, after: tuple[str, ...] = ()) -> Step:
    """A step from its words alone: equipment, minutes, temperature and whether hands are busy, as the words suggest.

    `minutes` overrides what stands in the text. Of a range the longer time counts. All of it is a guess to
    be looked over.
    """
    text = text[:LONGEST_STEP]
    found = _DURATION.search(text)
    if minutes is None and found:
        unit = 60 if found[3].lower().startswith("h") else 1
        minutes = float((found[2] or found[1]).replace(",", ".")) * unit
    if minutes is not None and not 0 < minutes <= LONGEST_STEP_MIN:
        minutes = None
    equipment = next((name for name, words in _WITH if re.search(words, text, re.IGNORECASE)), "")
    degrees = _DEGREES.search(text)
    low = float(degrees[1]) if degrees and equipment == "oven" and 30 <= float(degrees[1]) <= 300 else None
    by_itself = bool(_BY_ITSELF.search(text)) and (minutes or 0) >= 5
    return Step(key, text, "", equipment, minutes, not by_itself, low_c=low, high_c=low, core_kind="", after=after)


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
                f"step-{waiting[0].key}-after", "These steps wait for each other.", "Let one of them go first."
            )
        ordered.append(ready[0])
        done.add(ready[0].key)
        waiting.remove(ready[0])
    return tuple(ordered)


def check_steps(steps: Sequence[Step], component_keys: Iterable[str], core_kinds: Iterable[str]) -> None:
    """Refuse steps that cannot be.

    Raises:
        InvalidInputs: naming every field (`step-<key>-<field>`) that cannot be used.
    """
    known, kinds, keys = set(component_keys), set(core_kinds), {s.key for s in steps}
    faults: list[InvalidInput] = []
    if len(steps) > MOST_STEPS:
        faults.append(InvalidInput("steps", f"{len(steps)} steps are too many.", f"At most {MOST_STEPS}."))
    for s in steps:
        faults.extend(_step_faults(s, known, kinds, keys))
    if not faults:
        try:
            in_order(steps)
        except InvalidInput as circle:
            faults.append(circle)
    if faults:
        raise InvalidInputs(faults)


def _step_faults(s: Step, known: set[str], kinds: set[str], keys: set[str]) -> Iterable[InvalidInput]:
    place = f"step-{s.key}"
    if not s.text.strip():
        yield InvalidInput(f"{place}-text", "What is done in this step?", "Such as “sweat the onion”.")
    elif len(s.text) > LONGEST_STEP:
        yield InvalidInput(f"{place}-text", f"{len(s.text)} letters are too many.", f"Up to {LONGEST_STEP}.")
    if s.equipment not in EQUIPMENT:
        yield InvalidInput(f"{place}-equipment", f"“{s.equipment}” is no equipment.", "Choose one.")
    if s.component_key and s.component_key not in known:
        yield InvalidInput(f"{place}-component", "This component is not there any more.", "Choose one.")
    if s.duration_min is not None and not 0 < s.duration_min <= LONGEST_STEP_MIN:
        yield InvalidInput(f"{place}-minutes", f"{s.duration_min:g} minutes is not possible.", "Up to a day.")
    yield from _temperature_faults(s, place)
    if s.core_kind and s.core_kind not in kinds:
        yield InvalidInput(f"{place}-core", f"“{s.core_kind}” is no kind of food here.", "Choose one.")
    if s.key in s.after or not set(s.after) <= keys:
        yield InvalidInput(f"{place}-after", "A step waits for other steps of this recipe.", "Mend it.")
    if any(not 0 < minute < (s.duration_min or LONGEST_STEP_MIN) for minute in s.checks_min):
        yield InvalidInput(f"{place}-checks", "A look lies within the step.", "Minutes after its start.")


def _temperature_faults(step: Step, place: str) -> Iterable[InvalidInput]:
    for degrees in (step.low_c, step.high_c):
        if degrees is not None and not 30 <= degrees <= 300:
            yield InvalidInput(f"{place}-temperature", f"{degrees:g} °C is not possible.", "From 30 to 300 °C.")
    if step.low_c is not None and step.high_c is not None and step.low_c > step.high_c:
        yield InvalidInput(f"{place}-temperature", "The lower temperature comes first.", "Such as 170–190.")
