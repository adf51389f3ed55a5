"""What steps cannot be, each fault at its place."""

from collections.abc import Iterable, Sequence

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import heat, heat_unit, short
from goodcrate.core.recipes.steps import EQUIPMENT, LONGEST_STEP, LONGEST_STEP_MIN, Step, in_order

MOST_STEPS = 60


def check_steps(steps: Sequence[Step], component_keys: Iterable[str], core_kinds: Iterable[str]) -> None:
    """Refuse steps that cannot be.

    Raises:
        InvalidInputs: naming every field (`step-<key>-<field>`) that cannot be used.
    """
    known, kinds, keys = set(component_keys), set(core_kinds), {s.key for s in steps}
    faults: list[InvalidInput] = []
    if len(steps) > MOST_STEPS:
        faults.append(
            InvalidInput(
                "steps",
                say("{steps} steps are too many.", steps=len(steps)),
                say("At most {MOST_STEPS}.", MOST_STEPS=MOST_STEPS),
            )
        )
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
        yield InvalidInput(f"{place}-text", say("What is done in this step?"), say("Such as “sweat the onion”."))
    elif len(s.text) > LONGEST_STEP:
        yield InvalidInput(
            f"{place}-text",
            say("{text} letters are too many.", text=len(s.text)),
            say("Up to {LONGEST_STEP}.", LONGEST_STEP=LONGEST_STEP),
        )
    if s.equipment not in EQUIPMENT:
        yield InvalidInput(
            f"{place}-equipment", say("“{equipment}” is no equipment.", equipment=s.equipment), say("Choose one.")
        )
    if s.component_key and s.component_key not in known:
        yield InvalidInput(f"{place}-component", say("This component is not there any more."), say("Choose one."))
    if s.duration_min is not None and not 0 < s.duration_min <= LONGEST_STEP_MIN:
        yield InvalidInput(
            f"{place}-minutes",
            say("{duration_min} minutes is not possible.", duration_min=short(s.duration_min)),
            say("Up to a day."),
        )
    yield from _temperature_faults(s, place)
    if s.core_kind and s.core_kind not in kinds:
        yield InvalidInput(
            f"{place}-core", say("“{core_kind}” is no kind of food here.", core_kind=s.core_kind), say("Choose one.")
        )
    if s.key in s.after or not set(s.after) <= keys:
        yield InvalidInput(f"{place}-after", say("A step waits for other steps of this recipe."), say("Mend it."))
    if any(not 0 < minute < (s.duration_min or LONGEST_STEP_MIN) for minute in s.checks_min):
        yield InvalidInput(f"{place}-checks", say("A look lies within the step."), say("Minutes after its start."))


def _temperature_faults(step: Step, place: str) -> Iterable[InvalidInput]:
    for degrees in (step.low_c, step.high_c):
        if degrees is not None and not 30 <= degrees <= 300:
            yield InvalidInput(
                f"{place}-temperature",
                say("{degrees} {heat_unit} is not possible.", degrees=heat(degrees), heat_unit=heat_unit()),
                say("From {heat} to {heat2} {heat_unit}.", heat=heat(30), heat2=heat(300), heat_unit=heat_unit()),
            )
    if step.low_c is not None and step.high_c is not None and step.low_c > step.high_c:
        yield InvalidInput(f"{place}-temperature", say("The lower temperature comes first."), say("Such as 170–190."))
