"""One step of the recipe form: as typed, and as core knows it."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated

from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import bounded, whole_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import WRITING, celsius_of, heat, heat_unit
from goodcrate.core.recipes.guessed_steps import guess_step
from goodcrate.core.recipes.steps import LONGEST_STEP_MIN, Step
from goodcrate.web.fields import Fields, maybe, reads
from goodcrate.web.figures import plain
from goodcrate.web.security import Sent

MOST_LOOKS = 40
MOST_REFERENCES = 400
"""Letters in which a step names others."""
Range = tuple[float | None, float | None]


def _minutes(typed: str, name: str) -> float:
    bare = re.sub(r"\s*(min|minutes?|h)\.?$", "", bounded(typed, name))
    return read_number(bare, name, say("Give minutes, such as 35."), largest=LONGEST_STEP_MIN)


def _looks(typed: str, name: str) -> tuple[float, ...]:
    """Minutes after the start of a step at which the cook looks at it."""
    between = r"[;\s]+|,\s" if WRITING.get().decimal == "," else r"[,;\s]+"
    looks = [x for x in re.split(between, typed) if x]
    if len(looks) > MOST_LOOKS:
        raise InvalidInput(
            name,
            say("{looks} looks are too many.", looks=len(looks)),
            say("Up to {MOST_LOOKS}.", MOST_LOOKS=MOST_LOOKS),
        )
    return tuple(_minutes(x, name) for x in looks)


def _heat(typed: str, name: str) -> Range:
    """“180”, “170–190 °C”, “350 F”: the lowest and the highest heat of the oven, in °C."""
    bare = bounded(typed, name).replace("°", "").strip()
    unit = bare[-1:].upper() if bare[-1:] in "CcFf" else ""
    wanted = say(
        "Give {heat_unit}, such as {heat}, or {heat2}–{heat3}.",
        heat_unit=heat_unit(),
        heat=heat(180),
        heat2=heat(170),
        heat3=heat(190),
    )
    parts = [p.strip(" CcFf") for p in re.split(r"\s*(?:–|-|to)\s*", bare) if p]
    numbers = [celsius_of(read_number(p, name, wanted, largest=LONGEST_STEP_MIN), unit) for p in parts[:2]]
    return (numbers[0], numbers[-1]) if numbers else (None, None)


class StepFields(Fields):
    """What is read of a step by itself; which steps it follows is known among all of them."""

    text: str = ""
    component: str = ""
    equipment: str = ""
    minutes: Annotated[float | None, maybe(reads(_minutes))] = None
    hands: str = "off"
    temperature: Annotated[Range | None, reads(_heat)] = None
    core: str = ""
    after: str = ""
    once: str = ""
    checks: Annotated[tuple[float, ...] | None, reads(_looks)] = None


@dataclass
class StepForm:
    """One step as typed; `after` are numbers of steps, `checks` minutes after its start, `once` whether at once."""

    id: str
    text: str = ""
    component: str = ""
    equipment: str = ""
    minutes: str = ""
    hands: str = "on"
    temperature: str = ""
    core: str = ""
    after: str = ""
    once: str = ""
    checks: str = ""

    @property
    def has_more(self) -> bool:
        """Whether anything of the second row is filled."""
        return bool(self.temperature or self.core or self.checks or self.once)

    @classmethod
    def of_post(cls, form: Sent, step_id: str) -> "StepForm":
        """A step as it was sent."""
        return cls(step_id, **StepFields.as_typed(form, f"step-{step_id}-"))

    @classmethod
    def of_step(cls, s: Step, numbers: Mapping[str, int]) -> "StepForm":
        """A saved step."""
        low, high = (heat(x) if x is not None else "" for x in (s.low_c, s.high_c))
        return cls(
            s.key,
            s.text,
            s.component_key,
            s.equipment,
            "" if s.duration_min is None else plain(s.duration_min),
            "on" if s.is_hands_on else "off",
            temperature=low if low == high else f"{low}–{high}",
            core=s.core_kind,
            after=", ".join(str(numbers[key]) for key in s.after if key in numbers),
            once="1" if s.follows_at_once else "",
            checks=", ".join(plain(minute) for minute in s.checks_min),
        )

    @classmethod
    def of_text(cls, step_id: str, line: str, before: int) -> "StepForm":
        """A pasted line of a method, with what its words suggest."""
        bare = re.sub(r"^(?:\d{1,3}[.)]|[-*•])\s*", "", line.strip())
        form = cls.of_step(guess_step(step_id, bare), {})
        form.after = str(before) if before else ""
        return form

    @property
    def is_empty(self) -> bool:
        """Whether nothing was typed: such a row is no step."""
        return not (self.text.strip() or self.minutes.strip())

    def read(self, keys: Sequence[str], components: set[str], faults: list[InvalidInput]) -> Step:
        """The step as core knows it; `keys` are all rows' in their order, empty for those that are no step."""
        read = StepFields.partly(self, f"step-{self.id}-", faults)
        low, high = read.temperature or (None, None)
        return Step(
            self.id,
            read.text.strip(),
            read.component if read.component in components else "",
            read.equipment,
            read.minutes,
            read.hands == "on",
            low_c=low,
            high_c=high,
            core_kind=read.core,
            after=self._after(keys, faults),
            follows_at_once=bool(read.once),
            checks_min=read.checks or (),
        )

    def _after(self, keys: Sequence[str], faults: list[InvalidInput]) -> tuple[str, ...]:
        """The steps that come before it, each once."""
        after = []
        for typed in re.findall(r"\d+", self.after[:MOST_REFERENCES]):
            number = whole_of(typed, len(keys))
            if not number:
                where = f"step-{self.id}-after"
                faults.append(
                    InvalidInput(
                        where, say("There is no step {typed}.", typed=typed[:8]), say("1 to {keys}.", keys=len(keys))
                    )
                )
            elif keys[number - 1]:
                after.append(keys[number - 1])
        return tuple(dict.fromkeys(after))
